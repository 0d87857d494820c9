import { constants } from 'node:fs';
import { type FileHandle, lstat, open, realpath } from 'node:fs/promises';
import { dirname, join, sep } from 'node:path';
import { Refusal } from './refusal.js';

/** Names that are devices on Windows, whatever comes behind them. */
const DEVICES = /^(con|prn|aux|nul|com\d|lpt\d)(\..*)?$/i;

/** The same words for what is not there and for what is not to be had. */
const noFile = (): Refusal => new Refusal(404, 'save/file', 'there is no such file that this page may have');

/**
 * The parts of a path that a page names a file by: from the project's folder down, with slashes.
 *
 * @throws Refusal `save/path` for what does not look like one
 */
export function partsOf(file: unknown): string[] {
  const wrong = (why: string): Refusal => new Refusal(400, 'save/path', `the path ${why}`);
  if (typeof file !== 'string' || file === '' || file.length > 1024)
    throw wrong('is no text of 1 to 1,024 characters');
  // eslint-disable-next-line no-control-regex -- those are what is looked for
  if (/[\u0000-\u001f\\:*?"<>|]/.test(file)) throw wrong('has a sign that paths of projects do not have');
  if (/%/.test(file)) throw wrong('is encoded: give it as it is');
  if (file.startsWith('/')) throw wrong('is absolute: give it from the project down');
  const parts = file.split('/');
  for (const part of parts) {
    if (part === '' || part === '.' || part === '..') throw wrong('goes up, or has an empty part');
    if (part.startsWith('.') || /[. ]$/.test(part))
      throw wrong('has a part with a dot at its beginning, or a dot or space at its end');
    if (part.normalize('NFC') !== part) throw wrong('is not in its composed form (NFC)');
    if (DEVICES.test(part)) throw wrong('names a device');
    if (part === 'node_modules') throw wrong('leads into packages of others');
  }
  return parts;
}

/**
 * Where a file of the project lies. No part of its path is a link, and it is written as on the disk.
 *
 * @param root the project's folder, resolved
 * @param isNew whether it is to be made: only its folder is there
 * @throws Refusal `save/path`, `save/file`, `save/exists`
 */
export async function placeOf(root: string, file: unknown, isNew = false): Promise<string> {
  const path = join(root, ...partsOf(file));
  const known = isNew ? dirname(path) : path;
  // Links, and capitals where they do not matter, lead to another name.
  const real = await realpath(known).catch(() => undefined);
  if (real === undefined || real !== known || !(real === root || real.startsWith(root + sep))) throw noFile();
  const stat = await lstat(path).catch(() => undefined);
  if (isNew) {
    if (stat) throw new Refusal(409, 'save/exists', 'a file of that name is there already');
    const folder = await lstat(known);
    if (!folder.isDirectory()) throw noFile();
    return path;
  }
  // What has a second name may have it outside.
  if (!stat?.isFile() || stat.nlink > 1) throw noFile();
  return path;
}

/** Bytes of a file, as it was when it was looked at: not of one that took its place. @throws Refusal `save/file` */
export async function readPlain(path: string): Promise<Uint8Array> {
  let handle: FileHandle | undefined;
  try {
    handle = await open(path, constants.O_RDONLY | (constants.O_NOFOLLOW ?? 0) | (constants.O_NONBLOCK ?? 0));
    const stat = await handle.stat();
    if (!stat.isFile() || stat.nlink > 1) throw noFile();
    return new Uint8Array(await handle.readFile());
  } catch (error) {
    if (error instanceof Refusal) throw error;
    throw noFile();
  } finally {
    await handle?.close();
  }
}
