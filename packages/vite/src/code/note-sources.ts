import MagicString, { type SourceMap } from 'magic-string';
import ts from 'typescript';
import { callsIn } from './calls.js';

/** The name that the noting function has in modules: nobody else's. */
const NOTE = '__umberNoteSource';

/**
 * A module in which every call that makes a node or a scene, or sets a light, is noted with its place: `sourcesOf(node)` tells it
 * then. Undefined where there is none.
 *
 * @param file from the project's folder
 */
export function noteSources(code: string, file: string): { code: string; map: SourceMap } | undefined {
  if (!/\b(createNode|setLight)\s*\(|\bnew\s+Scene\b/.test(code)) return undefined;
  const source = ts.createSourceFile(file, code, ts.ScriptTarget.Latest, true);
  const calls = callsIn(source);
  if (calls.length === 0) return undefined;
  const edited = new MagicString(code);
  for (const { node, noted } of calls) {
    const { call, column, line } = noted;
    edited.appendRight(node.getStart(source), `${NOTE}(`);
    edited.prependLeft(node.end, `, ${JSON.stringify(file)}, ${line}, ${column}, ${JSON.stringify(call)})`);
  }
  // Imports are hoisted: at the end it moves no line.
  edited.append(`\nimport { noteSource as ${NOTE} } from 'umber-lens';\n`);
  return {
    code: edited.toString(),
    map: edited.generateMap({ source: file, includeContent: true, hires: 'boundary' }),
  };
}
