import type { StatesDefinition } from '../animation/states/definition.js';
import type { MaterialSetting, MaterialShader } from '../material/shader-types.js';
import type { Property, Table } from '../properties/property.js';

/** What `settings` of a material with a shader may hold: its settings and its textures, with the ranges that its text gives them. */
export function settingsTable(shader: Pick<MaterialShader, 'settings' | 'textures'>): Table {
  return Object.fromEntries([
    ...shader.settings.map((setting): [string, Property] => [setting.name, propertyOf(setting)]),
    ...shader.textures.map(({ documentation, kind, name }): [string, Property] => [
      name,
      { line: documentation, type: 'given', ...(kind === 'color' ? { color: 'encoded' as const } : {}) },
    ]),
  ]);
}

/** What `settings` of a node may hold whose materials have a shader. */
export const instanceSettingsTable = (shader: Pick<MaterialShader, 'instanceSettings'>): Table =>
  Object.fromEntries(shader.instanceSettings.map((setting) => [setting.name, propertyOf(setting)]));

function propertyOf({ default: usual, documentation, kind, range, type }: MaterialSetting): Property {
  const isList = typeof usual === 'object';
  return {
    line: documentation,
    type: isList ? 'numbers' : 'number',
    ...(isList ? { length: usual.length } : {}),
    ...(range ? { range } : {}),
    ...(kind === 'color' ? { color: 'linear' as const } : {}),
    ...(kind === 'angle' ? { unit: 'radians' as const } : {}),
    default: usual,
    ...(type === 'bool' ? { range: [0, 1] as const } : {}),
  };
}

/** What the parameters of a state machine hold, by their names: for `machine.get` and `machine.set`. */
export const parametersTable = ({ parameters = {} }: StatesDefinition): Table =>
  Object.fromEntries(
    Object.entries(parameters).map(([name, { default: usual, type }]): [string, Property] => [
      name,
      {
        line: type === 'trigger' ? 'Taken by the transition that it lets pass.' : '',
        type: type === 'number' ? 'number' : 'boolean',
        names: 'parameter',
        default: usual ?? (type === 'number' ? 0 : false),
      },
    ]),
  );
