import type { Material, MaterialShader, Scene } from '@umber-lens/core/engine';
import { createMaterial } from 'umber-lens';
import type { GraphSession } from '../logic/graph/graph-session.js';

type Settings = NonNullable<Material['settings']>;

/** Has what shows a graph's shader show it as it is edited. */
export class LiveShader {
  private shader: MaterialShader;
  private wgsl: string;
  private readonly stop: () => void;
  private turn = 0;

  /** @param onFault hears why the last good one stays */
  constructor(
    private readonly scene: Scene,
    material: Material,
    private readonly session: GraphSession,
    private readonly onFault: (text: string) => void,
  ) {
    this.shader = material.shader!; // graphs are of materials with a shader
    this.wgsl = session.compiled.wgsl;
    this.stop = session.onChange(() => void this.follow());
  }

  private async follow(): Promise<void> {
    const { session } = this;
    const { wgsl } = session.compiled;
    // Settings, places and notes are no other shader.
    if (wgsl === this.wgsl) return;
    this.wgsl = wgsl;
    const turn = ++this.turn;
    const { compileMaterialShader } = await import('umber-lens/shaders');
    if (turn !== this.turn) return;
    try {
      const fresh = compileMaterialShader<Settings>(wgsl, {
        file: session.file,
        sources: { ...session.sources },
      });
      const names = new Set([...fresh.settings, ...fresh.textures].map(({ name }) => name));
      for (const material of this.materials()) {
        const kept = Object.entries(material.settings ?? {}).filter(([name]) => names.has(name));
        material.shader = fresh as MaterialShader;
        material.settings = createMaterial(fresh, {
          settings: Object.fromEntries(kept) as Settings,
        }).settings;
      }
      this.shader = fresh as MaterialShader;
    } catch (error) {
      this.onFault((error as Error).message);
    }
  }

  private materials(): Set<Material> {
    const found = new Set<Material>();
    for (const { primitives } of this.scene.meshes.values())
      for (const { material, overlays = [] } of primitives)
        for (const one of [material, ...overlays]) if (one?.shader && this.isOf(one.shader)) found.add(one);
    return found;
  }

  /** Whether a shader came of the graph: the last one, or one that the page loaded anew. */
  private isOf(shader: MaterialShader): boolean {
    return shader === this.shader || shader.file === this.session.file;
  }

  dispose(): void {
    this.stop();
  }
}
