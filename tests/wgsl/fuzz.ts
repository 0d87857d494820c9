/**
 * A long run of random programs on WebGPU, WebGL2 and the CPU: `npm run fuzz [-- count [first seed]]`.
 * A disagreement is cut down to a small program and printed.
 */
import { chromium } from 'playwright-core';
import { findChromium, OFFSCREEN_FLAGS } from '../../packages/cli/src/host/chromium.js';
import { compareProgram, disagreements } from './compare.js';
import { gpuScript } from './gpu.js';

const count = Number(process.argv[2] ?? 1000);
const first = Number(process.argv[3] ?? 1);
const browser = await chromium.launch({
  executablePath: findChromium(),
  args: OFFSCREEN_FLAGS,
});
const page = await browser.newPage();
// WebGPU exists on secure origins only; this one is answered here.
await page.route('**/*', (route) => route.fulfill({ contentType: 'text/html', body: '<body></body>' }));
await page.goto('http://localhost/');
await page.addScriptTag({ content: gpuScript });
let wrong = 0;
for (let seed = first; seed < first + count; seed += 100) {
  const n = Math.min(100, first + count - seed);
  const found = await disagreements(page, seed, n);
  wrong += found.length;
  console.log(
    `seeds ${seed} to ${seed + n - 1}: ${found.length === 0 ? 'all agree' : `${found.length} disagree`}`,
  );
  if (found[0]) console.log(await compareProgram(page, found[0]));
}
await browser.close();
console.log(`${count - wrong} passed, ${wrong} failed`);
process.exitCode = wrong === 0 ? 0 : 1;
