import type { Budget } from '@umber-lens/core/engine';
import type { Effect, Material, SceneNode } from 'umber-lens';

export interface ViewfinderOptions {
  /** On which side nodes and properties stand. Default right. */
  side?: 'left' | 'right';
  /** Default as the system has it. */
  theme?: 'dark' | 'light';
  /** The sheet that takes what neither a sheet nor a literal of the sources can say. Default `adjustments.sheet.json`. */
  adjustments?: string;
  /** What a frame may cost: its list of frames holds each frame against it. Default none. Limits see `BUDGET_LIMITS`. */
  budget?: Budget;
  /** Whether changes that were not saved last over reloads of the page. Default true. */
  keep?: boolean;
  /** Hears that it was closed. */
  onClose?: () => void;
}

/** A viewfinder over a running scene. */
export interface Viewfinder {
  /** Nodes that are chosen, the last one last. */
  readonly selection: readonly SceneNode[];
  select(nodes: Iterable<SceneNode>): void;
  /**
   * Lets values of the page be edited, beside the surroundings of the scene.
   *
   *     viewfinder.offer({ gravity: 9.8 });
   *     lens.run(() => fall(viewfinder.offered('gravity')));
   */
  offer(values: Record<string, number | boolean | string | number[]>): void;
  /** What an offered value is now. */
  offered<T>(name: string): T | undefined;
  /** Opens the shader graph of a material, or of an effect of a picture or a node: one that came of a graph, or of hooks in WGSL, which become one. */
  openGraph(shaded: Material | Extract<Effect, { type: 'shader' }>): void;
  undo(): void;
  redo(): void;
  /** Takes it away: nothing of it stays, and the page's picture is its own. */
  close(): void;
}
