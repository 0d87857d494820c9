import {
  attributeFrom,
  box,
  geometryFrom,
  glslMaterialShader,
  interleave,
  lensOn,
  Scene,
  createMaterial,
} from '../index.js';
import { keptBy } from '../../../../tests/heap.js';
import { stagesOf, TraceDevice, vertexLayout } from '../device.js';
import {
  compileWgsl,
  FEATURE,
  fromHalfFloats,
  reflect,
  runWgsl,
  toGlsl,
  toHalfFloats,
} from '@umber-lens/core/engine';
import { packSettings } from '../resources/settings-store.js';
import { checkMaterial, compileMaterialShader, compileModule, holdsHooks, linkMaterial } from './index.js';

const KELP = `// Kelp in the swell.
struct Settings {
  sway: f32,       // 0..1 = 0.25   how far the top moves
  leaf: vec3f,     // color = #336600
  turn: mat3x3f,
  rows: u32,       // = 4
}
struct InstanceSettings { tint: vec3f, phase: f32 } // color = #fff
struct Attributes { stiffness: f32 }
var veins: texture_2d<f32>;   // data   heights of the veins
var veinsSampler: sampler;

fn displace(v: Vertex, s: Settings, a: Attributes, i: InstanceSettings) -> Vertex {
  var out = v;
  out.position.x += s.sway * (1 - a.stiffness) * sin(frame.time + i.phase);
  return out;
}

fn surface(p: Fragment, s: Settings, i: InstanceSettings) -> Surface {
  var out = surfaceDefaults(p);
  out.baseColor = s.leaf * i.tint * textureSample(veins, veinsSampler, p.texcoord0).r;
  return out;
}
`;

test('a module of hooks becomes a shader that lists what it can be given', () => {
  const shader = compileMaterialShader(KELP, { file: 'kelp.wgsl' });
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

test('settings are packed as WGSL lays them out; a matrix of three rows has its columns padded', () => {
  const shader = compileMaterialShader(KELP);
  const out = new Float32Array(24);
  const given = { sway: 0.5, turn: [1, 2, 3, 4, 5, 6, 7, 8, 9], rows: 7 };
  expect(packSettings(shader, given, out)).toBe(true);
  expect(out[0]).toBe(0.5);
  expect([...out.slice(8, 20)]).toEqual([1, 2, 3, 0, 4, 5, 6, 0, 7, 8, 9, 0]);
  expect(new Uint32Array(out.buffer)[20]).toBe(7);
  expect(packSettings(shader, given, out)).toBe(false);
  given.turn[4] = 5.5;
  expect(packSettings(shader, given, out)).toBe(true);
  expect(out[13]).toBe(5.5);
});

test('a shader material begins with every setting at its default, in arrays of its own', () => {
  const shader = compileMaterialShader<{ sway: number; leaf: number[]; turn: number[]; rows: number }>(KELP);
  const [a, b] = [createMaterial(shader, { settings: { rows: 2 }, name: 'a' }), createMaterial(shader)];
  expect(a).toMatchObject({ name: 'a', settings: { sway: 0.25, rows: 2 } });
  a.settings.leaf[0] = 9;
  expect(b.settings.leaf[0]).not.toBe(9);
});

test('functions of the hooks run on the CPU, where a test can see their values', () => {
  const shader = linkMaterial(
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
    'struct Attributes { a: vec4f, b: vec4f, c: vec4f, d: f32 }\nstruct InstanceSettings { e: f32, f: f32, g: f32, h: f32, i: f32, j: f32 }\nfn outputColor() -> vec4f { return vec4f(); }',
    'material/attribute',
    /there is no room for "i"/,
  ],
  ['fn outputColor() -> vec4f {', 'wgsl/expected', /the text ends/],
])('%s is found wrong with its code', (text, code, message) => {
  const [first] = checkMaterial(text);
  expect([first?.code, first?.severity, first?.file]).toEqual([code, 'error', 'material.wgsl']);
  expect(first?.message).toMatch(message);
});

test('modules of hooks are told from shaders with entry points and from libraries', () => {
  expect(holdsHooks(KELP)).toBe(true);
  expect(holdsHooks('fn falloff(x: f32) -> f32 { return x; }')).toBe(false);
  expect(holdsHooks('@fragment fn outputColor() -> @location(0) vec4f { return vec4f(); }')).toBe(false);
  expect(holdsHooks('fn surface(')).toBe(false);
});

test('raw GLSL keeps the lines of its author, and lays its uniforms out by std140', () => {
  const shader = glslMaterialShader(
    '#version 300 es\nin vec3 position;\nin vec2 wind;\nuniform mat4 viewProjection;\nvoid main() { gl_Position = viewProjection * vec4(position + vec3(wind, 0.0), 1.0); }\n',
    '#version 300 es\nuniform float gain;\nuniform vec3 tint;\nuniform vec2 shift;\nuniform sampler2D bark;\nout highp vec4 color;\nvoid main() { color = vec4(tint * gain, shift.x) + texture(bark, shift); }\n',
  );
  expect(shader.settings.map(({ name, offset }) => [name, offset])).toEqual([
    ['gain', 0],
    ['tint', 16],
    ['shift', 32],
  ]);
  expect(shader.settingsBytes).toBe(48);
  expect(shader.attributes).toEqual([{ name: 'wind', location: 7, components: 2 }]);
  const { text } = shader.glsl!.fragment;
  // Behind the #line directive everything stands on the author's own lines.
  expect(text.slice(text.indexOf('#line 2\n') + 8).split('\n')[5]).toMatch(/^void main/);
  expect(() => glslMaterialShader('#version 300 es\nuniform vec3 time;\nvoid main() {}', '')).toThrow(
    /"time" is a float, not a vec3/,
  );
  expect(() => glslMaterialShader('', '#version 300 es\nuniform samplerCube sky;\nvoid main() {}')).toThrow(
    /cannot be a setting/,
  );
});

test('stages and layouts go by name', () => {
  const text = `@vertex fn place(@location(0) position: vec3f, @location(3) uv: vec2f) -> @builtin(position) vec4f { return vec4f(position + vec3f(uv, 0), 1); }
@fragment fn red() -> @location(0) vec4f { return vec4f(1, 0, 0, 1); }
@fragment fn blue() -> @location(0) vec4f { return vec4f(0, 0, 1, 1); }`;
  const linked = compileWgsl(text, { file: 'kelp.wgsl' });
  const entries = ['place', 'red', 'blue'];
  const module = {
    file: 'kelp.wgsl',
    wgsl: text,
    glsl: Object.fromEntries(entries.map((name) => [name, toGlsl(linked, name)])),
    reflection: reflect(linked),
  };
  expect(stagesOf(module, { fragment: 'blue' })).toMatchObject({
    label: 'kelp.wgsl',
    vertex: 'place',
    fragment: 'blue',
  });
  expect(() => stagesOf(module)).toThrow(/2 fragment entry points/);
  expect(() => stagesOf(module, { fragment: 'green' })).toThrow(/no fragment entry point "green"/);
  expect(vertexLayout(module, { uv: 'unorm16x2', position: 'float32x3' }, { stepMode: 'instance' })).toEqual({
    arrayStride: 16,
    stepMode: 'instance',
    attributes: [
      { shaderLocation: 3, format: 'unorm16x2', offset: 0 },
      { shaderLocation: 0, format: 'float32x3', offset: 4 },
    ],
  });
  const geometry = geometryFrom({ position: [1, 2, 3, 4, 5, 6, 7, 8, 9], texcoord0: [0, 0.5, 1, 0, 0, 1] });
  expect([...interleave(geometry, ['texcoord0', 'position']).slice(5, 10)]).toEqual([1, 0, 4, 5, 6]);
  expect(() => interleave(geometry, ['normal'])).toThrow(/no attribute "normal"/);
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

test('half floats there and back: exact ones stay, others go to the nearest, ties to even', () => {
  const values = [
    0,
    1,
    -2,
    0.5,
    65504,
    2 ** -14,
    2 ** -24,
    -1.5 * 2 ** -24,
    1 + 2 ** -11,
    1 + 3 * 2 ** -11,
    70000,
    -Infinity,
    Number.NaN,
  ];
  const back = [...fromHalfFloats(toHalfFloats(new Float32Array(values)))];
  expect(back).toEqual([
    0,
    1,
    -2,
    0.5,
    65504,
    2 ** -14,
    2 ** -24,
    -(2 ** -23),
    1,
    1 + 2 ** -9,
    Infinity,
    -Infinity,
    Number.NaN,
  ]);
  // Every half float survives.
  const all = Uint16Array.from({ length: 65536 }, (_, i) => i).filter((word) => (word & 0x7c00) !== 0x7c00);
  expect(toHalfFloats(fromHalfFloats(all))).toEqual(all);
});

test('settings written every frame keep nothing on the heap, by material and by instance', () => {
  const device = new TraceDevice();
  device.recording = false;
  const lens = lensOn(device, { onMessage: () => undefined });
  const scene = new Scene();
  const camera = scene.createNode({
    translation: [0, 0, 30],
    camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
  });
  const geometry = box();
  geometry.attributes['stiffness'] = attributeFrom(new Float32Array(24), 1);
  const material = createMaterial(compileMaterialShader<{ sway: number; leaf: number[] }>(KELP));
  const nodes = Array.from({ length: 300 }, (_, i) =>
    scene.createNode({
      translation: [(i % 20) - 10, 0, 0],
      settings: { phase: 0, tint: [1, 1, 1] },
      mesh: { geometry, material },
    }),
  );
  let time = 0;
  const frame = (): void => {
    time += 0.25;
    material.settings.sway = time;
    material.settings.leaf[1] = time;
    for (const node of nodes) node.settings!['phase'] = time;
    lens.draw(scene, camera);
  };
  for (let i = 0; i < 300; i++) frame();
  expect(lens.ledger.draws).toBe(1);
  const kept = keptBy(() => {
    for (let i = 0; i < 300; i++) frame();
  }, 8_000);
  expect(kept).toBeLessThan(8_000);
});

test('what a hook asks for is found in its words and in those of what it imports, not in comments and left-out parts', () => {
  const surface = (body: string, before = ''): string =>
    `${before}fn surface(p: Fragment) -> Surface { var s = surfaceDefaults(p); ${body} return s; }`;
  const said = compileMaterialShader(
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
  const helped = compileMaterialShader(surface('s = wet(s);', "import { wet } from 'wet.wgsl';\n"), {
    sources,
  });
  expect([helped.layers, helped.isTimed]).toEqual([FEATURE.clearcoat, true]);
  const still = compileMaterialShader(surface('s.roughness = 0.1;'), { sources });
  expect([still.layers, still.isTimed]).toEqual([0, false]);
  const whole = "import { frame } from 'umber/frame.wgsl';\n";
  expect(compileMaterialShader(surface('let f = frame; s.roughness = fract(f.time);', whole)).isTimed).toBe(
    true,
  );
  expect(compileMaterialShader(surface('s.roughness = frame.size.x;', whole)).isTimed).toBe(false);
  const text = surface('s.roughness = 0.2;\n#if wet\ns.clearcoat = 1;\n#endif\n');
  expect(compileMaterialShader(text).layers).toBe(0);
  expect(compileMaterialShader(text, { features: ['wet'] }).layers).toBe(FEATURE.clearcoat);
});
