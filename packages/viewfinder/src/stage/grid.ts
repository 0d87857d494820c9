import { createCameraView, type SceneNode, updateCameraView } from '@umber-lens/core/engine';
import type { PictureOver } from 'umber-lens';
import type {
  Device,
  DeviceBindGroup,
  DeviceBuffer,
  DevicePipeline,
  DeviceShader,
  DeviceTexture,
} from 'umber-lens/device';
import { GRID_REACH, gridPlace } from '../logic/aids/aid-lines.js';
import type { Vec } from '../logic/handles/vectors.js';
import { GRID } from './compiled-grid.js';
import {
  GRID_CLIP_FROM_WORLD,
  GRID_FLOATS,
  GRID_HALF,
  GRID_MIDDLE,
  GRID_SIZE,
  GRID_STEP,
} from './compiled-layouts.js';

interface Made {
  device: Device;
  shader: DeviceShader;
  pipeline: DevicePipeline;
  buffer: DeviceBuffer;
  /** What is bound, and the depths in it. */
  group?: DeviceBindGroup;
  depth?: DeviceTexture;
}

/**
 * The grid on the ground, over the picture and hidden by what stands in it. One pass of one draw by the device itself: as a scene of
 * its own it cost as much as a page of 3,000 moving nodes.
 */
export class Grid implements PictureOver {
  private made: Made | undefined;
  private through: SceneNode | undefined;
  private readonly view = createCameraView();
  private readonly values = new Float32Array(GRID_FLOATS);
  private readonly sent = new Float32Array(GRID_FLOATS).fill(Number.NaN);

  /** @param onReady is called when it can be drawn for the first time */
  constructor(private readonly onReady: () => void = () => undefined) {}

  /**
   * It as it lies under what is looked at; undefined until its pipeline is made, so that a picture which is drawn on demand is then
   * another one.
   *
   * @param format of what it is drawn into
   * @param about the middle of what is looked at, metres
   * @param metres to a pixel there
   */
  under(
    device: Device,
    format: DeviceTexture['format'],
    through: SceneNode,
    about: Vec,
    metres: number,
  ): PictureOver | undefined {
    const { values } = this;
    if (!this.madeFor(device, format).pipeline.isReady) return undefined;
    this.through = through;
    const { step, x, z } = gridPlace(about, metres);
    values[GRID_MIDDLE] = x * step;
    values[GRID_MIDDLE + 1] = z * step;
    values[GRID_STEP] = step;
    values[GRID_HALF] = GRID_REACH;
    return this;
  }

  drawOver(depth: DeviceTexture, target: DeviceTexture): void {
    const { made, through, values, view } = this;
    if (!made || !through) return;
    const { device } = made;
    const { counts } = device;
    // What the tool draws is not counted as the page's.
    const { draws, instances, triangles } = counts;
    updateCameraView(view, through, target.width / target.height);
    values.set(view.viewProjection, GRID_CLIP_FROM_WORLD);
    values[GRID_SIZE] = target.width;
    values[GRID_SIZE + 1] = target.height;
    let isSent = true;
    for (let i = 0; i < GRID_FLOATS; i++) if (values[i] !== this.sent[i]) isSent = false;
    if (!isSent) {
      device.writeBuffer(made.buffer, 0, values);
      this.sent.set(values);
    }
    if (made.depth !== depth) {
      made.group?.dispose();
      const entries = [
        { binding: 0, buffer: made.buffer },
        { binding: 1, texture: depth },
      ];
      made.group = device.createBindGroup({ label: 'grid', entries });
      made.depth = depth;
    }
    const pass = device.beginRenderPass({ label: 'grid', colorAttachments: [{ texture: target }] });
    pass.setPipeline(made.pipeline);
    pass.setBindGroup(0, made.group!); // made with the first depths
    pass.draw(4);
    pass.end();
    Object.assign(counts, { draws, instances, triangles });
  }

  dispose(): void {
    const { made } = this;
    this.made = undefined;
    this.sent.fill(Number.NaN);
    if (!made || made.device.isGone) return;
    made.group?.dispose();
    made.pipeline.dispose();
    made.shader.dispose();
    made.buffer.dispose();
  }

  /** A GPU that was lost comes back as another. */
  private madeFor(device: Device, format: DeviceTexture['format']): Made {
    if (this.made?.device === device) return this.made;
    this.dispose();
    const over = { srcFactor: 'one', dstFactor: 'one-minus-src-alpha' } as const;
    const shader = device.createShader({ label: 'grid', ...GRID });
    const pipeline = device.createRenderPipeline({
      label: 'grid',
      shader,
      topology: 'triangle-strip',
      targets: [{ format, blend: { color: over, alpha: over } }],
      async: true,
    });
    const buffer = device.createBuffer({ label: 'grid', usage: 'uniform', size: GRID_FLOATS * 4 });
    const made = (this.made = { device, shader, pipeline, buffer });
    pipeline.ready().then(
      () => {
        if (this.made === made) this.onReady();
      },
      // What is wrong with it is told where it is made.
      () => undefined,
    );
    return made;
  }
}
