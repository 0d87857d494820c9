import { ItemTree, MANY_ITEMS, type Scene } from '@umber-lens/core/engine';
import type { Device } from '../gpu/device.js';
import type { FrameAt } from '../passes/frame-plan.js';
import type { RenderPath } from '../passes/render-path.js';
import type { ShownQuantity } from '../light/show.js';
import type { Swarming } from '../swarm/swarming.js';
import type { Chooser } from './chooser.js';
import type { Culling } from './culling.js';

/** What of a renderer decides how it culls. */
export interface CullingWishes {
  readonly culling: Culling;
  readonly renderPath: RenderPath;
  readonly show: ShownQuantity;
}

const now = (): number => performance.now();

/** What is left out of frames besides what lies outside of the view: loaded with the first scene that it pays for. */
export class FrameCulling {
  /** Undefined until the GPU is to choose, and can. */
  chooser: Chooser | undefined;
  private loading: Promise<void> | undefined;

  constructor(
    private readonly device: Device,
    private readonly treeMilliseconds = 2,
  ) {}

  /** Waits for what is being loaded. */
  whenReady({ culling }: CullingWishes): Promise<void> {
    return culling.occlusion || culling.gpu ? this.load() : Promise.resolve();
  }

  /** Has the clusters of large scenes made and kept up to date. To be called when the scene is. */
  followClusters(scene: Scene, { culling }: CullingWishes): void {
    if (culling.clusters === false || scene.columns.itemCount < MANY_ITEMS) {
      scene.clusters = undefined;
      return;
    }
    scene.clusters ??= new ItemTree(scene);
    scene.clusters.update(this.treeMilliseconds, now);
  }

  /**
   * Has the GPU choose what is drawn, where it is asked to and can. To be called when the camera's list, its instances and the
   * swarms are up to date.
   *
   * @param width pixels of the picture
   * @returns whether that is other than before
   */
  choose(
    { culling, renderPath: path, show }: CullingWishes,
    { scene, prepared, state, given, frame }: FrameAt,
    swarming: Swarming | undefined,
    isListed: boolean,
    width: number,
    height: number,
  ): boolean {
    const { chooser } = this;
    const isAsked = culling.occlusion === true || culling.gpu === true;
    if (!isAsked || show !== 'shaded') {
      if (!state.choice) return false;
      chooser?.end(state);
      return true;
    }
    if (!chooser) {
      void this.load();
      return false;
    }
    const choice = chooser.begin(state, culling.occlusion === true && path === 'forward');
    const { view } = state;
    const { isParallel } = given;
    return choice.update(state, scene, prepared, swarming, view, isListed, isParallel, width, height, frame);
  }

  sweep(frame: number): void {
    this.chooser?.sweep(frame);
  }

  private load(): Promise<void> {
    const { device } = this;
    // The script chooses until it is there, and where no device computes.
    if (!device.features.has('compute')) return Promise.resolve();
    return (this.loading ??= Promise.all([device.openCompute(), import('./chooser.js')]).then(
      ([compute, { Chooser: Loaded }]) => {
        if (compute) this.chooser = new Loaded(device, compute);
      },
    ));
  }
}
