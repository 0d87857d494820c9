import { createScanner, type JSONScanner, type SyntaxKind } from 'jsonc-parser';

// The kinds of jsonc-parser, which has them as a const enum.
const OPEN_BRACE = 1 as SyntaxKind;
const CLOSE_BRACE = 2 as SyntaxKind;
const OPEN_BRACKET = 3 as SyntaxKind;
const CLOSE_BRACKET = 4 as SyntaxKind;
const COMMA = 5 as SyntaxKind;
const COLON = 6 as SyntaxKind;
const STRING = 10 as SyntaxKind;
const LINE_COMMENT = 12 as SyntaxKind;
const BLOCK_COMMENT = 13 as SyntaxKind;
const END = 17 as SyntaxKind;

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
function skip(scanner: JSONScanner, token: SyntaxKind): void {
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

/** Nodes of a sheet's text, numbered as they stand in it. */
export interface NodeIndex {
  /** Where each begins and ends. */
  from: Int32Array;
  to: Int32Array;
  /** Where the list of its children begins and ends; -1: it has none. */
  childrenFrom: Int32Array;
  childrenTo: Int32Array;
  /** Number of the one above; -1: it is at the top. */
  parent: Int32Array;
  names: (string | undefined)[];
  /** By number of the one above, and -1: numbers by name. The first of a name counts. */
  children: Map<number, Map<string, number>>;
  /** Where the list of the top ones begins and ends; -1: there is none. */
  listFrom: number;
  listTo: number;
}

/** Finds all nodes of a sheet's text. It is right: it was read before. */
export function indexNodes(text: string): NodeIndex {
  const scanner = createScanner(text, true);
  const from: number[] = [];
  const to: number[] = [];
  const childrenFrom: number[] = [];
  const childrenTo: number[] = [];
  const parents: number[] = [];
  const names: (string | undefined)[] = [];
  const children = new Map<number, Map<string, number>>();
  let [listFrom, listTo] = [-1, -1];

  /** Reads the members of an object whose bracket was read. @param visit is told a member's name, and the first token of its value */
  const members = (visit: (key: string, token: SyntaxKind) => void): void => {
    for (let token = scanner.scan(); token !== CLOSE_BRACE && token !== END; token = scanner.scan()) {
      if (token !== STRING) continue;
      const key = scanner.getTokenValue();
      if (scanner.scan() !== COLON) continue;
      visit(key, scanner.scan());
    }
  };
  const list = (parent: number): void => {
    for (let token = scanner.scan(); token !== CLOSE_BRACKET && token !== END; token = scanner.scan())
      if (token === OPEN_BRACE) node(parent);
      else if (token !== COMMA) skip(scanner, token);
  };
  const node = (parent: number): void => {
    const number = from.length;
    from.push(scanner.getTokenOffset());
    to.push(0);
    childrenFrom.push(-1);
    childrenTo.push(-1);
    parents.push(parent);
    names.push(undefined);
    members((key, token) => {
      if (key === 'name' && token === STRING) names[number] = scanner.getTokenValue();
      else if (key === 'children' && token === OPEN_BRACKET) {
        childrenFrom[number] = scanner.getTokenOffset();
        list(number);
        childrenTo[number] = scanner.getPosition();
      } else skip(scanner, token);
    });
    to[number] = scanner.getPosition();
    const name = names[number];
    let siblings = children.get(parent);
    if (!siblings) children.set(parent, (siblings = new Map<string, number>()));
    if (name !== undefined && !siblings.has(name)) siblings.set(name, number);
  };
  scanner.setPosition(rootAt(text));
  if (scanner.scan() === OPEN_BRACE)
    members((key, token) => {
      if (key !== 'nodes' || token !== OPEN_BRACKET) skip(scanner, token);
      else {
        listFrom = scanner.getTokenOffset();
        list(-1);
        listTo = scanner.getPosition();
      }
    });
  return {
    from: Int32Array.from(from),
    to: Int32Array.from(to),
    childrenFrom: Int32Array.from(childrenFrom),
    childrenTo: Int32Array.from(childrenTo),
    parent: Int32Array.from(parents),
    names,
    children,
    listFrom,
    listTo,
  };
}

/** Follows an edit that changed no node's place in the tree, and no name. */
export function shiftNodes(
  index: NodeIndex,
  { content, length, offset }: { offset: number; length: number; content: string },
): void {
  const shift = content.length - length;
  if (shift === 0) return;
  for (const list of [index.from, index.to, index.childrenFrom, index.childrenTo])
    for (let i = 0; i < list.length; i++) if (list[i]! > offset) list[i]! += shift; // i < length
  if (index.listFrom > offset) index.listFrom += shift;
  if (index.listTo > offset) index.listTo += shift;
}
