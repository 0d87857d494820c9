import { execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const committed = 'examples/public/models';

function filesBelow(folder: string, prefix = ''): string[] {
  return readdirSync(folder).flatMap((name) =>
    statSync(join(folder, name)).isDirectory()
      ? filesBelow(join(folder, name), `${prefix}${name}/`)
      : [`${prefix}${name}`],
  );
}

test('the scripts make the committed models again, byte for byte', () => {
  const folder = mkdtempSync(join(tmpdir(), 'umber-assets-'));
  try {
    execFileSync(process.execPath, ['node_modules/tsx/dist/cli.mjs', 'examples/assets/make.ts', folder], {
      env: { ...process.env, NODE_OPTIONS: '' },
    });
    // Sheets are written by hand.
    const made = filesBelow(committed).filter((name) => !name.endsWith('.sheet.json'));
    expect(filesBelow(folder).sort()).toEqual(made.sort());
    for (const name of filesBelow(folder)) {
      expect([name, readFileSync(join(folder, name)).equals(readFileSync(join(committed, name)))]).toEqual([
        name,
        true,
      ]);
    }
  } finally {
    rmSync(folder, { recursive: true });
  }
});
