import { ItemTree, MANY_ITEMS, type Scene } from '@umber-lens/core/engine';
import type { CameraState } from '../../batches/camera-state.js';
import type { Device } from '../../gpu/device.js';
import type { DrawSettings, FrameAt } from '../feature.js';
import type { Swarms } from '../swarms/swarms.js';
import type { Chooser } from './chooser.js';
import type { CameraChoice } from './camera-choice.js';
import type { CullingStats } from './culling.js';

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
  whenReady({ culling }: DrawSettings): Promise<void> {
    return culling.occlusion || culling.gpu ? this.load() : Promise.resolve();
  }

  /** Has the clusters of large scenes made and kept up to date. To be called when the scene is. */
  followClusters(scene: Scene, { culling }: DrawSettings): void {
    if (culling.clusters === false || scene.columns.itemCount < MANY_ITEMS) {
      scene.guests.finder = undefined;
      return;
    }
    const { finder } = scene.guests;
    const tree = finder instanceof ItemTree ? finder : new ItemTree(scene);
    scene.guests.finder = tree;
    tree.update(this.treeMilliseconds, now);
  }

  /**
   * Has the GPU choose what is drawn, where it is asked to and can. To be called when the camera's list, its instances and the
   * swarms are up to date.
   *
   * @returns whether that is other than before
   */
  choose(
    { scene, prepared, state, given, frame, settings: { culling, renderPath: path, show } }: FrameAt,
    swarms: Swarms | undefined,
    isListed: boolean,
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
    const { isParallel, width, height } = given;
    return choice.update(state, scene, prepared, swarms, view, isListed, isParallel, width, height, frame);
  }

  /** What the GPU chose for a camera's last frame; undefined where the script chose. */
  stats({ choice }: CameraState): Promise<CullingStats> | undefined {
    return (choice as CameraChoice | undefined)?.figures(); // the chooser makes no others
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
