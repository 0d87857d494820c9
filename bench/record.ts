import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { arch, cpus, platform, totalmem } from 'node:os';
import { fileURLToPath } from 'node:url';
import type { Row } from './measure.js';

/** Figures of one run, by what was measured. */
export interface Recorded {
  commit: string;
  date: string;
  /** What machines are compared by: figures of others say nothing about these. */
  machine: string;
  figures: Record<string, number>;
}

const FILE = fileURLToPath(new URL('records.json', import.meta.url));
/** A ratio that grew by so much became slower: less is the machine's own noise. */
const NOISE = 1.15;
/** Runs of one machine that are kept. */
const KEPT = 20;

/**
 * Writes the ratios of a run into `bench/records.json`, with the commit and the machine.
 *
 * @returns what got slower than the last record of this machine that has it, in words
 */
export function record(rows: readonly Row[], file = FILE, machine = thisMachine()): string[] {
  const records = existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as Recorded[]) : [];
  const figures: Record<string, number> = {};
  for (const { what, ratio } of rows) if (ratio !== undefined) figures[what] = Number(ratio.toPrecision(4));
  const mine = records.filter((one) => one.machine === machine);
  const slower = Object.entries(figures).flatMap(([what, ratio]) => {
    const before = mine.findLast(({ figures: known }) => known[what] !== undefined);
    const last = before?.figures[what];
    return before && last !== undefined && ratio > last * NOISE
      ? [`${what}: ${last.toFixed(2)} at ${before.commit}, ${ratio.toFixed(2)} now`]
      : [];
  });
  mine.push({ commit: commit(), date: new Date().toISOString().slice(0, 10), machine, figures });
  const others = records.filter((one) => one.machine !== machine);
  writeFileSync(file, `${JSON.stringify([...others, ...mine.slice(-KEPT)], undefined, 2)}\n`);
  return slower;
}

/** A machine by what decides its speed, without its name. */
function thisMachine(): string {
  const [cpu] = cpus();
  const what = `${platform()} ${arch()}, ${cpus().length} x ${cpu?.model.trim() ?? 'unknown'}, ${Math.round(totalmem() / 2 ** 30)} GB`;
  return `${what} (${createHash('sha256').update(what).digest('hex').slice(0, 6)})`;
}

function commit(): string {
  const git = (...args: string[]): string => execFileSync('git', args, { encoding: 'utf8' }).trim();
  try {
    return `${git('rev-parse', '--short', 'HEAD')}${git('status', '--porcelain') ? ' and changes' : ''}`;
  } catch {
    return 'no repository';
  }
}
