import type { Effect } from '@umber-lens/core/engine';
import type { LensShaders } from '../../compiled/lens-shaders.js';
import type { Device } from '../../gpu/device.js';
import type { Messages } from '#messages';
import type { TextureStore } from '../../resources/texture-store.js';
import type { EffectChain, EffectChains } from './effect-chain.js';

/** Fetches what draws effects with the first of them; until then pictures are drawn without. */
export class EffectsLoader {
  private chains: EffectChains | undefined;
  private loading: Promise<void> | undefined;

  constructor(
    private readonly device: Device,
    private readonly shaders: LensShaders,
    private readonly textures: TextureStore,
    private readonly messages: Messages,
  ) {}

  /** The passes of a list; undefined where it has none, or until they are there. */
  chainFor(effects: readonly Effect[]): EffectChain | undefined {
    return effects.length === 0 ? undefined : this.loaded()?.chainFor(effects);
  }

  /** What of a picture's pixels are drawn with a list, along each side: all until what makes more of them is there. */
  resolutionOf(effects: readonly Effect[]): number {
    return this.chains?.resolutionOf(effects) ?? 1;
  }

  /** The passes of all lists; undefined until they are there. */
  loaded(): EffectChains | undefined {
    if (!this.chains) void this.load();
    return this.chains;
  }

  /** Waits for what is being loaded. */
  whenReady(): Promise<void> {
    return this.loading ?? Promise.resolve();
  }

  sweep(frame: number): void {
    this.chains?.sweep(frame);
  }

  private load(): Promise<void> {
    return (this.loading ??= Promise.all([import('./effect-chain.js'), this.shaders.effects()]).then(
      ([module, shaders]) => {
        this.chains = new module.EffectChains(this.device, shaders, this.textures, this.messages);
      },
      (error: unknown) =>
        this.messages.fault('effects could not be loaded, and pictures are drawn without', error),
    ));
  }
}
