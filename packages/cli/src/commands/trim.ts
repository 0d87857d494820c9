import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { LensError, nearHint, writeGlb } from '@umber-lens/core/engine';
import {
  countAsset,
  TRIM_STEPS,
  trimAsset,
  type TrimOptions,
  type TrimStepName,
} from '@umber-lens/core/trim';
import chalk from 'chalk';
import { Command, InvalidArgumentError, Option } from 'commander';
import { type Backend, BACKENDS, drawingHost } from '../host/host.js';
import { lookDifference } from '../survey/look-difference.js';
import { openModel } from '../open/open-model.js';
import { reencodeTextures } from '../write/reencode-textures.js';
import { type TrimmedFigures, trimmedFigures } from '../survey/trimmed-figures.js';
import { checkEnding, checkOutput, writeOutput } from '../report/write-output.js';
import { withProgress } from '../report/progress.js';
import { trimReport } from '../report/trim-report.js';
import { parseNumber } from './parse.js';

interface TrimCommandOptions {
  out: string;
  skip: TrimStepName[];
  draws: NonNullable<TrimOptions['draws']>;
  precision: NonNullable<TrimOptions['precision']>;
  levels?: number | true;
  split?: number;
  maxTexture?: number;
  textureQuality?: number;
  tolerance: number;
  proof: boolean;
  json?: boolean;
  force?: boolean;
  allowOutside?: boolean;
  backend?: Backend;
}

export function trimCommand(): Command {
  return new Command('trim')
    .description('Makes a model smaller and cheaper to draw, and proves by pictures that it looks as it did.')
    .argument('<file>', 'a model (glTF, GLB, OBJ, PLY, STL) or a sheet (.sheet.json)')
    .requiredOption('--out <glb>', 'file to write')
    .option('--skip <steps>', `steps to leave out, with commas: ${TRIM_STEPS.join(', ')}`, parseSteps, [])
    .addOption(
      new Option(
        '--draws <what>',
        'put together what one draw can be: primitives of a mesh, nodes without names, or named ones too',
      )
        .choices(['none', 'primitives', 'unnamed', 'named'])
        .default('primitives'),
    )
    .addOption(
      new Option('--precision <what>', 'store attributes in 16 and 8 bits, with positions or without')
        .choices(['none', 'attributes', 'positions'])
        .default('attributes'),
    )
    .option('--levels [count]', 'add coarser levels of meshes, 1 to 3', parseNumber(1, 3))
    .option(
      '--split <triangles>',
      'cut what has more triangles into parts of so many, which are culled one by one',
      parseNumber(64, 1_000_000),
    )
    .option('--max-texture <pixels>', 'shrink textures to this side at most', parseNumber(1, 16_384))
    .option(
      '--texture-quality <percent>',
      'write colours without alpha as JPEG of this quality',
      parseNumber(1, 100),
    )
    .option(
      '--tolerance <steps>',
      'mean difference of the pixels that the model covers, of 255, above which no file is written',
      parseNumber(0, 255),
      0.5,
    )
    .option('--no-proof', 'draw no pictures before and after')
    .addOption(
      new Option(
        '--backend <name>',
        'what draws the pictures: webgpu or webgl2 in Chromium, or WebGPU in node',
      ).choices(BACKENDS),
    )
    .option('--force', 'write over the model that is read')
    .option('--json', 'print one JSON object and nothing else')
    .option('--allow-outside', 'let the model name files outside its folder')
    .addHelpText(
      'after',
      '\nExamples:\n  umber trim harbour.glb --out small.glb\n  umber trim scan.glb --out scan-web.glb --levels --precision positions --max-texture 1024',
    )
    .action((file: string, options: TrimCommandOptions) => trim(file, options));
}

/** Names of steps, with commas between them. */
function parseSteps(text: string): TrimStepName[] {
  const names = text.split(',').map((name) => name.trim());
  const unknown = names.find((name) => !TRIM_STEPS.includes(name as TrimStepName));
  if (unknown !== undefined)
    throw new InvalidArgumentError(`There is no step "${unknown}". ${nearHint(unknown, TRIM_STEPS)}`);
  return names as TrimStepName[];
}

async function trim(file: string, options: TrimCommandOptions): Promise<void> {
  const { allowOutside = false, force = false, out } = options;
  checkEnding(out, ['.glb'], 'Name it .glb; umber recast writes other formats.');
  await checkOutput(out, [file], force);
  // Before there is any work to be done twice, and any folder to be left.
  const host = options.proof ? await drawingHost(options.backend) : undefined;
  if (options.proof && !host) return;
  const { steps, before, after, bytes } = await withProgress(`trimming ${file}`, async () => {
    const model = await openModel(file, { allowOutside });
    const counted = countAsset(model.asset);
    const done = await trimAsset(model.asset, {
      ...options,
      levels: options.levels === undefined ? false : options.levels === true ? {} : { count: options.levels },
    });
    const textures = await reencodeTextures(model, options);
    if (textures) done.push({ name: 'textures', done: textures, changed: true });
    const written = await writtenAs(model.asset, !options.skip.includes('packing'));
    return {
      steps: done,
      bytes: written,
      before: await trimmedFigures(file, { allowOutside }, counted),
      after: await figuresOfBytes(written, countAsset(model.asset)),
    };
  });
  const look = host
    ? await withProgress('drawing before and after', () =>
        lookDifference({ file, allowOutside }, bytes, host),
      )
    : undefined;
  const holds = !look || look.mean <= options.tolerance;
  if (holds) {
    await writeOutput(out, bytes, { inputs: [file], force: options.force });
  }
  if (options.json)
    process.stdout.write(
      `${JSON.stringify({ file, out: holds ? out : null, steps, before, after, look: look ?? null, tolerance: options.tolerance }, null, 2)}\n`,
    );
  else process.stdout.write(trimReport({ file, steps, before, after, look, tolerance: options.tolerance }));
  if (!holds)
    throw new LensError(
      'trim/look',
      `the look did not hold: a mean difference of ${look.mean.toFixed(2)} is over ${options.tolerance}`,
      {
        where: { file },
        hint: 'Nothing was written. Leave out a step (--precision attributes, fewer --levels), or allow more with --tolerance.',
      },
    );
  if (!options.json) process.stdout.write(`${chalk.green('wrote')} ${out}\n`);
}

async function writtenAs(asset: Parameters<typeof writeGlb>[0], compress: boolean): Promise<Uint8Array> {
  if (!compress) return writeGlb(asset);
  const { MeshoptEncoder } = await import('meshoptimizer/encoder');
  await MeshoptEncoder.ready;
  return writeGlb(asset, { compress: MeshoptEncoder });
}

/** Read again from a file as anybody would: whoever reads the result finds what is told here. */
async function figuresOfBytes(
  bytes: Uint8Array,
  counted: ReturnType<typeof countAsset>,
): Promise<TrimmedFigures> {
  const folder = await mkdtemp(join(tmpdir(), 'umber-trim-'));
  try {
    const file = join(folder, 'trimmed.glb');
    await writeFile(file, bytes);
    return await trimmedFigures(file, {}, counted);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
