import { readdir, readFile, stat } from 'node:fs/promises';
import { dirname, join, resolve } from 'node:path';
import { LensError } from '@umber-lens/core/engine';
import chalk from 'chalk';
import { Command } from 'commander';
import {
  compileHooks,
  holdsHooks,
  LIBRARY,
  materialTypes,
  settingsOf,
  settingsTypes,
  typesPath,
} from '@umber-lens/core/shading';
import { isSheetName, readSheet, sheetTypes } from '@umber-lens/core/sheets';
import { readShader } from '../open/open-shader.js';
import { writeOutput } from '../report/write-output.js';
import { isShaderName } from '../write/recast-shader.js';

/** Folders that hold nobody's own files. */
const LEFT_OUT = new Set(['node_modules', 'dist', '.git']);

export function typesCommand(): Command {
  return new Command('types')
    .description(
      'Writes types for the shaders and sheets of a folder, so that TypeScript knows settings and names before anything is built.',
    )
    .argument('[folder]', 'where the .wgsl files, graphs and sheets are', '.')
    .option('--check', 'write nothing, and exit 1 where types are missing or old')
    .addHelpText(
      'after',
      '\nEach name.wgsl gets a name.d.wgsl.ts beside it, each name.graph.json a name.graph.d.json.ts, each name.sheet.json a name.sheet.d.json.ts, for allowArbitraryExtensions in tsconfig.json.\n\nExample:\n  umber types src && tsc',
    )
    .action(types);
}

async function types(folder: string, { check = false }: { check?: boolean }): Promise<void> {
  const files = await typedIn(folder);
  if (files.length === 0)
    throw new LensError('types/none', `there are no .wgsl files, graphs or sheets in ${folder}`, {
      where: { file: folder },
      hint: 'Name the folder that they are in.',
    });
  let written = 0;
  for (const file of files) {
    const text = await typesOf(file);
    const target = typesPath(file);
    const before = await readFile(target, 'utf8').catch(() => undefined);
    if (before === text) continue;
    written++;
    if (check) process.stdout.write(`${chalk.yellow(before === undefined ? 'missing' : 'old')} ${target}\n`);
    else {
      await writeOutput(target, Buffer.from(text));
      process.stdout.write(`${chalk.green('wrote')} ${target}\n`);
    }
  }
  const rest = files.length - written;
  if (rest > 0) process.stdout.write(`${rest} of ${files.length} up to date\n`);
  if (check && written > 0) process.exitCode = 1;
}

async function typesOf(file: string): Promise<string> {
  if (isSheetName(file)) {
    const sheet = readSheet(await readFile(file, 'utf8'), file);
    return sheetTypes(sheet, (address) => readFile(resolve(dirname(file), address)));
  }
  const { text, sources } = await readShader(file);
  if (holdsHooks(text, file)) return materialTypes(compileHooks(text, { file, sources }));
  return settingsTypes(settingsOf(text, { file, sources: { ...LIBRARY, ...sources } }));
}

async function typedIn(folder: string): Promise<string[]> {
  const info = await stat(folder).catch(() => undefined);
  if (!info?.isDirectory())
    throw new LensError('file/missing', `there is no folder ${folder}`, {
      where: { file: folder },
      hint: 'See whether the name is right.',
    });
  const found: string[] = [];
  for (const entry of await readdir(folder, { withFileTypes: true })) {
    const path = join(folder, entry.name);
    if (entry.isDirectory() && !LEFT_OUT.has(entry.name)) found.push(...(await typedIn(path)));
    else if (isShaderName(entry.name) || isSheetName(entry.name)) found.push(path);
  }
  return found.sort();
}
