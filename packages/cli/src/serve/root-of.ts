import { readFile } from 'node:fs/promises';
import { dirname, relative, resolve, sep } from 'node:path';
import { isLocalAddress, isSheetName, lookThrough } from '@umber-lens/core/engine';
import { readShaderText } from '../open/open-shader.js';
import { isShaderName } from '../write/recast-shader.js';

/**
 * The folder to serve for a file: its own, and for a sheet or a shader the nearest one with all that it names, as far as that lies in
 * the folder that the command was given in.
 */
export async function rootOf(file: string, within: string): Promise<string> {
  const own = dirname(file);
  const files = new Set<string>();
  const visit = async (path: string): Promise<void> => {
    if (files.has(path)) return;
    files.add(path);
    // What is wrong with a file is told by the page.
    for (const named of await namedIn(path).catch(() => [])) await visit(named);
  };
  await visit(file);
  let root = own;
  while ([...files].some((path) => !isWithin(dirname(path), root)) && dirname(root) !== root)
    root = dirname(root);
  return isWithin(root, within) ? root : own;
}

/** Files that a sheet or a shader names. */
async function namedIn(file: string): Promise<string[]> {
  if (isShaderName(file)) return Object.keys((await readShaderText(file)).sources);
  if (!isSheetName(file)) return [];
  return lookThrough(await readFile(file, 'utf8'), file)
    .files.filter(({ address }) => isLocalAddress(address))
    .map(({ address }) => resolve(dirname(file), address));
}

const isWithin = (folder: string, outer: string): boolean => {
  const way = relative(outer, folder);
  return way !== '..' && !way.startsWith(`..${sep}`);
};
