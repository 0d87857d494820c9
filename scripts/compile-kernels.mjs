// Compiles packages/core/kernels to WebAssembly and lays it, as text, where core imports it from. Only a change
// in the source costs the compiler's time.
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';

const source = 'packages/core/kernels/kernels.ts';
const target = 'packages/core/src/columns/kernels-wasm.ts';
const text = readFileSync(source, 'utf8').replace(/\r\n/g, '\n');
const mark = `// Made by scripts/compile-kernels.mjs out of ${source}, ${createHash('sha256').update(text).digest('hex').slice(0, 16)}.\n`;
if (!existsSync(target) || !readFileSync(target, 'utf8').startsWith(mark)) {
  const { default: asc } = await import('assemblyscript/asc');
  const options =
    '-O3 --noAssert --runtime stub --enable simd --importMemory --initialMemory 1 --memoryBase 256';
  let wasm;
  const { error, stderr } = await asc.main(
    ['kernels.ts', '--outFile', 'kernels.wasm', ...options.split(' ')],
    {
      readFile: (name) => (name === 'kernels.ts' ? text : null),
      writeFile: (name, data) => {
        if (name.endsWith('.wasm')) wasm = data;
      },
      listFiles: () => [],
    },
  );
  if (error) {
    console.error(stderr.toString());
    throw error;
  }
  const base64 = Buffer.from(wasm).toString('base64').replace(/=+$/, '');
  writeFileSync(target, `${mark}export const KERNELS =\n  '${base64}';\n`);
}
