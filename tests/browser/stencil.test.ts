import type { Backend, Effect, Material, RenderPath } from 'umber-lens';
import { testPage } from './stage.js';

/** Where a unit square stands, how large it is, and more of its material. */
type Square = [color: [number, number, number], x: number, z: number, size: number, more: Material];

interface Given {
  squares: Square[];
  renderPath?: RenderPath;
  /** Samples of a pixel that the target asks for, and whether the lens has several. */
  samples?: 1 | 4;
  antialias?: boolean;
  stencil?: boolean;
  /** How often it is drawn. */
  draws?: number;
  finish?: Effect[];
}

/** The red, green and blue of a row through the middle of 16 x 16 pixels, as many numbers for each; and what was said. */
async function row(given: Given): Promise<{ colors: string; said: string[] }> {
  const { plane, Scene } = umber;
  const { antialias = false, stencil = true, draws = 1, renderPath = 'forward' } = given;
  const { finish = [], samples, squares } = given;
  const said: string[] = [];
  const lens = await keptLens({ antialias, stencil });
  const stop = lens.on('message', ({ code }) => said.push(code));
  lens.view.renderPath = renderPath;
  const target = lens.createTarget({ width: 16, height: 16, ...(samples ? { samples } : {}) });
  const scene = new Scene({ clearColor: [0, 0, 0, 1] });
  for (const [[r, g, b], x, z, size, more] of squares)
    scene.createNode({
      translation: [x, 0, z],
      rotation: [Math.SQRT1_2, 0, 0, Math.SQRT1_2],
      mesh: {
        geometry: plane({ width: size, depth: size }),
        material: { unlit: true, baseColorFactor: [r, g, b, 1], ...more },
      },
    });
  const camera = scene.createNode({
    translation: [0, 0, 10],
    camera: { type: 'orthographic', xmag: 1, ymag: 1, znear: 0.1, zfar: 20 },
  });
  await lens.load(scene);
  for (let i = 0; i < draws; i++) lens.draw(scene, camera, { target, finish });
  const pixels = await target.read();
  stop();
  target.dispose();
  const names: Record<string, string> = { '0,0,0': '.', '255,0,0': 'r', '0,255,0': 'g', '0,0,255': 'b' };
  const at = (x: number): string => [...pixels.slice((8 * 16 + x) * 4, (8 * 16 + x) * 4 + 3)].join();
  return { colors: Array.from({ length: 16 }, (_, x) => names[at(x)] ?? '?').join(''), said };
}

const [RED, GREEN, BLUE]: [number, number, number][] = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];
/** Marks what it covers, unseen. */
const MARKS: Material = {
  stencil: { passOp: 'replace', reference: 3 },
  writeMask: 0,
  depthWrite: false,
  drawOrder: -2,
};

describe.each<Backend>(['webgl2', 'webgpu'])('stencils on %s', (backend) => {
  const held = testPage({ as: backend });
  const drawn = (given: Given): Promise<{ colors: string; said: string[] }> => held.page.evaluate(row, given);

  test('a thing is seen within what another one marked, and outside of it', async () => {
    const squares = (compare: 'equal' | 'not-equal'): Square[] => [
      [RED, -0.5, 0, 1, MARKS],
      [GREEN, 0, 0, 2, { stencil: { compare, reference: 3 } }],
    ];
    expect((await drawn({ squares: squares('equal') })).colors).toBe('gggggggg........');
    expect((await drawn({ squares: squares('not-equal') })).colors).toBe('........gggggggg');
    // Drawn again it begins anew, and so with several samples a pixel.
    expect((await drawn({ squares: squares('equal'), draws: 3, antialias: true })).colors).toBe(
      'gggggggg........',
    );
  });

  test('operations by what happened, and bits that are read and written', async () => {
    // Hidden parts count: what lies behind the blue square marks it.
    const hidden: Square[] = [
      [BLUE, -0.5, 1, 1, { drawOrder: -4 }],
      [RED, 0, 0, 2, { ...MARKS, stencil: { depthFailOp: 'replace', reference: 1 } }],
      [GREEN, 0, 2, 2, { stencil: { compare: 'equal', reference: 1 } }],
    ];
    expect((await drawn({ squares: hidden })).colors).toBe('gggggggg........');
    // Twice marked is 2, once is 1.
    const counts: Square[] = [
      [RED, -0.5, 0, 1, { ...MARKS, stencil: { passOp: 'increment-clamp' } }],
      [RED, 0, 0, 2, { ...MARKS, stencil: { passOp: 'increment-wrap' } }],
      [GREEN, 0, 0, 2, { stencil: { compare: 'equal', reference: 2 } }],
      [BLUE, 0, 0, 2, { stencil: { compare: 'greater', reference: 2 }, drawOrder: 1 }],
    ];
    expect((await drawn({ squares: counts })).colors).toBe('ggggggggbbbbbbbb');
    const bits: Square[] = [
      [RED, -0.5, 0, 1, { ...MARKS, stencil: { passOp: 'replace', reference: 255, writeMask: 0b100 } }],
      [GREEN, 0, 0, 2, { stencil: { compare: 'equal', reference: 0b110, readMask: 0b100 } }],
      [
        BLUE,
        0,
        0,
        2,
        { stencil: { compare: 'equal', reference: 0b100, readMask: 0b110, failOp: 'zero' }, drawOrder: -1 },
      ],
    ];
    // The blue one is drawn first; where it fails it leaves 0.
    expect((await drawn({ squares: bits })).colors).toBe('gggggggg........');
  });

  // The paths are the same on both: one interface draws them all.
  if (backend === 'webgl2')
    test.each<RenderPath>(['prepass', 'deferred'])('drawn %s', async (renderPath) => {
      const squares: Square[] = [
        [RED, -0.5, 0, 1, MARKS],
        [BLUE, 0, -1, 2, {}],
        [GREEN, 0, 0, 2, { stencil: { compare: 'equal', reference: 3 } }],
      ];
      expect((await drawn({ squares, renderPath })).colors).toBe('ggggggggbbbbbbbb');
    });

  test('effects read depths beside it, of one sample and of several', async () => {
    const squares: Square[] = [
      [RED, -0.5, 0, 1, MARKS],
      [GREEN, 0, 0, 2, { stencil: { compare: 'equal', reference: 3 } }],
    ];
    const finish: Effect[] = [{ type: 'depth-of-field', focus: 10 }];
    for (const antialias of [false, true])
      expect(await drawn({ squares, antialias, finish })).toEqual({ colors: 'gggggggg........', said: [] });
  });

  test('a lens without one says how to have one, and draws on', async () => {
    const squares: Square[] = [
      [RED, -0.5, 0, 1, { stencil: { compare: 'equal' } }],
      [GREEN, 0.5, 0, 1, {}],
    ];
    const { colors, said } = await drawn({ squares, stencil: false });
    expect(colors.slice(8)).toBe('gggggggg');
    expect(said).toContain('material/stencil');
  });

  test('a target has the samples that it asks for, whatever the lens has', async () => {
    // Its edge goes through the middle of a pixel.
    const squares: Square[] = [[GREEN, 0.0625, 0, 1, {}]];
    const edges = async (antialias: boolean, samples: 1 | 4): Promise<boolean> =>
      (await drawn({ squares, antialias, samples })).colors.includes('?');
    expect(await edges(true, 1)).toBe(false);
    expect(await edges(false, 4)).toBe(true);
    expect(await edges(true, 4)).toBe(true);
  });
});
