import { GUEST_SLOT, NONE } from '../columns/flags.js';
import type { KernelView } from '../columns/kernels.js';
import type { Geometry } from '../geometry/geometry.js';
import type { Bounds } from '../math/bounds.js';
import type { Scene } from './scene.js';
import type { SceneNode } from './scene-node.js';

/**
 * What hangs on a scene: it is told of nodes, and answers for those that are its own. The scene knows of none by name; any
 * question may be left out.
 */
export interface SceneGuest {
  /** Whether `update` has something to do although no node moved. */
  readonly isStale?: boolean;
  /** Called by `Scene.update`, when transforms are up to date. */
  update?(): void;
  /** A node is about to go. */
  removed?(node: SceneNode): void;
  /** A node has another mesh, or none. */
  meshChanged?(node: SceneNode): void;
  /** Nodes were copied, each with all below it: copies by their originals. */
  cloned?(copies: ReadonlyMap<SceneNode, SceneNode>): void;
  /** Grows a box in the world by what a node's mesh reaches now; false for nodes that are not its own. */
  growBounds?(node: SceneNode, bounds: Bounds): boolean;
  /** A primitive of a node in the shape that it has now; undefined for nodes that are not its own. */
  shapeOf?(node: SceneNode, primitive: number): Geometry | undefined;
  /** Slot of a row with the trait `GUEST_SLOT`, in place of that of its transform. */
  slotOf?(row: number): number | undefined;
  /** Weights of a node that is its own. */
  weightsOf?(node: SceneNode): NodeWeights | undefined;
}

/** Weights of a node's morph targets. */
export interface NodeWeights {
  /** Names of the targets, in the order of `weights`. */
  readonly targetNames: readonly string[];
  /** By target; call `changed` after writing to it. */
  readonly weights: Float32Array;
  /** Has the weights count from the scene's next update on. */
  changed(): void;
  /** @throws LensError `scene/no-target` with the names that there are */
  setWeight(name: string, weight: number): void;
}

/** Finds what a camera sees without going through all items. */
export interface ItemFinder {
  readonly isReady: boolean;
  /** Items that it does not cover. */
  readonly loose: readonly number[];
  /** Takes over what moved. */
  refit(): void;
  /** What one camera sees through it. */
  createLook(): ItemLook;
}

/** Hears the keys of items as they are now: of `items[i]`, from the first to before the second, `keys[i - from]`. */
export type TakeItems = (items: Uint32Array, from: number, to: number, keys: Uint32Array) => void;

export interface ItemLook {
  /** Groups of items that the last look left out at once. */
  readonly left: number;
  /** Forgets what was seen: everything is looked at again. */
  forget(): void;
  /** Tells the keys of all items that may be in view, or were. */
  look(view: KernelView, take: TakeItems): void;
}

/** The guests of a scene, by their class. */
export class SceneGuests {
  /** Of large scenes, where whoever draws them has one made. */
  finder: ItemFinder | undefined;
  private readonly byClass = new Map<new (scene: Scene) => SceneGuest, SceneGuest>();
  private all: readonly SceneGuest[] = [];

  constructor(private readonly scene: Scene) {}

  get<T extends SceneGuest>(of: new (scene: Scene) => T): T | undefined {
    return this.byClass.get(of) as T | undefined; // kept under its own class
  }

  /** The same, made where there is none yet. */
  ensure<T extends SceneGuest>(of: new (scene: Scene) => T): T {
    const known = this.get(of);
    if (known) return known;
    const made = new of(this.scene);
    this.byClass.set(of, made);
    this.all = [...this.byClass.values()];
    return made;
  }

  /** Whether a guest gives a node its shape, and slots of its own. */
  shapes({ row }: SceneNode): boolean {
    return row !== NONE && (this.scene.columns.traits[row]! & GUEST_SLOT) !== 0;
  }

  /** Whether there may be such nodes. */
  get shapesAny(): boolean {
    for (const guest of this.all) if (guest.shapeOf) return true;
    return false;
  }

  weightsOf(node: SceneNode): NodeWeights | undefined {
    // Animations ask in every frame.
    for (const guest of this.all) {
      const weights = guest.weightsOf?.(node);
      if (weights) return weights;
    }
    return undefined;
  }

  /** The first answer that is one. */
  ask<A>(question: (guest: SceneGuest) => A | undefined): A | undefined {
    for (const guest of this.all) {
      const answer = question(guest);
      if (answer !== undefined) return answer;
    }
    return undefined;
  }

  tell(news: (guest: SceneGuest) => void): void {
    this.all.forEach(news);
  }

  /** Whether one has something to do although no node moved. */
  get isStale(): boolean {
    for (const guest of this.all) if (guest.isStale) return true;
    return false;
  }

  update(): void {
    for (const guest of this.all) guest.update?.();
  }

  /** Slot of a row with the trait `GUEST_SLOT`. */
  slotOf(row: number): number {
    for (const guest of this.all) {
      const slot = guest.slotOf?.(row);
      if (slot !== undefined) return slot;
    }
    return 0;
  }
}
