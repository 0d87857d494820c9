import { LensError, type Material, type MaterialShader, type SettingValue } from '@umber-lens/core/engine';

/** A material whose settings are those of its shader. */
export type MaterialWith<S extends object> = Material & { settings: S };

/**
 * A material with a shader of the author's own and all its settings, each at its default unless given. Writing
 * to `settings` takes effect with the next frame and allocates nothing.
 *
 *     const rim = createMaterial(rimShader, { settings: { edge: 3 }, alphaMode: 'blend' });
 *     rim.settings.edge = 2;
 */
export function createMaterial<S extends object>(
  shader: MaterialShader<S>,
  given: Omit<Material, 'shader' | 'settings'> & { settings?: Partial<S> } = {},
): MaterialWith<S> {
  if (typeof (shader as object | undefined) !== 'object' || !Array.isArray(shader.settings))
    throw new LensError('material/shader', `a material cannot have ${String(shader)} as its shader`, {
      hint: "Give what `import shader from './file.wgsl'` or compileMaterialShader gives.",
    });
  const settings: Record<string, SettingValue> = {};
  for (const { name, default: value } of shader.settings) {
    settings[name] = typeof value === 'number' ? value : [...value];
  }
  Object.assign(settings, given.settings);
  return { ...given, shader: shader as MaterialShader, settings } as MaterialWith<S>;
}
