import type { Container, Slot } from './json-scan.js';
import type { TextStyle } from './print-json.js';
import type { TextEdit } from './text-edit.js';

/** Whether the entries of a container stand on lines of their own. */
export const isByLines = (text: string, { from, slots, to }: Container): boolean =>
  slots.length === 0 ? text.slice(from, to).includes('\n') : lineBreakIn(text, from, slots[0]!.at); // it has one

const lineBreakIn = (text: string, from: number, to: number): boolean => text.slice(from, to).includes('\n');

/** The white space that a line begins with, up to an offset. */
export function indentAt(text: string, offset: number): string {
  const start = text.lastIndexOf('\n', offset - 1) + 1;
  return /^[ \t]*/.exec(text.slice(start, offset))![0]; // it matches nothing, too
}

/** Where the line ends that an offset is on, before its break. */
function lineEndAt(text: string, offset: number): number {
  const end = text.indexOf('\n', offset);
  const at = end < 0 ? text.length : end;
  return text[at - 1] === '\r' && at > offset ? at - 1 : at;
}

/** Where the comment ends that stands behind an entry on its line; the entry's own end where there is none. */
function commentEnd(text: string, { comma, to }: Slot): number {
  const after = comma >= 0 ? comma + 1 : to;
  const rest = text.slice(after, lineEndAt(text, after));
  const comment = /^[ \t]*(\/\/.*|(\/\*(?:[^*]|\*(?!\/))*\*\/[ \t]*)+)$/.exec(rest);
  return comment ? after + rest.trimEnd().length : after;
}

/**
 * Puts an entry into a container.
 *
 * @param index before which other one
 * @param print writes it, given the indentation of its line
 */
export function insertSlot(
  text: string,
  container: Container,
  index: number,
  style: TextStyle,
  print: (indent: string) => string,
): TextEdit[] {
  const { from, slots, to } = container;
  const { lineEnd } = style;
  if (slots.length === 0) {
    const outer = indentAt(text, from);
    const inner = outer + style.indent;
    // What stands between the brackets are comments: they stay.
    const between = text.slice(from + 1, to - 1);
    if (isByLines(text, container)) {
      const kept = between.trimEnd();
      const offset = from + 1 + kept.length;
      return [
        {
          offset,
          length: between.length - kept.length,
          content: `${lineEnd}${inner}${print(inner)}${lineEnd}${outer}`,
        },
      ];
    }
    const made = print(outer);
    const pad = container.isList ? '' : ' ';
    return between.trim() === ''
      ? [{ offset: from + 1, length: between.length, content: `${pad}${made}${pad}` }]
      : [{ offset: to - 1, length: 0, content: `${between.endsWith(' ') ? '' : ' '}${made}${pad}` }];
  }
  const next = slots[index];
  if (!isByLines(text, container)) {
    if (next) return [{ offset: next.at, length: 0, content: `${print(indentAt(text, next.at))}, ` }];
    const last = slots.at(-1)!; // length > 0
    const made = print(indentAt(text, last.at));
    // A comma that stands there already goes on standing at the end.
    return last.comma >= 0
      ? [{ offset: last.comma + 1, length: 0, content: ` ${made},` }]
      : [{ offset: last.to, length: 0, content: `, ${made}` }];
  }
  if (next) {
    const indent = indentAt(text, next.at);
    return [{ offset: next.at, length: 0, content: `${print(indent)},${lineEnd}${indent}` }];
  }
  const last = slots.at(-1)!; // length > 0
  const indent = indentAt(text, last.at);
  const end = commentEnd(text, last);
  if (last.comma >= 0) return [{ offset: end, length: 0, content: `${lineEnd}${indent}${print(indent)},` }];
  const added = { offset: end, length: 0, content: `${lineEnd}${indent}${print(indent)}` };
  return end === last.to
    ? [{ ...added, content: `,${added.content}` }]
    : [{ offset: last.to, length: 0, content: ',' }, added];
}

/**
 * Takes an entry out of a container, with its comma, its line where it has one of its own, and not with the comments beside it.
 *
 * @param comments what stays in its place, of those within it
 */
export function removeSlot(
  text: string,
  { from, slots, to }: Container,
  index: number,
  comments: readonly string[],
  style: TextStyle,
): TextEdit[] {
  const slot = slots[index]!; // it has one
  const before = slots[index - 1];
  const after = slots[index + 1];
  const end = slot.comma >= 0 ? slot.comma + 1 : slot.to;
  // Nothing follows: the comma before goes too, unless the file has one behind the last.
  const loose: TextEdit[] =
    before && !after && slot.comma < 0 ? [{ offset: before.comma, length: 1, content: '' }] : [];
  if (comments.length > 0) {
    const indent = indentAt(text, slot.at);
    const isLine = comments.at(-1)!.startsWith('//'); // length > 0
    const made = comments.reduce(
      (all, one) => all + (all === '' ? '' : all.includes('//') ? `${style.lineEnd}${indent}` : ' ') + one,
      '',
    );
    const follows = text.slice(end, lineEndAt(text, end)).trim() !== '';
    const content = isLine && follows ? `${made}${style.lineEnd}${indent}` : made;
    return [...loose, { offset: slot.at, length: end - slot.at, content }];
  }
  const lineStart = text.lastIndexOf('\n', slot.at - 1) + 1;
  const ownsStart = lineStart > from && text.slice(lineStart, slot.at).trim() === '';
  const lineEnd = lineEndAt(text, end);
  const behind = text.slice(end, lineEnd);
  if (ownsStart && behind.trim() === '' && lineEnd < to) {
    const length = text.indexOf('\n', lineEnd) + 1 - lineStart;
    return [...loose, { offset: lineStart, length, content: '' }];
  }
  // A comment behind it keeps the line.
  if (ownsStart && /^\s*\/[/*]/.test(behind)) {
    const pad = behind.length - behind.trimStart().length;
    return [...loose, { offset: slot.at, length: end + pad - slot.at, content: '' }];
  }
  if (after) {
    const gap = text.slice(end, after.at);
    const kept = gap.trim() === '' ? '' : `${gap.trim()} `;
    if (gap.includes('\n')) return [{ offset: slot.at, length: end - slot.at, content: '' }];
    return [{ offset: slot.at, length: after.at - slot.at, content: kept }];
  }
  if (!before) {
    const whole = text.slice(from + 1, slot.at) + text.slice(end, to - 1);
    return whole.trim() === ''
      ? [{ offset: from + 1, length: to - from - 2, content: '' }]
      : [{ offset: slot.at, length: end - slot.at, content: '' }];
  }
  const gap = text.slice(before.comma + 1, slot.at);
  if (gap.trim() !== '') return [...loose, { offset: slot.at, length: end - slot.at, content: '' }];
  // With a comma of its own at the end, the one before stays in its place.
  return slot.comma >= 0
    ? [{ offset: before.comma + 1, length: end - before.comma - 1, content: '' }]
    : [{ offset: before.comma, length: end - before.comma, content: '' }];
}

/** A part of a text as it stands on lines of another indentation. */
export function reindented(part: string, from: string, to: string): string {
  if (from === to) return part;
  return part
    .split('\n')
    .map((line, i) => (i > 0 && line.startsWith(from) ? to + line.slice(from.length) : line))
    .join('\n');
}
