import { parseJsonc } from '../json/strict-json.js';
import { LIBRARY } from '../shading/library.js';
import { resolvePath } from '../wgsl/parse/link.js';

/** Whether a file is a graph by its name. */
export const isGraphName = (file: string): boolean => file.endsWith('.graph.json');

/**
 * Reads the WGSL files that a shader needs: what a graph uses, what a module imports, and what those import in turn. Names
 * that start with a point are relative to the file that has them.
 *
 * @param file path of the shader, with `/` between folders
 * @param text its text
 * @param read gives the text of a file; undefined: it is not there, which the compiler tells with the line that asks for it
 * @returns texts by path, as `sources` of the compiler
 */
export async function readShaderSources(
  file: string,
  text: string,
  read: (path: string) => Promise<string | undefined>,
): Promise<Record<string, string>> {
  const sources: Record<string, string> = {};
  const open = [{ path: file, text }];
  for (let next = open.pop(); next; next = open.pop())
    for (const named of isGraphName(next.path) ? graphUses(next.text) : imports(next.text)) {
      const path = resolvePath(next.path, named);
      if (named in LIBRARY || path in sources || path === file) continue;
      const found = await read(path);
      if (found === undefined) continue;
      sources[path] = found;
      open.push({ path, text: found });
    }
  return sources;
}

/** Also those that `#if` leaves out: features are known to the compiler. */
const imports = (text: string): string[] =>
  [...text.matchAll(/^\s*import\s*\{[^}]*\}\s*from\s*(['"])([^'"\n]*)\1/gm)].map(([, , from]) => from!); // it matched

/** None of a text that is no graph. */
function graphUses(text: string): string[] {
  try {
    const { uses } = parseJsonc(text, '', 'graph/json') as { uses?: unknown };
    return Array.isArray(uses) ? uses.filter((one): one is string => typeof one === 'string') : [];
  } catch {
    return [];
  }
}
