import type { ScenePass } from '../batches/scene-pass.js';
import type { PlanFormats } from '../frame/frame-plan.js';
import type { Device } from '../gpu/device.js';
import type { Messages } from '#messages';
import type { TextureStore } from '../resources/texture-store.js';
import type { LensShaders } from '../compiled/lens-shaders.js';
import type { EffectsLoader } from './effects/effects-loader.js';
import type { Facts } from './feature.js';
import type { FullPipelines } from './full-pipelines.js';
import { changesShown, type Look } from './look/look.js';
import type { LookFinish } from './look/look-finish.js';
import type { Surroundings } from './surroundings.js';
import { isPlain } from './wants.js';

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
    private readonly messages: Messages,
    private readonly effects: EffectsLoader,
  ) {}

  /** How a picture is to be drawn with what it has around it; undefined when it has nothing, or when that is not there yet. */
  useFor(facts: Facts): FullPipelines | undefined {
    if (isPlain(facts)) return undefined;
    if (!this.surroundings) this.begin();
    return this.surroundings?.useFor(facts, this.loaded);
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

  /** Loads it, whether a scene asks for it or not. */
  begin(): void {
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
          this.effects,
        );
      }),
    );
  }

  private wait(promise: Promise<void>): void {
    const settled = promise
      .catch((error: unknown) =>
        this.messages.fault(
          'a part of the library could not be loaded, and pictures are drawn without',
          error,
        ),
      )
      .then(() => {
        this.loaded++;
        this.loading.delete(settled);
      });
    this.loading.add(settled);
  }
}
