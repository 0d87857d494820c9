import { mkdirSync, writeFileSync } from 'node:fs';
import type { Browser } from 'playwright-core';
import { bundle, isolatedPage } from './browser.js';
import { row, type Row } from './measure.js';

interface Scale {
  blades(
    count: number,
    frames: number,
    backend: 'webgl2' | 'webgpu',
  ): Promise<{
    script: number;
    whole: number;
    draws: number;
    triangles: number;
    uploaded: number;
    byHand: { script: number; whole: number };
  }>;
  merged(textured: boolean): Promise<number>;
  paths(overdraw: number, lights: number): Promise<Times>;
  verdicts(times: number): Promise<Record<'equal' | 'slower', Record<string, number>>>;
}

declare const scale: Scale;

/** Swarms of blades by their number, and merging: held against what design allows. */
export async function swarms(browser: Browser): Promise<Row[]> {
  const page = await isolatedPage(browser, await bundle('scale', 'iife'));
  const rows: Row[] = [];
  for (const backend of ['webgl2', 'webgpu'] as const) {
    const on = backend === 'webgl2' ? 'WebGL2,' : 'WebGPU, chosen there,';
    for (const count of [1000, 10_000, 100_000, 1_000_000]) {
      const { script, whole, draws, triangles, uploaded, byHand } = await page.evaluate(
        ([n, name]) => scale.blades(n, 240, name),
        [count, backend] as const,
      );
      const name = `a swarm of ${count.toLocaleString('en')} on ${on}`;
      const isMost = count === 1_000_000;
      rows.push(
        row(
          `script a frame for ${name} the camera moving, against 0.5 ms`,
          script,
          0.5,
          'ms',
          isMost ? 1 : undefined,
        ),
        row(
          `the same, against ${backend === 'webgl2' ? 'a draw a tile' : 'one pass'} by hand`,
          script,
          byHand.script,
          'ms',
        ),
        row(
          `a whole frame of it, against the same by hand`,
          whole,
          byHand.whole,
          'ms',
          isMost && backend === 'webgpu' ? 1.3 : undefined,
        ),
      );
      if (!isMost) continue;
      rows.push(
        row(`draws of ${name} against 32`, draws, 32, '', 1),
        row(`triangles drawn of it, against a tenth of all`, triangles, 0.1, 'of all', 1),
        row(
          `sent to the GPU each frame for it, against its records`,
          uploaded / 1e6,
          (count * 48) / 1e6,
          'MB',
        ),
      );
    }
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

const LIGHTS = [1, 4, 16, 48];
const OVERDRAWS = [1, 8];

type Times = Record<'forward' | 'prepass' | 'deferred', number>;

/** Ways of drawing by the number of lights, and by how much lies behind one another; a chart goes to docs/figures. */
export async function paths(browser: Browser): Promise<Row[]> {
  const page = await isolatedPage(browser, await bundle('scale', 'iife'));
  const rows: Row[] = [];
  const all = new Map<number, Times[]>();
  for (const overdraw of OVERDRAWS) {
    const times: Times[] = [];
    for (const lights of LIGHTS)
      times.push(await page.evaluate(([o, n]) => scale.paths(o, n), [overdraw, lights] as const));
    all.set(overdraw, times);
    times.forEach(({ forward, prepass, deferred }, i) => {
      const what = `${LIGHTS[i]!} lights, ${overdraw} surfaces a pixel`; // one a number of lights
      rows.push(row(`${what}: deferred against forward`, deferred, forward, 'ms'));
      rows.push(row(`${what}: depths ahead against forward`, prepass, forward, 'ms'));
    });
  }
  await page.close();
  writeChart(all);
  return rows;
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

/** How many times as long as forward the other ways take, as SVG: both axes in even ratios. */
function writeChart(all: ReadonlyMap<number, readonly Times[]>): void {
  const [width, height, left, right, bottom] = [760, 420, 60, 230, 60];
  const [least, most] = [0.1, 4];
  const x = (lights: number): number =>
    left + (Math.log(lights) / Math.log(LIGHTS.at(-1)!)) * (width - left - right); // there are some
  const y = (ratio: number): number => {
    const share = Math.log(Math.min(most, Math.max(least, ratio)) / least) / Math.log(most / least);
    return height - bottom - share * (height - bottom - 50);
  };
  const ends = [...all]
    .flatMap(([overdraw, times]) =>
      (['deferred', 'prepass'] as const).map((path) => ({
        key: `${path} ${overdraw}`,
        y: y(times.at(-1)![path] / times.at(-1)!.forward), // there are some
      })),
    )
    .sort((a, b) => a.y - b.y);
  // Names stand apart, whatever the lines do.
  for (let i = 1; i < ends.length; i++) ends[i]!.y = Math.max(ends[i]!.y, ends[i - 1]!.y + 17);
  const labelAt = new Map(ends.map(({ key, y: at }) => [key, at]));
  const lines = [...all].flatMap(([overdraw, times]) =>
    (
      [
        ['deferred', '#2f7d80'],
        ['prepass', '#c79a3b'],
      ] as const
    ).map(([path, color]) => {
      const at = times.map((time, i) => [x(LIGHTS[i]!), y(time[path] / time.forward)] as const); // one a number
      const points = at.map(([px, py]) => `${px.toFixed(1)},${py.toFixed(1)}`).join(' ');
      const end = at.at(-1)!;
      const name = `${path === 'prepass' ? 'depths ahead' : path}, ${overdraw} a pixel`;
      return `<polyline points="${points}" fill="none" stroke="${color}" stroke-width="3"${overdraw === 1 ? ' stroke-dasharray="7 5"' : ''}/>
${at.map(([px, py]) => `<circle cx="${px.toFixed(1)}" cy="${py.toFixed(1)}" r="4" fill="${color}"/>`).join('')}
<text x="${end[0] + 12}" y="${labelAt.get(`${path} ${overdraw}`)! + 5}" fill="${color}">${name}</text>`;
    }),
  );
  const ticks = [0.125, 0.25, 0.5, 1, 2, 4].map(
    (ratio) =>
      `<line x1="${left}" x2="${width - right}" y1="${y(ratio)}" y2="${y(ratio)}" stroke="${ratio === 1 ? '#8a8074' : '#e4ddd3'}"/><text x="${left - 8}" y="${y(ratio) + 5}" text-anchor="end">${ratio}</text>`,
  );
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" font-family="sans-serif" font-size="14" fill="#3b342c">
<rect width="100%" height="100%" fill="#fbf8f3"/>
<text x="${left}" y="28" font-size="16">Time of a frame against forward: below 1 it pays (software rasteriser, 320 x 200)</text>
${ticks.join('\n')}
${LIGHTS.map((lights) => `<text x="${x(lights)}" y="${height - bottom + 22}" text-anchor="middle">${lights}</text>`).join('')}
<text x="${(left + width - right) / 2}" y="${height - 14}" text-anchor="middle">point lights without a range</text>
${lines.join('\n')}
</svg>
`;
  mkdirSync('../docs/figures', { recursive: true });
  writeFileSync('../docs/figures/paths.svg', svg);
}
