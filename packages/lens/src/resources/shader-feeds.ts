import type { CompiledShader, MaterialShader } from '@umber-lens/core/engine';
import type { Device, VertexBufferLayout } from '../gpu/device.js';
import type { Messages } from '#messages';
import type { InstanceSettingsBuffer } from './instance-settings.js';
import type { SettingsStore } from './settings-store.js';
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
  /** What is drawn before, for shaders that ask what lies behind them: a part of frames. */
  behind: unknown;
}
