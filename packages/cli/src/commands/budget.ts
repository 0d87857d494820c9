import { parseJson, readInput } from '../open/read-input.js';
import { basename } from 'node:path';
import {
  type Budget,
  BUDGET_LIMITS,
  type BudgetLimit,
  readBudget,
  holdAgainst,
  LensError,
} from '@umber-lens/core/engine';
import { Command } from 'commander';
import { figuresOf } from '../survey/model-figures.js';
import { openModel } from '../open/open-model.js';
import { budgetReport } from '../report/budget-report.js';
import { withProgress } from '../report/progress.js';

/** Those that a file has, without being drawn by a GPU. */
const LIMITS: BudgetLimit[] = ['draws', 'triangles', 'instances', 'textures', 'gpuMb', 'textureMb', 'fileMb'];

export function budgetCommand(): Command {
  const command = new Command('budget')
    .description('Holds models against limits; exit 1 when one is over, with what takes most.')
    .argument('<files...>', 'models (glTF, GLB, OBJ, PLY, STL) and sheets (.sheet.json)');
  for (const limit of LIMITS)
    command.option(
      `--${limit.replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`)} <most>`,
      `${BUDGET_LIMITS[limit].about}, such as 200 or 500k`,
    );
  return command
    .option('--config <file>', 'limits in a JSON file: for all, or by file name under "files"')
    .option('--json', 'print one JSON object and nothing else')
    .option('--allow-outside', 'let the models name files outside their folders')
    .addHelpText(
      'after',
      '\nExamples:\n  umber budget harbour.glb --draws 200 --triangles 500k --gpu-mb 64\n  umber budget models/*.glb --config budgets.json',
    )
    .action((files: string[], options: Record<string, unknown>) => budget(files, options));
}

async function budget(files: string[], options: Record<string, unknown>): Promise<void> {
  const given = readBudget(
    Object.fromEntries(LIMITS.flatMap((name) => (name in options ? [[name, options[name]]] : []))),
  );
  const config = typeof options['config'] === 'string' ? await readConfig(options['config']) : {};
  const results = [];
  for (const file of files) {
    const limits: Budget = { ...config.all, ...config.files?.get(basename(file)), ...given };
    if (Object.keys(limits).length === 0)
      throw new LensError('budget/none', `no limits are given for ${file}`, {
        hint: 'Give some, such as --draws 200, or a file with --config.',
      });
    const { figures, takers } = await withProgress(`reading ${file}`, async () =>
      figuresOf(file, await openModel(file, { allowOutside: options['allowOutside'] === true })),
    );
    const lines = holdAgainst(figures, limits);
    const over = lines.filter(({ isOver }) => isOver);
    results.push({
      file,
      lines,
      isOver: over.length > 0,
      takers: over.map(({ limit }) => ({ limit, most: takers[limit] ?? [] })),
    });
  }
  if (options['json']) process.stdout.write(`${JSON.stringify(results, null, 2)}\n`);
  else process.stdout.write(results.map(budgetReport).join('\n'));
  if (results.some(({ isOver }) => isOver)) process.exitCode = 1;
}

/** @throws LensError `file/missing`, `budget/json` with line and column, and what `checkedBudget` says */
async function readConfig(file: string): Promise<{ all?: Budget; files?: Map<string, Budget> }> {
  const found = parseJson(new TextDecoder().decode(await readInput(file)), file, 'budget/json');
  if (typeof found !== 'object' || found === null || Array.isArray(found))
    return { all: readBudget(found, file) };
  const { $schema, files, ...all } = found as Record<string, unknown>;
  void $schema;
  const byFile = new Map<string, Budget>();
  if (files !== undefined && (typeof files !== 'object' || files === null))
    throw new LensError('budget/form', '"files" is an object of budgets by file name', {
      where: { file, pointer: '/files' },
    });
  for (const [name, limits] of Object.entries(files ?? {})) byFile.set(name, readBudget(limits, file));
  return { all: readBudget(all, file), files: byFile };
}
