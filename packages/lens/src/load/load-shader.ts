import type { MaterialShader } from '@umber-lens/core/engine';
import { isGraphName, readShaderSources } from '@umber-lens/core/graphs';
import { compileEffect, compileGraphShader, compileMaterialShader } from '../shaders/index.js';

/**
 * Compiles WGSL or a graph in the page, with the files that it imports.
 *
 * @param address of the file, without what may follow its name
 * @param read text of a file
 * @throws LensError those of the compilers
 */
export async function loadShader(
  address: string,
  kind: 'material' | 'effect',
  read: (address: string) => Promise<string>,
): Promise<MaterialShader> {
  const file = address.split(/[?#]/)[0]!; // split gives one part at least
  const text = await read(address);
  // What is not there is told by the compiler, with its place.
  const sources = await readShaderSources(file, text, (path) => read(path).catch(() => undefined));
  const options = { file, sources };
  if (isGraphName(file)) return compileGraphShader(text, options) as MaterialShader;
  return (
    kind === 'effect' ? compileEffect(text, options) : compileMaterialShader(text, options)
  ) as MaterialShader;
}
