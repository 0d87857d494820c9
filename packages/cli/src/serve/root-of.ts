import { readFile } from 'node:fs/promises';
import { dirname, relative, resolve, sep } from 'node:path';
import { lookThrough } from '@umber-lens/core/engine';
import { isSheetName } from '@umber-lens/core/sheets';

/**
 * The folder to serve for a file: its own, and for a sheet the nearest one with all that it names, as far as that lies in the folder
 * that the command was given in.
 */
export async function rootOf(file: string, within: string): Promise<string> {
  const own = dirname(file);
  const folders = new Set([own]);
  const seen = new Set<string>();
  const visit = async (sheet: string): Promise<void> => {
    if (seen.has(sheet)) return;
    seen.add(sheet);
    const text = await readFile(sheet, 'utf8').catch(() => '');
    // What is wrong with it is told by the page.
    for (const { address, of } of lookThrough(text, sheet).files) {
      if (/^([a-z][a-z0-9+.-]*:|\/)/i.test(address)) continue;
      const path = resolve(dirname(sheet), address);
      folders.add(dirname(path));
      if (of === 'sheet') await visit(path);
    }
  };
  if (isSheetName(file)) await visit(file);
  let root = own;
  while ([...folders].some((folder) => !isWithin(folder, root)) && dirname(root) !== root)
    root = dirname(root);
  return isWithin(root, within) ? root : own;
}

const isWithin = (folder: string, outer: string): boolean => {
  const way = relative(outer, folder);
  return way !== '..' && !way.startsWith(`..${sep}`);
};
