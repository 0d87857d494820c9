import { findNodeAtLocation, type Node, parseTree, type ParseError, printParseErrorCode } from 'jsonc-parser';
import { LensError, type SourcePlace } from '../errors/lens-error.js';

/** Texts, comments, and commas that may be too many. */
const COMMENTS = /"(?:[^"\\\n]|\\.)*"|\/\/[^\n]*|\/\*[\s\S]*?\*\//g;
const COMMAS = /"(?:[^"\\\n]|\\.)*"|,(?=\s*[}\]])/g;
const blank = (text: string): string => text.replace(/[^\n]/g, ' ');

/** JSON with comments and trailing commas as strict JSON of the same length: everything stays where it stands. */
export const strictJson = (text: string): string =>
  text
    .replace(COMMENTS, (part) => (part.startsWith('"') ? part : blank(part)))
    .replace(COMMAS, (part) => (part === ',' ? ' ' : part));

/**
 * What JSON with comments and trailing commas holds.
 *
 * @throws LensError `code` with line and column
 */
export function parseJsonc(text: string, file: string, code: string): unknown {
  // A mark of the byte order is no part of it.
  const whole = text.startsWith('\uFEFF') ? ` ${text.slice(1)}` : text;
  try {
    return JSON.parse(whole);
  } catch {
    try {
      return JSON.parse(strictJson(whole));
    } catch (cause) {
      const errors: ParseError[] = [];
      treeOf(whole, errors);
      const first = errors[0] ?? { error: 0, offset: 0, length: 0 };
      const what = (errors[0] ? printParseErrorCode(first.error) : String(cause))
        .replace(/([a-z])([A-Z])/g, '$1 $2')
        .toLowerCase();
      throw new LensError(code, `${file} is no JSON: ${what}`, {
        cause,
        where: { file, ...placeIn(whole, first.offset) },
        hint: 'Comments and trailing commas are fine; names and texts stand in double quotes.',
      });
    }
  }
}

/** The tree of a text; undefined where it is nested deeper than can be followed. */
export function treeOf(text: string, errors: ParseError[] = []): Node | undefined {
  try {
    return parseTree(text, errors, { allowTrailingComma: true });
  } catch (error) {
    if (error instanceof RangeError) return undefined;
    throw error;
  }
}

/** Line and column of an offset, both from 1. */
export function placeIn(text: string, offset: number): { line: number; column: number } {
  let line = 1;
  let from = 0;
  for (let at = text.indexOf('\n'); at >= 0 && at < offset; at = text.indexOf('\n', at + 1)) {
    line++;
    from = at + 1;
  }
  return { line, column: offset - from + 1 };
}

/** Where things stand in a text: looked for when the first is asked for. */
export class JsonPlaces {
  private tree: Node | undefined;

  constructor(
    private readonly text: string,
    private readonly file: string,
  ) {}

  /**
   * @param isKey the name of the last one in place of what it holds
   * @param offset where it is, if that is known
   */
  of(path: readonly (string | number)[], isKey = false, offset?: number): SourcePlace {
    const pointer = pointerOf(path);
    if (offset !== undefined) return { file: this.file, pointer, ...placeIn(this.text, offset) };
    this.tree ??= treeOf(this.text);
    const found = this.tree && findNodeAtLocation(this.tree, [...path]);
    if (!found) return { file: this.file, pointer };
    const key = isKey && found.parent?.type === 'property' ? found.parent.children?.[0] : undefined;
    return { file: this.file, pointer, ...placeIn(this.text, (key ?? found).offset) };
  }

  /** Names that stand twice in one object: the second ones. */
  twice(): { path: (string | number)[]; offset: number }[] {
    this.tree ??= treeOf(this.text);
    const found: { path: (string | number)[]; offset: number }[] = [];
    const open: { node: Node; path: (string | number)[] }[] = this.tree
      ? [{ node: this.tree, path: [] }]
      : [];
    for (let next = open.pop(); next; next = open.pop()) {
      const { node, path } = next;
      const names = new Set<string>();
      for (const [i, child] of (node.children ?? []).entries()) {
        if (node.type === 'array') open.push({ node: child, path: [...path, i] });
        const [key, value] = node.type === 'object' ? (child.children ?? []) : [];
        if (!key || !value) continue;
        const name = key.value as string;
        if (names.has(name)) found.push({ path: [...path, name], offset: key.offset });
        names.add(name);
        open.push({ node: value, path: [...path, name] });
      }
    }
    return found;
  }
}

/** RFC 6901. */
export const pointerOf = (path: readonly (string | number)[]): string =>
  path.map((part) => `/${String(part).replaceAll('~', '~0').replaceAll('/', '~1')}`).join('');
