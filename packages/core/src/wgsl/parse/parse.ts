import {
  type Attribute,
  type Declaration,
  type Expr,
  type FunctionDecl,
  type GlobalVar,
  type Module,
  type Param,
  type StructDecl,
} from './ast.js';
import { type Token } from './scan.js';
import type { Source, WgslFault } from './source.js';
import { TokenCursor } from './token-cursor.js';
import { parseExpression, parseTemplates, parseType } from './parse-expressions.js';
import { parseBlock } from './parse-statements.js';
import { checkControlAttributes, parseAttributes } from './parse-attributes.js';

/**
 * Parses a module of WGSL. After a fault of form it goes on behind what has it, so that all of them are found.
 *
 * @param faults receives them
 * @throws WgslFault for what cannot be gone on after
 */
export function parseModule(source: Source, faults: WgslFault[]): Module {
  const p = new TokenCursor(source);
  const module = emptyModule();
  const attempt = (parse: () => void): void => {
    const { at } = p;
    try {
      parse();
    } catch (error) {
      p.recover(error, at, DECLARATIONS);
      p.depth = 0;
      // What would close a block here was opened by what failed.
      while (p.take('}'));
    }
  };
  attempt(() => parseDirectives(p, module));
  while (p.peek.kind !== 'end') {
    if (p.take(';')) continue;
    attempt(() => {
      const start = p.peek;
      const known = p.faults.length;
      if (p.takeWord('const_assert')) {
        const condition = parseExpression(p);
        p.need(';');
        module.asserts.push({ kind: 'const_assert', condition, span: p.from(start) });
        return;
      }
      const decl = parseDeclaration(p);
      if (decl.kind === 'fn' && p.faults.length > known) decl.isBroken = true;
      module.declarations.push(decl);
    });
  }
  // What no part of the grammar came to take.
  const left = p.faults.length === 0 ? p.tokens.find(({ fault }) => fault)?.fault : undefined;
  if (left) p.faults.push(left);
  for (const name of p.broken) module.broken.add(name);
  faults.push(...p.faults);
  return module;
}

export function emptyModule(): Module {
  return {
    enables: [],
    requires: [],
    diagnostics: [],
    declarations: [],
    asserts: [],
    broken: new Set(),
  };
}

const DECLARATIONS = new Set(['fn', 'struct', 'alias', 'var', 'const', 'override', 'const_assert']);

function parseDirectives(p: TokenCursor, module: Module): void {
  for (;;) {
    const start = p.peek;
    if (start.kind !== 'name') return;
    if (start.text === 'enable' || start.text === 'requires') {
      p.next();
      const list = start.text === 'enable' ? module.enables : module.requires;
      do {
        if (p.peek.text === ';') break;
        const name = p.peek;
        if (name.kind !== 'name') p.expected('the name of a feature');
        p.next();
        list.push({ name: name.text, span: p.span(name) });
      } while (p.take(','));
      if (p.tokens[p.at - 1] === start) p.expected('the name of a feature');
      p.need(';');
    } else if (start.text === 'diagnostic') {
      p.next();
      module.diagnostics.push({ ...parseDiagnosticControl(p), span: p.from(start) });
      p.need(';');
    } else return;
  }
}

export function parseDiagnosticControl(p: TokenCursor): { severity: string; rule: string } {
  p.need('(');
  const severity = p.peek;
  if (!['error', 'warning', 'info', 'off'].includes(severity.text)) p.expected('error, warning, info or off');
  p.next();
  p.need(',');
  let rule = p.anyName();
  if (p.take('.')) rule += `.${p.anyName()}`;
  p.take(',');
  p.need(')');
  return { severity: severity.text, rule };
}

function parseDeclaration(p: TokenCursor): Declaration {
  const start = p.peek;
  const attributes = parseAttributes(p);
  const word = p.peek;
  if (word.kind === 'name') {
    switch (word.text) {
      case 'fn':
        return parseFunction(p, start, attributes);
      case 'struct':
        noAttributes(p, attributes);
        return parseStruct(p, start);
      case 'alias': {
        noAttributes(p, attributes);
        p.next();
        const [name, nameSpan] = p.newName();
        p.need('=');
        const typeExpr = parseType(p);
        p.need(';');
        return { kind: 'alias', name, nameSpan, typeExpr, span: p.from(start) };
      }
      case 'var':
      case 'const':
      case 'override':
        if (word.text === 'const') noAttributes(p, attributes);
        return parseGlobal(p, start, attributes, word.text);
      default:
    }
  }
  if (['enable', 'requires', 'diagnostic'].includes(word.text)) {
    throw p.fault('directive-place', `"${word.text}" must stand before all declarations`, p.span(word));
  }
  return p.expected('a declaration (fn, struct, alias, var, const, override or const_assert)');
}

export function noAttributes(p: TokenCursor, attributes: Attribute[]): void {
  const first = attributes[0];
  if (first) throw p.fault('attribute-place', `@${first.name} cannot stand here`, first.span);
}

function parseFunction(p: TokenCursor, start: Token, attributes: Attribute[]): FunctionDecl {
  p.next();
  const [name, nameSpan] = p.newName();
  p.need('(');
  const params: Param[] = [];
  while (!p.take(')')) {
    const paramStart = p.peek;
    const own = parseAttributes(p);
    const [paramName, paramNameSpan] = p.newName();
    p.need(':');
    params.push({
      name: paramName,
      nameSpan: paramNameSpan,
      attributes: own,
      typeExpr: parseType(p),
      span: p.from(paramStart),
    });
    if (!p.take(',')) {
      p.need(')');
      break;
    }
  }
  let returnAttributes: Attribute[] = [];
  let returnExpr: Expr | undefined;
  if (p.take('->')) {
    returnAttributes = parseAttributes(p);
    returnExpr = parseType(p);
  }
  const bodyAttributes = parseAttributes(p);
  checkControlAttributes(bodyAttributes);
  const bodyStart = p.peek;
  const body = parseBlock(p);
  return {
    kind: 'fn',
    name,
    nameSpan,
    attributes,
    params,
    returnAttributes,
    returnExpr,
    body,
    span: p.from(start),
    bodySpan: p.from(bodyStart),
  };
}

function parseStruct(p: TokenCursor, start: Token): StructDecl {
  p.next();
  const [name, nameSpan] = p.newName();
  p.need('{');
  const members: StructDecl['members'] = [];
  while (!p.take('}')) {
    const memberStart = p.peek;
    const attributes = parseAttributes(p);
    const [member] = p.newName();
    p.need(':');
    members.push({
      name: member,
      attributes,
      typeExpr: parseType(p),
      span: p.from(memberStart),
    });
    if (!p.take(',')) {
      p.need('}');
      break;
    }
  }
  return { kind: 'struct', name, nameSpan, members, span: p.from(start) };
}

function parseGlobal(
  p: TokenCursor,
  start: Token,
  attributes: Attribute[],
  form: GlobalVar['form'],
): GlobalVar {
  p.next();
  const templates = form === 'var' ? parseTemplates(p) : undefined;
  const [name, nameSpan] = p.newName();
  const typeExpr = p.take(':') ? parseType(p) : undefined;
  const init = p.take('=') ? parseExpression(p) : undefined;
  if (form === 'const' && !init) p.expected('"=" and a value, which a const needs');
  p.need(';');
  return {
    kind: 'global',
    form,
    name,
    nameSpan,
    attributes,
    templates,
    typeExpr,
    init,
    span: p.from(start),
  };
}
