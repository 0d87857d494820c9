import {
  applyEdits,
  type Container,
  EditedText,
  formAt,
  indentAt,
  insertSlot,
  LensError,
  removeSlot,
  roundedAt,
  sameJson as same,
  type Slot,
  type SourcePlace,
  type TextEdit,
} from '@umber-lens/core/engine';
import ts from 'typescript';
import { callAt, type NotedCall } from './calls.js';

type Path = readonly (string | number)[];

/** A member of the literal that a call was given, or of one within it. */
export interface CodeChange {
  /** `translation`, or names on the way down: `['light', 'intensity']`, `['mesh', 'material', 'roughnessFactor']`. */
  member: string | Path;
  /** Left out, or its default: the member is taken away. */
  value?: unknown;
}

/** Why a change was not made. */
export interface CodeRefusal {
  change: CodeChange;
  /** `code/computed`, `code/several`, `code/loop`, `code/no-literal`, `code/no-call`. */
  code: string;
  /** In words, with what stands there. */
  reason: string;
  where: SourcePlace;
}

/** What changes came to. */
export interface CodeEdit {
  /** In rising order of offsets in the text. */
  edits: TextEdit[];
  /** Changes that were not made: an adjustment in a sheet can say them (`adjust`). */
  refused: CodeRefusal[];
}

export interface CodeEditOptions {
  /** For messages. */
  file?: string;
  /** Of the scene, metres: how finely places are written. Default 100. */
  size?: number;
  /** Whether numbers are written as they are. Default false: by what can be seen. */
  exact?: boolean;
  /** How many things the call has made: a literal that made several is not edited for one of them. Default 1. */
  made?: number;
}

/**
 * The smallest edits of a source in TypeScript or JavaScript that change members of an object literal given to `createNode`,
 * `setLight` or `new Scene`. Only that literal changes, and a material's that is a constant of the same file. What is computed (a
 * loop, an expression, a variable) is not touched: `refused` says why, with its place.
 *
 * @param call where it stands: line and column of `createNode`, both from 1
 */
export function codeEdit(
  text: string,
  call: NotedCall,
  changes: readonly CodeChange[],
  options: CodeEditOptions = {},
): CodeEdit {
  const { file = 'source.ts' } = options;
  const refused: CodeRefusal[] = [];
  const whole = new EditedText(text);
  let now = text;
  for (const change of changes) {
    try {
      const edits = new CodeEditor(now, file, options).editsFor(call, change);
      whole.edit(edits);
      now = applyEdits(now, edits);
    } catch (error) {
      if (!(error instanceof LensError)) throw error;
      const { code, summary, where } = error;
      refused.push({ change, code, reason: summary, where });
    }
  }
  return { edits: whole.edits, refused };
}

class CodeEditor {
  private readonly source: ts.SourceFile;
  private readonly quote: '"' | "'";

  constructor(
    private readonly text: string,
    private readonly file: string,
    private readonly options: CodeEditOptions,
  ) {
    this.source = ts.createSourceFile(file, text, ts.ScriptTarget.Latest, true, kindOf(file));
    this.quote = (text.match(/'/g)?.length ?? 0) >= (text.match(/"/g)?.length ?? 0) ? "'" : '"';
  }

  editsFor(noted: NotedCall, { member, value }: CodeChange): TextEdit[] {
    const path = typeof member === 'string' ? [member] : member;
    const call = callAt(this.source, noted);
    if (!call)
      throw this.refusal('code/no-call', `there is no ${noted.call} at ${noted.line}:${noted.column}`, noted);
    const { made = 1 } = this.options;
    if (made > 1)
      throw this.refusal(
        'code/several',
        `this call made ${made} things: its literal is not of one of them alone`,
        noted,
      );
    const loop = loopAround(call);
    if (loop) throw this.refusal('code/loop', `the call stands in ${loop}: what it makes is computed`, noted);
    const [given] = call.arguments ?? [];
    const literal = given && this.literalOf(given);
    if (!literal) {
      if (given) throw this.computed(given, `what ${noted.call} is given`);
      throw this.refusal('code/no-literal', `${noted.call} is given nothing that could be written to`, noted);
    }
    const whole: Path =
      noted.call === 'createNode' ? ['nodes', 0] : noted.call === 'setLight' ? ['nodes', 0, 'light'] : [];
    return this.set(literal, path, [...whole, ...path], value);
  }

  private refusal(code: string, reason: string, place: { line: number; column: number }): LensError {
    return new LensError(code, reason, {
      where: { file: this.file, line: place.line, column: place.column },
    });
  }

  /** What stands there is no literal. */
  private computed(node: ts.Node, what: string): LensError {
    const { character, line } = this.source.getLineAndCharacterOfPosition(node.getStart(this.source));
    const shown = node.getText(this.source).replace(/\s+/g, ' ');
    const short = shown.length > 60 ? `${shown.slice(0, 57)}...` : shown;
    return this.refusal('code/computed', `${what} is computed there: ${short}`, {
      line: line + 1,
      column: character + 1,
    });
  }

  /** The object literal that an expression is: itself, or the constant of this file that it names. */
  private literalOf(expression: ts.Expression): ts.ObjectLiteralExpression | undefined {
    const bare = bareOf(expression);
    if (ts.isObjectLiteralExpression(bare)) return bare;
    if (!ts.isIdentifier(bare)) return undefined;
    const constant = constantNamed(this.source, bare);
    return constant && ts.isObjectLiteralExpression(constant) ? constant : undefined;
  }

  private set(literal: ts.ObjectLiteralExpression, path: Path, whole: Path, value: unknown): TextEdit[] {
    const [key, ...rest] = path as [string | number, ...(string | number)[]];
    const name = String(key);
    const container = this.containerOf(literal);
    const property = literal.properties.find((one) => one.name && nameOf(one.name) === name);
    const index = property ? literal.properties.indexOf(property) : -1;
    if (property && !ts.isPropertyAssignment(property)) throw this.computed(property, `"${name}"`);
    const hasSpread = literal.properties.some(ts.isSpreadAssignment);
    if (rest.length > 0) {
      if (!property) {
        if (hasSpread && value === undefined) return [];
        if (value === undefined) return [];
        const made = rest.reduceRight<unknown>((below, one) => ({ [one]: below }), this.seen(value, whole));
        return this.insert(container, name, made);
      }
      const inner = this.literalOf(property.initializer);
      if (inner) return this.set(inner, rest, whole, value);
      const list = bareOf(property.initializer);
      if (typeof rest[0] === 'number' && ts.isArrayLiteralExpression(list)) {
        const entry = list.elements[rest[0]];
        const literalOfEntry = entry && this.literalOf(entry);
        if (entry && rest.length === 1) return this.replace(entry, value, whole, `${name}[${rest[0]}]`);
        if (literalOfEntry) return this.set(literalOfEntry, rest.slice(1), whole, value);
      }
      throw this.computed(property.initializer, `"${name}"`);
    }
    const isUsual = value === undefined || (!hasSpread && this.isDefault(whole, value));
    if (isUsual) {
      if (!property) {
        // Spread objects may say it.
        if (hasSpread && value !== undefined) return this.insert(container, name, value);
        return [];
      }
      if (!isStatic(property.initializer)) throw this.computed(property.initializer, `"${name}"`);
      return removeSlot(this.text, container, index, this.commentsIn(property), this.style());
    }
    if (!property) return this.insert(container, name, this.seen(value, whole));
    return this.replace(property.initializer, value, whole, `"${name}"`);
  }

  private isDefault(whole: Path, value: unknown): boolean {
    const member = formAt(whole)?.member;
    return member?.default !== undefined && same(value, member.default);
  }

  private seen(value: unknown, whole: Path): unknown {
    const { exact = false, size } = this.options;
    return exact ? value : roundedAt(value, whole, size);
  }

  /** Makes an expression another value, and changes no more of it than differs. */
  private replace(expression: ts.Expression, value: unknown, whole: Path, what: string): TextEdit[] {
    const bare = bareOf(expression);
    const after = this.seen(value, whole);
    if (ts.isArrayLiteralExpression(bare) && Array.isArray(after) && bare.elements.length === after.length)
      return bare.elements.flatMap((one, i) => {
        const before = this.valueOf(one);
        if (before !== undefined && same(this.seen(before, [...whole, i]), after[i])) return [];
        return this.replace(one, after[i], [...whole, i], `entry ${i + 1} of ${what}`);
      });
    const before = this.valueOf(bare);
    if (before !== undefined && (same(before, after) || same(this.seen(before, whole), after))) return [];
    if (!isStatic(bare)) throw this.computed(expression, what);
    const from = bare.getStart(this.source);
    return [{ offset: from, length: bare.end - from, content: this.print(after, indentAt(this.text, from)) }];
  }

  /** What an expression is, also where it names a constant of this file. */
  private valueOf(expression: ts.Expression): unknown {
    const bare = bareOf(expression);
    const constant = ts.isIdentifier(bare) ? constantNamed(this.source, bare) : undefined;
    return staticValue(constant ?? bare);
  }

  private insert(container: Container, name: string, value: unknown): TextEdit[] {
    return insertSlot(
      this.text,
      container,
      container.slots.length,
      this.style(),
      (indent) => `${this.keyOf(name)}: ${this.print(value, indent)}`,
    );
  }

  private style(): { indent: string; lineEnd: '\n' | '\r\n' } {
    return {
      indent: /\n([ \t]+)\S/.exec(this.text)?.[1] ?? '  ',
      lineEnd: this.text.includes('\r\n') ? '\r\n' : '\n',
    };
  }

  /** A literal as a container of slots, as texts of JSON are. */
  private containerOf(literal: ts.ObjectLiteralExpression): Container {
    const { properties } = literal;
    const slots = properties.map((property, i): Slot => {
      const at = property.getStart(this.source);
      const value = ts.isPropertyAssignment(property) ? property.initializer : property;
      const next = properties[i + 1];
      const isFollowed = next !== undefined || properties.hasTrailingComma;
      const to = next ? next.getFullStart() : properties.end;
      return {
        key: property.name ? nameOf(property.name) : '',
        at,
        from: value.getStart(this.source),
        to: property.end,
        // The comma ends the full text of the one before.
        comma: isFollowed ? to - 1 : -1,
      };
    });
    return { isList: false, from: literal.getStart(this.source), to: literal.end, slots };
  }

  private commentsIn(node: ts.Node): string[] {
    const found: string[] = [];
    const scanner = ts.createScanner(ts.ScriptTarget.Latest, false, ts.LanguageVariant.Standard, this.text);
    const [from, to] = [node.getStart(this.source), node.end];
    scanner.setTextPos(from);
    for (
      let token = scanner.scan();
      scanner.getTokenStart() < to && token !== ts.SyntaxKind.EndOfFileToken;
      token = scanner.scan()
    )
      if (token === ts.SyntaxKind.SingleLineCommentTrivia || token === ts.SyntaxKind.MultiLineCommentTrivia)
        found.push(scanner.getTokenText());
    return found;
  }

  private keyOf(name: string): string {
    return /^[A-Za-z_$][\w$]*$/.test(name) ? name : this.print(name, '');
  }

  private print(value: unknown, indent: string): string {
    if (typeof value === 'string') {
      const json = JSON.stringify(value);
      return this.quote === '"'
        ? json
        : `'${json.slice(1, -1).replaceAll('\\"', '"').replaceAll("'", "\\'")}'`;
    }
    if (Array.isArray(value)) return `[${value.map((one) => this.print(one, indent)).join(', ')}]`;
    if (typeof value !== 'object' || value === null) return JSON.stringify(value) ?? 'undefined';
    const members = Object.entries(value).filter(([, one]) => one !== undefined);
    const short = `{ ${members.map(([key, one]) => `${this.keyOf(key)}: ${this.print(one, indent)}`).join(', ')} }`;
    if (members.length === 0) return '{}';
    if (short.length <= 90) return short;
    const { indent: step, lineEnd } = this.style();
    const deeper = indent + step;
    const lines = members.map(
      ([key, one]) => `${deeper}${this.keyOf(key)}: ${this.print(one, deeper)},${lineEnd}`,
    );
    return `{${lineEnd}${lines.join('')}${indent}}`;
  }
}

/** Without brackets and what is said of types alone. */
function bareOf(expression: ts.Expression): ts.Expression {
  let bare = expression;
  while (
    ts.isParenthesizedExpression(bare) ||
    ts.isAsExpression(bare) ||
    ts.isSatisfiesExpression(bare) ||
    ts.isNonNullExpression(bare)
  )
    bare = bare.expression;
  return bare;
}

/** What an expression is that is written out; undefined for what is computed. */
export function staticValue(expression: ts.Expression): unknown {
  const bare = bareOf(expression);
  if (ts.isNumericLiteral(bare)) return Number(bare.text);
  if (ts.isStringLiteral(bare) || ts.isNoSubstitutionTemplateLiteral(bare)) return bare.text;
  if (bare.kind === ts.SyntaxKind.TrueKeyword) return true;
  if (bare.kind === ts.SyntaxKind.FalseKeyword) return false;
  if (ts.isPrefixUnaryExpression(bare) && bare.operator === ts.SyntaxKind.MinusToken) {
    const value = staticValue(bare.operand);
    return typeof value === 'number' ? -value : undefined;
  }
  if (ts.isArrayLiteralExpression(bare)) {
    const values = bare.elements.map(staticValue);
    return values.includes(undefined) ? undefined : values;
  }
  if (ts.isObjectLiteralExpression(bare)) {
    const members: Record<string, unknown> = {};
    for (const property of bare.properties) {
      const value = ts.isPropertyAssignment(property) ? staticValue(property.initializer) : undefined;
      if (value === undefined) return undefined;
      members[nameOf(property.name!)] = value; // assignments have one
    }
    return members;
  }
  return undefined;
}

const isStatic = (expression: ts.Expression): boolean => staticValue(expression) !== undefined;

const nameOf = (name: ts.PropertyName): string =>
  ts.isIdentifier(name) || ts.isStringLiteral(name) || ts.isNumericLiteral(name) ? name.text : '';

/** The value of the one constant of a name in a file; undefined where there are several, or none. */
function constantNamed(source: ts.SourceFile, { text }: ts.Identifier): ts.Expression | undefined {
  const found: ts.Expression[] = [];
  let others = 0;
  const look = (node: ts.Node): void => {
    const isDeclaration = ts.isVariableDeclaration(node) || ts.isParameter(node) || ts.isBindingElement(node);
    if (isDeclaration && ts.isIdentifier(node.name) && node.name.text === text) {
      const isConstant =
        ts.isVariableDeclaration(node) &&
        ts.isVariableDeclarationList(node.parent) &&
        (node.parent.flags & ts.NodeFlags.Const) !== 0;
      if (isConstant && node.initializer && !loopAround(node)) found.push(bareOf(node.initializer));
      else others++;
    }
    ts.forEachChild(node, look);
  };
  look(source);
  return found.length === 1 && others === 0 ? found[0] : undefined;
}

/** What runs a place several times; undefined where nothing does that can be seen. */
function loopAround(node: ts.Node): string | undefined {
  for (let at = node.parent; at; at = at.parent) {
    if (ts.isForStatement(at) || ts.isForOfStatement(at) || ts.isForInStatement(at)) return 'a loop';
    if (ts.isWhileStatement(at) || ts.isDoStatement(at)) return 'a loop';
    if (!ts.isArrowFunction(at) && !ts.isFunctionExpression(at)) {
      if (ts.isFunctionLike(at)) return undefined;
      continue;
    }
    // What is called for each of many.
    const { parent } = at;
    const callee =
      ts.isCallExpression(parent) && parent.arguments.includes(at) ? parent.expression : undefined;
    const name =
      callee &&
      (ts.isPropertyAccessExpression(callee) ? callee.name.text : ts.isIdentifier(callee) ? callee.text : '');
    if (name && /^(map|flatMap|forEach|from|reduce|filter|sort|run)$/.test(name))
      return `a function that "${name}" calls`;
  }
  return undefined;
}

const kindOf = (file: string): ts.ScriptKind =>
  file.endsWith('.tsx') || file.endsWith('.jsx')
    ? ts.ScriptKind.TSX
    : /\.[mc]?js$/.test(file)
      ? ts.ScriptKind.JS
      : ts.ScriptKind.TS;
