import { type AssetDifference, diffAssets } from '@umber-lens/core/engine';
import chalk from 'chalk';
import { Command } from 'commander';
import { drawingHost } from '../host/host.js';
import { lookDifference } from '../survey/look-difference.js';
import { openModel } from '../open/open-model.js';
import { writtenModel } from '../write/write-model.js';
import { withProgress } from '../report/progress.js';
import { grid } from '../report/survey-report.js';

interface DiffCommandOptions {
  tolerance: number;
  picture?: boolean;
  json?: boolean;
  allowOutside?: boolean;
}

export function diffCommand(): Command {
  return new Command('diff')
    .description('Says what differs between two models: nodes, meshes, materials, clips, and how they look.')
    .argument('<a>', 'a model (glTF, GLB, OBJ, PLY, STL) or a sheet (.sheet.json)')
    .argument('<b>', 'another')
    .option('--tolerance <share>', 'what numbers may differ by', Number, 1e-6)
    .option('--picture', 'draw both from six sides, and say by how much those differ')
    .option('--json', 'print one JSON object and nothing else')
    .option('--allow-outside', 'let models name files outside their folders')
    .addHelpText(
      'after',
      '\nExits 1 when something differs.\n\nExample:\n  umber diff harbour.glb harbour-trimmed.glb --picture',
    )
    .action(diff);
}

async function diff(a: string, b: string, options: DiffCommandOptions): Promise<void> {
  const { allowOutside = false, json, picture, tolerance } = options;
  const host = picture ? await drawingHost(undefined) : undefined;
  if (picture && !host) return;
  const [first, second] = await withProgress(`reading ${a} and ${b}`, async () => [
    await openModel(a, { allowOutside }),
    await openModel(b, { allowOutside }),
  ]);
  const differences = diffAssets(first!.asset, second!.asset, { tolerance }); // two were read
  const look = host
    ? await withProgress('drawing both', async () => {
        const { files } = await writtenModel(second!.asset, 'glb', 'other', {});
        return lookDifference({ file: a, allowOutside }, [...files.values()][0]!, host); // one file
      })
    : undefined;
  const isOther = differences.length > 0 || (look !== undefined && look.mean > 0.5);
  if (json) process.stdout.write(`${JSON.stringify({ a, b, differences, look: look ?? null }, null, 2)}\n`);
  else process.stdout.write(report(a, b, differences, look));
  if (isOther) process.exitCode = 1;
}

const SHOWN = 40;

function report(
  a: string,
  b: string,
  differences: readonly AssetDifference[],
  look: { mean: number; largest: number } | undefined,
): string {
  const lines: string[] = [];
  if (differences.length === 0) lines.push(`${chalk.green('nothing differs')} between ${a} and ${b}`);
  else {
    const table = grid(['', 'name', 'what'], []);
    for (const { kind, name, what } of differences.slice(0, SHOWN)) table.push([kind, name, what]);
    lines.push(table.toString());
    if (differences.length > SHOWN)
      lines.push(chalk.dim(`and ${differences.length - SHOWN} more (--json lists all)`));
    lines.push(
      `${chalk.yellow(`${differences.length} difference${differences.length === 1 ? '' : 's'}`)} between ${a} and ${b}`,
    );
  }
  if (look)
    lines.push(
      `pictures differ by ${look.mean.toFixed(3)} of 255 on average where it is most, ${look.largest} at most`,
    );
  return `${lines.join('\n')}\n`;
}
