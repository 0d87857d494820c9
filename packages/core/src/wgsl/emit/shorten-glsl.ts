import { KEPT } from './glsl-names.js';
import type { GlslShader } from './glsl-state.js';

/** What the language, the device and the other stage know a thing by. */
const FIXED =
  /^(gl_\w+|umber_(v|in|out)\d+|umber_(clip|target)|UMBER_\w+|std140|location|mat\dx\d|[iu]?sampler\w+|texture\w+|texel\w+|[xyzwrgbastpq]{1,4})$/;

/**
 * The same stage with names of one or two letters and without spaces. What the device asks for by name (blocks,
 * samplers, buffers) and what the stages have in common keeps its name; directives keep their lines. Names that
 * functions have in common begin with a capital; what one function alone holds begins with a small letter and depends on
 * that function, so that its text is the same in every shader.
 *
 * @param known short names by the names that functions have in common: they are kept, and new ones are added
 */
export function shortenGlsl(stage: GlslShader, known = new Map<string, string>()): GlslShader {
  const { text, blocks, samplers, storage } = stage;
  const fixed = new Set([...KEPT, ...Object.keys(blocks), ...Object.keys(samplers), ...Object.keys(storage)]);
  for (const { lengthUniform } of Object.values(storage)) fixed.add(lengthUniform);
  // The words of a block, by which both stages must know it.
  for (const [, words] of text.matchAll(/uniform \w+\s*\{\s*uvec4 (\w+)/g)) fixed.add(words!); // always one
  const lines = text.split('\n');
  const functions = functionOf(lines);
  const counts = countsOf(lines, functions, fixed);
  const common = commonOf(counts);
  nameCommon(common, fixed, known);
  const own = counts.map((count, i) => (i === 0 ? known : ownNames(count, common, fixed)));
  let shortened = '';
  lines.forEach((line, i) => {
    if (line.startsWith('#')) {
      // A directive stands on a line of its own.
      if (shortened !== '' && !shortened.endsWith('\n')) shortened += '\n';
      shortened += `${line}\n`;
      return;
    }
    const names = own[functions[i]!]!; // one a line, and one a function
    const shorter = (word: string, name?: string): string => {
      if (name === undefined) return shortNumber(word);
      // Another shader may have shortened what this one must keep.
      return fixed.has(name) ? name : (names.get(name) ?? known.get(name) ?? name);
    };
    shortened += line
      .replace(NAMES, shorter)
      .trim()
      .replace(/\s*([{}();,=+*/<>?:!&|^%])\s*/g, '$1');
  });
  // What is declared and then set is declared with its value.
  const joined = shortened.replace(/\b(\w+) (\w+);\2=/g, '$1 $2=');
  return { ...stage, text: `${withoutParentheses(joined)}\n` };
}

/** By line: the number of the function that it belongs to, from 1 on; 0 outside of them. */
function functionOf(lines: readonly string[]): number[] {
  let count = 0;
  let isInside = false;
  return lines.map((line) => {
    if (!isInside && /^\w+ \w+\(.*\) \{$/.test(line)) {
      isInside = true;
      count++;
    }
    if (!isInside) return 0;
    if (line === '}') isInside = false;
    return count;
  });
}

/** By function, and at 0 outside of them: how often each name is there that may be shortened. */
function countsOf(
  lines: readonly string[],
  functions: readonly number[],
  fixed: ReadonlySet<string>,
): Map<string, number>[] {
  const counts: Map<string, number>[] = [new Map<string, number>()];
  lines.forEach((line, i) => {
    const own = (counts[functions[i]!] ??= new Map<string, number>()); // one a line
    // Lines of a macro are known by the words of others.
    if (line.startsWith('#')) return;
    for (const [, name] of line.matchAll(NAMES)) {
      if (name !== undefined && !fixed.has(name) && !FIXED.test(name))
        own.set(name, (own.get(name) ?? 0) + 1);
    }
  });
  return counts;
}

/** What stands outside of functions or in several of them, with how often. */
function commonOf(counts: readonly Map<string, number>[]): Map<string, number> {
  const [outside, ...functions] = counts;
  const users = new Map<string, number>();
  for (const own of functions) for (const name of own.keys()) users.set(name, (users.get(name) ?? 0) + 1);
  const common = new Map<string, number>();
  for (const own of counts)
    for (const [name, count] of own)
      if (outside!.has(name) || users.get(name)! > 1) common.set(name, (common.get(name) ?? 0) + count); // counted above
  return common;
}

function nameCommon(
  common: ReadonlyMap<string, number>,
  fixed: ReadonlySet<string>,
  known: Map<string, string>,
): void {
  const taken = new Set([...fixed, ...known.values()]);
  let next = 0;
  for (const name of byCount(common)) {
    if (known.has(name)) continue;
    let candidate: string;
    do candidate = shortName(next++, CAPITALS);
    while (taken.has(candidate) || FIXED.test(candidate));
    known.set(name, candidate);
  }
}

/** Short names of what a function alone holds. */
function ownNames(
  own: ReadonlyMap<string, number>,
  common: ReadonlyMap<string, number>,
  fixed: ReadonlySet<string>,
): ReadonlyMap<string, string> {
  const names = new Map<string, string>();
  let next = 0;
  for (const name of byCount(own)) {
    if (common.has(name)) continue;
    let candidate: string;
    do candidate = shortName(next++, SMALL);
    while (fixed.has(candidate) || FIXED.test(candidate));
    names.set(name, candidate);
  }
  return names;
}

/** The most frequent first; of those that are as frequent, the one that comes first. */
const byCount = (counts: ReadonlyMap<string, number>): string[] =>
  [...counts].sort((a, b) => b[1] - a[1]).map(([name]) => name);

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

const SMALL = 'abcdefghijklmnopqrstuvwxyz';
const CAPITALS = SMALL.toUpperCase();

/** One of the letters, or one of them with others: a, b ... z, aa, ab ... */
function shortName(n: number, letters: string): string {
  if (n < letters.length) return letters[n]!; // in range, here and below
  const rest = SMALL + CAPITALS;
  const k = n - letters.length;
  return shortName(Math.floor(k / rest.length), letters) + rest[k % rest.length]!;
}
