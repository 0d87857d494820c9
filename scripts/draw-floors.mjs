// Draws the folders of the lens and of core as floors, out of the imports: into ARCHITECTURE.md, between its two marks.
// `npm run floors` writes it, with `--check` it tells whether it is as it should be.
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join, relative, resolve } from 'node:path';

const PAGE = 'ARCHITECTURE.md';
const [OPEN, CLOSE] = ['<!-- floors: npm run floors -->', '<!-- /floors -->'];
const IMPORT = /(?:from|import\()\s*'(\.[^']+)'/g;

/** What each folder below a root uses of the others. */
function uses(root) {
  const found = new Map();
  for (const file of readdirSync(root, { recursive: true })) {
    if (!file.endsWith('.ts') || file.endsWith('.test.ts') || !file.includes('/')) continue;
    const from = file.split('/')[0];
    const own = found.get(from) ?? new Set();
    found.set(from, own);
    for (const [, to] of readFileSync(join(root, file), 'utf8').matchAll(IMPORT)) {
      const target = relative(root, resolve(dirname(join(root, file)), to));
      const folder = target.includes('/') ? target.split('/')[0] : undefined;
      if (folder && folder !== from && !folder.startsWith('.')) own.add(folder);
    }
  }
  return found;
}

/** Folders by how many floors are below them: those that use nothing stand on the ground. */
function floorsOf(found) {
  const level = new Map();
  const levelOf = (folder, way = []) => {
    if (way.includes(folder)) throw new Error(`a circle of folders: ${[...way, folder].join(' -> ')}`);
    if (!level.has(folder)) {
      const below = [...(found.get(folder) ?? [])].map((other) => levelOf(other, [...way, folder]));
      level.set(folder, below.length > 0 ? Math.max(...below) + 1 : 0);
    }
    return level.get(folder);
  };
  for (const folder of found.keys()) levelOf(folder);
  const floors = [];
  for (const [folder, at] of level) (floors[at] ??= []).push(folder);
  return floors;
}

function drawn(name, root) {
  const floors = floorsOf(uses(root));
  const lines = floors.map((folders, i) => `${String(i).padStart(2)}  ${folders.sort().join('  ')}`);
  return `${name}\n${lines.reverse().join('\n')}`;
}

const text = `${OPEN}
\`\`\`
${drawn('packages/lens/src', 'packages/lens/src')}

${drawn('packages/core/src', 'packages/core/src')}
\`\`\`
${CLOSE}`;
const page = readFileSync(PAGE, 'utf8');
const [from, to] = [page.indexOf(OPEN), page.indexOf(CLOSE) + CLOSE.length];
const next = page.slice(0, from) + text + page.slice(to);
if (process.argv.includes('--check')) {
  if (next === page) process.exit(0);
  console.error(`${PAGE}: the floors are not those of the imports. npm run floors writes them.`);
  process.exit(1);
}
writeFileSync(PAGE, next);
