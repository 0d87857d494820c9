import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

/** A folder of a test file's own, taken away when its tests are done. */
export function temporaryFolder(name: string): string {
  const folder = mkdtempSync(join(tmpdir(), `umber-${name}-`));
  afterAll(() => rmSync(folder, { recursive: true, force: true }));
  return folder;
}
