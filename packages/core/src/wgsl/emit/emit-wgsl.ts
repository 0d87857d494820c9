import type { Declaration, Local } from '../parse/ast.js';
import type { Reference } from '../check/check-context.js';
import type { Shader } from '../compile.js';
import { NOT_NAMES, scan } from '../parse/scan.js';
import type { Source } from '../parse/source.js';
import { BUILTINS } from '../types/builtins.js';

export interface EmitWgslOptions {
  /** Keep only what this entry point needs. Left out: what any entry point of the module needs. */
  entry?: string;
  /** Short names, no comments, no spaces. Entry points, overrides and struct members keep their names. */
  minify?: boolean;
  /** For `minify`: short names of declarations by file and name, which are kept; new ones are added. */
  names?: Map<string, string>;
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
  const names = options.minify
    ? shortNames(shader, kept, options.names ?? new Map<string, string>())
    : clashFreeNames(kept);
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
  return withUsed(
    shader,
    entries.length > 0
      ? entries
      : checked.module.declarations.filter((d) => d.span.source.file === shader.file),
  );
}

/** Declarations with all that they name, and what that names. */
function withUsed(
  { checked }: Shader,
  roots: readonly Declaration[],
  isKnown: (file: string) => boolean = () => false,
): Set<Declaration> {
  const uses = new Map<Declaration, Set<Declaration>>();
  for (const { owner, target } of checked.references) {
    if (!owner || 'index' in target) continue;
    const set = uses.get(owner);
    if (set) set.add(target);
    else uses.set(owner, new Set([target]));
  }
  const kept = new Set<Declaration>(roots);
  for (const decl of kept) {
    const called = decl.kind === 'fn' ? (decl.calls ?? []) : [];
    for (const used of [...(uses.get(decl) ?? []), ...called])
      if (!isKnown(used.span.source.file)) kept.add(used);
  }
  return kept;
}

/**
 * Writes one module of a linked shader with everything that it names in others, so that it imports nothing. Resources stay as their author wrote them.
 *
 * @param file the module
 * @param isKnown whether the place it goes to has what is in a file already: that is left out
 */
export function emitModule(shader: Shader, file: string, isKnown: (file: string) => boolean): string {
  const { checked, sources } = shader;
  const own = checked.module.declarations.filter((decl) => decl.span.source.file === file);
  const kept = withUsed(shader, own, isKnown);
  const names = clashFreeNames(kept);
  const parts: string[] = [];
  // Its own last, as it reads best after what it calls.
  const order = [...sources].sort((a, b) => Number(a.file === file) - Number(b.file === file));
  for (const source of order)
    for (const decl of checked.module.declarations) {
      if (decl.span.source !== source || !kept.has(decl)) continue;
      const edits = editsOf(decl, checked.references, names).filter(({ from, to }) => from !== to);
      parts.push(apply(source, decl.span.from, endOfLine(source, decl), edits));
    }
  return `${parts.join('\n\n')}\n`;
}

/** With the comment behind it: it says what textures hold. */
function endOfLine({ text }: Source, { span }: Declaration): number {
  const [comment = ''] = /^[ \t]*\/\/[^\n\r]*/.exec(text.slice(span.to)) ?? [];
  return span.to + comment.length;
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

/**
 * Short names: those of declarations begin with a capital and differ within the module; those of what functions hold begin
 * with a small letter and depend on the function alone, so that its text is the same in every module.
 *
 * @param known names by file and declaration that are kept, and that new ones are added to
 */
function shortNames(shader: Shader, kept: Set<Declaration>, known: Map<string, string>): Names {
  const names: Names = new Map();
  const isFixed = (d: Declaration): boolean =>
    (d.kind === 'fn' && d.stage !== undefined) || (d.kind === 'global' && d.form === 'override');
  const avoided = new Set([...NOT_NAMES.keys(), ...BUILTINS.keys(), ...known.values()]);
  for (const decl of kept) if (isFixed(decl)) avoided.add(decl.name);
  const namer = (letters: string): (() => string) => {
    let count = 0;
    return () => {
      for (;;) {
        const name = shortName(count++, letters);
        if (!avoided.has(name)) return name;
      }
    };
  };
  const next = namer('ABCDEFGHIJKLMNOPQRSTUVWXYZ');
  for (const decl of kept) {
    if (isFixed(decl)) continue;
    const key = `${decl.span.source.file} ${decl.name}`;
    let name = known.get(key);
    if (name === undefined) known.set(key, (name = next()));
    names.set(decl, name);
  }
  const locals = new Map<Declaration, () => string>();
  for (const { target, owner } of shader.checked.references) {
    if (!('index' in target) || !owner || !kept.has(owner) || names.has(target)) continue;
    let nextLocal = locals.get(owner);
    if (!nextLocal) locals.set(owner, (nextLocal = namer('abcdefghijklmnopqrstuvwxyz')));
    names.set(target, nextLocal());
  }
  return names;
}

/** Of one letter, then of that letter and others: a, b ... z, aa, ab ... */
function shortName(n: number, letters: string): string {
  if (n < letters.length) return letters[n]!; // in range, here and below
  const rest = 'abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ';
  const k = n - letters.length;
  return shortName(Math.floor(k / rest.length), letters) + rest[k % rest.length]!;
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
