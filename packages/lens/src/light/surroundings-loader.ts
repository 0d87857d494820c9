import type { Scene, SceneNode } from '@umber-lens/core/engine';
import type { Device } from '../gpu/device.js';
import { MOST_LIGHTS } from '../passes/frame-uniforms.js';
import type { RenderPath } from '../passes/render-path.js';
import type { PlanFormats } from '../passes/frame-plan.js';
import type { ScenePass } from '../passes/scene-pass.js';
import type { TextureStore } from '../resources/texture-store.js';
import type { LensShaders } from '../shaders/lens-shaders.js';
import { changesShown, type Look } from './look.js';
import type { LookFinish } from './look-finish.js';
import type { FullPipelines } from './full-pipelines.js';
import type { ShownQuantity } from './show.js';
import type { Surroundings } from './surroundings.js';

/** Whether plain shaders know all of a light. */
const isPlainLight = ({ light }: SceneNode): boolean => !light?.shadow && light?.type !== 'area';

/** Fetches what scenes may have around them when one first has some of it; until then it is drawn without. */
export class SurroundingsLoader {
  /** Undefined until it was needed and is there. */
  surroundings: Surroundings | undefined;
  private readonly loading = new Set<Promise<void>>();
  /** Counts what was loaded: pipelines that stood in are made anew then. */
  private loaded = 0;
  private isBegun = false;

  constructor(
    private readonly device: Device,
    private readonly shaders: LensShaders,
    private readonly formats: PlanFormats,
    private readonly scenePass: ScenePass,
    private readonly textures: TextureStore,
    private readonly shadowTexels: number,
  ) {}

  /** How a scene is to be drawn with what it has around it; undefined when it has nothing, or when that is not there yet. */
  useFor(
    scene: Scene,
    lights: readonly SceneNode[],
    hasLayers: boolean,
    look: Look,
    show: ShownQuantity,
    path: RenderPath = 'forward',
  ): FullPipelines | undefined {
    const { imageLight: environment, backdrop, fog, probes } = scene;
    const { toneMapping = 'soft', whiteBalance = 6504 } = look;
    const isPlain =
      lights.every(isPlainLight) &&
      !hasLayers &&
      lights.length <= MOST_LIGHTS &&
      show === 'shaded' &&
      path === 'forward' &&
      !environment &&
      probes.length === 0 &&
      !fog &&
      !backdrop &&
      toneMapping === 'soft' &&
      !look.automaticExposure &&
      look.transparency !== 'peeled' &&
      whiteBalance === 6504;
    if (isPlain) return undefined;
    if (!this.surroundings) this.begin();
    return this.surroundings?.useFor(scene, lights, look, show, path, this.loaded);
  }

  /** The finish with the look's contrast, saturation and vignette; undefined where it has none, or until it is there. */
  finishFor(look: Look): LookFinish | undefined {
    if (!changesShown(look)) return undefined;
    if (!this.surroundings) this.begin();
    return this.surroundings?.finish;
  }

  /** Waits for all that is being loaded. */
  async whenReady(): Promise<void> {
    while (this.loading.size > 0) await Promise.all(this.loading);
  }

  private begin(): void {
    if (this.isBegun) return;
    this.isBegun = true;
    this.wait(
      Promise.all([import('./surroundings.js'), this.shaders.full()]).then(([module, shaders]) => {
        this.surroundings = new module.Surroundings(
          this.device,
          shaders,
          this.formats,
          this.scenePass,
          this.textures,
          this.shadowTexels,
          (promise) => this.wait(promise),
        );
      }),
    );
  }

  private wait(promise: Promise<void>): void {
    const settled = promise
      .catch((error: unknown) =>
        console.error(`the scene is drawn without its surroundings: ${String(error)}`),
      )
      .then(() => {
        this.loaded++;
        this.loading.delete(settled);
      });
    this.loading.add(settled);
  }
}
