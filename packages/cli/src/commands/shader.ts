import { asSize } from './parse.js';
import {
  compileWgsl,
  drawWgsl,
  emitWgsl,
  LensError,
  reflect,
  runWgsl,
  type Shader,
  toGlsl,
  toJson,
  type TraceStep,
} from '@umber-lens/core/engine';
import chalk from 'chalk';
import { Command, InvalidArgumentError, Option } from 'commander';
import type { CompiledGraph } from '@umber-lens/core/graphs';
import { bareShader, holdsHooks, linkHooks, standAlone } from '@umber-lens/core/shading';
import { readShader } from '../open/open-shader.js';
import { checkEnding, writeOutput } from '../report/write-output.js';
import { withProgress } from '../report/progress.js';

interface ShaderOptions {
  to?: 'glsl' | 'wgsl';
  entry?: string;
  minify?: boolean;
  alone?: boolean;
  bare?: boolean;
  run?: string;
  args: unknown[];
  trace?: boolean;
  out?: string;
  size: { width: number; height: number };
  settings?: Record<string, unknown>;
  feature?: string[];
}

export function shaderCommand(): Command {
  return new Command('shader')
    .description('Translates a WGSL file or a graph, or runs it on the CPU.')
    .argument('<file>', 'a .wgsl file, or a .graph.json')
    .addOption(new Option('--to <language>', 'print it in another language').choices(['glsl', 'wgsl']))
    .option('--entry <name>', 'the entry point; may be left out when there is one')
    .option('--minify', 'with --to wgsl: short names, no spaces')
    .option('--alone', 'with --to wgsl: the hooks with all that they import, as a file that imports nothing')
    .option(
      '--bare',
      'with --to: hooks as a whole shader that stands alone, for pages without this library; its comments say what a page binds',
    )
    .option('--run <name>', 'run a function and print its value as JSON')
    .option(
      '--args <json>',
      'its arguments, a JSON array: vectors as arrays, structures as objects',
      parseArgs,
      [],
    )
    .option('--trace', 'add the value at each line, on standard error')
    .option('--out <png>', 'with --run of a fragment entry point: draw the picture')
    .option('--size <size>', 'its size, width x height', parseSize, asSize(256, 256))
    .option(
      '--settings <json>',
      'values of uniform and storage variables by name, or members of the settings',
      parseObject,
    )
    .option('--feature <name...>', 'named features that #if asks for')
    .addHelpText(
      'after',
      "\nExamples:\n  umber shader rim.wgsl --to glsl --entry main\n  umber shader rim.wgsl --run rim --args '[[0,0,1],[0,1,0]]' --trace\n  umber shader sky.wgsl --run main --out sky.png --size 320x200\n  umber shader rim.graph.json --to glsl --bare > rim.glsl",
    )
    .action((file: string, options: ShaderOptions) => act(file, options));
}

async function act(file: string, options: ShaderOptions): Promise<void> {
  const { graph, text, sources } = await readShader(file);
  const hasHooks = holdsHooks(text, file);
  const features = options.feature ?? [];
  if (options.alone) {
    if (!hasHooks || options.to !== 'wgsl')
      throw new LensError('shader/alone', `--alone is for ${hasHooks ? '--to wgsl' : 'hooks'}`, {
        hint: 'umber shader rim.graph.json --to wgsl --alone',
        where: { file },
      });
    process.stdout.write(standAlone(text, { file, sources, features }));
    return;
  }
  if (options.bare) {
    if (!hasHooks || options.to === undefined)
      throw new LensError('shader/alone', `--bare is for ${hasHooks ? '--to glsl or --to wgsl' : 'hooks'}`, {
        hint: 'umber shader rim.graph.json --to glsl --bare',
        where: { file },
      });
    process.stdout.write(bareShader(text, options.to, { file, sources, features }));
    return;
  }
  const link = hasHooks ? linkHooks : compileWgsl;
  const shader = link(text, { file, sources, features });
  if (options.run !== undefined) {
    await run(shader, options.run, options, graph && { file, compiled: graph.compiled });
    return;
  }
  if (options.to === 'glsl') {
    process.stdout.write(toGlsl(shader, chooseEntry(shader, options.entry)).text);
    return;
  }
  if (options.to === 'wgsl') {
    const written = emitWgsl(shader, {
      minify: options.minify ?? false,
      ...(options.entry === undefined ? {} : { entry: chooseEntry(shader, options.entry) }),
    });
    process.stdout.write(written.endsWith('\n') ? written : `${written}\n`);
    return;
  }
  process.stdout.write(`${JSON.stringify(reflect(shader), null, 2)}\n`);
}

function chooseEntry(shader: Shader, name: string | undefined): string {
  const entries = reflect(shader).entryPoints.map((entry) => entry.name);
  if (name !== undefined) return name;
  if (entries.length === 1) return entries[0]!;
  throw new LensError(
    'shader/entry',
    entries.length === 0 ? 'the module has no entry point' : 'the module has several entry points',
    {
      where: { file: shader.file },
      hint:
        entries.length === 0
          ? 'Mark a function with @vertex, @fragment or @compute.'
          : `Choose one by --entry: ${entries.join(', ')}.`,
    },
  );
}

async function run(
  shader: Shader,
  name: string,
  options: ShaderOptions,
  graph: { file: string; compiled: CompiledGraph } | undefined,
): Promise<void> {
  const trace: TraceStep[] = [];
  const resources = resourcesOf(shader, options.settings ?? {});
  if (options.out !== undefined) {
    checkEnding(options.out, ['.png'], 'Name it .png.');
    const { width, height } = options.size;
    const { picture, bytes } = await withProgress(`drawing ${shader.file}`, async () => {
      const inputs = (input: string): unknown => options.settings?.[input];
      const drawn = drawWgsl(shader, name, { width, height, resources, inputs });
      return { picture: drawn, bytes: await encode(drawn.data, width, height) };
    });
    await writeOutput(options.out, bytes);
    process.stdout.write(
      `${JSON.stringify({ out: options.out, width: picture.width, height: picture.height })}\n`,
    );
    return;
  }
  const result = runWgsl(shader, name, options.args, { resources, ...(options.trace ? { trace } : {}) });
  for (const step of trace) {
    const value = step.value === undefined ? '' : ` = ${JSON.stringify(toJson(step.value, step.type))}`;
    // Lines of a graph are those of its WGSL: a node is found by its name.
    const spot = graph && step.file === graph.file ? graph.compiled.lines[step.line - 1] : undefined;
    const place = spot?.node === undefined ? `${step.file}:${step.line}` : `node "${spot.node}"`;
    process.stderr.write(`${chalk.dim(place.padEnd(24))} ${step.kind.padEnd(7)}${step.name}${value}\n`);
  }
  process.stdout.write(`${JSON.stringify(result)}\n`);
}

/** Settings name variables, or members of the one uniform variable of type Settings. */
function resourcesOf(shader: Shader, settings: Record<string, unknown>): Record<string, unknown> {
  const { resources } = reflect(shader);
  const out: Record<string, unknown> = {};
  const rest: Record<string, unknown> = {};
  for (const [key, value] of Object.entries(settings)) {
    if (resources.some((r) => r.name === key)) out[key] = value;
    else rest[key] = value;
  }
  const known = new Set([
    ...resources.map((r) => r.name),
    ...reflect(shader).settings.map((s) => s.name),
    ...inputNames(shader),
  ]);
  const stray = Object.keys(settings).find((key) => !known.has(key));
  if (stray !== undefined) {
    throw new LensError('shader/setting', `the shader has no setting "${stray}"`, {
      where: { file: shader.file },
      hint: known.size > 0 ? `It has ${[...known].join(', ')}.` : 'It has none.',
    });
  }
  const holder = resources.find((r) => r.kind === 'uniform' && r.type === 'Settings');
  const defaults = Object.fromEntries(
    reflect(shader).settings.flatMap((s) => (s.default === undefined ? [] : [[s.name, s.default]])),
  );
  if (holder) {
    const names = reflect(shader).settings.map((s) => s.name);
    out[holder.name] ??= {
      ...defaults,
      ...Object.fromEntries(Object.entries(rest).filter(([key]) => names.includes(key))),
    };
  }
  return out;
}

function inputNames(shader: Shader): string[] {
  return reflect(shader).entryPoints.flatMap((entry) => entry.inputs.map((input) => input.name));
}

async function encode(data: Float32Array, width: number, height: number): Promise<Buffer> {
  const pixels = Buffer.alloc(width * height * 4);
  for (let i = 0; i < data.length; i++) {
    const value = data[i]!; // i < length
    pixels[i] = Math.round(Math.min(1, Math.max(0, Number.isNaN(value) ? 0 : value)) * 255);
  }
  const { default: sharp } = await import('sharp');
  return sharp(pixels, { raw: { width, height, channels: 4 } })
    .png()
    .toBuffer();
}

function parseJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch (error) {
    throw new InvalidArgumentError(`It is not valid JSON: ${error instanceof Error ? error.message : ''}`);
  }
}

function parseArgs(text: string): unknown[] {
  const value = parseJson(text);
  if (!Array.isArray(value))
    throw new InvalidArgumentError("Give a JSON array, an argument each: '[1.5, [0, 1, 0]]'.");
  return value;
}

function parseObject(text: string): Record<string, unknown> {
  const value = parseJson(text);
  if (typeof value !== 'object' || value === null || Array.isArray(value))
    throw new InvalidArgumentError('Give a JSON object: \'{"edge": 2}\'.');
  return value as Record<string, unknown>;
}

function parseSize(text: string): ShaderOptions['size'] {
  const match = /^(\d{1,4})x(\d{1,4})$/i.exec(text.trim());
  const [width, height] = [Number(match?.[1]), Number(match?.[2])];
  if (!match || width < 1 || height < 1 || width > 4096 || height > 4096)
    throw new InvalidArgumentError('Give it as 256x256; each side 1 to 4096.');
  return { width, height };
}
