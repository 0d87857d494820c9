import { createScanner, type JSONScanner, type SyntaxKind } from 'jsonc-parser';

// The kinds of jsonc-parser, which has them as a const enum.
export const OPEN_BRACE = 1 as SyntaxKind;
export const CLOSE_BRACE = 2 as SyntaxKind;
export const OPEN_BRACKET = 3 as SyntaxKind;
export const CLOSE_BRACKET = 4 as SyntaxKind;
export const COMMA = 5 as SyntaxKind;
export const COLON = 6 as SyntaxKind;
export const STRING = 10 as SyntaxKind;
const LINE_COMMENT = 12 as SyntaxKind;
const BLOCK_COMMENT = 13 as SyntaxKind;
export const END = 17 as SyntaxKind;

/** A member of an object, or an entry of a list. */
export interface Slot {
  /** Its name; empty in lists. */
  key: string;
  /** Where it begins, with its name. */
  at: number;
  /** Where its value stands. */
  from: number;
  to: number;
  /** Where the comma behind it stands; -1: there is none. */
  comma: number;
}

/** An object or a list, as it stands in a text. */
export interface Container {
  isList: boolean;
  /** Its first bracket, and behind its last. */
  from: number;
  to: number;
  slots: Slot[];
}

/** Where a value ends that begins at an offset and is known: it need not be read. */
export type Known = (from: number) => number | undefined;

/**
 * The object or list that begins at an offset. The text is right: it was read before.
 *
 * @returns undefined where something else stands there
 */
export function containerAt(text: string, offset: number, known?: Known): Container | undefined {
  const scanner = createScanner(text, true);
  scanner.setPosition(offset);
  const open = scanner.scan();
  if (open !== OPEN_BRACE && open !== OPEN_BRACKET) return undefined;
  return scanSlots(scanner, open === OPEN_BRACKET, known);
}

function scanSlots(scanner: JSONScanner, isList: boolean, known?: Known): Container {
  const found: Container = { isList, from: scanner.getTokenOffset(), to: 0, slots: [] };
  const close = isList ? CLOSE_BRACKET : CLOSE_BRACE;
  let token = scanner.scan();
  while (token !== close && token !== END) {
    const slot: Slot = { key: '', at: scanner.getTokenOffset(), from: 0, to: 0, comma: -1 };
    if (!isList && token === STRING) {
      slot.key = scanner.getTokenValue();
      scanner.scan(); // the colon
      token = scanner.scan();
    }
    slot.from = scanner.getTokenOffset();
    const end = known?.(slot.from);
    if (end === undefined) skip(scanner, token);
    else scanner.setPosition(end);
    slot.to = end ?? scanner.getPosition();
    found.slots.push(slot);
    token = scanner.scan();
    if (token === COMMA) {
      slot.comma = scanner.getTokenOffset();
      token = scanner.scan();
    }
  }
  found.to = scanner.getPosition();
  return found;
}

/** Reads over a value whose first token was read. */
export function skip(scanner: JSONScanner, token: SyntaxKind): void {
  if (token !== OPEN_BRACE && token !== OPEN_BRACKET) return;
  for (let depth = 1; depth > 0;) {
    const next = scanner.scan();
    if (next === OPEN_BRACE || next === OPEN_BRACKET) depth++;
    else if (next === CLOSE_BRACE || next === CLOSE_BRACKET) depth--;
    else if (next === END) return;
  }
}

/** Comments of a part of a text, as they stand there. */
export function commentsIn(text: string, from: number, to: number): string[] {
  const found: string[] = [];
  const scanner = createScanner(text, false);
  scanner.setPosition(from);
  for (let token = scanner.scan(); token !== END && scanner.getTokenOffset() < to; token = scanner.scan())
    if (token === LINE_COMMENT || token === BLOCK_COMMENT) found.push(scanner.getTokenValue().trim());
  return found;
}

/** Where the first value of a text begins. */
export function rootAt(text: string): number {
  const scanner = createScanner(text, true);
  // A mark of the byte order is no token.
  if (text.startsWith('\uFEFF')) scanner.setPosition(1);
  scanner.scan();
  return scanner.getTokenOffset();
}
