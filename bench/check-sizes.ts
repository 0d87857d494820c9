/**
 * Holds the sizes of pages against page-sizes.json, so that they grow only where somebody meant it. With `--write` they are
 * written there.
 */
import { readFileSync, writeFileSync } from 'node:fs';
import { pageSizes } from './sizes.js';

const FILE = new URL('page-sizes.json', import.meta.url);
/** Share by which a page may grow unsaid: compressors differ by a little. */
const SLACK = 0.005;

const sizes = await pageSizes();
if (process.argv.includes('--write')) writeFileSync(FILE, `${JSON.stringify(sizes, null, 2)}\n`);
else {
  const kept = JSON.parse(readFileSync(FILE, 'utf8')) as Record<string, number>;
  const grown = Object.entries(sizes).filter(([name, size]) => size > (kept[name] ?? 0) * (1 + SLACK) + 20);
  for (const [name, size] of grown) console.error(`${name} grew from ${kept[name] ?? 0} to ${size} bytes`);
  if (grown.length > 0) {
    console.error('Where that is meant, write the sizes anew: npm run sizes -- --write');
    process.exitCode = 1;
  }
}
