import type { Dominant, FrameReport } from '../ledger/frame-report.js';
import { LensError, spreadOf, batchBreaks } from '@umber-lens/core/engine';
import type { Device, DeviceTexture } from '../gpu/device.js';
import type { Ledger } from '../ledger/ledger.js';
import type { Lens } from '../lens.js';
import { finished } from './finished.js';

/** Times that each trial is drawn; the median counts. */
const ROUNDS = 9;
/** Pixels of a side at which a picture is said to cost nothing. */
const TINY = 8;

/** Draws the last scene in other ways, and says what its time goes into. */
export async function report(lens: Lens): Promise<FrameReport> {
  const { last } = lens.renderer;
  if (!last)
    throw new LensError('ledger/nothing', 'nothing was drawn yet', { hint: 'Draw some frames, then ask.' });
  const { target } = last;
  const { device, ledger } = lens;
  const { recent } = ledger;
  const count = recent.length;
  const script = spreadOf(recent.list('milliseconds')).median;
  const uploaded = spreadOf(recent.list('bytesUploaded')).median;
  const stalled = recent.list('stalled').reduce((sum, value) => sum + value, 0) / count;
  const stalledFrames = recent.over('stalled', 0);
  const facts = factsOf(lens);
  const { width, height } = target;
  const sizes = [
    { width, height },
    { width: Math.max(1, width >> 1), height: Math.max(1, height >> 1) },
    { width: TINY, height: TINY },
  ];
  const targets = sizes.map((size) =>
    device.createTexture({ label: 'trial', ...size, format: 'rgba8unorm', renderable: true }),
  );
  const buffer = uploaded > 0 ? uploadTrial(device, uploaded) : undefined;
  let times: number[];
  try {
    times = await inTurn(
      [...targets.map((texture) => () => drawInto(lens, texture)), () => buffer?.write()],
      device,
    );
  } finally {
    for (const texture of targets) texture.dispose();
    buffer?.dispose();
  }
  const [full = 0, half = 0, tiny = 0, upload = 0] = times;
  const pixels = Math.max(0, full - tiny);
  const bandwidth = buffer ? upload : 0;
  const vertices = Math.max(0, tiny - script - bandwidth);
  const milliseconds = { script, vertices, pixels, bandwidth, stalls: stalled };
  const dominant = (Object.keys(milliseconds) as Dominant[]).reduce((a, b) =>
    milliseconds[b] > milliseconds[a] ? b : a,
  );
  const ms = (value: number): string => `${value.toFixed(2)} ms`;
  const because = [
    `a frame of ${width} x ${height} takes ${ms(full)} until the GPU is done; with a quarter of the pixels it takes ${ms(half)}, with next to none ${ms(tiny)}`,
    `script takes ${ms(script)} of a frame, the median of the last ${count}`,
    ...(uploaded > 0
      ? [
          `${(uploaded / 1000).toFixed(1)} kB go to the GPU each frame, which takes ${ms(bandwidth)} by itself`,
        ]
      : []),
    ...(stalledFrames > 0
      ? [
          `${stalledFrames} of the last ${count} frames waited for something that was made in them, ${ms(stalled)} a frame on average`,
        ]
      : []),
  ];
  const first = adviceOn(dominant, facts, ledger, { full, half, tiny });
  const text = [
    `${HEADLINES[dominant]} (${ms(milliseconds[dominant])} of ${ms(Math.max(full, script))})`,
    ...because.map((line) => `  ${line}`),
    'first:',
    ...first.map((line) => `  ${line}`),
  ].join('\n');
  return { dominant, milliseconds, frame: full, because, first, text };
}

const HEADLINES: Record<Dominant, string> = {
  script: 'script dominates',
  vertices: 'vertices dominate',
  pixels: 'pixels dominate',
  bandwidth: 'what is sent to the GPU dominates',
  stalls: 'waiting for what is made in a frame dominates',
};

interface Facts {
  draws: number;
  triangles: number;
  pixels: number;
  shadowsDrawn: number;
  apart: [words: string, count: number][];
  samples: number;
  listMilliseconds: number;
  lights: number;
}

/** Taken before the trials change the ledger. */
function factsOf(lens: Lens): Facts {
  const { ledger, renderer } = lens;
  const { scene, target } = renderer.last!; // looked at before
  const counted = new Map<string, number>();
  for (const { words, reason } of renderer.lastList ? batchBreaks(renderer.lastList) : [])
    if (reason !== 'first') counted.set(words.split(':')[0]!, (counted.get(words.split(':')[0]!) ?? 0) + 1);
  return {
    draws: ledger.draws,
    triangles: ledger.triangles,
    pixels: target.width * target.height,
    shadowsDrawn: ledger.shadows.drawn,
    apart: [...counted].sort(([, a], [, b]) => b - a),
    samples: renderer.sampleCount,
    listMilliseconds: ledger.passes[0]?.milliseconds ?? 0,
    lights: scene.lights.size,
  };
}

function adviceOn(
  dominant: Dominant,
  { draws, triangles, pixels, shadowsDrawn, apart, samples, listMilliseconds, lights }: Facts,
  ledger: Ledger,
  { full, half, tiny }: { full: number; half: number; tiny: number },
): string[] {
  const many = apart[0];
  const merging = many && draws > 50 ? [`merge draws: ${many[1]} of ${draws} stand apart by ${many[0]}`] : [];
  const advice: Record<Dominant, string[]> = {
    script: [
      ...merging,
      ...(listMilliseconds > ledger.milliseconds / 2
        ? ['move many nodes in bulk (`setWorldTransforms`), or make copies of one thing a swarm']
        : ['see which pass takes it: `console.table(lens.ledger.passes)`']),
    ],
    vertices: [
      ...(shadowsDrawn > 0
        ? [`${shadowsDrawn} shadow maps are drawn anew each frame: let what throws them stand still`]
        : []),
      ...(triangles > pixels / 4
        ? [
            `${triangles.toLocaleString('en')} triangles for ${pixels.toLocaleString('en')} pixels: use levels of detail (\`umber trim --levels\`, levels and \`thin\` of swarms)`,
          ]
        : []),
      ...merging,
      'look at `lens.view.show = "wires"` for what is finer than it looks',
    ],
    pixels: [
      // With a quarter of the pixels a quarter of their time is left, unless surfaces are small.
      ...(full - half > 0.5 * (full - tiny)
        ? [`draw fewer pixels: a lower \`pixelRatio\`, or \`dynamicResolution: true\``]
        : []),
      ...(samples > 1 ? ['try `antialias: false`: each pixel has four samples'] : []),
      ...(lights > 8
        ? [`${lights} lights: give them a \`range\`, so that they light only what is near`]
        : []),
      'look at `lens.view.show = "overdraw"`: bright places are drawn many times over; `lens.view.renderPath = "prepass"` shades each once',
    ],
    bandwidth: ['let what does not move alone: only what is written to is sent', ...merging],
    stalls: [
      'make pipelines ahead of time: `await lens.load(scene)`; `ledger.stalls` names what was waited for',
    ],
  };
  return advice[dominant];
}

function drawInto({ renderer, ledger }: Lens, texture: DeviceTexture): void {
  const last = renderer.last!; // looked at before
  renderer.draw(last.scene, last.camera, texture, last.settings, ledger);
  renderer.last = last;
}

/** Runs each in turn, some times, until the GPU is done. @returns the median milliseconds of each */
async function inTurn(trials: (() => void)[], device: Device): Promise<number[]> {
  const times = trials.map((): number[] => []);
  for (let round = -2; round < ROUNDS; round++) {
    for (const [i, trial] of trials.entries()) {
      await finished(device);
      const start = performance.now();
      trial();
      await finished(device);
      // The first rounds make what is missing.
      if (round >= 0) times[i]!.push(performance.now() - start); // one each
    }
  }
  return times.map((list) => spreadOf(list).median);
}

function uploadTrial(device: Device, bytes: number): { write(): void; dispose(): void } {
  const data = new Uint32Array(Math.ceil(bytes / 4));
  const buffer = device.createBuffer({ label: 'trial', usage: 'vertex', size: data.byteLength });
  return { write: () => device.writeBuffer(buffer, 0, data), dispose: () => buffer.dispose() };
}
