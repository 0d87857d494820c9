import { dirname, join } from 'node:path';
import {
  addTo,
  checkWgsl,
  type Finding,
  formatFinding,
  LensError,
  type LoadedSheet,
} from '@umber-lens/core/engine';
import chalk from 'chalk';
import { Command } from 'commander';
import { checkGraph, isGraphName } from '@umber-lens/core/graphs';
import { checkHooks, holdsHooks } from '@umber-lens/core/shading';
import { doubtsOf } from '../survey/doubts.js';
import { openModel } from '../open/open-model.js';
import { readShader, readShaderText } from '../open/open-shader.js';
import { paintFinding } from '../report/findings.js';

/** What `--json` prints, an array of these. */
interface ListedFinding {
  file: string;
  line: number;
  column: number;
  severity: string;
  code: string;
  message: string;
  hint: string;
}

/** A finding in a model, with what its line is printed from; `--json` leaves that out. */
interface ModelFinding extends ListedFinding {
  plain: string;
  pointer: string | undefined;
  where: string;
}

export function checkCommand(): Command {
  return new Command('check')
    .description('Finds what is wrong with shaders, graphs, models and sheets.')
    .argument(
      '<files...>',
      'shaders (.wgsl), graphs (.graph.json), models (glTF, GLB, OBJ, PLY, STL) and sheets (.sheet.json), with the models they name',
    )
    .option('--json', 'print an array of findings and nothing else')
    .option('--feature <name...>', 'named features that #if asks for')
    .addHelpText('after', '\nExits 1 when there is an error.\n\nExample:\n  umber check rim.wgsl harbour.glb')
    .action(async (files: string[], options: { json?: boolean; feature?: string[] }) => {
      const listed: ListedFinding[] = [];
      const printed: string[] = [];
      for (const file of files) {
        if (isGraphName(file)) {
          const { sources, text } = await readShaderText(file);
          for (const finding of checkGraph(text, { file, sources })) {
            listed.push(listedFinding(finding));
            printed.push(paintFinding(formatFinding(finding)));
          }
        } else if (file.endsWith('.wgsl')) {
          const { text, sources } = await readShader(file);
          const check = holdsHooks(text, file) ? checkHooks : checkWgsl;
          for (const finding of check(text, { file, sources, features: options.feature ?? [] })) {
            listed.push(listedFinding(finding));
            printed.push(paintFinding(formatFinding(finding)));
          }
        } else {
          const findings = await checkModel(file);
          listed.push(...findings.map(({ plain: _, pointer: __, where: ___, ...finding }) => finding));
          printed.push(...groupedLines(findings));
        }
      }
      const errors = listed.filter(({ severity }) => severity === 'error').length;
      if (options.json) process.stdout.write(`${JSON.stringify(listed, null, 2)}\n`);
      else {
        const sum = `${files.length} file${files.length === 1 ? '' : 's'}: ${errors} error${errors === 1 ? '' : 's'}, ${listed.length - errors} warning${listed.length - errors === 1 ? '' : 's'}`;
        process.stdout.write(`${[...printed, sum].join('\n')}\n`);
      }
      if (errors > 0) process.exitCode = 1;
    });
}

function listedFinding({ file, line, column, severity, code, message, hint }: Finding): ListedFinding {
  return { file, line, column, severity, code, message, hint };
}

async function checkModel(file: string): Promise<ModelFinding[]> {
  const place = (
    where: { line?: number; column?: number; pointer?: string },
    message: string,
  ): Pick<ModelFinding, 'file' | 'line' | 'column' | 'message' | 'plain' | 'pointer' | 'where'> => ({
    file,
    line: where.line ?? 1,
    column: where.column ?? 1,
    message: where.pointer === undefined ? message : `${where.pointer || '/'}: ${message}`,
    plain: message,
    pointer: where.pointer,
    where: where.line === undefined ? '' : `line ${where.line}`,
  });
  const told = (error: LensError): ModelFinding => ({
    ...place(error.where, error.summary),
    severity: 'error',
    code: error.code,
    hint: error.hint,
  });
  try {
    const model = await openModel(file);
    if (model.sheet) return await checkNamed(file, model.sheet);
    return [...model.asset.warnings, ...(await doubtsOf(model))].map(({ code, message, where }) => ({
      ...place(where, message),
      severity: 'warning',
      code,
      hint: '',
    }));
  } catch (error) {
    if (!(error instanceof LensError)) throw error;
    const { cause } = error;
    return error.code === 'sheet/faults' ? (cause as LensError[]).map(told) : [told(error)];
  }
}

/** What is found in the models and sheets that a sheet names; shaders were compiled when it was read. */
async function checkNamed(file: string, { files }: LoadedSheet): Promise<ModelFinding[]> {
  const found: ModelFinding[] = [];
  for (const address of files.model.keys()) found.push(...(await checkModel(join(dirname(file), address))));
  for (const [address, sheet] of files.sheet)
    found.push(...(await checkNamed(join(dirname(file), address), sheet)));
  return found;
}

/** Findings of one kind in one line, with the first of their places. */
function groupedLines(findings: readonly ModelFinding[]): string[] {
  const groups = new Map<string, ModelFinding[]>();
  for (const finding of findings) {
    // Numbers and names within differ from place to place.
    const key = `${finding.severity} ${finding.code} ${finding.plain.replace(/"[^"]*"|\d+(\.\d+)?/g, '#')}`;
    addTo(groups, key, finding);
  }
  return [...groups.values()].map((group) => {
    const [{ file, hint, plain, pointer, severity, where }] = group as [ModelFinding];
    const more = group.length > 1 ? `, and ${group.length - 1} more like it` : '';
    const rest = group
      .slice(1, 4)
      .map((one) => one.pointer ?? '')
      .filter(Boolean);
    const places = rest.length > 0 ? `\n  also at ${rest.join(', ')}${group.length > 4 ? ' ...' : ''}` : '';
    const place = [file, where, pointer].filter((part) => part !== undefined && part !== '').join(' ');
    const painted = severity === 'error' ? chalk.red(severity) : chalk.yellow(severity);
    return `${chalk.bold(place)}: ${painted}: ${plain}${more}${places}${hint ? `\n  ${chalk.cyan('hint:')} ${hint}` : ''}`;
  });
}
