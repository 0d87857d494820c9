import { readFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { LensError } from '@umber-lens/core/engine';

/** A shader's text with those of the modules it imports, by path. */
export interface OpenedShader {
  text: string;
  sources: Record<string, string>;
}

/** Reads a WGSL file and, following import lines, the files it needs. Missing imports are left to the compiler to tell. */
export async function readShader(file: string): Promise<OpenedShader> {
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
    for (const [, , from] of next.text.matchAll(/^\s*import\s*\{[^}]*\}\s*from\s*(['"])([^'"\n]*)\1/gm)) {
      // The same way of joining paths as the linker's, which speaks of files with forward slashes.
      const path = from!.startsWith('.') ? join(dirname(next.path), from!) : from!;
      if (path in sources || path === file) continue;
      const found = await readFile(path, 'utf8').catch(() => undefined);
      if (found === undefined) continue;
      sources[path] = found;
      open.push({ path, text: found });
    }
  }
  return { text, sources };
}
