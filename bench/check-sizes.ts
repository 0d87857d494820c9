/**
 * Holds the sizes of pages against page-sizes.json, so that they grow only where somebody meant it. With `--write` they are
 * written there. With `--table` it tells where the bytes of a lit box go, by folder and by module.
 */
import { readFileSync, writeFileSync } from 'node:fs';
import { pageSizes, sizesByModule } from './sizes.js';

const FILE = new URL('page-sizes.json', import.meta.url);
/** Share by which a page may grow unsaid: compressors differ by a little. */
const SLACK = 0.005;

if (process.argv.includes('--table')) {
  for (const backend of ['webgl2', 'webgpu'] as const) await printTable(backend);
  process.exit(0);
}
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

async function printTable(backend: 'webgl2' | 'webgpu'): Promise<void> {
  const all = await sizesByModule(backend);
  const folders = new Map<string, number>();
  for (const { module, bytes } of all) {
    const folder = module.split('/').slice(0, -1).join('/') || module;
    folders.set(folder, (folders.get(folder) ?? 0) + bytes);
  }
  const line = (name: string, bytes: number): string =>
    `${(bytes / 1000).toFixed(2).padStart(6)} kB  ${name}`;
  const sum = all.reduce((total, { bytes }) => total + bytes, 0);
  console.log(`\na lit box on ${backend}: ${(sum / 1000).toFixed(1)} kB, minified and gzipped\n`);
  for (const [folder, bytes] of [...folders].sort(([, a], [, b]) => b - a)) console.log(line(folder, bytes));
  console.log('');
  for (const { module, bytes } of all) if (bytes > 100) console.log(line(module, bytes));
}
