import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import { type AddressInfo } from 'node:net';
import {
  bakePanorama,
  box,
  type Panorama,
  writeBakedKtx2,
  writeGlb,
  writeGltf,
  writeHdr,
} from '@umber-lens/core/engine';
import { readFileSync } from 'node:fs';
import { testPage } from './stage.js';
import { seenOnce } from '../waiting.js';

const stage = testPage({ expects: /^Failed to load resource/ });
const PIXEL = new Uint8Array(readFileSync('tests/fixtures/pixel.png'));
const image = (
  name: string,
): { name: string; content: { kind: 'encoded'; mimeType: string; bytes: Uint8Array } } => ({
  name,
  content: { kind: 'encoded', mimeType: 'image/png', bytes: PIXEL },
});
const node = (pictures: string[]): Parameters<typeof writeGlb>[0] => ({
  nodes: [
    {
      name: 'crate',
      children: [],
      mesh: {
        primitives: pictures.map((name) => ({
          geometry: box(),
          material: { name, baseColorTexture: { texture: { image: image(name) } } },
        })),
      },
    },
  ],
});
const GLB = Buffer.from(writeGlb(node(['a'])));
const PARTED = writeGltf(node(['a', 'b', 'c']), 'quay');

/** What the server does for each path; `gone` tells which requests were given up by the page. */
let server: Server;
let address: string;
const gone: string[] = [];
const served: string[] = [];

function answer(request: IncomingMessage, response: ServerResponse): void {
  const path = request.url ?? '';
  served.push(path);
  response.on('close', () => {
    if (!response.writableFinished) gone.push(path);
  });
  response.setHeader('Access-Control-Allow-Origin', '*');
  response.setHeader('Access-Control-Expose-Headers', 'Content-Length');
  const whole = (bytes: Uint8Array): void => {
    response.setHeader('Content-Length', bytes.length);
    response.end(bytes);
  };
  const [, kind, name = ''] = path.split('/');
  switch (kind) {
    case 'plain':
      return whole(GLB);
    case 'picture':
      return whole(PIXEL);
    case 'slow': {
      response.setHeader('Content-Length', GLB.length);
      const step = Math.ceil(GLB.length / 8);
      const drip = (at: number): void => {
        if (at >= GLB.length) return void response.end();
        response.write(GLB.subarray(at, at + step));
        setTimeout(() => drip(at + step), 150);
      };
      return drip(0);
    }
    case 'cut':
      response.setHeader('Content-Length', GLB.length);
      response.write(GLB.subarray(0, 200));
      return void setTimeout(() => response.destroy(), 30);
    case 'unannounced':
      // Without a length the page can only see that the file itself is too short.
      response.write(GLB.subarray(0, 200));
      return void setTimeout(() => response.end(), 30);
    case 'silent':
      return;
    case 'stalled':
      response.setHeader('Content-Length', GLB.length);
      return void response.write(GLB.subarray(0, 200));
    case 'refused':
      response.statusCode = 503;
      return void response.end();
    case 'parted': {
      // One picture is missing, and another never ends.
      const found = PARTED.get(name);
      if (name.startsWith('quay-c') || name === 'c.png') return void response.write('x');
      if (!found || /b\.png$/.test(name)) {
        response.statusCode = 404;
        return void response.end();
      }
      return whole(found);
    }
    case 'light': {
      const found = LIGHT.get(name);
      if (found) return whole(found);
      response.statusCode = 404;
      return void response.end();
    }
    default:
      response.statusCode = 404;
      response.end();
  }
}

/** Red from the right (+X), blue from the left. */
function dusk(): Panorama {
  const [width, height] = [64, 32];
  const data = new Float32Array(width * height * 4);
  for (let i = 0; i < width * height; i++)
    data.set(i % width >= width / 2 ? [3, 0.5, 0.25, 1] : [0.25, 0.5, 3, 1], i * 4);
  return { width, height, data };
}
const LIGHT = new Map<string, Uint8Array>([
  ['dusk.hdr', writeHdr(dusk())],
  ['side.png', PIXEL],
  ['torn.hdr', writeHdr(dusk()).slice(0, 200)],
  ['words.txt', new TextEncoder().encode('no picture')],
]);

beforeAll(async () => {
  LIGHT.set('dusk.ktx2', await writeBakedKtx2(bakePanorama(dusk(), { side: 64 })));
  server = createServer(answer);
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => {
  server.closeAllConnections();
  server.close();
});
interface Outcome {
  nodes?: number;
  error?: { code: string; message: string; hint: string; file: string | undefined; name: string };
  progress: { loaded: number; total: number; fraction: number }[];
}

const load = (path: string, options: { timeout?: number; abortAfter?: number } = {}): Promise<Outcome> =>
  stage.page.evaluate(
    async ([url, { timeout, abortAfter }]) => {
      const progress: Outcome['progress'] = [];
      const controller = new AbortController();
      const started = umber.loadModel(url, {
        onProgress: (now) => {
          progress.push(now);
          if (abortAfter !== undefined && now.loaded >= abortAfter) controller.abort();
        },
        signal: controller.signal,
        ...(timeout === undefined ? {} : { timeout }),
      });
      try {
        return { nodes: (await started).asset.nodes.length, progress };
      } catch (error) {
        const { code, message, hint, where, name } = error as InstanceType<typeof umber.LensError>;
        return { error: { code: String(code), message, hint, file: where?.file, name }, progress };
      }
    },
    [`${address}${path}`, options] as const,
  );

test('a slow load tells how far it is, and never goes back', async () => {
  const { nodes, progress } = await load('/slow/quay.glb');
  expect(nodes).toBe(1);
  expect(progress.length).toBeGreaterThan(5);
  expect(progress.at(-1)).toEqual({ loaded: GLB.length, total: GLB.length, fraction: 1 });
  for (let i = 1; i < progress.length; i++) {
    expect(progress[i]!.fraction).toBeGreaterThanOrEqual(progress[i - 1]!.fraction);
    // The last tenth is for decoding.
    if (progress[i]!.loaded < GLB.length) expect(progress[i]!.fraction).toBeLessThan(0.9);
  }
});

test('a connection that is cut is told with how far it came, not as a damaged file', async () => {
  const { error } = await load('/cut/quay.glb');
  expect(error).toMatchObject({ code: 'load/network', file: `${address}/cut/quay.glb` });
  expect(error!.message).toContain(`the connection was lost after 200 of ${GLB.length} bytes`);
});

test('a file that ends too early without a word is found by its own length', async () => {
  const { error } = await load('/unannounced/quay.glb');
  expect(error!.code).toBe('glb/length');
  expect(error!.message).toContain('200');
});

test.each([
  ['answers nothing', '/silent/quay.glb'],
  ['stops half-way', '/stalled/quay.glb'],
])('a server that %s is waited for as long as was said', async (_, path) => {
  const { error } = await load(path, { timeout: 0.3 });
  expect(error).toMatchObject({
    code: 'load/timeout',
    message: expect.stringContaining('nothing came for 0.3 s') as string,
  });
  expect(error!.hint).toContain('timeout');
});

test('a slow but steady load outlasts the timeout', async () => {
  // Eight parts 150 ms apart: each comes in time, all together do not.
  expect((await load('/slow/quay.glb', { timeout: 0.9 })).nodes).toBe(1);
});

test.each([
  ['/nowhere/quay.glb', 'load/http', /404/, /path is right/],
  ['/refused/quay.glb', 'load/http', /503/, /^$/],
])('%s is told with what the server says', async (path, code, message, hint) => {
  const { error } = await load(path);
  expect(error).toMatchObject({ code, file: `${address}${path}` });
  expect(error!.message).toMatch(message);
  expect(error!.hint).toMatch(hint);
});

test('a host that is not there is told as that', async () => {
  const closed = createServer();
  await new Promise<void>((done) => closed.listen(0, '127.0.0.1', done));
  const { port } = closed.address() as AddressInfo;
  await new Promise((done) => closed.close(done));
  const outcome = await stage.page.evaluate(async (url) => {
    try {
      await umber.loadModel(url);
      return '';
    } catch (error) {
      return (error as InstanceType<typeof umber.LensError>).code;
    }
  }, `http://127.0.0.1:${port}/quay.glb`);
  expect(outcome).toBe('load/network');
});

test('when one of several files is missing, it is named, and the others are given up', async () => {
  const main = [...PARTED.keys()].find((name) => name.endsWith('.gltf'))!;
  gone.length = 0;
  served.length = 0;
  const { error } = await load(`/parted/${main}`);
  expect(error).toMatchObject({ code: 'load/http' });
  expect(error!.file).toMatch(/b\.png$/);
  // Whatever else was asked for meanwhile is let go of.
  const open = (): string[] => served.filter((path) => path.endsWith('c.png') && !gone.includes(path));
  expect(await seenOnce(open, (paths) => paths.length === 0)).toEqual([]);
});

test('an aborted load ends at once, as every abort does, and lets go of the connection', async () => {
  gone.length = 0;
  const { error, progress } = await load('/stalled/quay.glb', { abortAfter: 100 });
  expect(error!.name).toBe('AbortError');
  expect(progress.at(-1)!.loaded).toBe(200);
  await seenOnce(() => gone.length, Boolean);
  expect(gone).toEqual(['/stalled/quay.glb']);
});

test('a load that was aborted before it began asks for nothing', async () => {
  served.length = 0;
  const name = await stage.page.evaluate(async (url) => {
    try {
      await umber.loadModel(url, { signal: AbortSignal.abort() });
      return '';
    } catch (error) {
      return (error as Error).name;
    }
  }, `${address}/plain/quay.glb`);
  expect([name, served]).toEqual(['AbortError', []]);
});

test('light from all around is told by its contents, and lights the same baked ahead of time', async () => {
  const told = await stage.page.evaluate(async (base) => {
    const { facing, loadEnvironment, openLens, plane, Scene } = umber;
    const lens = await openLens(document.createElement('canvas'), {
      pixelRatio: 1,
      onMessage: () => undefined,
    });
    const lit: number[][] = [];
    const sizes: number[][] = [];
    for (const source of [`${base}dusk.hdr`, `${base}dusk.ktx2`, Array<string>(6).fill(`${base}side.png`)]) {
      const panorama = await loadEnvironment(source);
      sizes.push([panorama.width, panorama.height]);
      const scene = new Scene();
      scene.imageLight = { panorama };
      for (const roughnessFactor of [0.1, 1])
        scene.createNode({
          translation: [0, roughnessFactor < 1 ? 0.5 : -0.5, 0],
          // They lean to the right.
          rotation: facing([-0.5, -1, 0], [0, 0, 1]),
          mesh: {
            geometry: plane(),
            material: { name: `${roughnessFactor}`, roughnessFactor, metallicFactor: 1, doubleSided: true },
          },
        });
      const camera = scene.createNode({
        translation: [0, 0, 3],
        camera: { type: 'perspective', yfov: 0.6, znear: 0.1 },
      });
      const target = lens.createTarget({ width: 16, height: 16 });
      await lens.load(scene);
      lens.draw(scene, camera, { target });
      lit.push([...(await target.read())]);
    }
    lens.dispose();
    const errors: string[] = [];
    for (const source of ['none.hdr', 'torn.hdr', 'words.txt', ['side.png', 'side.png']])
      await loadEnvironment(
        typeof source === 'string' ? base + source : source.map((name) => base + name),
      ).catch((error: unknown) => errors.push(String(error)));
    return { lit, sizes, errors };
  }, `${address}/light/`);
  expect(told.sizes).toEqual([
    [64, 32],
    [256, 128],
    [16, 8],
  ]);
  const [plain, baked] = told.lit;
  expect(Math.max(...plain!)).toBeGreaterThan(60);
  plain!.forEach((value, i) => expect(Math.abs(value - baked![i]!)).toBeLessThanOrEqual(12));
  expect(told.errors).toHaveLength(4);
  [/404/, /hdr|cut off|truncated/i, /no picture that this browser reads/, /six sides/].forEach((message, i) =>
    expect(told.errors[i]).toMatch(message),
  );
});

test('materials and clips are found by name, and take pictures from elsewhere', async () => {
  const found = await stage.page.evaluate(async (base) => {
    const model = await umber.loadModel(`${base}/plain/quay.glb`);
    const material = model.getMaterial('a');
    const use = await umber.loadTexture(`${base}/picture/planks.png`, {
      texCoord: 1,
      sampler: { wrapS: 'repeat' },
    });
    material.baseColorTexture = use;
    const error = await Promise.resolve()
      .then(() => model.getMaterial('b'))
      .catch((one: { code: string; hint: string }) => [one.code, one.hint]);
    const damaged = await umber
      .loadTexture(`${base}/plain/quay.glb`)
      .catch((one: { code: string }) => one.code);
    const { image, sampler } = use.texture;
    const placed = model.placeIn(new umber.Scene());
    return {
      error,
      damaged,
      names: model.animationNames,
      image: [image.name, image.content.kind, 'width' in image.content && image.content.width],
      sampler,
      texCoord: use.texCoord,
      isSeen: placed.find('crate')?.mesh?.primitives[0]?.material?.baseColorTexture === use,
    };
  }, address);
  expect(found).toEqual({
    error: ['model/no-material', expect.stringMatching(/There is "a"/)],
    damaged: 'image/damaged',
    names: [],
    image: ['planks.png', 'host', 4],
    sampler: { wrapS: 'repeat' },
    texCoord: 1,
    isSeen: true,
  });
});
