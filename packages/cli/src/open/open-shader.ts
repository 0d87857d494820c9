import { readFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { LensError } from '@umber-lens/core/engine';
import { type CompiledGraph, compileGraphText, graphUses, isGraphName } from '@umber-lens/core/graphs';

/** A shader's text with those of the modules it imports, by path. */
export interface OpenedShader {
  text: string;
  sources: Record<string, string>;
  /** Of a graph: its own text, and what became of it. */
  graph?: { text: string; compiled: CompiledGraph };
}

/**
 * Reads a shader: a WGSL file, or a graph, which is compiled to WGSL.
 *
 * @throws LensError for files that cannot be read, and for what is wrong with a graph
 */
export async function readShader(file: string): Promise<OpenedShader> {
  const { sources, text } = await readShaderText(file);
  if (!isGraphName(file)) return { text, sources };
  const compiled = compileGraphText(text, { file, sources });
  return { text: compiled.wgsl, sources, graph: { text, compiled } };
}

/** Reads a WGSL file and, following import lines, the files it needs. Missing imports are left to the compiler to tell. Of a graph: its own text. */
export async function readShaderText(
  file: string,
): Promise<{ text: string; sources: Record<string, string> }> {
  let text: string;
  try {
    text = await readFile(file, 'utf8');
  } catch (cause) {
    const { code } = cause as NodeJS.ErrnoException;
    const missing = code === 'ENOENT';
    throw new LensError(
      missing ? 'file/missing' : 'file/unreadable',
      missing ? `there is no file ${file}` : `${file} cannot be read (${code ?? ''})`,
      {
        where: { file },
        cause,
        hint: missing ? 'See whether the name and the folder are right.' : '',
      },
    );
  }
  const sources: Record<string, string> = {};
  const open = [{ path: file, text }];
  for (let next = open.pop(); next; next = open.pop()) {
    const named = isGraphName(next.path)
      ? graphUses(next.text)
      : [...next.text.matchAll(/^\s*import\s*\{[^}]*\}\s*from\s*(['"])([^'"\n]*)\1/gm)].map(
          ([, , from]) => from!,
        ); // it matched
    for (const from of named) {
      // The same way of joining paths as the linker's, which speaks of files with forward slashes.
      const path = from.startsWith('.') ? join(dirname(next.path), from) : from;
      if (path in sources || path === file) continue;
      const found = await readFile(path, 'utf8').catch(() => undefined);
      if (found === undefined) continue;
      sources[path] = found;
      open.push({ path, text: found });
    }
  }
  return { text, sources };
}
