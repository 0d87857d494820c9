/** Prints what the library costs as ratios against hand-written code, in one run on this machine. */
import Table from 'cli-table3';
import {
  firstFrame,
  librarySize,
  movingBoxes,
  movingBoxesOnWebgpu,
  pipelines,
  withBrowser,
} from './browser.js';
import { readingGlb, worldTransforms } from './cpu.js';
import type { Row } from './measure.js';
import { compileTimes, emittedGlsl } from './shaders.js';

const rows: Row[] = [];
rows.push(...(await withBrowser(movingBoxes)));
rows.push(...(await withBrowser(movingBoxesOnWebgpu, true)));
rows.push(await withBrowser(firstFrame));
rows.push(...(await withBrowser(pipelines, true)));
rows.push(await worldTransforms());
rows.push(await readingGlb());
rows.push(...(await librarySize()));
rows.push(...(await compileTimes()));
rows.push(await withBrowser(emittedGlsl));

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
process.exitCode = missed === 0 ? 0 : 1;
