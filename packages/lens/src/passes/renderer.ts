import {
  type CameraView,
  createCameraView,
  DrawList,
  type Scene,
  type SceneNode,
  updateCameraView,
} from '@umber-lens/core';
import type { ColorAttachment, Device, DeviceTexture, RenderPassOptions } from '../gpu/device.js';
import type { Ledger } from '../ledger.js';
import { TextureStore } from '../resources/texture-store.js';
import { FinishPass } from './finish-pass.js';
import { type FrameGiven, FrameUniforms } from './frame-uniforms.js';
import { ScenePass } from './scene-pass.js';
import { TransientTextures } from './transient-textures.js';

/** Frames after which GPU copies of things that are no longer drawn are freed. */
const KEEP_FRAMES = 120;

interface EyeState {
  view: CameraView;
  list: DrawList;
  lastUsed: number;
}

/** Draws scenes: list, opaque, blended, finish. Holds everything that lives from frame to frame. */
export class Renderer {
  exposure = 1;
  frame = 0;
  /** What shaders are told of the picture; time and delta are set by the lens. */
  readonly given: FrameGiven = { exposure: 1, isParallel: false, time: 0, delta: 0, width: 1, height: 1 };
  private readonly textures: TextureStore;
  private readonly uniforms: FrameUniforms;
  private readonly scenePass: ScenePass;
  private readonly finish: FinishPass;
  private readonly transient: TransientTextures;
  private readonly eyes = new Map<SceneNode, EyeState>();
  private readonly sampleCount: number;
  private readonly colorFormat: 'rgba16float' | 'rgba8unorm';
  private readonly clear = new Float32Array(4);
  private readonly colorAttachment: ColorAttachment;
  private readonly depthAttachment: NonNullable<RenderPassOptions['depthAttachment']>;
  private readonly passOptions: RenderPassOptions;

  constructor(
    private readonly device: Device,
    antialias: boolean,
  ) {
    this.sampleCount = antialias ? Math.min(4, device.limits.maxSamples) : 1;
    // Eight bits of linear colour would show bands in the dark: only where there is nothing better.
    this.colorFormat = device.features.has('float16-renderable') ? 'rgba16float' : 'rgba8unorm';
    this.textures = new TextureStore(device);
    this.uniforms = new FrameUniforms(device);
    this.transient = new TransientTextures(device);
    this.finish = new FinishPass(device);
    this.scenePass = new ScenePass(device, this.textures, {
      color: this.colorFormat,
      depth: 'depth32float',
      sampleCount: this.sampleCount,
    });
    const texture = undefined as unknown as DeviceTexture; // set before each pass
    this.colorAttachment = { texture, clearValue: this.clear, store: this.sampleCount === 1 };
    this.depthAttachment = { texture, clearValue: 0, store: false };
    this.passOptions = {
      label: 'scene',
      colorAttachments: [this.colorAttachment],
      depthAttachment: this.depthAttachment,
    };
  }

  draw(scene: Scene, eye: SceneNode, target: DeviceTexture, ledger: Ledger): void {
    const start = performance.now();
    const { device } = this;
    const { width, height } = target;
    this.frame++;
    device.counts.resetCommands();
    const { view, list } = this.eyeState(eye);
    const viewChanged = updateCameraView(view, eye, width / height);
    const listChanged = list.update(scene, view, viewChanged);
    const { given } = this;
    given.exposure = this.exposure;
    given.isParallel = eye.camera?.type === 'orthographic';
    given.width = width;
    given.height = height;
    this.uniforms.update(scene, view, given);
    this.scenePass.prepare(list, listChanged, this.frame);
    const listed = performance.now();
    ledger.beginFrame(listed - start);

    const picture = this.openScenePass(scene, width, height);
    const pass = device.beginRenderPass(this.passOptions);
    this.scenePass.draw(pass, list, this.uniforms, 0, list.opaqueCommands);
    ledger.endPart('opaque', device.counts);
    this.scenePass.draw(pass, list, this.uniforms, list.opaqueCommands, list.commands);
    pass.end();
    ledger.endPart('blended', device.counts);
    this.finish.draw(picture, target);
    device.submit();
    ledger.endPart('finish', device.counts);
    ledger.endFrame(device.counts, list.culledCount, this.uniforms.lightsLeftOut, performance.now() - start);
    if (this.frame % KEEP_FRAMES === 0) this.sweep(this.frame - KEEP_FRAMES + 1);
  }

  dispose(): void {
    this.textures.dispose();
    this.device.dispose();
  }

  /** Sets the attachments of this frame; returns the texture that will hold the linear picture. */
  private openScenePass(scene: Scene, width: number, height: number): DeviceTexture {
    const { frame, colorFormat: format, sampleCount } = this;
    const { color } = scene.background;
    for (let k = 0; k < 3; k++) this.clear[k] = color[k]! * color[3];
    this.clear[3] = color[3];
    const picture = this.transient.get('picture', frame, { width, height, format });
    const depth = { width, height, format: 'depth32float', sampleCount } as const;
    this.depthAttachment.texture = this.transient.get('depth', frame, depth);
    if (sampleCount > 1) {
      this.colorAttachment.texture = this.transient.get('samples', frame, {
        width,
        height,
        format,
        sampleCount,
      });
      this.colorAttachment.resolveTarget = picture;
    } else {
      this.colorAttachment.texture = picture;
    }
    return picture;
  }

  private eyeState(eye: SceneNode): EyeState {
    let state = this.eyes.get(eye);
    if (!state) {
      state = { view: createCameraView(), list: new DrawList(), lastUsed: 0 };
      this.eyes.set(eye, state);
    }
    state.lastUsed = this.frame;
    return state;
  }

  private sweep(frame: number): void {
    this.scenePass.geometries.sweep(frame);
    this.scenePass.materials.sweep(frame);
    this.scenePass.settings.sweep(frame);
    this.textures.sweep(frame);
    this.transient.sweep(frame);
    for (const [eye, { lastUsed }] of this.eyes) if (lastUsed < frame) this.eyes.delete(eye);
  }
}
