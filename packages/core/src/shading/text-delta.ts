/**
 * A text as parts of another: strings stand for themselves, a pair of numbers for a part of the other text: how far behind
 * the end of the part before it begins (negative: before it), and its characters.
 */
export type TextDelta = readonly (string | number)[];

/** Shorter parts cost more than their text. */
const SHORTEST = 14;

/** The text that a delta stands for. @param base that it was made from */
export function textFrom(base: string, delta: TextDelta): string {
  let text = '';
  let at = 0;
  for (let i = 0; i < delta.length; i++) {
    const part = delta[i]!; // i < length
    if (typeof part === 'string') {
      text += part;
      continue;
    }
    const length = delta[++i] as number; // numbers come in pairs
    text += base.slice(at + part, at + part + length);
    at += part + length;
  }
  return text;
}

/**
 * Finds a text in another, part by part: at each place the longest part of the other that begins with the same characters.
 * O(length of both), but for characters that repeat.
 */
export function deltaOf(base: string, text: string): TextDelta {
  const places = new Map<string, number[]>();
  for (let i = 0; i + SHORTEST <= base.length; i++) {
    const key = base.slice(i, i + SHORTEST);
    const known = places.get(key);
    if (known) known.push(i);
    else places.set(key, [i]);
  }
  const delta: (string | number)[] = [];
  let at = 0;
  let own = '';
  for (let i = 0; i < text.length;) {
    let [start, length] = [0, 0];
    for (const place of places.get(text.slice(i, i + SHORTEST)) ?? []) {
      let same = SHORTEST;
      while (base[place + same] === text[i + same] && i + same < text.length && place + same < base.length)
        same++;
      // Of two that are as long, the one that goes on where the last ended.
      if (same > length || (same === length && place === at)) [start, length] = [place, same];
    }
    if (length === 0) {
      own += text[i++]!; // i < length
      continue;
    }
    if (own !== '') delta.push(own);
    own = '';
    delta.push(start - at, length);
    at = start + length;
    i += length;
  }
  if (own !== '') delta.push(own);
  return delta;
}

/** A number for a text: other texts nearly always have others (FNV-1a, 32 bits). */
export function numberOf(text: string): number {
  let hash = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193);
  return hash >>> 0;
}
