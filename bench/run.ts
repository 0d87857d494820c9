/**
 * Prints what the library costs as ratios against hand-written code, in one run on this machine. Words choose what is
 * measured; `--record` keeps the figures in records.json and in the table of docs/measurements.md, and tells what got slower.
 */
import Table from 'cli-table3';
import {
  effects,
  firstFrame,
  largeScenes,
  lighting,
  movingBoxes,
  pipelines,
  changedGraph,
  largeGraph,
  viewedPage,
  withBrowser,
} from './browser.js';
import { readingGlb, worldTransforms } from './cpu.js';
import { formats } from './formats.js';
import { sheets } from './sheets.js';
import type { Row } from './measure.js';
import { allocation, flock, skeletons, targets } from './motion.js';
import { picking } from './picking.js';
import { record, writeFigures } from './record.js';
import { paths, swarms, verdicts } from './scale.js';
import { librarySize } from './sizes.js';
import { graphs } from './graphs.js';
import { viewfinder } from './viewfinder.js';
import { compileTimes, emittedGlsl } from './shaders.js';

/** What is measured, one after the other: it takes some minutes, so each is named as it begins. */
const parts: Record<string, () => Promise<Row | Row[]>> = {
  'moving boxes on WebGL2': () => withBrowser((browser) => movingBoxes(browser, 'webgl2'), true),
  'moving boxes on WebGPU': () => withBrowser((browser) => movingBoxes(browser, 'webgpu'), true),
  'large scenes': () => withBrowser(largeScenes),
  'light and shadows': () => withBrowser(lighting),
  'effects on the picture': () => withBrowser(effects),
  'swarms and merging': () => withBrowser(swarms, true),
  'ways of drawing': () => withBrowser(paths),
  verdicts: () => withBrowser(verdicts),
  'first frame': () => withBrowser(firstFrame),
  pipelines: () => withBrowser(pipelines, true),
  'world transforms': worldTransforms,
  skeletons,
  'morph targets': targets,
  'allocation while moving': () => Promise.resolve(allocation()),
  'draws of a flock': flock,
  picking,
  'reading GLB': readingGlb,
  'formats of models': formats,
  sheets,
  viewfinder,
  graphs,
  'a graph under the hand': () => withBrowser(largeGraph),
  'a changed graph': () => withBrowser(changedGraph),
  'a page under the viewfinder': () => withBrowser(viewedPage),
  'library size': librarySize,
  'compile times': compileTimes,
  'emitted GLSL': () => withBrowser(emittedGlsl),
};
const isRecorded = process.argv.includes('--record');
const wanted = process.argv.slice(2).filter((word) => word !== '--record');
const rows: Row[] = [];
for (const [name, measure] of Object.entries(parts)) {
  if (wanted.length > 0 && !wanted.some((word) => name.includes(word))) continue;
  console.error(`measuring ${name}`);
  rows.push(...[await measure()].flat());
}

const table = new Table({
  head: ['what', 'ours', 'against', 'ratio', 'limit', ''],
  style: { head: [], border: [] },
  colAligns: ['left', 'right', 'right', 'right', 'right', 'left'],
});
let missed = 0;
for (const { what, ours, against, ratio, limit } of rows) {
  const isMissed = limit !== undefined && ratio !== undefined && ratio > limit;
  if (isMissed) missed++;
  table.push([
    what,
    ours,
    against,
    ratio?.toFixed(3) ?? '',
    limit?.toFixed(3) ?? '',
    limit === undefined ? '' : isMissed ? 'missed' : 'held',
  ]);
}
console.log(table.toString());
console.log(missed === 0 ? 'every budget is held' : `${missed} budget(s) missed`);
if (isRecorded) {
  const slower = record(rows);
  writeFigures();
  console.log(
    slower.length === 0
      ? 'nothing got slower than at the last record of this machine'
      : `slower than at the last record of this machine:\n  ${slower.join('\n  ')}`,
  );
}
process.exitCode = missed === 0 ? 0 : 1;
