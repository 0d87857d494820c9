import {
  type CameraView,
  createCameraView,
  DrawList,
  type Scene,
  type SceneNode,
  updateCameraView,
} from '@umber-lens/core';
import type {
  ColorAttachment,
  Device,
  DeviceBindGroup,
  DeviceTexture,
  RenderPassOptions,
} from '../gpu/device.js';
import type { Ledger } from '../ledger.js';
import type { Messages } from '#messages';
import type { LensShaders } from '../shaders/lens-shaders.js';
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
    shaders: LensShaders,
    antialias: boolean,
    messages: Messages,
  ) {
    this.sampleCount = antialias ? Math.min(4, device.limits.maxSamples) : 1;
    // Eight bits of linear colour would show bands in the dark: only where there is nothing better.
    this.colorFormat = device.features.has('float16-renderable') ? 'rgba16float' : 'rgba8unorm';
    this.textures = new TextureStore(device);
    this.uniforms = new FrameUniforms(device);
    this.transient = new TransientTextures(device);
    this.finish = new FinishPass(device, shaders.finish);
    const formats = {
      color: this.colorFormat,
      depth: 'depth32float',
      sampleCount: this.sampleCount,
    } as const;
    this.scenePass = new ScenePass(device, this.textures, formats, shaders.mesh, messages);
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
    this.scenePass.prepare(list, scene, listChanged, this.frame);
    const listed = performance.now();
    ledger.beginFrame(listed - start);

    const picture = this.openScenePass(scene, width, height);
    const isSplit = this.scenePass.readsBehind;
    const { group } = this.uniforms;
    if (isSplit) this.drawBefore(list, width, height);
    const behind = isSplit ? this.openAfter(width, height) : group;
    const pass = device.beginRenderPass(this.passOptions);
    this.scenePass.draw(pass, list, behind, 0, list.opaqueCommands, isSplit ? 'after' : 'all');
    ledger.endPart('opaque', device.counts);
    this.scenePass.draw(pass, list, behind, list.opaqueCommands, list.commands);
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

  /** Opaque things that do not ask what lies behind them, so that the others may. */
  private drawBefore(list: DrawList, width: number, height: number): void {
    const { colorAttachment, depthAttachment, colorFormat: format, frame } = this;
    const { resolveTarget } = colorAttachment;
    const color = this.transient.get('behind color', frame, { width, height, format });
    if (resolveTarget) colorAttachment.resolveTarget = color;
    colorAttachment.store = true;
    depthAttachment.store = true;
    const pass = this.device.beginRenderPass(this.passOptions);
    this.scenePass.draw(pass, list, this.uniforms.group, 0, list.opaqueCommands, 'before');
    pass.end();
    if (resolveTarget) colorAttachment.resolveTarget = resolveTarget;
    else this.device.copyTexture(colorAttachment.texture, color);
    const depth = this.transient.get('behind depth', frame, { width, height, format: 'depth32float' });
    this.device.copyDepth(depthAttachment.texture, depth);
    colorAttachment.store = this.sampleCount === 1;
    depthAttachment.store = false;
  }

  /** The second pass goes on where the first ended. */
  private openAfter(width: number, height: number): DeviceBindGroup {
    delete this.colorAttachment.clearValue;
    delete this.depthAttachment.clearValue;
    const { frame, colorFormat: format } = this;
    const depth = this.transient.get('behind depth', frame, { width, height, format: 'depth32float' });
    return this.uniforms.groupWith(
      depth,
      this.transient.get('behind color', frame, { width, height, format }),
    );
  }

  /** Sets the attachments of this frame; returns the texture that will hold the linear picture. */
  private openScenePass(scene: Scene, width: number, height: number): DeviceTexture {
    const { frame, colorFormat: format, sampleCount } = this;
    const { color } = scene.background;
    for (let k = 0; k < 3; k++) this.clear[k] = color[k]! * color[3];
    this.clear[3] = color[3];
    this.colorAttachment.clearValue = this.clear;
    this.depthAttachment.clearValue = 0;
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
