import type { Declaration, Module } from './ast.js';
import { emptyModule, parseModule } from './parse.js';
import { nearest } from '../../errors/near-names.js';
import { isBreak, type Source, type Span, WgslFault } from './source.js';

export interface LinkOptions {
  /** Texts of the modules that may be imported, by file name. */
  sources?: Record<string, string>;
  /** Named features that `#if` asks for. */
  features?: readonly string[];
  /**
   * A library that needs no import lines: modules among `sources` whose declarations are known to every
   * module outside of it. A module's own names and its imports come first.
   */
  prelude?: readonly string[];
}

/** Several modules as one: their declarations, and what each text can name. */
export interface Linked {
  module: Module;
  scopes: Map<Source, Map<string, Declaration>>;
  /** The module that was asked for comes first. */
  sources: Source[];
  /** What is wrong with the texts and with what they import. */
  faults: WgslFault[];
}

interface ImportLine {
  names: { name: string; span: Span }[];
  from: string;
  fromSpan: Span;
}

/**
 * Reads a module with all it imports.
 *
 * On top of WGSL stand two kinds of lines. `import { rim, Facing } from './rim.wgsl';` makes
 * functions, structures, constants and aliases of another module known. `#if fog`, `#else` and
 * `#endif`, each on a line of its own, keep parts for named features (`#if !fog` for their absence).
 *
 * @throws WgslFault
 */
export function linkModules(root: Source, options: LinkOptions): Linked {
  const faults: WgslFault[] = [];
  const modules = new Map<string, { source: Source; module: Module; imports: ImportLine[] }>();
  const load = (source: Source): void => {
    const { text, imports } = prepare(source, options.features ?? []);
    // Places count in the prepared text, which is as long as the author's: lines are only blanked.
    const prepared: Source = { file: source.file, text };
    const module = parseModule(prepared, faults);
    Object.assign(prepared, { text: source.text, code: text });
    modules.set(source.file, { source: prepared, module, imports });
    for (const line of imports) {
      // A name as it stands, else a path from this module.
      const isName = options.sources?.[line.from] !== undefined;
      const path = isName ? line.from : resolvePath(source.file, line.from);
      line.from = path;
      if (modules.has(path)) continue;
      const found = options.sources?.[path];
      if (found === undefined) {
        const near = nearest(path, Object.keys(options.sources ?? {}));
        const hint = near ? `Did you mean "${near}"?` : '';
        faults.push(new WgslFault('import', `there is no module "${path}"`, line.fromSpan, hint));
        for (const { name } of line.names) module.broken.add(name);
        continue;
      }
      load({ file: path, text: found });
    }
  };
  load(root);
  const prelude = options.prelude ?? [];
  for (const path of prelude) {
    const text = options.sources?.[path];
    if (text !== undefined && !modules.has(path)) load({ file: path, text });
  }
  const whole = emptyModule();
  const own = new Map<string, Map<string, Declaration>>();
  for (const [file, { module }] of modules) {
    whole.enables.push(...module.enables);
    whole.requires.push(...module.requires);
    whole.diagnostics.push(...module.diagnostics);
    whole.declarations.push(...module.declarations);
    whole.asserts.push(...module.asserts);
    for (const name of module.broken) whole.broken.add(name);
    const names = new Map<string, Declaration>();
    for (const decl of module.declarations) {
      if (names.has(decl.name))
        faults.push(new WgslFault('redeclared', `"${decl.name}" is declared twice`, decl.nameSpan));
      else names.set(decl.name, decl);
    }
    own.set(file, names);
  }
  const scopes = new Map<Source, Map<string, Declaration>>();
  for (const [file, { source, imports }] of modules) {
    const names = new Map(own.get(file));
    for (const line of imports) {
      const from = own.get(line.from);
      if (!from) continue; // told above
      for (const { name, span } of line.names) {
        const decl = from.get(name);
        if (!decl && whole.broken.has(name)) continue;
        if (!decl) {
          const near = nearest(name, from.keys());
          const hint = near ? `Did you mean "${near}"?` : '';
          faults.push(new WgslFault('import', `"${line.from}" has no "${name}"`, span, hint));
          whole.broken.add(name);
        } else if (names.has(name)) {
          faults.push(new WgslFault('redeclared', `"${name}" is imported, but there is one already`, span));
        } else names.set(name, decl);
      }
    }
    if (!prelude.includes(file)) {
      for (const path of prelude)
        for (const [name, decl] of own.get(path) ?? []) if (!names.has(name)) names.set(name, decl);
    }
    scopes.set(source, names);
  }
  return { module: whole, scopes, sources: [...modules.values()].map(({ source }) => source), faults };
}

/** A path as `from` names it: relative to its folder where it starts with a point. Steps up past the top are kept. */
export function resolvePath(from: string, to: string): string {
  if (!to.startsWith('.')) return to;
  const parts = from.split('/').slice(0, -1);
  for (const part of to.split('/')) {
    if (part === '..' && parts.length > 0 && parts.at(-1) !== '..') parts.pop();
    else if (part !== '.') parts.push(part);
  }
  return parts.join('/');
}

const IMPORT = /^\s*import\s*\{([^}]*)\}\s*from\s*(['"])([^'"\n]*)\2\s*;?\s*(?:\/\/.*)?$/;

/** Blanks import lines and the parts that `#if` leaves out, without moving anything. */
export function prepare(
  source: Source,
  features: readonly string[],
): { text: string; imports: ImportLine[] } {
  const { text } = source;
  if (!/^[ \t]*(?:import\b|#)/m.test(text)) return { text, imports: [] };
  const imports: ImportLine[] = [];
  const open: { keeps: boolean; span: Span }[] = [];
  let out = '';
  for (let at = 0; at < text.length;) {
    let end = at;
    while (end < text.length && !isBreak(text.charCodeAt(end))) end++;
    const line = text.slice(at, end);
    const span: Span = { source, from: at, to: end };
    const condition = /^\s*#(if|else|endif)\b\s*(!?)\s*([A-Za-z_]\w*)?\s*(?:\/\/.*)?$/.exec(line);
    const match = IMPORT.exec(line);
    let isKept = open.every(({ keeps }) => keeps);
    if (condition) {
      const [, word, not, name] = condition;
      if (word === 'if') {
        if (!name) throw new WgslFault('condition', '#if needs the name of a feature', span);
        open.push({ keeps: features.includes(name) !== (not === '!'), span });
      } else {
        const top = open[open.length - 1];
        if (!top) throw new WgslFault('condition', `#${word} without an #if`, span);
        if (word === 'else') top.keeps = !top.keeps;
        else open.pop();
      }
      isKept = false;
    } else if (match && isKept) {
      imports.push(importLine(source, at, line, match));
      isKept = false;
    }
    out += isKept ? line : ' '.repeat(line.length);
    if (end < text.length) out += text[end];
    at = end + 1;
  }
  const unclosed = open[0];
  if (unclosed)
    throw new WgslFault('condition', 'this #if is never closed', unclosed.span, 'Close it with #endif.');
  return { text: out, imports };
}

function importLine(source: Source, at: number, line: string, match: RegExpExecArray): ImportLine {
  const [, list = '', , from = ''] = match;
  const listAt = at + line.indexOf('{') + 1;
  const names: ImportLine['names'] = [];
  for (const part of list.matchAll(/[^,\s]+/g)) {
    names.push({
      name: part[0],
      span: { source, from: listAt + part.index, to: listAt + part.index + part[0].length },
    });
  }
  const fromAt = at + line.lastIndexOf(from);
  return { names, from, fromSpan: { source, from: fromAt, to: fromAt + from.length } };
}
