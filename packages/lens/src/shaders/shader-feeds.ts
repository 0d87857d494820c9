import { unpackShader } from '@umber-lens/core/engine';
import { BEHIND_PASSES } from '../features/behind/behind-passes.js';
import { InstanceSettingsBuffer, instanceSettingsLayout } from '../resources/instance-settings.js';
import { SettingsStore } from '../resources/settings-store.js';
import type { ShaderFeeds } from '../resources/shader-feeds.js';

/** For the `feeds` of a `MaterialShader`. */
export const SHADER_FEEDS: ShaderFeeds = {
  settings: (device, textures, messages) => new SettingsStore(device, textures, messages),
  instanceSettings: (device) => new InstanceSettingsBuffer(device),
  instanceLayout: instanceSettingsLayout,
  unpack: unpackShader,
  behind: BEHIND_PASSES,
};
