import type { DeviceCompute } from '../../gpu/compute.js';
import type { Device } from '../../gpu/device.js';
import type { CameraState } from '../../batches/camera-state.js';
import { type FramePlan, type PlanBinding, type PlanPainter, type PlanPart } from '../../frame/frame-plan.js';
import { CULL_SHADERS } from './compiled-wgsl.js';
import type { PyramidPipelines } from './depth-pyramid.js';
import { type ChoicePipelines, CameraChoice } from './camera-choice.js';
import { TileStore } from './tile-store.js';

/** Has the GPU choose what is drawn: one for a device that computes. */
export class Chooser implements PlanPart {
  readonly tiles: TileStore;
  readonly pipelines: ChoicePipelines & PyramidPipelines;
  /** Of the camera that looks in the frame at hand. */
  private current: CameraChoice | undefined;

  constructor(
    private readonly device: Device,
    readonly compute: DeviceCompute,
  ) {
    this.tiles = new TileStore(device);
    const made = (name: keyof typeof CULL_SHADERS) =>
      compute.createPipeline({ label: name, shader: CULL_SHADERS[name] });
    this.pipelines = {
      first: made('firstLevel'),
      firstOfSamples: made('firstLevelSamples'),
      next: made('nextLevel'),
      instances: made('chooseInstances'),
      tiles: made('chooseTiles'),
    };
  }

  /** Notes what is chosen from, before the script chooses the rest. To be called when the camera's list is up to date. */
  begin(state: CameraState, isHidden: boolean): CameraChoice {
    const choice = (state.choice ??= new CameraChoice(this.device, this)) as CameraChoice; // it is made here alone
    return (this.current = choice).begin(isHidden);
  }

  /** For frames in which the script chooses by itself. */
  end(state: CameraState): void {
    this.current = undefined;
    if (!state.choice) return;
    state.choice.dispose();
    state.choice = undefined;
    // The script chooses anew what the GPU chose.
    state.swarms?.dispose();
    state.swarms = undefined;
  }

  /** What was seen before is chosen ahead of everything; it is drawn when the maps of shadows are there. */
  addEarly({ graph, shape }: FramePlan): void {
    if (shape.choice === 'script') return;
    graph.pass({ name: 'choose', writes: [graph.outside('chosen')], run: () => this.current?.choose() });
  }

  addPasses(plan: FramePlan, painter: PlanPainter): PlanBinding[] {
    const { depth, graph, shape } = plan;
    if (shape.choice !== 'hidden') return [];
    graph.pass({
      name: 'seen before',
      isScene: true,
      ...plan.attach(),
      run: (pass) => painter.drawSeen(pass),
    });
    graph.pass({
      name: 'find hidden',
      reads: [depth],
      writes: [graph.outside('found')],
      run: () => this.current?.findHidden(graph.of(depth)),
    });
    return [];
  }

  sweep(frame: number): void {
    this.tiles.sweep(frame);
  }
}
