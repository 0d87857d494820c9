import type { Material, MaterialShader } from '@umber-lens/core/engine';
import { createMaterial } from 'umber-lens';
import type { GraphSession } from '../logic/graph/graph-session.js';
import type { Shaded } from '../logic/graph/shaded.js';

type Settings = NonNullable<Material['settings']>;
type AnyShader = NonNullable<Shaded['shader']>;

/** Has what shows a graph's shader show it as it is edited. */
export class LiveShader {
  private shader: AnyShader;
  private wgsl: string;
  private readonly stop: () => void;
  private turn = 0;

  /**
   * @param all everything that may show it
   * @param isShown whether the graph is shown as it is now; else it is from here on
   * @param onFault hears why the last good one stays
   */
  constructor(
    private readonly all: () => Iterable<Shaded>,
    shaded: Shaded,
    private readonly session: GraphSession,
    isShown: boolean,
    private readonly onFault: (text: string) => void,
  ) {
    this.shader = shaded.shader!; // graphs are of what has a shader
    this.wgsl = isShown ? session.compiled.wgsl : '';
    this.stop = session.onChange(() => void this.follow());
    void this.follow();
  }

  private async follow(): Promise<void> {
    const { session } = this;
    const { wgsl } = session.compiled;
    // Settings, places and notes are no other shader.
    if (wgsl === this.wgsl) return;
    this.wgsl = wgsl;
    const turn = ++this.turn;
    const { compileEffect, compileMaterialShader } = await import('umber-lens/shaders');
    if (turn !== this.turn) return;
    try {
      const isEffect = session.graph.hooks.effect !== undefined;
      const fresh = (isEffect ? compileEffect<Settings> : compileMaterialShader<Settings>)(wgsl, {
        file: session.file,
        sources: { ...session.sources },
      });
      const names = new Set([...fresh.settings, ...fresh.textures].map(({ name }) => name));
      for (const shaded of this.all()) {
        if (!shaded.shader || !this.isOf(shaded.shader)) continue;
        const kept = Object.entries(shaded.settings ?? {}).filter(([name]) => names.has(name));
        const settings = Object.fromEntries(kept) as Settings;
        shaded.shader = fresh as MaterialShader;
        shaded.settings = isEffect ? settings : createMaterial(fresh, { settings }).settings!; // it has some
      }
      this.shader = fresh as MaterialShader;
    } catch (error) {
      this.onFault((error as Error).message);
    }
  }

  /** Whether a shader came of the graph: the last one, or one that the page loaded anew. */
  private isOf(shader: AnyShader): boolean {
    return shader === this.shader || shader.file === this.session.file;
  }

  dispose(): void {
    this.stop();
  }
}
