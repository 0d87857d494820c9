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
import { KELP } from '../../../../tests/kelp.js';
import { stagesOf, TraceDevice, vertexLayout } from '../device.js';
import { compileWgsl, reflect, toGlsl } from '@umber-lens/core/engine';
import { packSettings } from '../resources/settings-store.js';
import { compileMaterialShader } from './index.js';

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
