import { KELP } from '../../../../tests/kelp.js';
import { FEATURE } from '../material/features.js';
import { runWgsl } from '../wgsl/run/run.js';
import { compileCompute } from './compile-entry-points.js';
import { checkHooks, compileHooks, compileModule, holdsHooks, linkHooks } from './index.js';

test('a module of hooks becomes a shader that lists what it can be given', () => {
  const shader = compileHooks(KELP, { file: 'kelp.wgsl' });
  expect(
    shader.settings.map(({ name, type, range, default: value, documentation }) => [
      name,
      type,
      range,
      value,
      documentation,
    ]),
  ).toEqual([
    ['sway', 'f32', [0, 1], 0.25, 'how far the top moves'],
    ['leaf', 'vec3<f32>', undefined, [expect.closeTo(0.0331, 3), expect.closeTo(0.1329, 3), 0], ''],
    ['turn', 'mat3x3<f32>', undefined, [0, 0, 0, 0, 0, 0, 0, 0, 0], ''],
    ['rows', 'u32', undefined, 4, ''],
  ]);
  expect(shader.settings[1]!.kind).toBe('color');
  expect(shader.settings.map((s) => s.hasDefault)).toEqual([true, true, false, true]);
  expect(shader.attributes).toEqual([{ name: 'stiffness', location: 7, components: 1 }]);
  expect(shader.instanceSettings.map((s) => [s.name, s.location, s.components])).toEqual([
    ['tint', 8, 3],
    ['phase', 9, 1],
  ]);
  expect(shader.textures).toEqual([
    { name: 'veins', binding: 1, samplerBinding: 2, kind: 'data', documentation: 'heights of the veins' },
  ]);
  // f32 at 0, vec3f at 16, mat3x3f at 32 (48 bytes), u32 at 80: 96 in all.
  expect([shader.settingsBytes, shader.isLit, shader.isMarched, shader.readsBehind]).toEqual([
    96,
    true,
    false,
    [],
  ]);
  expect(shader.glsl!.fragment.text).toMatch(/^#version 300 es\n/);
  expect(shader.wgsl).toContain('fn meshFragment');
});

test('functions of the hooks run on the CPU, where a test can see their values', () => {
  const shader = linkHooks(
    'fn falloff(x: f32) -> f32 { return pow(1 - x, 2); }\nfn outputColor() -> vec4f { return vec4f(falloff(0)); }',
  );
  expect(runWgsl(shader, 'falloff', [0.75])).toBe(0.0625);
});

test.each<[string, string, RegExp]>([
  ['fn surface(p: Fragment) -> Surface { return p; }', 'wgsl/type', /material\.wgsl|the value of "surface"/],
  [
    'fn displace(v: Vertex) -> Vertex { return v; }\nfn march(r: Ray) -> Hit { return miss(); }',
    'material/hook',
    /no vertices to displace/,
  ],
  [
    'struct Attributes { a: f32 }\nfn march(r: Ray, a: Attributes) -> Hit { return miss(); }',
    'material/hook',
    /no attributes/,
  ],
  [
    'struct Attributes { a: vec4f, b: vec4f, c: vec4f, d: f32 }\nstruct InstanceSettings { e: f32, f: f32, g: f32, h: f32, i: f32, j: f32 }\nfn outputColor() -> vec4f { return vec4f(); }',
    'material/attribute',
    /there is no room for "i"/,
  ],
  ['fn outputColor() -> vec4f {', 'wgsl/expected', /the text ends/],
])('%s is found wrong with its code', (text, code, message) => {
  const [first] = checkHooks(text);
  expect([first?.code, first?.severity, first?.file]).toEqual([code, 'error', 'material.wgsl']);
  expect(first?.message).toMatch(message);
});

test('modules of hooks are told from shaders with entry points and from libraries', () => {
  expect(holdsHooks(KELP)).toBe(true);
  expect(holdsHooks('fn falloff(x: f32) -> f32 { return x; }')).toBe(false);
  expect(holdsHooks('@fragment fn outputColor() -> @location(0) vec4f { return vec4f(); }')).toBe(false);
  expect(holdsHooks('fn surface(')).toBe(false);
});

test('what WebGL2 cannot do is kept with its reason, and the rest compiles', () => {
  const compiled = compileModule(
    `@group(0) @binding(0) var samples: texture_multisampled_2d<f32>;
     @vertex fn v() -> @builtin(position) vec4f { return vec4f(); }
     @fragment fn f() -> @location(0) vec4f { return textureLoad(samples, vec2i(), 0); }`,
    { vertex: 'v', fragment: 'f' },
  );
  expect(compiled.glsl).toBeUndefined();
  expect(compiled.notInWebgl2).toMatch(/sampled multisampled textures/);
});

test('of modules that are linked only the resources that an entry point reaches are bound, whatever others are called', () => {
  const { resources } = compileCompute(
    `import { BITS } from './bits.wgsl';
     @group(1) @binding(3) var<storage, read_write> places: array<u32>;
     @compute @workgroup_size(64) fn mask(@builtin(global_invocation_id) id: vec3u) { places[id.x] &= BITS; }`,
    'mask',
    {
      file: 'mask.wgsl',
      sources: {
        'bits.wgsl': `const BITS = 0xffu;
          @group(0) @binding(4) var<storage, read> places: array<u32>;
          fn placeAt(i: u32) -> u32 { return places[i]; }`,
      },
    },
  );
  expect(resources).toEqual([expect.objectContaining({ name: 'places', group: 1, binding: 3 })]);
});

test('what a hook asks for is found in its words and in those of what it imports, not in comments and left-out parts', () => {
  const surface = (body: string, before = ''): string =>
    `${before}fn surface(p: Fragment) -> Surface { var s = surfaceDefaults(p); ${body} return s; }`;
  const said = compileHooks(
    surface(
      '/* s.clearcoat, frame.time */ s.roughness = 0.5;',
      '// s.ior and sceneColor are told of alone\n',
    ),
  );
  expect([said.layers, said.isTimed, said.readsBehind]).toEqual([0, false, []]);
  const sources = {
    'wet.wgsl':
      "import { ripple } from 'ripple.wgsl';\nfn wet(s: Surface) -> Surface { var t = s; t.clearcoat = ripple(); return t; }",
    'ripple.wgsl':
      "import { frame } from 'umber/frame.wgsl';\nfn ripple() -> f32 { return sin(frame.time); }",
    'unused.wgsl': 'fn unused() -> f32 { return frame.delta; }',
  };
  const helped = compileHooks(surface('s = wet(s);', "import { wet } from 'wet.wgsl';\n"), {
    sources,
  });
  expect([helped.layers, helped.isTimed]).toEqual([FEATURE.clearcoat, true]);
  const still = compileHooks(surface('s.roughness = 0.1;'), { sources });
  expect([still.layers, still.isTimed]).toEqual([0, false]);
  const whole = "import { frame } from 'umber/frame.wgsl';\n";
  expect(compileHooks(surface('let f = frame; s.roughness = fract(f.time);', whole)).isTimed).toBe(true);
  expect(compileHooks(surface('s.roughness = frame.size.x;', whole)).isTimed).toBe(false);
  const text = surface('s.roughness = 0.2;\n#if wet\ns.clearcoat = 1;\n#endif\n');
  expect(compileHooks(text).layers).toBe(0);
  expect(compileHooks(text, { features: ['wet'] }).layers).toBe(FEATURE.clearcoat);
});

describe('effects on pictures', () => {
  test.each([
    ['fn effect(p: Pixel) -> vec3f { return p.color.rgb; }', /"effect" must give a vec4f/],
    ['fn effect(f: Fragment) -> vec4f { return vec4f(); }', /"effect" cannot take a Fragment/],
    [
      'fn effect(p: Pixel) -> vec4f { return p.color; }\nfn light(s: Surface, l: Light) -> vec3f { return l.color; }',
      /an effect on pictures has no "light"/,
    ],
    ['struct Attributes { a: f32 }\nfn effect(p: Pixel) -> vec4f { return p.color; }', /has no Attributes/],
    ['fn effect(p: Pixel) -> vec4f { return p.colour; }', /colour/],
  ])('%s is refused', (text, said) => {
    expect(checkHooks(text, { file: 'rain.wgsl' }).map(({ message }) => message)).toEqual([
      expect.stringMatching(said),
    ]);
  });

  test('they ask for what they read, and for nothing else', () => {
    const of = (text: string): unknown => compileHooks(text, { file: 'rain.wgsl' }).effect;
    expect(of('fn effect(p: Pixel) -> vec4f { return p.color; }')).toEqual({ inputs: [] });
    expect(
      of(
        'fn effect(p: Pixel) -> vec4f { return beforeAt(p.place) + distanceAt(p.place) + secondAt(p.place); }',
      ),
    ).toEqual({ inputs: ['effectSecond', 'effectBefore', 'effectDepth'] });
    expect(compileHooks('fn effect(p: Pixel) -> vec4f { return vec4f(p.time); }').isTimed).toBe(true);
  });

  test('their functions run without a GPU', () => {
    const shader = linkHooks(
      'struct Settings { amount: f32 }\nfn effect(p: Pixel, s: Settings) -> vec4f { return mix(p.color, vec4f(p.place, 0, 1), s.amount); }',
    );
    const p = { position: [4, 2], place: [0.5, 0.25], size: [8, 8], color: [0, 0, 1, 1], time: 0, delta: 0 };
    expect(runWgsl(shader, 'effect', [p, { amount: 0.5 }])).toEqual([0.25, 0.125, 0.5, 1]);
  });
});
