import { readFileSync } from 'node:fs';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import sharp from 'sharp';
import { plane, writeGlb } from '@umber-lens/core/engine';
import { testPage } from './stage.js';
import { seenOnce } from '../waiting.js';

const stage = testPage({
  expects: /^Failed to load resource|name-twice|and this GPU takes|two materials are named|nothing lights/,
});
const PIXEL = new Uint8Array(readFileSync('tests/fixtures/pixel.png'));

/** A model with a picture of its own colour, and two materials of one name. */
async function model(red: number): Promise<Buffer> {
  const bytes = new Uint8Array(
    await sharp({ create: { width: 4, height: 4, channels: 3, background: { r: red, g: 0, b: 0 } } })
      .png()
      .toBuffer(),
  );
  const image = { name: 'planks', content: { kind: 'encoded' as const, mimeType: 'image/png', bytes } };
  const material = (name: string): object => ({
    name,
    baseColorTexture: { texture: { name: 'wood', image } },
  });
  const primitives = ['deck', 'deck', 'hull'].map((name) => ({
    geometry: plane(),
    material: material(name),
  }));
  return Buffer.from(
    writeGlb({ nodes: [{ name: 'tug', children: [], mesh: { name: 'tug', primitives } }], animations: [] }),
  );
}

let server: Server;
let address: string;
const served: string[] = [];
const open: ServerResponse[] = [];
/** What the page let go. */
const gone: string[] = [];
let files: Record<string, Buffer>;
/** By path: how often the server has failed. */
const failed: Record<string, number> = {};

function answer(request: IncomingMessage, response: ServerResponse): void {
  const path = (request.url ?? '').slice(1);
  served.push(path);
  response.setHeader('Access-Control-Allow-Origin', '*');
  const [kind, name = ''] = path.split('/') as [string, string?];
  const body = files[name.replace(/\?.*/, '')];
  if (kind === 'flaky' && (failed[path] = (failed[path] ?? 0) + 1) < 3)
    return void response.writeHead(503).end();
  if (kind === 'broken') return void response.writeHead(500).end();
  if (kind === 'endless') {
    response.on('close', () => void gone.push(path));
    // Nothing that anybody reads, and never an end.
    return void response.write(Buffer.alloc(16384, 7));
  }
  if (kind === 'held') return void open.push(response);
  if (!body) return void response.writeHead(404).end();
  response.setHeader('Content-Length', body.length);
  response.end(body);
}

beforeAll(async () => {
  const deep = Uint16Array.from({ length: 64 }, (_, i) => i * 1024 + 7);
  files = {
    'tug.glb': await model(200),
    'twin.glb': await model(200),
    'other.glb': await model(90),
    'pixel.png': Buffer.from(PIXEL),
    'green.png': await sharp({ create: { width: 4, height: 4, channels: 3, background: '#00ff00' } })
      .png()
      .toBuffer(),
    'deep.png': await sharp(deep, { raw: { width: 8, height: 8, channels: 1 } })
      .toColourspace('grey16')
      .png()
      .toBuffer(),
    'wide.png': await sharp({ create: { width: 9000, height: 4, channels: 3, background: '#ff0000' } })
      .png()
      .toBuffer(),
  };
  server = createServer(answer).listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => {
  for (const response of open) response.destroy();
  server.close();
});
beforeEach(() => void served.splice(0));

test('an address is loaded once for all, and again when the last has given it up', async () => {
  const found = await stage.page.evaluate(async (at) => {
    const { loadModel } = umber;
    const steps: number[] = [];
    const [a, b] = await Promise.all([
      loadModel(`${at}/plain/tug.glb`),
      loadModel(`${at}/plain/tug.glb`, { onProgress: ({ fraction }) => steps.push(fraction) }),
    ]);
    const own = await loadModel(`${at}/plain/tug.glb`, { shared: false });
    const kinds = (): string => a.asset.images[0]!.content.kind;
    const out = {
      isOne: a.asset === b.asset,
      isOwn: own.asset !== a.asset,
      // The same picture, though: it is held once.
      isPicture: own.asset.images[0]!.content === a.asset.images[0]!.content,
      heard: steps.at(-1),
      kinds: [kinds()],
    };
    a.dispose();
    a.dispose();
    out.kinds.push(kinds());
    own.dispose();
    out.kinds.push(kinds());
    b.dispose();
    out.kinds.push(kinds());
    const again = await loadModel(`${at}/plain/tug.glb`);
    return { ...out, isNew: again.asset !== a.asset };
  }, address);
  expect(found).toEqual({
    isOne: true,
    isOwn: true,
    isPicture: true,
    heard: 1,
    // Freed with the last user: it is bytes of the file again.
    kinds: ['host', 'host', 'host', 'encoded'],
    isNew: true,
  });
  expect(served).toEqual(['plain/tug.glb', 'plain/tug.glb', 'plain/tug.glb']);
});

test('models of the same picture have one texture on the GPU; what is disposed of leaves the scene and the GPU', async () => {
  const found = await stage.page.evaluate(async (at) => {
    const { loadModels, openLens, Scene } = umber;
    const lens = await openLens(document.createElement('canvas'), { pixelRatio: 1 });
    const scene = new Scene();
    const { tug, twin } = await loadModels({ tug: `${at}/plain/tug.glb`, twin: `${at}/plain/twin.glb` });
    tug.placeIn(scene);
    twin.placeIn(scene);
    const camera = scene.createNode({
      translation: [0, 2, 4],
      camera: { type: 'perspective', yfov: 1, znear: 0.1 },
    });
    const count = (): number =>
      lens.device.owners().find(({ label, kind }) => kind === 'texture' && label === 'planks')?.count ?? 0;
    lens.draw(scene, camera);
    const counts = [count(), [...scene.root.children()].length];
    tug.dispose();
    lens.draw(scene, camera);
    counts.push(count(), [...scene.root.children()].length);
    twin.dispose();
    for (let i = 0; i < 260; i++) lens.draw(scene, camera);
    counts.push(count(), [...scene.root.children()].length);
    let refused = '';
    try {
      tug.placeIn(scene);
    } catch (error) {
      refused = (error as { code: string }).code;
    }
    lens.dispose();
    return { counts, refused };
  }, address);
  expect(found).toEqual({ counts: [1, 3, 1, 2, 0, 1], refused: 'model/disposed' });
});

test('WebP and AVIF come out of models by their extensions', async () => {
  const kinds = ['webp', 'avif'] as const;
  const colour = { create: { width: 8, height: 4, channels: 3 as const, background: '#20c040' } };
  const files = await Promise.all(
    kinds.map(async (kind) => {
      const bytes = new Uint8Array(await sharp(colour)[kind]({ lossless: true }).toBuffer());
      const image = { content: { kind: 'encoded' as const, mimeType: `image/${kind}`, bytes } };
      const material = { baseColorTexture: { texture: { image } } };
      return [
        ...writeGlb({ nodes: [{ children: [], mesh: { primitives: [{ geometry: plane(), material }] } }] }),
      ];
    }),
  );
  const found = await stage.page.evaluate(async (models) => {
    const out: unknown[] = [];
    for (const bytes of models) {
      const asset = await umber.readGltf(new Uint8Array(bytes));
      const [image] = asset.images;
      await umber.decodeImage(image!);
      const { content } = image!;
      if (content.kind !== 'host') continue;
      const canvas = new OffscreenCanvas(1, 1);
      const context = canvas.getContext('2d')!;
      context.drawImage(content.source as ImageBitmap, 0, 0);
      out.push([
        asset.extensionsRequired,
        content.width,
        content.height,
        [...context.getImageData(0, 0, 1, 1).data],
      ]);
    }
    return out;
  }, files);
  expect(found).toEqual(kinds.map((kind) => [[`EXT_texture_${kind}`], 8, 4, [32, 192, 64, 255]]));
});

test('light from all around is loaded once for those who have it', async () => {
  const found = await stage.page.evaluate(async (at) => {
    const { loadEnvironment } = umber;
    const address = `${at}/plain/green.png?sky`;
    const [a, b] = await Promise.all([loadEnvironment(address), loadEnvironment(address)]);
    const c = await loadEnvironment(address);
    return [a === b, a === c, a.width, Math.round(a.data[1]! * 100)];
  }, address);
  expect(found).toEqual([true, true, 4, 100]);
  expect(served).toEqual(['plain/green.png?sky']);
});

test('a server that is overburdened is asked again; what will not help is not', async () => {
  const codes = await stage.page.evaluate(async (at) => {
    const { loadModel } = umber;
    const ending = (path: string, options = {}): Promise<string> =>
      loadModel(`${at}/${path}`, options).then(
        () => 'loaded',
        (error: { code: string }) => error.code,
      );
    return [
      await ending('flaky/tug.glb'),
      await ending('broken/tug.glb', { retries: 1 }),
      await ending('plain/gone.glb'),
      await ending('plain/gone.glb'),
    ];
  }, address);
  expect(codes).toEqual(['loaded', 'load/http', 'load/http', 'load/http']);
  expect(served.map((path) => path.split('/')[0])).toEqual([
    ...['flaky', 'flaky', 'flaky'],
    ...['broken', 'broken'],
    // A load that failed is begun anew.
    ...['plain', 'plain'],
  ]);
});

test('of files that wait, the important ones come first; who leaves a shared load does not stop it', async () => {
  const ending = stage.page.evaluate(async (at) => {
    const { loadModel, loadTexture } = umber;
    const held = new AbortController();
    // These hold all places.
    const holders = Array.from({ length: 8 }, (_, i) =>
      loadTexture(`${at}/held/${i}`, { signal: held.signal }).catch(() => 'stopped'),
    );
    await new Promise((resolve) => setTimeout(resolve, 50));
    const leaving = new AbortController();
    const left = loadModel(`${at}/plain/twin.glb`, {
      signal: leaving.signal,
      priority: -1,
    }).catch((error: Error) => error.name);
    const stays = loadModel(`${at}/plain/twin.glb`);
    const others = [
      loadTexture(`${at}/plain/pixel.png`, { priority: 1 }),
      loadTexture(`${at}/plain/green.png`, { priority: 5 }),
    ];
    leaving.abort();
    held.abort();
    const stopped = await Promise.all(holders);
    await Promise.all(others);
    return { left: await left, stays: (await stays).asset.nodes.length, stopped: stopped.length };
  }, address);
  expect(await ending).toEqual({ left: 'AbortError', stays: 1, stopped: 8 });
  expect(served.filter((path) => !path.startsWith('held'))).toEqual([
    'plain/green.png',
    'plain/pixel.png',
    'plain/twin.glb',
  ]);
});

test('a file that is no model is let go as soon as that is known', async () => {
  const code = await stage.page.evaluate(
    (at) => umber.loadModel(`${at}/endless/1`).catch((error: { code: string }) => error.code),
    address,
  );
  expect(code).toBe('model/format');
  await seenOnce(() => gone.length, Boolean);
  expect(gone).toEqual(['endless/1']);
});

test('several models have one progress, and one that is missing stops the rest', async () => {
  const found = await stage.page.evaluate(async (at) => {
    const { loadModels } = umber;
    const steps: number[] = [];
    const models = await loadModels(
      { a: `${at}/plain/tug.glb`, b: `${at}/plain/other.glb` },
      { onProgress: ({ fraction }) => steps.push(fraction) },
    );
    const isRising = steps.every((step, i) => i === 0 || step >= steps[i - 1]!);
    const code = await loadModels({ a: `${at}/plain/tug.glb`, b: `${at}/plain/gone.glb` }).catch(
      (error: { code: string }) => error.code,
    );
    return { names: Object.keys(models), isRising, last: steps.at(-1), code };
  }, address);
  expect(found).toEqual({ names: ['a', 'b'], isRising: true, last: 1, code: 'load/http' });
});

test('names that are wrong have near ones; a name that is there twice is told with both places', async () => {
  const told: string[] = [];
  stage.page.on('console', (message) => void (message.type() === 'warning' && told.push(message.text())));
  const found = await stage.page.evaluate(async (at) => {
    const tug = await umber.loadModel(`${at}/plain/tug.glb`);
    const hint = (ask: () => unknown): string => {
      try {
        ask();
        return '';
      } catch (error) {
        return `${(error as { code: string }).code}: ${(error as { hint: string }).hint}`;
      }
    };
    tug.getMaterial('deck');
    return [
      hint(() => tug.getMaterial('hul')),
      hint(() => tug.getTexture('wodd')),
      hint(() => tug.getNode('tugg')),
      hint(() => tug.getAnimation('sail')),
      tug.getTexture('wood').image.name,
      tug.getNode('tug').name,
    ];
  }, address);
  expect(found).toEqual([
    'model/no-material: Did you mean "hull"? There is "deck", "hull".',
    'model/no-texture: Did you mean "wood"? There is "wood".',
    'model/no-node: Did you mean "tug"? There is "tug".',
    'model/no-animation: There is none.',
    'planks',
    'tug',
  ]);
  expect(told).toEqual([
    'model/name-twice: 2 materials are called "deck", /materials/0 and /materials/1; the first is taken',
    'model/name-twice: 3 textures are called "wood", /textures/0 and /textures/1; the first is taken',
  ]);
});

test('textures are replaced while they are drawn, follow canvases and videos, and keep sixteen bits', async () => {
  const found = await stage.page.evaluate(async (at) => {
    const { loadTexture, openLens, plane, Scene, axisAngle } = umber;
    const lens = await openLens(document.createElement('canvas'), { pixelRatio: 1, antialias: false });
    const scene = new Scene();
    const material: Parameters<typeof scene.createNode>[0] extends infer _
      ? { unlit: true; baseColorTexture?: object }
      : never = { unlit: true };
    scene.createNode({
      rotation: axisAngle([1, 0, 0], Math.PI / 2),
      mesh: { geometry: plane(), material: material as never },
    });
    const camera = scene.createNode({
      translation: [0, 0, 1],
      camera: { type: 'orthographic', xmag: 0.4, ymag: 0.4, znear: 0, zfar: 5 },
    });
    const target = lens.createTarget({ width: 2, height: 2 });
    const seen = async (): Promise<number[]> => {
      // What is decoded while drawing takes some frames.
      for (let i = 0; i < 20; i++) {
        lens.draw(scene, camera, { target });
        await new Promise((resolve) => setTimeout(resolve, 5));
      }
      lens.draw(scene, camera, { target });
      return [...(await target.read()).slice(0, 3)];
    };
    const out: Record<string, unknown> = {};
    const texture = await loadTexture(`${at}/plain/pixel.png?own`, { sampler: { anisotropy: 16 } });
    const twin = await loadTexture(`${at}/plain/pixel.png?own`);
    out['isShared'] = twin.texture.image === texture.texture.image;
    material.baseColorTexture = texture;
    out['first'] = await seen();
    await texture.replace(`${at}/plain/green.png`);
    out['replaced'] = await seen();
    // A canvas of the page, which is painted over.
    const canvas = document.createElement('canvas');
    canvas.width = canvas.height = 4;
    const context = canvas.getContext('2d')!;
    context.fillStyle = '#0000ff';
    context.fillRect(0, 0, 4, 4);
    const live = await loadTexture(canvas);
    material.baseColorTexture = live;
    out['canvas'] = await seen();
    context.fillStyle = '#ff00ff';
    context.fillRect(0, 0, 4, 4);
    out['not told'] = await seen();
    live.texture.image.version = 1;
    out['told'] = await seen();
    // A video of what another canvas shows.
    const film = document.createElement('canvas');
    film.width = film.height = 16;
    const screen = film.getContext('2d')!;
    let color = '#ff0000';
    const paint = setInterval(() => {
      screen.fillStyle = color;
      screen.fillRect(0, 0, 16, 16);
    }, 20);
    const video = document.createElement('video');
    video.muted = true;
    video.srcObject = film.captureStream(30);
    await video.play();
    material.baseColorTexture = await loadTexture(video);
    const isNear = (pixel: number[], wanted: number[]): boolean =>
      pixel.every((v, c) => Math.abs(v - wanted[c]!) < 60);
    const until = async (wanted: number[]): Promise<boolean> => {
      for (let i = 0; i < 50; i++) if (isNear(await seen(), wanted)) return true;
      return false;
    };
    out['red film'] = await until([255, 0, 0]);
    color = '#00ff00';
    out['green film'] = await until([0, 255, 0]);
    clearInterval(paint);
    const deep = await loadTexture(`${at}/plain/deep.png`, {
      sampler: { magFilter: 'nearest', minFilter: 'nearest', mipmapFilter: 'none' },
    });
    const { content } = deep.texture.image;
    out['deep'] = content.kind === 'levels' && content.format;
    out['broken'] = await loadTexture(`${at}/plain/tug.glb`).catch((error: { code: string }) => error.code);
    out['empty'] = await loadTexture(document.createElement('canvas')).catch(() => 'refused');
    // Too wide for this GPU.
    material.baseColorTexture = await loadTexture(`${at}/plain/wide.png`);
    out['wide'] = await seen();
    out['most'] = lens.device.limits.maxTextureSize;
    lens.dispose();
    return out;
  }, address);
  expect(found).toMatchObject({
    isShared: true,
    replaced: [0, 255, 0],
    canvas: [0, 0, 255],
    'not told': [0, 0, 255],
    told: [255, 0, 255],
    'red film': true,
    'green film': true,
    deep: 'rgba16float',
    broken: 'image/damaged',
    wide: [255, 0, 0],
    most: 8192,
  });
  expect(served.filter((path) => path === 'plain/pixel.png?own').length).toBe(1);
});
