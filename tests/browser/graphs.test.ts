import {
  compileGraph,
  evaluateGraph,
  type Graph,
  type GraphInput,
  probedValues,
  probeEffect,
  readGraph,
} from '@umber-lens/core/graphs';
import type { Backend } from 'umber-lens';
import { randomGraph } from '../random-graph.js';
import { testPage } from './stage.js';

const stage = testPage({ webgpu: true });

/** A plane of 2 x 2 metres in 8 x 8 pixels, seen straight from the front: red, green and blue of 0 to 1 of each pixel. */
async function shoot(text: string, backend: Backend): Promise<number[][]> {
  return stage.page.evaluate(
    async ([graph, on]) => {
      const { axisAngle, compileGraphShader, openLens, plane, Scene } = umber;
      const lens = await openLens(undefined, { backend: on, antialias: false });
      const scene = new Scene({ clearColor: [0, 0, 0, 1] });
      const shader = compileGraphShader(graph, { file: 'test.graph.json' });
      scene.createNode({
        rotation: axisAngle([1, 0, 0], Math.PI / 2),
        mesh: { geometry: plane({ width: 2, depth: 2 }), material: { shader } },
      });
      const camera = scene.createNode({
        translation: [0, 0, 5],
        camera: { type: 'orthographic', xmag: 1, ymag: 1, znear: 0, zfar: 10 },
      });
      const target = lens.createTarget({ width: 8, height: 8 });
      lens.draw(scene, camera, { target });
      const bytes = await target.read();
      lens.dispose();
      return Array.from({ length: 64 }, (_, i) => [...bytes.slice(i * 4, i * 4 + 3)]);
    },
    [text, backend] as const,
  );
}

const encoded = (c: number): number => 255 * (c <= 0.0031308 ? 12.92 * c : 1.055 * c ** (1 / 2.4) - 0.055);

/** Numbers by chance, the same each time (Lehmer). */
function chancesOf(seed: number): number[] {
  let state = seed;
  return Array.from({ length: 60 }, () => (state = (state * 48271) % 2147483647) % 1000);
}

test.each(['webgl2', 'webgpu'] as const)(
  'on %s random graphs show what they are on the CPU',
  async (backend) => {
    for (const seed of [7, 101, 4242]) {
      // Half of the value about a half: what lies beyond is cut off on both sides.
      const shown = (input: GraphInput): GraphInput => ({
        call: 'saturate',
        in: [{ call: '+', in: [{ call: '*', in: [input, 0.25] }, 0.5] }],
      });
      const graph: Graph = randomGraph(chancesOf(seed), (vector, number) => ({
        outputColor: {
          call: 'vec4f',
          in: [
            shown({
              call: '+',
              in: ['@p.position', { call: 'sin', in: [{ call: '+', in: [vector, number] }] }],
            }),
            1,
          ],
        },
      }));
      const pixels = await shoot(JSON.stringify(graph), backend);
      const compiled = compileGraph(graph);
      expect(new Set(pixels.map(String)).size).toBeGreaterThan(8);
      let off = 0;
      for (const [i, pixel] of pixels.entries()) {
        const [u, v] = [((i % 8) + 0.5) / 8, (Math.floor(i / 8) + 0.5) / 8];
        const p = {
          position: [u * 2 - 1, 1 - v * 2, 0],
          normal: [0, 0, 1],
          texcoord0: [u, v],
          color: [1, 1, 1, 1],
        };
        const { gives } = evaluateGraph(compiled, 'outputColor', { p });
        const wanted = (gives as number[]).slice(0, 3).map(encoded);
        if (pixel.some((byte, k) => Math.abs(byte - wanted[k]!) > 1.6)) off++;
      }
      // Where a step or a fraction jumps, a pixel may fall on the other side.
      expect(off).toBeLessThan(3);
    }
  },
);

/** What changes from pixel to pixel by two by two of them: squares of places. */
const COMPARING = `{
  "graph": 1,
  "nodes": {
    "bent": { "call": "dot", "in": [{ "call": "*", "in": ["@p.position", "@p.position"] }, [1, 4]] },
    "right": { "call": "dpdx", "in": ["@bent"] },
    "down": { "call": "dpdy", "in": ["@bent"] },
    "both": { "call": "fwidth", "in": ["@bent"] }
  },
  "hooks": { "effect": { "call": "vec4f", "in": [{ "call": "/", "in": ["@right", 128] }, { "call": "/", "in": ["@down", 256] }, { "call": "/", "in": ["@both", 512] }, 1] } }
}`;
const [ACROSS, DOWN] = [31, 17];

test.each(['webgl2', 'webgpu'] as const)(
  'on %s an effect that compares pixels tells the numbers of the picture itself',
  async (backend) => {
    const graph = readGraph(COMPARING);
    const probed = probeEffect(graph)!;
    const pixels = [
      [0, 0],
      [5, 2],
      [6, 3],
      [15, 9],
      [30, 16],
    ] as const;
    const asked = pixels.map((probedPixel) => ({
      ...{ probedPixel, probedCorner: [0, 0] as const, probedStart: [0, 0] as const, probedAcross: 30 },
    }));
    const [shown, ...told] = await stage.page.evaluate(
      async ({ backend, wgsl, own, asked, size }) => {
        const { compileEffect, openLens, Scene } = umber;
        const lens = await openLens(undefined, { backend, antialias: false });
        const scene = new Scene();
        const camera = scene.createNode({ camera: { type: 'perspective', yfov: 1, znear: 0.1 } });
        const target = lens.createTarget(size);
        const draw = async (text: string, settings: object): Promise<number[]> => {
          const shader = compileEffect(text);
          lens.view.finish = [{ type: 'shader', shader, settings } as never];
          await lens.load(scene);
          for (let i = 0; i < 3; i++) lens.draw(scene, camera, { target });
          return [...(await target.read())];
        };
        const pictures = [await draw(own, {})];
        for (const settings of asked) pictures.push(await draw(wgsl, settings));
        lens.dispose();
        return pictures;
      },
      {
        ...{ backend, asked, wgsl: probed.wgsl, own: compileGraph(graph).wgsl },
        size: { width: ACROSS, height: DOWN },
      },
    );
    for (const [i, [x, y]] of pixels.entries()) {
      const values = probedValues(probed, told[i]!, ACROSS, asked[i]!);
      // (b + 1.5)^2 - (b + 0.5)^2 of the first one of two.
      const slope = (at: number): number => 2 * (at - (at % 2)) + 2;
      const [right, down] = [slope(x), 4 * slope(y)];
      const exact = (number: number): number[] => Array<number>(3).fill(expect.closeTo(number, 1) as number);
      expect({ x, y, ...Object.fromEntries(values ?? []) }).toMatchObject({
        ...{ x, y, right: exact(right), down: exact(down), both: exact(right + down) },
      });
      const at = (y * ACROSS + x) * 4;
      const bytes = [right / 128, down / 256, (right + down) / 512].map((share) => share * 255);
      expect(shown!.slice(at, at + 3)).toEqual(bytes.map((byte) => expect.closeTo(byte, -0.4) as number));
    }
  },
);
