import type { Expr } from './parse/ast.js';
import { prepare } from './parse/link.js';
import { parseModule } from './parse/parse.js';
import {
  type Finding,
  findingOf,
  isBreak,
  type Source,
  type Span,
  WgslFault,
  wgslError,
} from './parse/source.js';

/** Where a name stands: 1-based. */
export interface OutlinePlace {
  line: number;
  column: number;
}

export interface OutlineName extends OutlinePlace {
  name: string;
  /** The type as it is written; empty where there is none. */
  type: string;
}

/** The declarations of a module by their text alone: nothing is resolved, so nothing need be known. */
export interface Outline {
  functions: (OutlineName & { params: OutlineName[] })[];
  structs: (OutlineName & { members: OutlineName[] })[];
  /** Module-scope variables, with what the comment behind them says. */
  variables: (OutlineName & { comment: string })[];
  /** Where the text could not be read; the rest of it is listed all the same. */
  findings: Finding[];
}

/**
 * Lists what a module declares. Types are given as written; imports are not followed.
 *
 * @throws LensError for `#if` lines that do not fit together
 */
export function outlineWgsl(text: string, file = 'shader.wgsl', features: readonly string[] = []): Outline {
  try {
    const source: Source = { file, text };
    const prepared = prepare(source, features);
    const faults: WgslFault[] = [];
    const module = parseModule({ file, text: prepared.text }, faults);
    const findings = faults.map((fault) => findingOf(fault));
    const outline: Outline = { functions: [], structs: [], variables: [], findings };
    for (const decl of module.declarations) {
      const own = named(decl.name, decl.nameSpan);
      if (decl.kind === 'fn') {
        const params = decl.params.map((p) => named(p.name, p.nameSpan, p.typeExpr));
        outline.functions.push({ ...own, type: written(decl.returnExpr), params });
      } else if (decl.kind === 'struct') {
        const members = decl.members.map((m) => named(m.name, m.span, m.typeExpr));
        outline.structs.push({ ...own, members });
      } else if (decl.kind === 'global' && decl.form === 'var') {
        outline.variables.push({
          ...own,
          type: written(decl.typeExpr),
          comment: commentBehind(text, decl.span.to),
        });
      }
    }
    return outline;
  } catch (error) {
    throw error instanceof WgslFault ? wgslError([findingOf(error)]) : error;
  }
}

function named(name: string, span: Span, type?: Expr): OutlineName {
  const { line, column } = findingOf(new WgslFault('', '', span));
  return { name, type: written(type), line, column };
}

const written = (expr: Expr | undefined): string =>
  expr ? expr.span.source.text.slice(expr.span.from, expr.span.to).replace(/\s+/g, '') : '';

function commentBehind(text: string, at: number): string {
  let end = at;
  while (end < text.length && !isBreak(text.charCodeAt(end))) end++;
  return /\/\/\s*(.*)$/.exec(text.slice(at, end))?.[1]?.trim() ?? '';
}
