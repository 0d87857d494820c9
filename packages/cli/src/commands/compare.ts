import { LensError } from '@umber-lens/core/engine';
import chalk from 'chalk';
import { Command, Option } from 'commander';
import { type Comparison, type Effect, RENDER_PATHS, type RenderPath } from 'umber-lens';
import { verdictText } from 'umber-lens/figures';
import { type Backend, BACKENDS, drawingHost, type Shot } from '../host/host.js';
import { openFinish } from '../open/open-finish.js';
import { type OpenedModel, openModel } from '../open/open-model.js';
import { comparisonReport } from '../report/comparison-report.js';
import { progressBar } from '../report/progress.js';
import { asSize, parseNumber, parseSize } from './parse.js';

/** What a model can be drawn with or without. */
const SWITCHES = ['shadows', 'environment', 'fog', 'prepass', 'deferred', 'finish'] as const;
type Switch = (typeof SWITCHES)[number];

interface CompareCommandOptions {
  with: Switch[];
  without: Switch[];
  on: Comparison['on'];
  turns: number;
  sure: number;
  size: { width: number; height: number };
  camera?: string;
  finish?: string;
  json?: boolean;
  allowOutside?: boolean;
  backend?: Backend;
}

const STEPS = 100;

export function compareCommand(): Command {
  const collect = (text: string, before: Switch[]): Switch[] => [...before, text as Switch];
  const switches = (flag: string, about: string): Option =>
    new Option(flag, about).choices(SWITCHES).argParser((text, before: Switch[] | undefined) => {
      if (!(SWITCHES as readonly string[]).includes(text))
        throw new LensError('compare/switch', `nothing can be drawn with or without "${text}"`, {
          hint: `Use one of ${SWITCHES.join(', ')}.`,
        });
      return collect(text, before ?? []);
    });
  return new Command('compare')
    .description(
      'Draws two models in turn, or one model both ways, and says which is faster, or that it cannot tell.',
    )
    .argument('<a>', 'a model (glTF, GLB, OBJ, PLY, STL) or a sheet (.sheet.json)')
    .argument('[b]', 'another one; left out: the same, drawn otherwise')
    .addOption(
      switches(
        '--with <what>',
        `what b is drawn with, and a is not: ${SWITCHES.join(', ')}; may be given again`,
      ),
    )
    .addOption(switches('--without <what>', 'what a is drawn with, and b is not'))
    .addOption(
      new Option('--on <time>', 'whole frames, the script alone, or the passes by the clock of the GPU')
        .choices(['frame', 'script', 'gpu'])
        .default('frame'),
    )
    .option('--turns <number>', 'turns that each gets', parseNumber(2, 10_000), 40)
    .option('--sure <share>', 'how sure the verdict is to be', parseNumber(0.5, 0.99999), 0.99)
    .option('--size <size>', 'width x height in pixels', parseSize, asSize(640, 400))
    .option('--finish <effects>', 'the effects of --with finish: a JSON file with a list, or the list itself')
    .option('--camera <name>', 'a camera of the models, by its name or its node')
    .addOption(
      new Option('--backend <name>', 'webgpu or webgl2 in Chromium, or WebGPU in node').choices(BACKENDS),
    )
    .option('--json', 'print one JSON object and nothing else')
    .option('--allow-outside', 'let the models name files outside their folders')
    .addHelpText(
      'after',
      '\nExamples:\n  umber compare harbour.glb harbour-trimmed.glb\n  umber compare harbour.glb --with shadows\n  umber compare harbour.glb --with prepass --on gpu --json',
    )
    .action((a: string, b: string | undefined, options: CompareCommandOptions) => compare(a, b, options));
}

async function compare(a: string, b: string | undefined, options: CompareCommandOptions): Promise<void> {
  const [withs, withouts] = [options.with ?? [], options.without ?? []];
  if (b === undefined && withs.length + withouts.length === 0)
    throw new LensError('compare/same', 'one model drawn one way cannot be compared', {
      hint: 'Name a second file, or say what differs: --with shadows.',
    });
  const finish = await finishOf(options, [...withs, ...withouts]);
  const host = await drawingHost(options.backend);
  if (!host) return;
  const open = (file: string): Promise<OpenedModel> =>
    openModel(file, { allowOutside: options.allowOutside ?? false });
  const models: [OpenedModel, OpenedModel] = [await open(a), await open(b ?? a)];
  const names: [string, string] =
    b === undefined || b === a ? [described(withouts, 'plain'), described(withs, 'plain')] : [a, b];
  const bar = progressBar('drawing in turn', STEPS);
  const progress = (fraction: number): void => bar?.set(Math.round(fraction * STEPS));
  const how = { turns: options.turns, on: options.on, confidence: options.sure };
  const { comparison, backend } = await host
    .with({ models, files: [a, b ?? a] }, (drawing) =>
      drawing.compare(shotOf(options, withouts, finish), shotOf(options, withs, finish), how, progress),
    )
    .finally(() => bar?.stop());
  if (options.json) {
    const words = verdictText(comparison.verdict, names);
    const named = { a: { name: names[0], ...comparison.a }, b: { name: names[1], ...comparison.b } };
    process.stdout.write(
      `${JSON.stringify({ ...named, on: comparison.on, verdict: { ...comparison.verdict, words }, backend }, null, 2)}\n`,
    );
    return;
  }
  process.stdout.write(comparisonReport(comparison, names));
  process.stdout.write(chalk.dim(`  ${options.size.width} x ${options.size.height}, by ${backend}\n`));
}

const described = (switches: readonly Switch[], none: string): string =>
  switches.length > 0 ? `with ${switches.join(', ')}` : none;

/** The effects that a switch turns on. @throws LensError `compare/finish` where nobody said which */
async function finishOf({ finish }: CompareCommandOptions, switches: readonly Switch[]): Promise<Effect[]> {
  if (finish !== undefined) return openFinish(finish);
  if (!switches.includes('finish')) return [];
  throw new LensError('compare/finish', 'nobody said which effects to compare with', {
    hint: 'Add --finish FILE, or --finish \'[{ "type": "blur", "stdDeviation": 4 }]\'.',
  });
}

function shotOf(options: CompareCommandOptions, switches: readonly Switch[], finish: Effect[]): Shot {
  const { camera } = options;
  const has = (name: Switch): boolean => switches.includes(name);
  return {
    ...options.size,
    ...(camera === undefined ? {} : { camera }),
    ...(has('environment') ? { environment: 'sky' as const } : {}),
    ...(has('fog') ? { fog: 0.02 } : {}),
    ...(has('finish') ? { finish } : {}),
    exposure: 0,
    show: 'shaded',
    shadows: has('shadows'),
    renderPath: RENDER_PATHS.find((path): path is RenderPath => has(path as Switch)) ?? 'forward',
    allowOutside: options.allowOutside ?? false,
  };
}
