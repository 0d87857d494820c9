import { readFile } from 'node:fs/promises';
import { LensError } from '@umber-lens/core/engine';
import {
  type CompiledGraph,
  compileGraphText,
  isGraphName,
  readShaderSources,
} from '@umber-lens/core/graphs';

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
  const sources = await readShaderSources(file, text, (path) =>
    readFile(path, 'utf8').catch(() => undefined),
  );
  return { text, sources };
}
