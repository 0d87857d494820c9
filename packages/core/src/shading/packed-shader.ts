import { LensError } from '../errors/lens-error.js';
import type { CompiledShader, PackedShader } from '../material/shader-types.js';
import { deltaOf, numberOf, type TextDelta, textFrom } from './text-delta.js';

/** A shader as one of the two interfaces has it: what only the other would read is left out. */
export function inLanguage(shader: CompiledShader, language: 'wgsl' | 'glsl'): CompiledShader {
  if (language === 'glsl') return { ...shader, wgsl: '', resources: [] };
  const { glsl: _, notInWebgl2: __, ...rest } = shader;
  return rest;
}

/**
 * A shader by what sets it apart from one that pages carry anyway. What it says of itself is that other's until it is
 * unpacked.
 */
export function packShader(shader: CompiledShader, base: CompiledShader): CompiledShader {
  const one = (language: 'wgsl' | 'glsl'): PackedShader['wgsl'] => {
    const from = JSON.stringify(inLanguage(base, language));
    return [numberOf(from), ...deltaOf(from, JSON.stringify(inLanguage(shader, language)))];
  };
  return {
    // Tells shaders apart, as the text would.
    wgsl: `${numberOf(shader.wgsl)}`,
    vertex: shader.vertex,
    fragment: shader.fragment,
    resources: [],
    outputs: [],
    overrides: [],
    packed: { wgsl: one('wgsl'), glsl: one('glsl') },
  };
}

const texts = new WeakMap<CompiledShader, { text: string; number: number }>();

/**
 * The whole shader, in the language of the one that it was packed against.
 *
 * @throws LensError `shader/version` where that is another than it was packed against
 */
export function unpackShader(shader: CompiledShader, base: CompiledShader, file: string): CompiledShader {
  const { packed } = shader;
  if (!packed) return shader;
  let known = texts.get(base);
  if (!known) {
    const text = JSON.stringify(base);
    texts.set(base, (known = { text, number: numberOf(text) }));
  }
  const [number, ...delta] = base.wgsl === '' ? packed.glsl : packed.wgsl;
  if (number !== known.number) {
    throw new LensError('shader/version', `${file} was built for another version of the library`, {
      hint: 'Give umber-lens and @umber-lens/vite the same version, and build again.',
      where: { file },
    });
  }
  return JSON.parse(textFrom(known.text, delta as TextDelta)) as CompiledShader;
}
