import { KEPT } from './glsl-names.js';
import type { GlslShader } from './glsl-state.js';

/** What the language, the device and the other stage know a thing by. */
const FIXED =
  /^(gl_\w+|umber_(v|in|out)\d+|umber_(clip|target)|UMBER_\w+|std140|location|mat\dx\d|[iu]?sampler\w+|texture\w+|texel\w+|[xyzwrgbastpq]{1,4})$/;

/**
 * The same stage with names of one or two letters and without spaces. What the device asks for by name (blocks,
 * samplers, buffers) and what the stages have in common keeps its name; directives keep their lines.
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
  const shorter = (word: string, name?: string): string =>
    name === undefined ? shortNumber(word) : (short.get(name) ?? name);
  let shortened = '';
  for (const line of lines) {
    if (line.startsWith('#')) {
      // A directive stands on a line of its own.
      if (shortened !== '' && !shortened.endsWith('\n')) shortened += '\n';
      shortened += `${line}\n`;
    } else {
      shortened += line
        .replace(NAMES, shorter)
        .trim()
        .replace(/\s*([{}();,=+*/<>?:!&|^%])\s*/g, '$1');
    }
  }
  // What is declared and then set is declared with its value.
  const joined = shortened.replace(/\b(\w+) (\w+);\2=/g, '$1 $2=');
  return { ...stage, text: `${withoutParentheses(joined)}\n` };
}

/** 1.0 is 1., and 0.5 is .5. */
function shortNumber(word: string): string {
  return word.replace(/^(\d+)\.0$/, '$1.').replace(/^0(\.\d)/, '$1');
}

/** Leaves out parentheses around a whole argument, a whole value or all that is returned. */
function withoutParentheses(text: string): string {
  const open: { at: number; hasComma: boolean }[] = [];
  const kept = [...text];
  for (let i = 0; i < text.length; i++) {
    const sign = text[i];
    if (sign === '(') open.push({ at: i, hasComma: false });
    else if (sign === ',' && open.length > 0)
      open.at(-1)!.hasComma = true; // not empty
    else if (sign === ')') {
      const { at, hasComma } = open.pop()!; // the text is balanced
      const before = text.slice(Math.max(0, at - 7), at);
      const isWhole = /([^=!<>]=|,|\(|\breturn)$/.test(before) && /[;,)]/.test(text[i + 1] ?? '');
      if (!isWhole || hasComma) continue;
      kept[at] = before.endsWith('return') ? ' ' : '';
      kept[i] = '';
    }
  }
  return kept.join('');
}

/** Numbers, so that nothing in them is taken for a name; or a name. */
const NAMES = /\b\d[\w.]*|\b([A-Za-z_]\w*)/g;

/** a, b ... z, A ... Z, aa ... */
function shortName(n: number): string {
  const letters = 'abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ';
  const last = letters[n % letters.length]!; // within by the remainder
  return n < letters.length ? last : shortName(Math.floor(n / letters.length) - 1) + last;
}
