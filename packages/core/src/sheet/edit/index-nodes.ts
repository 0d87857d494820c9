import { createScanner, type SyntaxKind } from 'jsonc-parser';
import {
  CLOSE_BRACE,
  CLOSE_BRACKET,
  COLON,
  COMMA,
  END,
  OPEN_BRACE,
  OPEN_BRACKET,
  rootAt,
  skip,
  STRING,
} from '../../json/json-scan.js';
import { lowerBound } from '../../math/lists.js';
import type { TextEdit } from '../../json/text-edit.js';

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

/** Follows edits, in rising order, that changed no node's place in the tree, and no name. */
export function shiftNodes(index: NodeIndex, edits: readonly TextEdit[]): void {
  if (edits.every(({ content, length }) => content.length === length)) return;
  const begins = edits.map(({ offset }) => offset);
  // By how much a place has moved behind so many edits.
  const shifts = [0];
  for (const { content, length } of edits) shifts.push(shifts[shifts.length - 1]! + content.length - length);
  const [first, last, all] = [begins[0]!, begins.at(-1)!, shifts.at(-1)!]; // one edit at least
  const moved = (place: number): number => {
    // Most places lie before all edits, or behind them.
    if (place <= first) return place;
    if (place > last) return place + all;
    return place + shifts[lowerBound(begins.length, place, (i) => begins[i]!)]!; // one more than begins
  };
  for (const list of [index.from, index.to, index.childrenFrom, index.childrenTo])
    for (let i = 0; i < list.length; i++) if (list[i]! > 0) list[i] = moved(list[i]!); // i < length
  if (index.listFrom > 0) index.listFrom = moved(index.listFrom);
  if (index.listTo > 0) index.listTo = moved(index.listTo);
}
