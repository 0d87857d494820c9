import { KEPT } from './glsl-names.js';
import type { GlslShader } from './glsl-state.js';

/** What the language, the device and the other stage know a thing by. */
const FIXED =
  /^(gl_\w+|umber_(v|in|out)\d+|umber_(clip|target)|UMBER_\w+|std140|location|mat\dx\d|[iu]?sampler\w+|texture\w+|texel\w+|[xyzwrgbastpq]{1,4})$/;

/**
 * The same stage with names of one or two letters and without spaces. What the device asks for by name (blocks,
 * samplers, buffers) and what the stages have in common keeps its name; lines stay, for the directives' sake.
 */
export function shortenGlsl(stage: GlslShader): GlslShader {
  const { text, blocks, samplers, storage } = stage;
  const fixed = new Set([...KEPT, ...Object.keys(blocks), ...Object.keys(samplers), ...Object.keys(storage)]);
  for (const { lengthUniform } of Object.values(storage)) fixed.add(lengthUniform);
  // The words of a block, by which both stages must know it.
  for (const [, words] of text.matchAll(/uniform \w+\s*\{\s*uvec4 (\w+)/g)) fixed.add(words!); // always one
  const lines = text.split('\n');
  const counts = new Map<string, number>();
  for (const line of lines) {
    if (line.startsWith('#')) continue;
    for (const [, name] of line.matchAll(NAMES)) {
      if (name !== undefined && !fixed.has(name) && !FIXED.test(name))
        counts.set(name, (counts.get(name) ?? 0) + 1);
    }
  }
  const short = new Map<string, string>();
  let next = 0;
  for (const [name] of [...counts].sort((a, b) => b[1] - a[1])) {
    let candidate: string;
    do candidate = shortName(next++);
    while (fixed.has(candidate) || FIXED.test(candidate));
    short.set(name, candidate);
  }
  const shortened = lines
    .map((line) =>
      line.startsWith('#')
        ? line
        : line
            .replace(NAMES, (word, name?: string) => (name === undefined ? word : (short.get(name) ?? name)))
            .trim()
            .replace(/\s*([{}();,=+*/<>?:!&|^%])\s*/g, '$1'),
    )
    .filter((line) => line !== '')
    .join('\n');
  return { ...stage, text: `${shortened}\n` };
}

/** Numbers, so that nothing in them is taken for a name; or a name. */
const NAMES = /\b\d[\w.]*|\b([A-Za-z_]\w*)/g;

/** a, b ... z, A ... Z, aa ... */
function shortName(n: number): string {
  const letters = 'abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ';
  const last = letters[n % letters.length]!; // within by the remainder
  return n < letters.length ? last : shortName(Math.floor(n / letters.length) - 1) + last;
}
