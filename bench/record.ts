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

/** The last known figure of each kind, with the machine that it is of, as a table in Markdown. */
export function figuresTable(records: readonly Recorded[]): string {
  const known = new Map<string, { ratio: number; limit: number | undefined; of: Recorded }>();
  // Of one day the later in the file counts.
  for (const of of [...records].sort((a, b) => a.date.localeCompare(b.date)))
    for (const [what, ratio] of Object.entries(of.figures)) {
      known.delete(what); // the newest stand last
      known.set(what, { ratio, limit: of.limits?.[what], of });
    }
  const machines = [...new Set([...known.values()].map(({ of }) => of.machine))];
  const lines = [...known].map(([what, { limit, of, ratio }]) => {
    const held = limit === undefined ? '' : ratio <= limit ? `${limit}` : `**${limit}**`;
    return `| ${what} | ${Number(ratio.toPrecision(3))} | ${held} | ${of.commit} | ${shortName(of.machine)} |`;
  });
  return [
    'Bold limits are missed. Machines, by their marks; figures of two of them are not to be compared:',
    '',
    ...machines.map((machine) => `- ${machine}`),
    '',
    '| what | ratio | limit | commit | machine |',
    '| --- | ---: | ---: | --- | --- |',
    ...lines,
  ].join('\n');
}

/** The mark at the end of a machine's words. */
const shortName = (machine: string): string => /\((\w+)\)$/.exec(machine)?.[1] ?? machine;

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
