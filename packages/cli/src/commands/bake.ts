import { bakePanorama, MIRROR_SIDE, writeBakedKtx2 } from '@umber-lens/core/engine';
import chalk from 'chalk';
import { Command, InvalidArgumentError } from 'commander';
import { openEnvironment } from '../open/open-environment.js';
import { checkEnding, checkOutput, writeOutput } from '../report/write-output.js';
import { withProgress } from '../report/progress.js';
import { bytes } from '../report/survey-report.js';

export function bakeCommand(): Command {
  return new Command('bake')
    .description('Makes of a picture of light what a lens would make of it while a page loads.')
    .argument('<files...>', 'a panorama (Radiance .hdr, PNG, JPEG, WebP), or six sides: +X -X +Y -Y +Z -Z')
    .requiredOption('--out <ktx2>', 'file to write')
    .option('--side <pixels>', 'of the sharpest level: 32, 64, 128, 256, 512 or 1024', parseSide, MIRROR_SIDE)
    .addHelpText('after', '\nExample:\n  umber bake dusk.hdr --out dusk.ktx2')
    .action((files: string[], options: { out: string; side: number }) => bake(files, options));
}

async function bake(files: string[], { out, side }: { out: string; side: number }): Promise<void> {
  const start = performance.now();
  checkEnding(out, ['.ktx2'], 'Name it .ktx2.');
  await checkOutput(out, files, false);
  const { panorama, baked, packed } = await withProgress(`baking ${files.join(', ')}`, async () => {
    const read = await openEnvironment(files);
    const made = bakePanorama(read, { side });
    return { panorama: read, baked: made, packed: await writeBakedKtx2(made) };
  });
  await writeOutput(out, packed, { inputs: files });
  const seconds = ((performance.now() - start) / 1000).toFixed(1);
  const { levels, irradiance } = baked.baked!; // just made
  // The first coefficient is the mean, by its own constant.
  const mean = [0, 1, 2].map((c) => (irradiance[c]! * 0.282095).toPrecision(2)); // 27 numbers
  process.stdout.write(
    `${chalk.green('wrote')} ${out} ${chalk.dim(`${bytes(packed.length)}, in ${seconds} s`)}\n` +
      `  from ${panorama.width} x ${panorama.height} pixels: a cube of ${side} x ${side}, ${levels.length} levels of roughness; mean radiance ${mean.join(', ')}\n`,
  );
}

function parseSide(text: string): number {
  const side = Number(text);
  if (![32, 64, 128, 256, 512, 1024].includes(side))
    throw new InvalidArgumentError('Give 32, 64, 128, 256, 512 or 1024.');
  return side;
}
