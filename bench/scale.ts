import { mkdirSync, writeFileSync } from 'node:fs';
import type { Browser } from 'playwright-core';
import { bundle, isolatedPage } from './browser.js';
import { row, type Row } from './measure.js';

interface Scale {
  blades(
    count: number,
    frames: number,
  ): Promise<{ script: number; draws: number; triangles: number; uploaded: number }>;
  merged(textured: boolean): Promise<number>;
  paths(overdraw: number, lights: number): Promise<Record<'forward' | 'prepass' | 'deferred', number>>;
  verdicts(times: number): Promise<Record<'equal' | 'slower', Record<string, number>>>;
}

declare const scale: Scale;

/** Swarms of blades by their number, and merging: held against what design allows. */
export async function swarms(browser: Browser): Promise<Row[]> {
  const page = await isolatedPage(browser, await bundle('scale', 'iife'));
  const rows: Row[] = [];
  for (const count of [1000, 10_000, 100_000, 1_000_000]) {
    const { script, draws, triangles, uploaded } = await page.evaluate((n) => scale.blades(n, 400), count);
    const name = `a swarm of ${count.toLocaleString('en')}`;
    rows.push(
      row(
        `script a frame for ${name}, the eye moving, against 0.5 ms`,
        script,
        0.5,
        'ms',
        count === 1_000_000 ? 1 : undefined,
      ),
    );
    if (count < 1_000_000) continue;
    rows.push(
      row(`draws of ${name}, against 32`, draws, 32, '', 1),
      row(`triangles drawn of ${name}, against a tenth of all`, triangles, 0.1, 'of all', 1),
      row(
        `sent to the GPU each frame for ${name}, against its records`,
        uploaded / 1e6,
        (count * 48) / 1e6,
        'MB',
      ),
    );
  }
  rows.push(
    row(
      'draws of 10,000 nodes over 20 numeric materials x 5 geometries, with the sun',
      await page.evaluate(() => scale.merged(false)),
      5,
      '',
      1,
    ),
    row(
      'draws of the same over 20 textured materials',
      await page.evaluate(() => scale.merged(true)),
      100,
      '',
      1,
    ),
  );
  await page.close();
  return rows;
}

const LIGHTS = [1, 4, 16, 32, 64];
const OVERDRAW = 8;

/** Ways of drawing by the number of lights; a chart of it is written to docs/figures. */
export async function paths(browser: Browser): Promise<Row[]> {
  const page = await isolatedPage(browser, await bundle('scale', 'iife'));
  const times = [];
  for (const lights of LIGHTS)
    times.push(await page.evaluate(([o, n]) => scale.paths(o, n), [OVERDRAW, lights] as const));
  await page.close();
  writeChart(times);
  return times.flatMap(({ forward, prepass, deferred }, i) => [
    row(`${LIGHTS[i]!} lights on ${OVERDRAW} sheets: deferred against forward`, deferred, forward, 'ms'),
    row(`${LIGHTS[i]!} lights on ${OVERDRAW} sheets: depths ahead against forward`, prepass, forward, 'ms'),
  ]);
}

/** What verdicts are worth: each kind of pair is compared so many times. */
export async function verdicts(browser: Browser): Promise<Row[]> {
  const page = await isolatedPage(browser, await bundle('scale', 'iife'));
  const times = Number(process.env['UMBER_VERDICTS'] ?? 10);
  const { equal, slower } = await page.evaluate((n) => scale.verdicts(n), times);
  await page.close();
  console.error(
    `verdicts of ${times}: equal ${JSON.stringify(equal)}, a tenth more work ${JSON.stringify(slower)}`,
  );
  return [
    row(
      `of ${times} equal pairs, those that are told apart, against one in a hundred`,
      times - (equal['cannot tell'] ?? 0),
      times / 100,
      '',
    ),
    row(`of ${times} pairs of which one does a tenth more, those found`, slower['slower'] ?? 0, times, ''),
  ];
}

/** Lines over a logarithmic axis, as SVG. */
function writeChart(times: Record<'forward' | 'prepass' | 'deferred', number>[]): void {
  const [width, height, left, bottom] = [720, 420, 70, 60];
  const most = Math.max(...times.flatMap((time) => Object.values(time))) * 1.08;
  const x = (i: number): number => left + (i / (LIGHTS.length - 1)) * (width - left - 150);
  const y = (ms: number): number => height - bottom - (ms / most) * (height - bottom - 50);
  const colors = { forward: '#b3542e', prepass: '#c79a3b', deferred: '#2f7d80' };
  const names = { forward: 'forward', prepass: 'depths ahead', deferred: 'deferred' };
  const lines = (Object.keys(colors) as (keyof typeof colors)[]).map((path) => {
    const points = times.map((time, i) => `${x(i).toFixed(1)},${y(time[path]).toFixed(1)}`);
    const end = times.at(-1)![path]; // there are some
    return `<polyline points="${points.join(' ')}" fill="none" stroke="${colors[path]}" stroke-width="3"/>
${points.map((point) => `<circle cx="${point.split(',')[0]!}" cy="${point.split(',')[1]!}" r="4" fill="${colors[path]}"/>`).join('')}
<text x="${x(LIGHTS.length - 1) + 12}" y="${y(end) + 5}" fill="${colors[path]}">${names[path]}</text>`;
  });
  const ticks = [0.25, 0.5, 0.75, 1].map((share) => {
    const ms = most * share;
    return `<line x1="${left}" x2="${width - 150}" y1="${y(ms)}" y2="${y(ms)}" stroke="#e4ddd3"/><text x="${left - 8}" y="${y(ms) + 5}" text-anchor="end">${ms.toFixed(0)}</text>`;
  });
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" font-family="sans-serif" font-size="14" fill="#3b342c">
<rect width="100%" height="100%" fill="#fbf8f3"/>
<text x="${left}" y="28" font-size="16">Whole frames of ${OVERDRAW} sheets behind one another, ms by lights (software rasteriser, 320 x 200)</text>
${ticks.join('\n')}
<line x1="${left}" x2="${width - 150}" y1="${height - bottom}" y2="${height - bottom}" stroke="#8a8074"/>
${LIGHTS.map((lights, i) => `<text x="${x(i)}" y="${height - bottom + 22}" text-anchor="middle">${lights}</text>`).join('')}
<text x="${(left + width - 150) / 2}" y="${height - 14}" text-anchor="middle">point lights without a range</text>
${lines.join('\n')}
</svg>
`;
  mkdirSync('../docs/figures', { recursive: true });
  writeFileSync('../docs/figures/paths.svg', svg);
}
