import { checkOutput, writeOutput } from '../report/write-output.js';
import { basename, dirname, extname, join } from 'node:path';
import { LensError, type ModelAsset, type Warning } from '@umber-lens/core/engine';
import { countAsset, TRIM_STEPS, trimAsset } from '@umber-lens/core/trim';
import chalk from 'chalk';
import { Command, Option } from 'commander';
import { gatherModels } from '../open/gather-models.js';
import { openModel } from '../open/open-model.js';
import {
  formatByEnding,
  WRITTEN_FORMATS,
  type WriteModelOptions,
  type WrittenFormat,
  writtenModel,
} from '../write/write-model.js';
import { isShaderName, recastShader } from '../write/recast-shader.js';
import { progressBar, withProgress } from '../report/progress.js';
import { bytes as shortBytes, grid } from '../report/survey-report.js';

/** Metres that a unit is long. */
const UNITS = { m: 1, cm: 0.01, mm: 0.001, inch: 0.0254, foot: 0.3048 } as const;

interface RecastOptions extends WriteModelOptions {
  to?: WrittenFormat;
  up: 'y' | 'z';
  unit: keyof typeof UNITS;
  draws: 'none' | 'primitives' | 'unnamed' | 'named';
  json?: boolean;
  force?: boolean;
  allowOutside?: boolean;
}

export function recastCommand(): Command {
  return new Command('recast')
    .description(
      'Writes models in another format: glTF, GLB, OBJ, PLY and STL, from any of them; and shaders as graphs, and back.',
    )
    .argument(
      '<files...>',
      'models and sheets to read, or one shader (.wgsl) or graph (.graph.json), and at last the file to write; - for standard input and output',
    )
    .addOption(
      new Option('--to <format>', 'what to write; default: as the file ends').choices(WRITTEN_FORMATS),
    )
    .option('--embed', 'gltf: buffers and pictures within the text')
    .option('--ascii', 'ply, stl: as text')
    .option('--separate', 'gltf, glb: pictures as files beside the model')
    .option('--meshopt', 'gltf, glb: packed by EXT_meshopt_compression')
    .option('--draco', 'gltf, glb: meshes packed by KHR_draco_mesh_compression')
    .option('--ktx2', 'gltf, glb: pictures as universal textures, UASTC packed by Zstandard')
    .addOption(
      new Option('--up <axis>', 'the axis that points upwards in what is read')
        .choices(['y', 'z'])
        .default('y'),
    )
    .addOption(
      new Option('--unit <unit>', 'what a unit of what is read is').choices(Object.keys(UNITS)).default('m'),
    )
    .addOption(
      new Option('--draws <what>', 'put together what one draw can be')
        .choices(['none', 'primitives', 'unnamed', 'named'])
        .default('none'),
    )
    .option('--force', 'write over a file that is read')
    .option('--json', 'print one JSON object and nothing else')
    .option('--allow-outside', 'let models name files outside their folders')
    .addHelpText(
      'after',
      '\nExamples:\n  umber recast crate.obj crate.glb\n  umber recast hull.stl --unit mm --up z hull.glb --meshopt\n  umber recast quay.glb buoy.glb harbour.gltf --embed\n  umber recast - - --to ply < crate.stl > crate.ply\n  umber recast rim.wgsl rim.graph.json\n  umber recast rim.graph.json rim.wgsl',
    )
    .action(recast);
}

async function recast(given: string[], options: RecastOptions): Promise<void> {
  const out = given.at(-1)!; // at least one
  const inputs = given.slice(0, -1);
  if (inputs.length === 0) {
    throw new LensError('recast/files', 'there is a file to read, and none to write', {
      hint: `Name both: umber recast ${out} ${basename(out, extname(out))}.glb`,
    });
  }
  if (isShaderName(out) || inputs.some(isShaderName)) return recastShader(inputs, out, options);
  const format = options.to ?? (out === '-' ? 'glb' : formatByEnding(out));
  if (out !== '-') await checkOutput(out, inputs, options.force ?? false);
  const { asset, read } = await readAll(inputs, options);
  const name = out === '-' ? 'model' : basename(out, extname(out));
  const { files, warnings } = await withProgress(`writing ${out}`, () =>
    writtenModel(asset, format, name, options),
  );
  const [main] = files;
  if (!main) throw new LensError('recast/empty', 'there is nothing to write');
  if (out === '-') {
    if (files.size > 1)
      throw new LensError('recast/files', `${format} is ${files.size} files, and standard output is one`, {
        hint: 'Write glb, or gltf with --embed.',
      });
    process.stdout.write(main[1]);
    return;
  }
  const { force } = options;
  for (const [path, bytes] of files) {
    const target = path === main[0] ? out : join(dirname(out), path);
    await writeOutput(target, bytes, { inputs, force });
  }
  const told = [...asset.warnings, ...warnings];
  const { triangles, vertices } = countAsset(asset);
  const size = [...files.values()].reduce((sum, { length }) => sum + length, 0);
  if (options.json) {
    const summary = {
      out,
      format,
      files: [...files.keys()],
      bytes: size,
      read,
      triangles,
      vertices,
      warnings: told,
    };
    process.stdout.write(`${JSON.stringify(summary, null, 2)}\n`);
    return;
  }
  process.stdout.write(report(out, format, read, size, triangles, vertices, told, files.size));
}

async function readAll(
  inputs: readonly string[],
  { allowOutside = false, draws: what, unit, up }: RecastOptions,
): Promise<{ asset: ModelAsset; read: { file: string; format: string; bytes: number }[] }> {
  const bar = inputs.length > 1 ? progressBar('reading', inputs.length) : undefined;
  const models: { name: string; asset: ModelAsset }[] = [];
  const read: { file: string; format: string; bytes: number }[] = [];
  for (const [i, file] of inputs.entries()) {
    const { asset, files } = await withProgress(`reading ${file}`, () => openModel(file, { allowOutside }));
    models.push({ name: file === '-' ? 'model' : basename(file, extname(file)), asset });
    const size = [...files.values()].reduce((sum, { length }) => sum + length, 0);
    read.push({ file, format: asset.format, bytes: size });
    bar?.set(i + 1);
  }
  bar?.stop();
  const asset = gatherModels(models, { up, metres: UNITS[unit] });
  if (what !== 'none') {
    await trimAsset(asset, { skip: TRIM_STEPS.filter((name) => name !== 'draws'), draws: what });
  }
  return { asset, read };
}

function report(
  out: string,
  format: string,
  read: readonly { file: string; format: string; bytes: number }[],
  size: number,
  triangles: number,
  vertices: number,
  warnings: readonly Warning[],
  files: number,
): string {
  const table = grid(['', 'format', 'size'], [2]);
  for (const { file, format: from, bytes } of read) table.push([file, from, shortBytes(bytes)]);
  table.push([chalk.bold(out), format.toUpperCase(), shortBytes(size)]);
  const counts = `${triangles.toLocaleString('en-US')} triangles, ${vertices.toLocaleString('en-US')} vertices, ${files} file${files === 1 ? '' : 's'}`;
  const lines = warnings.slice(0, 20).map(({ message }) => `${chalk.yellow('warning')} ${message}`);
  if (warnings.length > 20) lines.push(chalk.dim(`and ${warnings.length - 20} more (--json lists all)`));
  return `${table.toString()}\n${counts}\n${lines.length > 0 ? `${lines.join('\n')}\n` : ''}${chalk.green('wrote')} ${out}\n`;
}
