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
  /** Of those that are held: the most that they may be. */
  limits?: Record<string, number>;
}

const FILE = fileURLToPath(new URL('records.json', import.meta.url));
const PAGE = fileURLToPath(new URL('../docs/measurements.md', import.meta.url));
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
  const limits: Record<string, number> = {};
  for (const { limit, ratio, what } of rows) {
    if (ratio === undefined) continue;
    figures[what] = Number(ratio.toPrecision(4));
    if (limit !== undefined) limits[what] = limit;
  }
  const mine = records.filter((one) => one.machine === machine);
  const slower = Object.entries(figures).flatMap(([what, ratio]) => {
    const before = mine.findLast(({ figures: known }) => known[what] !== undefined);
    const last = before?.figures[what];
    return before && last !== undefined && ratio > last * NOISE
      ? [`${what}: ${last.toFixed(2)} at ${before.commit}, ${ratio.toFixed(2)} now`]
      : [];
  });
  mine.push({ commit: commit(), date: new Date().toISOString().slice(0, 10), machine, figures, limits });
  const others = records.filter((one) => one.machine !== machine);
  writeFileSync(file, `${JSON.stringify([...others, ...mine.slice(-KEPT)], undefined, 2)}\n`);
  return slower;
}

/** The last known figures of the machine that was measured last, as a table in Markdown. */
export function figuresTable(records: readonly Recorded[]): string {
  const newest = records.reduce<Recorded | undefined>(
    (last, one) => (last && last.date > one.date ? last : one),
    undefined,
  );
  const known = new Map<string, { ratio: number; limit: number | undefined; commit: string }>();
  for (const { commit, figures, limits = {}, machine } of records)
    if (machine === newest?.machine)
      for (const [what, ratio] of Object.entries(figures)) {
        known.delete(what); // the newest stand last
        known.set(what, { ratio, limit: limits[what], commit });
      }
  const lines = [...known].map(([what, { commit, limit, ratio }]) => {
    const held = limit === undefined ? '' : ratio <= limit ? `${limit}` : `**${limit}**`;
    return `| ${what} | ${Number(ratio.toPrecision(3))} | ${held} | ${commit} |`;
  });
  return [
    `On ${newest?.machine ?? 'no machine yet'}. Bold limits are missed.`,
    '',
    '| what | ratio | limit | commit |',
    '| --- | ---: | ---: | --- |',
    ...lines,
  ].join('\n');
}

const [BEGIN, END] = ['<!-- figures -->', '<!-- end of figures -->'];

/** A page with the table of a file's records in it, between its two marks. */
export function withFigures(page: string, file = FILE): string {
  const records = JSON.parse(readFileSync(file, 'utf8')) as Recorded[];
  const [from, to] = [page.indexOf(BEGIN), page.indexOf(END)];
  if (from < 0 || to < from) throw new Error(`the page has no ${BEGIN} with ${END} behind it`);
  return `${page.slice(0, from)}${BEGIN}\n\n${figuresTable(records)}\n\n${page.slice(to)}`;
}

/** Writes the table into docs/measurements.md. */
export function writeFigures(): void {
  const page = readFileSync(PAGE, 'utf8');
  const written = withFigures(page);
  if (written !== page) writeFileSync(PAGE, written);
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
