import type { CompiledShader } from '../material/shader-types.js';
import fc from 'fast-check';
import { holds } from '../../../../tests/holds.js';
import { compileHooks, packFullHooks, packHooks } from './index.js';
import { ownFullMesh, ownMesh, ownShadow } from './own-shaders.js';
import { inLanguage, unpackShader } from './packed-shader.js';
import { deltaOf, textFrom } from './text-delta.js';

test('a text comes out of its parts again', () => {
  const words = fc.array(fc.constantFrom('alpha beta gamma ', 'fn shade(p: vec3f) ', '{', '}', 'é', '"'));
  holds(
    fc.property(words, words, (a, b) => {
      const [base, text] = [a.join(''), b.join('')];
      expect(textFrom(base, deltaOf(base, text))).toBe(text);
    }),
  );
  expect(deltaOf('0123456789abcdefghij', '0123456789abcdefghij!')).toEqual([0, 20, '!']);
});

const RIM = `struct Settings {
  edge: f32, // 0.5..6 = 2.5
  glow: vec3f // color = #ffb46a
}
fn surface(p: Fragment, s: Settings) -> Surface {
  var out = surfaceDefaults(p);
  out.emissive = s.glow * pow(1 - saturate(dot(p.normal, p.toCamera)), s.edge);
  return out;
}
`;
const MOVED = `struct Settings { lift: f32 }
fn displace(v: Vertex, s: Settings) -> Vertex { var o = v; o.position.y += s.lift; return o; }
fn light(p: Fragment, u: Surface, l: Light) -> vec3f { return u.baseColor * l.color; }
`;

test.each([
  ['rim', RIM],
  ['moved', MOVED],
])('a packed shader is small, and unpacked it is one that says the same as the whole: %s', (file, text) => {
  const packed = packHooks(text, { file });
  const whole = compileHooks(text, { file });
  expect(packed.settings).toEqual(whole.settings);
  expect(JSON.stringify([packed.packed, packFullHooks(text)]).length).toBeLessThan(9000);
  const base = ownMesh().shader;
  const onWebgpu = unpackShader(packed, inLanguage(base, 'wgsl'), file);
  const onWebgl2 = unpackShader(packed, inLanguage(base, 'glsl'), file);
  expect(onWebgpu.resources).toEqual(whole.resources);
  expect(onWebgl2.glsl?.fragment.blocks).toEqual(whole.glsl?.fragment.blocks);
  expect(onWebgl2.overrides).toEqual(whole.overrides);
  // Short names differ, and nothing else.
  const shape = (code: string): string => code.replace(/\b[A-Za-z]\w{0,2}\b/g, 'x');
  expect(shape(onWebgpu.wgsl)).toBe(shape(whole.wgsl));
  expect(shape(onWebgl2.glsl!.fragment.text).length).toBe(shape(whole.glsl!.fragment.text).length);
});

test('what has no GLSL says so packed, too', () => {
  const text = `@group(2) @binding(9) var<storage, read_write> counts: array<u32>;
fn surface(p: Fragment) -> Surface { counts[0] = 1; return surfaceDefaults(p); }`;
  const packed = packHooks(text, { file: 'counts.wgsl' });
  const found = unpackShader(packed, inLanguage(ownMesh().shader, 'glsl'), 'counts.wgsl');
  expect(found.glsl).toBeUndefined();
  expect(found.notInWebgl2).toMatch(/storage/);
});

test('a shader that was packed against another version is refused', () => {
  const full = packFullHooks(RIM);
  expect(unpackShader(full.mesh, inLanguage(ownFullMesh().shader, 'wgsl'), 'rim').wgsl).toContain('fn ');
  expect(() => unpackShader(full.mesh, inLanguage(ownShadow().shader, 'wgsl'), 'rim')).toThrow(
    'rim was built for another version of the library',
  );
});

test('both stages know the words of a block by one name, in every variant', () => {
  const both = `struct Settings { lift: f32, glow: vec3f }
fn displace(v: Vertex, s: Settings) -> Vertex { var o = v; o.position.y += s.lift; return o; }
fn surface(p: Fragment, s: Settings) -> Surface { var o = surfaceDefaults(p); o.emissive = s.glow; return o; }`;
  const full = packFullHooks(both);
  for (const [packed, base] of [
    [packHooks(both), ownMesh().shader],
    [full.mesh, ownFullMesh().shader],
    [full.shadow, ownShadow().shader],
  ] as const) {
    const { vertex, fragment } = unpackShader(
      packed as CompiledShader,
      inLanguage(base, 'glsl'),
      'both.wgsl',
    ).glsl!;
    const words = (text: string): Record<string, string> =>
      Object.fromEntries([...text.matchAll(/uniform (\w+)\{([^}]*)\}/g)].map(([, name, of]) => [name!, of!]));
    const [inVertex, inFragment] = [words(vertex.text), words(fragment.text)];
    const shared = Object.keys(inVertex).filter((name) => name in inFragment);
    expect(shared.length).toBeGreaterThan(0);
    for (const name of shared) expect(inVertex[name]).toBe(inFragment[name]);
  }
});
