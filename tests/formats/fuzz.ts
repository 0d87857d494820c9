/** Thousands of damaged models over all readers: `npm run fuzz:models -- [count] [seed]`. Each ends well, in time. */
import { chance, mutated, readMutated, seedlings } from './mutate.js';

const [count = 10_000, seed = 1] = process.argv.slice(2).map(Number);
const all = await seedlings();
const endings = new Map<string, number>();
let [faults, slowest] = [0, 0];
for (let i = 0; i < count; i++) {
  const next = chance(seed + i);
  const one = all[i % all.length]!; // within the list
  const bytes = mutated(one.bytes, next);
  const start = performance.now();
  const ending = await readMutated(one, bytes);
  slowest = Math.max(slowest, performance.now() - start);
  endings.set(ending.split('\n')[0]!, (endings.get(ending.split('\n')[0]!) ?? 0) + 1); // split gives one
  if (ending.startsWith('FAULT')) {
    faults++;
    console.error(`${one.name}, seed ${seed + i}: ${ending}`);
  }
}
console.log(
  [...endings]
    .sort((a, b) => b[1] - a[1])
    .map(([ending, times]) => `${String(times).padStart(6)}  ${ending}`)
    .join('\n'),
);
console.log(`${count} files, ${faults} faults, slowest ${slowest.toFixed(0)} ms`);
process.exitCode = faults > 0 ? 1 : 0;
