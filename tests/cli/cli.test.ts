import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import {
  box,
  type Material,
  sphere,
  type Texture,
  withTangents,
  writeGlb,
  writeGltf,
  writeHdr,
} from '@umber-lens/core/engine';
import { temporaryFolder } from '../folders.js';
import { umberCommand } from './run.js';

const HARBOUR = 'examples/public/models/harbour.glb';
const TUG = 'examples/public/models/tug.glb';
const folder = temporaryFolder('cli');
const file = (name: string, bytes: string | Uint8Array): string => {
  const path = join(folder, name);
  writeFileSync(path, bytes);
  return path;
};

test('a survey tells of a tree of any depth, and folds siblings that differ in their number alone', async () => {
  const nodes = Array.from({ length: 20_000 }, (_, i) => ({
    name: `link ${i}`,
    children: i < 19_999 ? [i + 1] : [20_000, 20_001, 20_002, 20_003, 20_004],
  }));
  const floats = Array.from({ length: 5 }, (_, i) => ({ name: `float ${i}` }));
  const gltf = {
    asset: { version: '2.0' },
    scene: 0,
    scenes: [{ nodes: [0] }],
    nodes: [...nodes, ...floats],
  };
  const deep = await umberCommand('survey', file('deep.gltf', JSON.stringify(gltf)));
  expect([deep.code, deep.err]).toEqual([0, '']);
  expect(deep.out).toMatch(/└ link 0\n {4}└ link 1\n {6}└ link 2\n/);
  expect(deep.out).toContain(`${' '.repeat(160)}└ link 79\n  ... 19921 more lines\n`);
  const scenes = [{ nodes: [0] }];
  const wide = {
    ...gltf,
    scenes,
    nodes: [{ name: 'rope', children: [1, 2, 3, 4, 5, 6] }, ...floats, { name: 'hook' }],
  };
  const folded = await umberCommand('survey', file('wide.gltf', JSON.stringify(wide)));
  expect(folded.out).toMatch(/└ rope\n {4}├ float 0 ... float 4 \(5 alike\)\n {4}└ hook\n/);
});

test('survey --json prints one object with everything a tool needs, and nothing else', async () => {
  const { code, out, err } = await umberCommand('survey', HARBOUR, '--json');
  expect([code, err]).toEqual([0, '']);
  const survey = JSON.parse(out) as Record<string, unknown> & { bounds: { min: number[] } };
  // Counted by hand from the file's own JSON.
  const glb = readFileSync(HARBOUR);
  const json = JSON.parse(glb.subarray(20, 20 + glb.readUInt32LE(12)).toString()) as {
    nodes: { mesh?: number }[];
    meshes: { primitives: { attributes: { POSITION: number }; indices: number }[] }[];
    accessors: { count: number }[];
  };
  let [triangles, vertices] = [0, 0];
  for (const { mesh } of json.nodes) {
    for (const p of mesh === undefined ? [] : json.meshes[mesh]!.primitives) {
      triangles += json.accessors[p.indices]!.count / 3;
      vertices += json.accessors[p.attributes.POSITION]!.count;
    }
  }
  expect(survey).toMatchObject({
    format: 'glTF',
    nodes: json.nodes.length,
    meshes: json.meshes.length,
    primitives: json.meshes.length,
    triangles,
    vertices,
    skins: [],
    animations: [],
    morphTargets: [],
    warnings: [],
  });
  expect(survey['cameras']).toContainEqual({
    name: 'arrival',
    type: 'perspective',
    figures: 'yfov 42.4°, znear 0.1 m',
  });
  expect(survey['lights']).toContainEqual(expect.objectContaining({ name: 'sun', type: 'directional' }));
  expect(survey['textures']).toContainEqual({
    name: 'crate color',
    mimeType: 'image/jpeg',
    width: 256,
    height: 256,
  });
  expect(survey['materials']).toContainEqual({ name: 'granite', layers: [], cost: null });
  expect(survey['variants']).toEqual([]);
  expect(survey.bounds.min[0]).toBe(-200);
  // One a mesh, each having one material; blended nodes (12 floats of 3 meshes) may cost one each.
  expect(survey['drawCalls']).toBeGreaterThanOrEqual(json.meshes.length);
  expect(survey['drawCalls']).toBeLessThanOrEqual(json.meshes.length - 3 + 12);
  expect(survey['gpuBytes']).toBeGreaterThan(5e6);
});

test('survey prints a report without colour codes when piped', async () => {
  const { code, out } = await umberCommand('survey', HARBOUR);
  expect(code).toBe(0);
  expect(out).not.toContain('\u001b[');
  expect(out).toMatch(/crate 1 \.\.\. crate \d+ \(\d+ alike\)\s+mesh crate/);
  expect(out).toMatch(/draw calls\s+\d\d\n/);
  expect(out).toContain('KHR_lights_punctual');
});

test('survey reads a .gltf with its files beside it', async () => {
  const { code, out } = await umberCommand('survey', 'examples/public/models/buoy/buoy.gltf', '--json');
  expect(code).toBe(0);
  expect(JSON.parse(out)).toMatchObject({
    nodes: 6,
    lights: [
      { name: 'buoy', type: 'point' },
      { name: 'sun', type: 'directional' },
    ],
  });
});

test('help and version', async () => {
  for (const args of [['--help'], ['survey', '--help'], ['shoot', '--help']]) {
    const { code, out } = await umberCommand(...args);
    expect(code).toBe(0);
    expect(out).toContain('Usage: umber');
  }
  const { version } = JSON.parse(readFileSync('packages/cli/package.json', 'utf8')) as { version: string };
  expect((await umberCommand('--version')).out.trim()).toBe(version);
});

const pot = (): Uint8Array =>
  writeGlb({ nodes: [{ name: 'pot', children: [], mesh: { primitives: [{ geometry: box() }] } }] });
const gltf = (change: (json: Record<string, unknown>) => void): string => {
  const files = writeGltf(
    { nodes: [{ name: 'pot', children: [], mesh: { primitives: [{ geometry: box() }] } }] },
    'pot',
  );
  for (const [name, bytes] of files) file(name, bytes);
  const json = JSON.parse(Buffer.from(files.get('pot.gltf')!).toString()) as Record<string, unknown>;
  change(json);
  return JSON.stringify(json);
};

test.each<[string, () => string, RegExp, RegExp]>([
  ['no such file', () => join(folder, 'nowhere.glb'), /there is no file/, /nowhere\.glb/],
  ['a folder', () => folder, /is a folder/, /Name a file/],
  ['an empty file', () => file('empty.glb', ''), /the file is empty/, /empty\.glb/],
  [
    'no glTF at all',
    () => file('a.glb', 'once upon a time'),
    /no model of a format that is read/,
    /starts with "once upo"/,
  ],
  [
    'a GLB cut short',
    () => file('cut.glb', pot().subarray(0, 700)),
    /says it is \d+ bytes long, but there are 700/,
    /cut\.glb/,
  ],
  [
    'broken JSON',
    () => file('broken.gltf', '{\n "asset": {"version": "2.0",}\n}'),
    /broken JSON/,
    /broken\.gltf:2:\d+/,
  ],
  [
    'an index out of range',
    () =>
      file(
        'i.gltf',
        gltf((j) => (j['nodes'] = [{ mesh: 7 }])),
      ),
    /mesh 7 does not exist/,
    /\/nodes\/0\/mesh/,
  ],
  [
    'a missing external file',
    () =>
      file(
        'm.gltf',
        gltf((j) => (j['buffers'] = [{ byteLength: 840, uri: 'lost.bin' }])),
      ),
    /needs .*lost\.bin, which is not there/,
    /hint/,
  ],
  [
    'a path out of the folder',
    () =>
      file(
        'o.gltf',
        gltf((j) => (j['buffers'] = [{ byteLength: 840, uri: '../lost.bin' }])),
      ),
    /leaves the model's folder/,
    /\/buffers\/0\/uri/,
  ],
  [
    'a damaged image',
    () =>
      file(
        'd.gltf',
        gltf(
          (j) =>
            (j['images'] = [
              {
                uri: `data:image/png;base64,${readFileSync('tests/fixtures/pixel.png').subarray(0, 60).toString('base64')}`,
              },
            ]),
        ),
      ),
    /is damaged/,
    /\/images\/0/,
  ],
])('%s ends with message, place and hint, and no stack', async (name, path, message, place) => {
  // Files are opened by one function for all commands: of two rows that is seen.
  const isForAll = ['no such file', 'a damaged image'].includes(name);
  for (const command of [
    ['survey', path()],
    ...(isForAll ? [['shoot', path(), '--out', join(folder, 'x.png')]] : []),
  ]) {
    const { code, out, err } = await umberCommand(...command);
    expect([code, out]).toEqual([1, '']);
    expect(err).toMatch(message);
    expect(err).toMatch(place);
    expect(err).not.toMatch(/\n\s+at .*\.js:\d+/);
  }
});

test('--verbose adds the stack', async () => {
  const { code, err } = await umberCommand('survey', 'nowhere.glb', '--verbose');
  expect(code).toBe(1);
  expect(err).toMatch(/\n\s+at .*\.js:\d+/);
});

test('shoot draws through a named camera, with size, time and what it cost', async () => {
  const png = join(folder, 'deep/er/harbour.png');
  const { code, out } = await umberCommand(
    'shoot',
    HARBOUR,
    '--out',
    png,
    '--size',
    '320x200',
    '--camera',
    'on the quay',
    '--clear-color',
    '#204060',
  );
  expect(code).toBe(0);
  expect(out).toMatch(/wrote .*harbour\.png 320 x 200, [\d.]+ kB, in [\d.]+ s/);
  expect(out).toContain('through camera "on the quay"');
  const { data, info } = await sharp(png).raw().toBuffer({ resolveWithObject: true });
  expect([info.width, info.height, info.channels]).toEqual([320, 200, 3]);
  expect([...data.subarray(0, 3)]).toEqual([0x20, 0x40, 0x60]);
  expect(new Set(data).size).toBeGreaterThan(100);
});

test('shoot frames a model without a camera, lights it and says so; a transparent background stays so', async () => {
  const png = join(folder, 'pot.png');
  const { code, out } = await umberCommand(
    'shoot',
    file('pot.glb', pot()),
    '--out',
    png,
    '--size',
    '100x100',
    '--clear-color',
    'transparent',
  );
  expect(code).toBe(0);
  expect(out).toContain('framed whole');
  expect(out).toContain('a neutral one was added');
  const { data } = await sharp(png).raw().toBuffer({ resolveWithObject: true });
  const alpha = (x: number, y: number): number => data[(y * 100 + x) * 4 + 3]!;
  expect([alpha(0, 0), alpha(50, 50)]).toEqual([0, 255]);
  expect(data[(50 * 100 + 50) * 4]).toBeGreaterThan(60);
});

test.each([
  [
    ['shoot', HARBOUR, '--out', 'x.png', '--camera', 'crow'],
    /no camera "crow"[\s\S]*"arrival", "on the quay", "into the lamp room"/,
  ],
  [['shoot', HARBOUR, '--out', 'x.png', '--size', '0x10'], /Give it as 1280x800/],
  [['shoot', HARBOUR, '--out', 'x.png', '--clear-color', 'sunny'], /Give a CSS color/],
  [['shoot', HARBOUR], /required option '--out/],
  [['survy', HARBOUR], /survey/],
])('%j is refused with the way out', async (args, message) => {
  const { code, err } = await umberCommand(...args);
  expect(code).toBe(1);
  expect(err).toMatch(message);
});

describe('shaders', () => {
  const RIM = 'examples/shaders/rim.wgsl';
  const broken = (): string => file('broken.wgsl', 'fn f() -> f32 {\n  return vec2f(1);\n}\n');

  test('check finds nothing wrong with the demo and exits 0', async () => {
    const { code, out } = await umberCommand('check', RIM, HARBOUR);
    expect(code).toBe(0);
    expect(out).toContain('2 files: 0 errors, 0 warnings');
  });

  test('check prints place, message, line and caret, and exits 1; --json is an array alone', async () => {
    const path = broken();
    const plain = await umberCommand('check', path);
    expect(plain.code).toBe(1);
    expect(plain.out).toContain(`${path}:2:10: error: the value of "f" is f32, but this is vec2<f32>`);
    expect(plain.out).toMatch(/2 \| {3}return vec2f\(1\);\n\s+\^{8}/);
    const { code, out } = await umberCommand('check', path, HARBOUR, '--json');
    expect(code).toBe(1);
    expect(JSON.parse(out)).toEqual([
      {
        file: path,
        line: 2,
        column: 10,
        severity: 'error',
        code: 'wgsl/type',
        message: expect.any(String),
        hint: expect.any(String),
      },
    ]);
  });

  test('check tells what is wrong with a model as an error, and what is doubtful as a warning', async () => {
    const bad = file(
      'index.gltf',
      gltf((j) => (j['nodes'] = [{ mesh: 7 }])),
    );
    const doubtful = file(
      'turn.gltf',
      gltf((j) => (j['nodes'] = [{ mesh: 0, rotation: [0, 0, 0, 2] }])),
    );
    const { code, out } = await umberCommand('check', bad, doubtful, '--json');
    expect(code).toBe(1);
    expect(
      (JSON.parse(out) as { severity: string; code: string }[]).map((f) => [f.severity, f.code]),
    ).toEqual([
      ['error', 'gltf/index-out-of-range'],
      ['warning', 'gltf/rotation'],
    ]);
  });

  test('check doubts what is right by the format but seldom meant', async () => {
    const path = file(
      'doubts.gltf',
      gltf((j) => {
        j['nodes'] = [
          { mesh: 0, name: 'a', scale: [1, 0, 1] },
          { mesh: 0, name: 'a' },
        ];
        j['scenes'] = [{ nodes: [0, 1] }];
      }),
    );
    const { code, out } = await umberCommand('check', path, '--json');
    expect(code).toBe(0);
    expect(
      (JSON.parse(out) as { code: string; message: string }[]).map((f) => [f.code, f.message.split(':')[0]]),
    ).toEqual([
      ['check/flat-scale', '/nodes/0/scale'],
      ['check/same-name', '/nodes/1/name'],
    ]);
  });

  test('shader --run prints JSON alone; --trace adds each line on standard error', async () => {
    const args = [
      'shader',
      RIM,
      '--run',
      'rim',
      '--args',
      '[[0.6, 0, 0.8], [0, 0, 1]]',
      '--settings',
      '{"edge": 1, "glow": [1, 0, 0]}',
    ];
    const { code, out, err } = await umberCommand(...args);
    expect([code, err]).toEqual([0, '']);
    // pow(1 - 0.8, 1)
    expect((JSON.parse(out) as number[]).map((x) => +x.toFixed(5))).toEqual([0.2, 0, 0]);
    const traced = await umberCommand(...args, '--trace');
    expect(traced.out).toBe(out);
    expect(traced.err).toMatch(/rim\.wgsl:12\s+let\s+facing = 0\.8/);
  });

  test('shader --to glsl and wgsl print shaders; --out draws the fragment entry point', async () => {
    expect((await umberCommand('shader', RIM, '--to', 'glsl')).out).toMatch(/^#version 300 es\n/);
    const { out } = await umberCommand('shader', RIM, '--to', 'wgsl', '--minify');
    expect(out).toContain('@fragment fn ball');
    expect(out).not.toContain('//');
    const png = join(folder, 'ball.png');
    const drawn = await umberCommand('shader', RIM, '--run', 'ball', '--out', png, '--size', '64x48');
    expect([drawn.code, JSON.parse(drawn.out)]).toEqual([0, { out: png, width: 64, height: 48 }]);
    const { data, info } = await sharp(png).raw().toBuffer({ resolveWithObject: true });
    expect([info.width, info.height]).toEqual([64, 48]);
    expect(new Set(data).size).toBeGreaterThan(40);
  });

  test.each([
    [['shader', 'nowhere.wgsl'], /there is no file nowhere\.wgsl/],
    [['shader', RIM, '--run', 'rimm'], /no function "rimm"[\s\S]*Did you mean "rim"/],
    [['shader', RIM, '--run', 'rim', '--args', '[1'], /not valid JSON/],
    [['shader', RIM, '--run', 'rim', '--args', '[1, 2]'], /argument 1 \(normal\) should be an array of 3/],
    [['shader', RIM, '--run', 'ball', '--out', 'x.png', '--settings', '{"edg": 1}'], /no setting "edg"/],
    [['shader', RIM, '--to', 'glsl', '--entry', 'main'], /no entry point "main"[\s\S]*ball/],
  ])('%j is refused with the way out', async (args, message) => {
    const { code, out, err } = await umberCommand(...args);
    expect([code, out]).toEqual([1, '']);
    expect(err).toMatch(message);
  });
});

test('shoot takes an environment, exposure, a tone curve, fog, a variant, no shadows, and single quantities', async () => {
  const sky = join(folder, 'red.hdr');
  const data = Float32Array.from({ length: 16 * 8 * 4 }, (_, i) => [2, 0.1, 0.05, 1][i % 4]!);
  writeFileSync(sky, writeHdr({ width: 16, height: 8, data }));
  const model = file(
    'ball.glb',
    writeGlb({
      nodes: [
        {
          children: [],
          mesh: {
            primitives: [
              {
                geometry: sphere(),
                material: { metallicFactor: 0, roughnessFactor: 0.25, baseColorFactor: [0.5, 0.5, 0.5, 1] },
                variants: { night: { metallicFactor: 0, baseColorFactor: [0, 0, 1, 1] } },
              },
            ],
          },
        },
      ],
    }),
  );
  const drawn = async (...args: string[]): Promise<{ middle: number[]; corner: number[] }> => {
    const png = join(folder, 'ball.png');
    const { code, err } = await umberCommand(
      ...['shoot', model, '--out', png, '--size', '40x40', '--backend', 'node', ...args],
    );
    expect([code, err]).toEqual([0, expect.any(String)]);
    const raw = await sharp(png).removeAlpha().raw().toBuffer();
    const at = (x: number, y: number): number[] => [...raw.subarray((y * 40 + x) * 3, (y * 40 + x) * 3 + 3)];
    return { middle: at(20, 20), corner: at(0, 0) };
  };
  const lit = await drawn('--environment', sky, '--exposure', '-1', '--tone-mapping', 'aces', '--no-shadows');
  // It is seen behind the ball, and lights it red.
  expect(lit.corner[0]!).toBeGreaterThan(3 * lit.corner[2]!);
  expect(lit.middle[0]!).toBeGreaterThan(lit.middle[2]! + 40);
  // Baked ahead of time it lights the same; so do six pictures of the same light.
  const baked = join(folder, 'red.ktx2');
  const { code, out, err } = await umberCommand('bake', sky, '--out', baked, '--side', '64');
  expect([code, err]).toEqual([0, '']);
  expect(out).toMatch(
    /wrote .*red\.ktx2[^]*from 16 x 8 pixels: a cube of 64 x 64, 6 levels.*mean radiance 2\.0, 0\.10, 0\.05/,
  );
  const again = await drawn(
    '--environment',
    baked,
    '--exposure',
    '-1',
    '--tone-mapping',
    'aces',
    '--no-shadows',
  );
  again.middle.forEach((value, k) => expect(Math.abs(value - lit.middle[k]!)).toBeLessThanOrEqual(2));
  again.corner.forEach((value, k) => expect(Math.abs(value - lit.corner[k]!)).toBeLessThanOrEqual(2));
  const side = join(folder, 'side.png');
  const red = { r: 255, g: 10, b: 10 };
  await sharp({ create: { width: 32, height: 32, channels: 3, background: red } })
    .png()
    .toFile(side);
  const six = await umberCommand('bake', ...Array<string>(6).fill(side), '--out', baked, '--side', '32');
  expect(six.out).toMatch(/from 128 x 64 pixels[^]*mean radiance 1\.0, 0\.0030, 0\.0030/);
  for (const [args, message] of [
    [[sky, sky], /one picture or six, not 2/],
    [[model], /no picture that can be read/],
    [[sky, '--side', '100'], /Give 32, 64/],
  ] as const) {
    const refused = await umberCommand('bake', ...args, '--out', baked);
    expect(refused.code).toBe(1);
    expect(refused.err).toMatch(message);
  }
  const foggy = await drawn('--fog', '50', '--clear-color', '#102030', '--exposure', '-4');
  expect(foggy.corner).toEqual([0x10, 0x20, 0x30]);
  expect(foggy.middle[0]!).toBeLessThan(100);
  const night = await drawn('--show', 'base-color', '--variant', 'night');
  expect(night.middle).toEqual([0, 0, 255]);
  for (const [args, message] of [
    [['--variant', 'noon'], /has no variant "noon"[^]*It has "night"/],
    [['--environment', model], /no picture that can be read/],
    [['--environment', join(folder, 'none.hdr')], /none\.hdr/],
    [['--exposure', 'bright'], /Give a number from -20 to 20/],
    [['--tone-mapping', 'filmy'], /Allowed choices are soft/],
    [['--show', 'heat'], /Allowed choices are shaded, base-color/],
  ] as const) {
    const { code, err } = await umberCommand('shoot', model, '--out', join(folder, 'x.png'), ...args);
    expect(code).toBe(1);
    expect(err).toMatch(message);
  }
});

test('check doubts normals that were stored as colours, and one grey picture for roughness and metal', async () => {
  const picture = async (at: (x: number, y: number) => number[]): Promise<Uint8Array> => {
    const pixels = Uint8Array.from({ length: 32 * 32 * 3 }, (_, i) => {
      const pixel = Math.floor(i / 3);
      return Math.round(255 * at((pixel % 32) / 31, Math.floor(pixel / 32) / 31)[i % 3]!);
    });
    return new Uint8Array(
      await sharp(pixels, { raw: { width: 32, height: 32, channels: 3 } })
        .png()
        .toBuffer(),
    );
  };
  const normal = (x: number, y: number): number[] => {
    const [a, b] = [x * 0.8 - 0.4, y * 0.6 - 0.3];
    return [a, b, Math.sqrt(1 - a * a - b * b)].map((c) => c * 0.5 + 0.5);
  };
  const encode = (c: number): number => (c <= 0.0031308 ? c * 12.92 : 1.055 * c ** (1 / 2.4) - 0.055);
  const bytes = {
    good: await picture(normal),
    torn: await picture((x, y) => normal(x, y).map(encode)),
    grey: await picture((x) => [x, x, x]),
    apart: await picture((x) => [1, x, 1 - x]),
  };
  const texture = (name: keyof typeof bytes): { texture: Texture } => ({
    texture: { image: { name, content: { kind: 'encoded', mimeType: 'image/png', bytes: bytes[name] } } },
  });
  const material = (name: string, n: 'good' | 'torn', m: 'grey' | 'apart'): Material => ({
    name,
    metallicFactor: 1,
    normalTexture: texture(n),
    metallicRoughnessTexture: texture(m),
  });
  const geometry = withTangents(box());
  const model = file(
    'pictures.glb',
    writeGlb({
      nodes: [material('right', 'good', 'apart'), material('wrong', 'torn', 'grey')].map((m) => ({
        children: [],
        mesh: { primitives: [{ geometry, material: m }] },
      })),
    }),
  );
  const { out } = await umberCommand('check', model, '--json');
  const told = (JSON.parse(out) as { code: string; message: string }[]).filter(({ code }) =>
    /normals-as|grey-metal/.test(code),
  );
  expect(told.map(({ code }) => code)).toEqual(['check/normals-as-colors', 'check/grey-metal']);
  for (const { message } of told) expect(message).toContain('"wrong"');
  expect(told[0]!.message).toContain('/materials/1/normalTexture');
});

test('survey tells the layers of materials with what they cost, and variants; check doubts what will look wrong', async () => {
  const model = file(
    'doubtful.glb',
    writeGlb({
      nodes: [
        {
          children: [],
          mesh: {
            primitives: [
              {
                geometry: box(),
                material: { name: 'window', metallicFactor: 0, transmissionFactor: 1, dispersion: 2 },
                variants: { frosted: { name: 'frost', roughnessFactor: 0.5, thicknessFactor: 1 } },
              },
            ],
          },
        },
        { children: [], light: { type: 'directional', intensity: 90 } },
        { children: [], light: { type: 'point', name: 'dead lamp', intensity: 0 } },
      ],
    }),
  );
  const { out } = await umberCommand('survey', model, '--json');
  const survey = JSON.parse(out) as {
    materials: { layers: string[]; cost: string | null }[];
    variants: string[];
  };
  expect(survey.materials[0]!.layers).toEqual(['transmission', 'dispersion']);
  expect(survey.materials[0]!.cost).toContain('drawn once more');
  expect(survey.variants).toEqual(['frosted']);
  const { out: checked, code } = await umberCommand('check', model);
  expect(code).toBe(0);
  for (const doubt of [
    /"window" lets light through a wall without thickness/,
    /"frost" is metal, since metallicFactor is left out/,
    /"frost" has a thickness, which only shows with transmission/,
    /light "dead lamp" gives no light: its intensity is 0/,
    /come to 90 lux: everything is white .* --exposure -5/,
  ])
    expect(checked).toMatch(doubt);
});

test('shoot draws the same by WebGPU, by WebGL2 and in Node, and says by which', async () => {
  const pictures: Buffer[] = [];
  for (const backend of ['webgpu', 'webgl2', 'node']) {
    const file = join(folder, `${backend}.png`);
    const { code, out } = await umberCommand(
      'shoot',
      TUG,
      '--out',
      file,
      '--size',
      '96x60',
      '--backend',
      backend,
    );
    expect([code, out]).toEqual([
      0,
      expect.stringMatching(backend === 'node' ? /by webgpu in Node \(/ : `by ${backend}\n`),
    ]);
    pictures.push(await sharp(file).raw().toBuffer());
  }
  const [gpu, gl, node] = pictures as [Buffer, Buffer, Buffer];
  const mean = (a: Buffer, b: Buffer): number =>
    a.reduce((sum, x, i) => sum + Math.abs(x - b[i]!), 0) / a.length;
  expect(mean(gpu, gl)).toBeLessThan(0.5);
  expect(mean(gpu, node)).toBeLessThan(0.5);
});

test('shoot takes what the machine has, and refuses a backend that there is not', async () => {
  const { out } = await umberCommand('shoot', TUG, '--out', join(folder, 'own.png'), '--size', '32x20');
  expect(out).toMatch(/by web(gpu|gl2)/);
  const { code, err } = await umberCommand('shoot', HARBOUR, '--out', 'x.png', '--backend', 'webgl3');
  expect([code, err]).toEqual([1, expect.stringMatching(/webgpu, webgl2, node/)]);
});

describe('clips and targets', () => {
  const GULL = 'examples/public/models/gull.glb';

  test('survey lists clips with what they move, and skins', async () => {
    const { out } = await umberCommand('survey', GULL, '--json');
    const survey = JSON.parse(out) as {
      drawCalls: number;
      skins: unknown[];
      animations: { name: string; keys: number; targets: { name: string; paths: string[] }[] }[];
    };
    expect(survey.drawCalls).toBe(1);
    expect(survey.skins).toEqual([{ name: 'gull', joints: 14, influences: 4 }]);
    expect(survey.animations.map(({ name, keys }) => [name, keys])).toEqual([
      ['glide', 169],
      ['flap', 156],
      ['walk', 182],
      ['land', 143],
    ]);
    expect(survey.animations[1]!.targets).toContainEqual({ name: 'body', paths: ['translation'] });
    expect((await umberCommand('survey', GULL)).out).toMatch(
      /gull 14 joints, 4 influences a vertex[^]*flap 0\.55 s/,
    );
    expect((await umberCommand('check', GULL)).out).toMatch(/0 errors, 0 warnings/);
  });

  test('shoot shows a time of a clip, and refuses clips and targets that there are not', async () => {
    const drawn = async (...args: string[]): Promise<Buffer> => {
      const png = join(folder, 'gull.png');
      const { code, err } = await umberCommand(
        ...['shoot', GULL, '--out', png, '--size', '64x40', '--backend', 'node', ...args],
      );
      expect([code, err]).toEqual([0, expect.any(String)]);
      return sharp(png).removeAlpha().raw().toBuffer();
    };
    const [rest, up] = [await drawn(), await drawn('--animation', 'flap', '--at', '0.14')];
    const differing = rest.filter((value, i) => Math.abs(value - up[i]!) > 20).length;
    expect(differing / rest.length).toBeGreaterThan(0.05);
    for (const [args, message] of [
      [['--animation', 'flop'], /has no animation "flop"[^]*Did you mean "flap"/],
      [['--at', '1'], /not of which animation/],
      [['--weights', '{"blink": 1}'], /no morph target "blink"/],
      [['--weights', 'blink'], /Give names and numbers as JSON/],
    ] as const) {
      const { code, err } = await umberCommand('shoot', GULL, '--out', join(folder, 'x.png'), ...args);
      expect([code, err]).toEqual([1, expect.stringMatching(message)]);
    }
  });
});

describe('shaders of materials', () => {
  const JELLY = 'examples/jellyfish/jellyfish.wgsl';

  test('check knows the hooks and the library that they stand on', async () => {
    const all = [
      'urn/urn',
      'glass-float/glass-float',
      'jellyfish/jellyfish',
      'jellyfish/water',
      'chart-print/chart-print',
      'chart-print/sea',
    ];
    const { code, out } = await umberCommand('check', ...all.map((name) => `examples/${name}.wgsl`));
    expect([code, out]).toEqual([0, expect.stringMatching(/6 files: 0 errors, 0 warnings/)]);
    const broken = join(folder, 'broken.wgsl');
    writeFileSync(broken, 'fn surface(p: Fragment) -> Surface {\n  return surfaceDefalts(p);\n}\n');
    const { code: exit, out: told } = await umberCommand('check', broken);
    expect(exit).toBe(1);
    expect(told).toMatch(/broken\.wgsl:2:10[\s\S]*Did you mean "surfaceDefaults"/);
    writeFileSync(broken, 'fn light(s: Surface) -> f32 {\n  return 1;\n}\n');
    expect((await umberCommand('check', broken)).out).toMatch(
      /broken\.wgsl:1:4[\s\S]*"light" must give a vec3f/,
    );
  });

  test('shader translates them, and runs their functions on the CPU', async () => {
    const glsl = await umberCommand('shader', JELLY, '--to', 'glsl', '--entry', 'meshFragment');
    expect(glsl.out).toMatch(/^#version 300 es[\s\S]*gl_FragDepth/);
    const ran = await umberCommand('shader', JELLY, '--run', 'smoothMin', '--args', '[0.5, 0.5, 0.2]');
    // Equal distances meet a quarter of the blend deeper.
    expect(JSON.parse(ran.out)).toBeCloseTo(0.45, 5);
  });
});
