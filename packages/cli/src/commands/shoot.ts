import { readFile } from 'node:fs/promises';
import { LensError, colorWithAlpha, type Panorama } from '@umber-lens/core/engine';
import chalk from 'chalk';
import { Command, InvalidArgumentError, Option } from 'commander';
import { type Effect, type ShownQuantity, SHOWS, type ToneMapping, TONES } from 'umber-lens';
import type { Film, ShotRequest } from '../browser/shot.js';
import { type Backend, BACKENDS, type Drawn, drawingHost, type Shot, type Take } from '../host/host.js';
import { openModel } from '../open/open-model.js';
import { openFinish } from '../open/open-finish.js';
import { openEnvironment } from '../open/open-environment.js';
import { MOST_FRAMES, openFilm } from '../report/film-file.js';
import { checkNames } from '../open/check-names.js';
import { encodePicture } from '../report/picture-file.js';
import { checkEnding, checkOutput, writeOutput } from '../report/write-output.js';
import { asSize, parseNumber, parseSize } from './parse.js';
import { progressBar, withProgress } from '../report/progress.js';
import { bytes, counted } from '../report/survey-report.js';

interface ShootOptions {
  out: string;
  size: { width: number; height: number };
  camera?: string;
  clearColor?: [number, number, number, number];
  environment?: string;
  exposure: number;
  toneMapping?: ToneMapping;
  fog?: number;
  variant?: string;
  animation?: string;
  at?: number;
  weights?: Record<string, number>;
  seconds?: number;
  fps: number;
  turn?: number;
  show: ShownQuantity;
  shadows: boolean;
  finish?: string;
  lights?: ShotRequest['lights'];
  allowOutside?: boolean;
  backend?: Backend;
}

export function shootCommand(): Command {
  return new Command('shoot')
    .description('Draws a model into a PNG, or a film into a WebP, without a screen.')
    .argument('<file>', 'a model (glTF, GLB, OBJ, PLY, STL) or a sheet (.sheet.json)')
    .requiredOption('--out <file>', 'file to write; for a film a .webp, or a folder for PNGs')
    .option('--size <size>', 'width x height in pixels', parseSize, asSize(1280, 800))
    .option(
      '--camera <name>',
      'a camera of the model, by its name or its node; default the first, else all is framed',
    )
    .option(
      '--clear-color <color>',
      'what is seen where nothing is: a CSS color; "transparent" leaves it out; default the environment, else grey',
      parseColor,
    )
    .option(
      '--environment <file>',
      'light from all around: a panorama (.hdr, PNG, JPEG), what umber bake made (.ktx2), or "sky"',
    )
    .option(
      '--exposure <stops>',
      'each stop doubles the light; 0 suits the environment',
      parseNumber(-20, 20),
      0,
    )
    .addOption(
      new Option(
        '--tone-mapping <name>',
        "curve from light to what a screen shows; default a sheet's, else soft",
      ).choices(TONES),
    )
    .option(
      '--fog <density>',
      'air that takes light away: density a metre, such as 0.02',
      parseNumber(0, 1000),
    )
    .option('--variant <name>', 'a variant of the model, by its name')
    .option('--animation <name>', 'an animation of the model, by its name')
    .option('--at <seconds>', 'which second of the animation; default its first', parseNumber(0, 1e6))
    .option(
      '--weights <json>',
      'weights of morph targets by their names, such as \'{"blink": 1}\'',
      parseWeights,
    )
    .option(
      '--seconds <seconds>',
      'a film of this length: the animation of --animation runs on, else the camera goes around once',
      parseNumber(0.01, 600),
    )
    .option('--fps <pictures>', 'pictures a second of the film', parseNumber(0.1, 120), 24)
    .option(
      '--turn <rounds>',
      'how often the camera goes around in the film; default once, and not with --animation',
      parseNumber(-100, 100),
    )
    .addOption(
      new Option('--show <quantity>', 'one quantity of the surfaces instead of their light')
        .choices(SHOWS)
        .default('shaded'),
    )
    .addOption(
      new Option(
        '--lights <which>',
        "the model's own, a neutral one, or none; default the model's, or a neutral one where nothing else lights it",
      ).choices(['model', 'neutral', 'none']),
    )
    .option(
      '--finish <effects>',
      'effects on the picture, as docs/effects.md has them: a JSON file with a list, or the list itself',
    )
    .option('--no-shadows', 'draw without shadows')
    .addOption(
      new Option(
        '--backend <name>',
        'webgpu or webgl2 in Chromium, or WebGPU in node; default what the machine has',
      ).choices(BACKENDS),
    )
    .option('--allow-outside', 'let the model name files outside its folder')
    .addHelpText(
      'after',
      '\nExample:\n  umber shoot harbour.glb --out harbour.png --camera arrival --environment sky --tone-mapping agx\n  umber shoot harbour.glb --out old.png --environment sky --finish \'[{ "type": "sepia" }, { "type": "contrast", "amount": 1.2 }]\'',
    )
    .action((file: string, options: ShootOptions) => shoot(file, options));
}

async function shoot(file: string, options: ShootOptions): Promise<void> {
  const start = performance.now();
  if (options.at !== undefined && options.animation === undefined)
    throw new LensError('shoot/no-animation', '--at says when, but not of which animation', {
      hint: 'Name one with --animation; umber survey lists them.',
    });
  const film = filmOf(options);
  if (!film) {
    checkEnding(
      options.out,
      ['.png', '.jpg', '.jpeg'],
      'Name it .png or .jpg; a film is a .webp, with --seconds.',
    );
    await checkOutput(options.out, [file], false);
  }
  const finish = options.finish === undefined ? undefined : await openFinish(options.finish);
  const host = await drawingHost(options.backend);
  if (!host) return;
  const pictures = film && openFilm(options.out, options.size, film.fps);
  const bar = film && progressBar(`drawing ${file}`, film.frames);
  const take: Take = async (pixels, number) => {
    await pictures?.add(pixels, number);
    bar?.set(number + 1);
  };
  const draw = async (): Promise<{ answer: Drawn; size: number }> => {
    const model = await openModel(file, { allowOutside: options.allowOutside ?? false });
    checkNames(model.asset, options);
    const picture = await readEnvironment(options);
    const drawn = await host.with({ models: [model], files: [file], picture }, (drawing) =>
      drawing.draw(0, shotOf(options, finish), take),
    );
    if (pictures) return { answer: drawn, size: await pictures.end() };
    const encoded = await encodePicture(drawn.pixels, options.size, options.out);
    await writeOutput(options.out, encoded, { inputs: [file] });
    return { answer: drawn, size: encoded.length };
  };
  // The bar tells as much as the spinner would.
  const { answer, size } = await (bar ? draw() : withProgress(`drawing ${file}`, draw)).finally(() =>
    bar?.stop(),
  );
  const { width, height } = options.size;
  const seconds = ((performance.now() - start) / 1000).toFixed(1);
  const view = answer.camera ? `through camera "${answer.camera}"` : 'framed whole, since it has no camera';
  const lines = [
    `${chalk.green('wrote')} ${options.out} ${chalk.dim(`${film ? `${film.frames} pictures of ` : ''}${width} x ${height}, ${bytes(size)}, in ${seconds} s`)}`,
    `  ${view}; ${counted(answer.draws, 'draw call')}, ${counted(answer.triangles, 'triangle')}, by ${answer.backend}`,
  ];
  if (answer.addedLight && options.lights !== 'neutral')
    lines.push('  the model has no light: a neutral one was added (--lights none leaves it out)');
  process.stdout.write(`${lines.join('\n')}\n`);
}

/** @throws LensError `shoot/film` for options that do not go together */
function filmOf({ animation, fps, out, seconds, turn }: ShootOptions): Film | undefined {
  if (seconds === undefined) {
    if (turn === undefined && !/\.webp$/i.test(out)) return undefined;
    throw new LensError(
      'shoot/film',
      `${turn === undefined ? out : '--turn'} asks for a film, but not how long`,
      {
        hint: 'Say it: --seconds 3. A single picture is written as .png.',
      },
    );
  }
  const frames = Math.max(1, Math.round(seconds * fps));
  if (frames > MOST_FRAMES)
    throw new LensError('shoot/film', `${seconds} seconds of ${fps} pictures are ${frames} pictures`, {
      hint: `At most ${MOST_FRAMES}: make it shorter, or --fps lower.`,
    });
  return { frames, fps, turns: turn ?? (animation === undefined ? 1 : 0) };
}

/** The environment's picture, looked at before anything is started. @throws LensError of `openEnvironment` */
async function readEnvironment({
  environment,
}: ShootOptions): Promise<{ panorama: Panorama; bytes: Uint8Array } | undefined> {
  if (environment === undefined || environment === 'sky') return undefined;
  return { panorama: await openEnvironment([environment]), bytes: await readFile(environment) };
}

function shotOf(options: ShootOptions, finish: Effect[] | undefined): Shot {
  const { environment } = options;
  const film = filmOf(options);
  return {
    ...options.size,
    ...(options.camera === undefined ? {} : { camera: options.camera }),
    ...(options.clearColor ? { clearColor: options.clearColor } : {}),
    ...(environment === undefined
      ? {}
      : { environment: environment === 'sky' ? ('sky' as const) : ('picture' as const) }),
    exposure: options.exposure,
    ...(options.toneMapping === undefined ? {} : { toneMapping: options.toneMapping }),
    ...(options.lights === undefined ? {} : { lights: options.lights }),
    ...(options.fog === undefined ? {} : { fog: options.fog }),
    ...(options.variant === undefined ? {} : { variant: options.variant }),
    ...(options.animation === undefined
      ? {}
      : { animation: { name: options.animation, at: options.at ?? 0 } }),
    ...(film ? { film } : {}),
    ...(options.weights === undefined ? {} : { weights: options.weights }),
    show: options.show,
    shadows: options.shadows && options.show === 'shaded',
    ...(finish ? { finish } : {}),
    allowOutside: options.allowOutside ?? false,
  };
}

function parseWeights(text: string): Record<string, number> {
  const hint = 'Give names and numbers as JSON, such as {"blink": 1}.';
  let given: unknown;
  try {
    given = JSON.parse(text);
  } catch {
    throw new InvalidArgumentError(hint);
  }
  if (typeof given !== 'object' || given === null || Array.isArray(given))
    throw new InvalidArgumentError(hint);
  if (!Object.values(given).every((value) => Number.isFinite(value))) throw new InvalidArgumentError(hint);
  return given as Record<string, number>;
}

function parseColor(text: string): [number, number, number, number] {
  try {
    return text.trim() === 'transparent' ? [0, 0, 0, 0] : colorWithAlpha(text);
  } catch {
    throw new InvalidArgumentError('Give a CSS color, such as #c4ccd2, rgb(40, 60, 80) or transparent.');
  }
}
