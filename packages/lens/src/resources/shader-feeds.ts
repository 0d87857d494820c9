import type { CompiledShader, MaterialShader } from '@umber-lens/core/engine';
import type { Device, VertexBufferLayout } from '../gpu/device.js';
import type { Messages } from '#messages';
import { InstanceSettingsBuffer, instanceSettingsLayout } from './instance-settings.js';
import { BEHIND_PASSES } from '../passes/behind-passes.js';
import type { PlanPart } from '../passes/frame-plan.js';
import { unpackShader } from '../shaders/packed-shader.js';
import { SettingsStore } from './settings-store.js';
import type { TextureStore } from './texture-store.js';

/**
 * What brings settings to the GPU. Compiled shaders bring it along, so that pages without shader materials do not
 * carry it.
 */
export interface ShaderFeeds {
  settings(device: Device, textures: TextureStore, messages: Messages): SettingsStore;
  instanceSettings(device: Device): InstanceSettingsBuffer;
  instanceLayout(shader: MaterialShader): VertexBufferLayout;
  /** The whole of a shader that was packed against another. @throws LensError `shader/version` */
  unpack(shader: CompiledShader, base: CompiledShader, file: string): CompiledShader;
  /** What is drawn before, for shaders that ask what lies behind them. */
  behind: PlanPart;
}

/** For the `feeds` of a `MaterialShader`. */
export const SHADER_FEEDS: ShaderFeeds = {
  settings: (device, textures, messages) => new SettingsStore(device, textures, messages),
  instanceSettings: (device) => new InstanceSettingsBuffer(device),
  instanceLayout: instanceSettingsLayout,
  unpack: unpackShader,
  behind: BEHIND_PASSES,
};
