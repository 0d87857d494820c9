import { randomBytes } from 'node:crypto';
import { chmod, link, open, readdir, rename, stat, unlink } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';

const ENDING = '.umber-part';

/**
 * Writes a file so that at any moment there is the old one or the new one, whole: into one beside it, which takes its place when it is
 * on the disk. Its mode stays.
 *
 * @param isNew whether none may be there: one that came meanwhile stays, and `EEXIST` is thrown
 */
export async function writeWhole(path: string, bytes: Uint8Array, isNew = false): Promise<void> {
  const folder = dirname(path);
  const part = join(folder, `.${basename(path)}.${randomBytes(6).toString('hex')}${ENDING}`);
  const mode = isNew ? undefined : (await stat(path)).mode & 0o7777;
  try {
    const handle = await open(part, 'wx', mode ?? 0o666);
    try {
      await handle.writeFile(bytes);
      await handle.sync();
    } finally {
      await handle.close();
    }
    // What the process's mask took away.
    if (mode !== undefined) await chmod(part, mode);
    if (isNew) {
      await link(part, path);
      await unlink(part);
    } else await rename(part, path);
  } catch (error) {
    await unlink(part).catch(() => undefined);
    throw error;
  }
  await syncFolder(folder);
}

/** So that its new name outlives a loss of power. Some systems have no way to. */
async function syncFolder(folder: string): Promise<void> {
  const handle = await open(folder, 'r').catch(() => undefined);
  await handle?.sync().catch(() => undefined);
  await handle?.close();
}

/** Takes away what a process that was killed has left in a folder. */
export async function sweepParts(folder: string): Promise<void> {
  for (const name of await readdir(folder).catch(() => [])) {
    if (!name.startsWith('.') || !name.endsWith(ENDING)) continue;
    const path = join(folder, name);
    const { mtimeMs } = await stat(path).catch(() => ({ mtimeMs: Infinity }));
    // Others may be writing.
    if (Date.now() - mtimeMs > 60_000) await unlink(path).catch(() => undefined);
  }
}
