import { type Scene, type SceneNode, updateCameraView } from '@umber-lens/core';
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
import { EyeState } from './eye-state.js';
import { FinishPass } from './finish-pass.js';
import { type FrameGiven, FrameUniforms } from './frame-uniforms.js';
import type { PreparedScene } from './prepared-scene.js';
import { ScenePass } from './scene-pass.js';
import { TransientTextures } from './transient-textures.js';

/** Frames after which GPU copies of things that are no longer drawn are freed. */
const KEEP_FRAMES = 120;

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
  /** By camera node, and by what it draws into. */
  private readonly eyes = new Map<SceneNode, Map<DeviceTexture, EyeState>>();
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
    if (device.canvasTexture) this.finish.makePipeline(device.canvasTexture.format);
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
    scene.update();
    const state = this.eyeState(eye, target);
    const { view, list } = state;
    const viewChanged = updateCameraView(view, eye, width / height);
    const { given } = this;
    given.exposure = this.exposure;
    given.isParallel = eye.camera?.type === 'orthographic';
    given.width = width;
    given.height = height;
    this.uniforms.update(scene, view, given);
    const prepared = this.scenePass.sceneOf(scene);
    prepared.prepare(this.frame);
    const { transforms } = prepared;
    if (list.update(scene, view, viewChanged, transforms)) state.instances.upload(list);
    prepared.makePipelines(list);
    if (prepared.takesInstanceSettings) state.settings.update(list, scene);
    const listed = performance.now();
    ledger.beginFrame(listed - start);

    const picture = this.openScenePass(scene, width, height);
    const { readsBehind: isSplit } = prepared;
    const group = this.uniforms.groupFor(transforms.buffer!, this.frame); // made by prepare
    if (isSplit) this.drawBefore(prepared, state, group, width, height);
    const behind = isSplit ? this.openAfter(prepared, width, height) : group;
    const pass = device.beginRenderPass(this.passOptions);
    const { opaqueCommands, commands } = list;
    this.scenePass.draw(pass, prepared, state, behind, 0, opaqueCommands, isSplit ? 'after' : 'all');
    ledger.endPart('opaque', device.counts);
    this.scenePass.draw(pass, prepared, state, behind, opaqueCommands, commands);
    pass.end();
    ledger.endPart('blended', device.counts);
    this.finish.draw(picture, target, this.frame);
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
  private drawBefore(
    prepared: PreparedScene,
    state: EyeState,
    group: DeviceBindGroup,
    width: number,
    height: number,
  ): void {
    const { colorAttachment, depthAttachment, colorFormat: format, frame } = this;
    const { resolveTarget } = colorAttachment;
    const color = this.transient.get('behind color', frame, { width, height, format });
    if (resolveTarget) colorAttachment.resolveTarget = color;
    colorAttachment.store = true;
    depthAttachment.store = true;
    const pass = this.device.beginRenderPass(this.passOptions);
    this.scenePass.draw(pass, prepared, state, group, 0, state.list.opaqueCommands, 'before');
    pass.end();
    if (resolveTarget) colorAttachment.resolveTarget = resolveTarget;
    else this.device.copyTexture(colorAttachment.texture, color);
    const depth = this.transient.get('behind depth', frame, { width, height, format: 'depth32float' });
    this.device.copyDepth(depthAttachment.texture, depth);
    colorAttachment.store = this.sampleCount === 1;
    depthAttachment.store = false;
  }

  /** The second pass goes on where the first ended. */
  private openAfter({ transforms }: PreparedScene, width: number, height: number): DeviceBindGroup {
    delete this.colorAttachment.clearValue;
    delete this.depthAttachment.clearValue;
    const { frame, colorFormat: format } = this;
    const depth = this.transient.get('behind depth', frame, { width, height, format: 'depth32float' });
    const color = this.transient.get('behind color', frame, { width, height, format });
    return this.uniforms.groupWith(transforms.buffer!, frame, depth, color); // made by prepare
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

  private eyeState(eye: SceneNode, target: DeviceTexture): EyeState {
    let byTarget = this.eyes.get(eye);
    if (!byTarget) this.eyes.set(eye, (byTarget = new Map()));
    let state = byTarget.get(target);
    if (!state) byTarget.set(target, (state = new EyeState(this.device)));
    state.lastUsed = this.frame;
    return state;
  }

  private sweep(frame: number): void {
    this.scenePass.sweep(frame);
    this.uniforms.sweep(frame);
    this.finish.sweep(frame);
    this.textures.sweep(frame);
    this.transient.sweep(frame);
    for (const [eye, byTarget] of this.eyes) {
      for (const [target, state] of byTarget) {
        if (state.lastUsed >= frame) continue;
        state.dispose();
        byTarget.delete(target);
      }
      if (byTarget.size === 0) this.eyes.delete(eye);
    }
  }
}
