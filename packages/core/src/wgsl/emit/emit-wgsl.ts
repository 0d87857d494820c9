import type { Declaration, Local } from '../parse/ast.js';
import type { Reference } from '../check/check-context.js';
import { reachable } from '../check/check-entry-points.js';
import type { Shader } from '../compile.js';
import { NOT_NAMES, scan } from '../parse/scan.js';
import type { Source } from '../parse/source.js';

export interface EmitWgslOptions {
  /** Keep only what this entry point needs. Left out: what any entry point of the module needs. */
  entry?: string;
  /** Short names, no comments, no spaces. Entry points, overrides and struct members keep their names. */
  minify?: boolean;
}

interface Edit {
  from: number;
  to: number;
  text: string;
}

/**
 * Writes the linked module as WGSL: unused declarations dropped, every resource bound, names that
 * clash between modules made different, all else as the authors wrote it.
 */
export function emitWgsl(shader: Shader, options: EmitWgslOptions = {}): string {
  const { checked, sources } = shader;
  const kept = keptDeclarations(shader, options.entry);
  const names = options.minify ? shortNames(shader, kept) : clashFreeNames(kept);
  const parts: string[] = [];
  for (const name of new Set(checked.module.enables.map((e) => e.name))) parts.push(`enable ${name};`);
  for (const name of new Set(checked.module.requires.map((e) => e.name))) parts.push(`requires ${name};`);
  for (const { severity, rule } of checked.module.diagnostics)
    parts.push(`diagnostic(${severity}, ${rule});`);
  for (const source of sources) {
    for (const decl of checked.module.declarations) {
      if (decl.span.source !== source || !kept.has(decl)) continue;
      parts.push(apply(source, decl.span.from, decl.span.to, editsOf(decl, checked.references, names)));
    }
  }
  const text = parts.join(options.minify ? '\n' : '\n\n');
  return options.minify ? squeeze(text) : `${text}\n`;
}

function keptDeclarations(shader: Shader, entry: string | undefined): Set<Declaration> {
  const { checked } = shader;
  const entries = checked.entryPoints.filter((fn) => entry === undefined || fn.name === entry);
  // A module without entry points is a library: all of its own stays.
  const roots: Declaration[] =
    entries.length > 0
      ? entries
      : checked.module.declarations.filter((d) => d.span.source.file === shader.file);
  const uses = new Map<Declaration, Set<Declaration>>();
  for (const { owner, target } of checked.references) {
    if (!owner || 'index' in target) continue;
    const set = uses.get(owner);
    if (set) set.add(target);
    else uses.set(owner, new Set([target]));
  }
  const kept = new Set<Declaration>(roots);
  for (const decl of kept) {
    for (const used of uses.get(decl) ?? []) kept.add(used);
    if (decl.kind === 'fn') for (const fn of reachable(decl)) kept.add(fn);
  }
  return kept;
}

type Names = Map<Declaration | Local, string>;

/** Declarations of one name in several modules get numbers; the first keeps its name. */
function clashFreeNames(kept: Set<Declaration>): Names {
  const names: Names = new Map();
  const taken = new Set([...kept].map((d) => d.name));
  const seen = new Set<string>();
  for (const decl of kept) {
    let name = decl.name;
    for (let i = 1; seen.has(name); i++) {
      const candidate = `${decl.name}_${i}`;
      if (!taken.has(candidate)) name = candidate;
    }
    seen.add(name);
    taken.add(name);
    if (name !== decl.name) names.set(decl, name);
  }
  return names;
}

function shortNames(shader: Shader, kept: Set<Declaration>): Names {
  const names: Names = new Map();
  const fixed = (d: Declaration): boolean =>
    (d.kind === 'fn' && d.stage !== undefined) || (d.kind === 'global' && d.form === 'override');
  const texts = shader.sources.map((s) => s.text).join('\n');
  // Words of the language and of built-in functions must stay free: any word of the texts is avoided.
  const avoided = new Set(texts.match(/[A-Za-z_]\w*/g) ?? []);
  let count = 0;
  const next = (): string => {
    for (;;) {
      let n = count++;
      let name = '';
      do {
        name = 'abcdefghijklmnopqrstuvwxyz'[n % 26]! + name;
        n = Math.floor(n / 26) - 1;
      } while (n >= 0);
      if (!avoided.has(name) && !NOT_NAMES.has(name)) return name;
    }
  };
  for (const decl of kept) if (!fixed(decl)) names.set(decl, next());
  for (const { target, owner } of shader.checked.references) {
    if ('index' in target && owner && kept.has(owner) && !names.has(target)) names.set(target, next());
  }
  return names;
}

function editsOf(decl: Declaration, references: Reference[], names: Names): Edit[] {
  const edits: Edit[] = [];
  const own = names.get(decl);
  if (own) edits.push({ from: decl.nameSpan.from, to: decl.nameSpan.to, text: own });
  for (const { owner, from, to, target } of references) {
    const name = names.get(target);
    if (owner === decl && name) edits.push({ from, to, text: name });
  }
  const isUnbound =
    decl.kind === 'global' && decl.group !== undefined && !decl.attributes.some((a) => a.name === 'group');
  if (isUnbound)
    edits.push({
      from: decl.span.from,
      to: decl.span.from,
      text: `@group(${decl.group}) @binding(${decl.binding}) `,
    });
  return edits;
}

function apply(source: Source, from: number, to: number, edits: Edit[]): string {
  const seen = new Set<number>();
  const sorted = edits
    .filter((e) => (e.from === e.to ? true : !seen.has(e.from) && seen.add(e.from)))
    .sort((a, b) => a.from - b.from || a.to - b.to);
  const text = source.code ?? source.text;
  let out = '';
  let at = from;
  for (const edit of sorted) {
    out += text.slice(at, edit.from) + edit.text;
    at = edit.to;
  }
  return out + text.slice(at, to);
}

/** Tokens with as little between them as keeps them apart. */
function squeeze(text: string): string {
  const tokens = scan({ file: '', text });
  let out = '';
  let before = '';
  let lastTo = -1;
  for (const token of tokens) {
    const word = text.slice(token.from, token.to);
    const isWord =
      (/^\w/.test(word) && /\w$/.test(before)) ||
      (/^\d/.test(before) && /^\./.test(word)) ||
      (/\.$/.test(before) && /^\d/.test(word));
    // Signs that would run into one another stay apart, unless they did so before.
    const runsTogether = token.from !== lastTo && /^[-+&|<>=*/!]/.test(word) && /[-+&|<>=*/!]$/.test(before);
    out += (isWord || runsTogether ? ' ' : '') + word;
    before = word;
    lastTo = token.to;
  }
  return out;
}
