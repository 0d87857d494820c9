import { mkdir, realpath, rename, rm, stat, writeFile } from 'node:fs/promises';
import { dirname, extname } from 'node:path';
import { LensError } from '@umber-lens/core/engine';

export interface WriteOptions {
  /** Files that were read: none is written over by mistake. */
  inputs?: readonly string[];
  /** Writes over an input all the same. */
  force?: boolean | undefined;
}

/** What the system says, as a person would. */
const REASONS: Readonly<Record<string, [summary: string, hint: string]>> = {
  EISDIR: ['it is a folder', 'Name a file in it.'],
  EACCES: ['it may not be written', 'See whose it is, and whether its folder may be written to.'],
  EPERM: ['it may not be written', 'See whose it is, and whether its folder may be written to.'],
  EROFS: ['what it lies on can only be read', 'Write it somewhere else.'],
  ENOSPC: ['there is no room left', 'Make room, or write it somewhere else.'],
  ENOTDIR: ['a part of its path is a file', 'See whether the path is right.'],
  ENAMETOOLONG: ['its name is too long', 'Give it a shorter one.'],
};

/** A failure of the system as one of ours. @param what was to be done: `written` */
export function systemError(path: string, what: string, error: unknown): LensError {
  const { code = 'unknown reason' } = error as NodeJS.ErrnoException;
  const [summary, hint] = REASONS[code] ?? [code, ''];
  return new LensError('file/unwritable', `${path} cannot be ${what}: ${summary}`, {
    where: { file: path },
    hint,
    cause: error,
  });
}

/**
 * Writes a file whole or not at all: what was there stays until the new one is complete. Missing folders are made, and said.
 *
 * @throws LensError `file/same` for an input, `file/unwritable` with the reason
 */
export async function writeOutput(
  path: string,
  bytes: Uint8Array,
  { force = false, inputs = [] }: WriteOptions = {},
): Promise<void> {
  await checkOutput(path, inputs, force);
  const folder = dirname(path);
  try {
    if (await makeFolder(folder)) process.stderr.write(`made the folder ${folder}\n`);
    const there = await stat(path).catch(() => undefined);
    if (there && !there.isFile()) {
      // A device, or a folder: its own error says which.
      await writeFile(path, bytes);
      return;
    }
    const beside = `${path}.${process.pid}.part`;
    try {
      await writeFile(beside, bytes);
      await rename(beside, path);
    } finally {
      await rm(beside, { force: true });
    }
  } catch (error) {
    throw systemError(path, 'written', error);
  }
}

/** Makes a folder with those that it lies in, one by one. @returns whether it was not there */
async function makeFolder(folder: string): Promise<boolean> {
  const missing: string[] = [];
  let at = folder;
  while (!(await stat(at).catch(() => undefined)) && dirname(at) !== at) {
    missing.push(at);
    at = dirname(at);
  }
  for (const one of missing.reverse()) await mkdir(one);
  return missing.length > 0;
}

/** Whether a file may be written: to be asked before the work is done. @throws LensError `file/same`, `file/unwritable` */
export async function checkOutput(path: string, inputs: readonly string[], force: boolean): Promise<void> {
  const target = await realpath(path).catch(() => undefined);
  if (target === undefined) return;
  if ((await stat(target)).isDirectory()) throw systemError(path, 'written', { code: 'EISDIR' });
  for (const input of inputs) {
    if (force || (await realpath(input).catch(() => input)) !== target) continue;
    throw new LensError('file/same', `${path} is what is read`, {
      where: { file: path },
      hint: 'Name another file, or say --force to write over it.',
    });
  }
}

/** @throws LensError `file/ending` for a name whose ending promises another format than is written */
export function checkEnding(path: string, endings: readonly string[], hint: string): void {
  const ending = extname(path).toLowerCase();
  if (endings.includes(ending)) return;
  throw new LensError(
    'file/ending',
    `${path} is ${ending === '' ? 'without an ending' : `no ${endings.join(' or ')}`}, and that is what is written`,
    { where: { file: path }, hint },
  );
}
