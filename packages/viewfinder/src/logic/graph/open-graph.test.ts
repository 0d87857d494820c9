import { compileEffect, compileGraphShader, compileMaterialShader } from 'umber-lens/shaders';
import { RIM } from '../../../../../tests/rim-graph.js';
import type { SaveClient } from '../saving/save-client.js';
import { graphSource, openGraph } from './open-graph.js';
import type { Shaded } from './shaded.js';

const NOBODY = 'http://127.0.0.1:1/';
const nothing = { isThere: false } as SaveClient;
/** A server that has files. */
const serving = (files: Record<string, string>): SaveClient =>
  ({
    isThere: true,
    find: (path: string) =>
      Promise.resolve(
        files[path] === undefined
          ? { ok: false, refused: { reason: 'none' } }
          : { ok: true, value: { file: path, text: files[path], version: '1' } },
      ),
  }) as unknown as SaveClient;

test('what a page compiled from text opens with that text, whatever it is called', async () => {
  const rim: Shaded = { shader: compileGraphShader(RIM) };
  expect(graphSource(rim)).toBe('graph');
  const { session, version } = await openGraph(rim, nothing, NOBODY);
  expect([session.text, version]).toEqual([RIM, undefined]);
  expect(session.graph.note).toBe('A rim of light.');

  const twice = 'fn twice(x: f32) -> f32 { return 2 * x; }';
  const hooks: Shaded = {
    shader: compileMaterialShader(
      `import { twice } from './parts.wgsl';
fn surface(p: Fragment) -> Surface { var s = surfaceDefaults(p); s.roughness = twice(p.normal.y); return s; }`,
      { sources: { 'parts.wgsl': twice } },
    ),
  };
  expect(graphSource(hooks)).toBe('wgsl');
  const made = await openGraph(hooks, nothing, NOBODY);
  expect(made.session.file).toBe('material.graph.json');
  expect(made.session.sources).toEqual({ 'parts.wgsl': twice });
  expect(made.session.graph.hooks.surface).toHaveProperty('roughness');

  const effect: Shaded = {
    type: 'shader',
    shader: compileEffect('fn effect(p: Pixel) -> vec4f { return p.color.bgra; }'),
  };
  expect((await openGraph(effect, nothing, NOBODY)).session.graph.hooks.effect).toBeDefined();
});

test.each([
  [
    'wgsl',
    `${'/'.repeat(200)}\n${'/* a * b */ '.repeat(40)}\nfn surface(p: Fragment) -> Surface { return surfaceDefaults(p); }`,
  ],
  ['graph', `${'/'.repeat(200)}\n${'/* a * b */ '.repeat(40)}\n${RIM}`],
])('comments ahead of a text, whatever they look like, leave it %s', (kind, text) => {
  const compile = kind === 'graph' ? compileGraphShader : compileMaterialShader;
  expect(graphSource({ shader: compile(text) })).toBe(kind);
});

test('a file of the project is taken that has the same text, and not another of its name', async () => {
  const rim: Shaded = { shader: compileGraphShader(RIM, { file: 'rim.graph.json' }) };
  const same = await openGraph(rim, serving({ 'rim.graph.json': RIM }), NOBODY);
  expect(same.version).toBe('1');
  const other = await openGraph(rim, serving({ 'rim.graph.json': RIM.replace('0.5, 6', '1, 2') }), NOBODY);
  expect([other.version, other.session.text]).toEqual([undefined, RIM]);
});

test('what was compiled before has its file, and whoever has none is told', async () => {
  const { source: _source, ...built } = compileGraphShader(RIM, { file: 'rim.graph.json' });
  const found = await openGraph({ shader: built }, serving({ 'rim.graph.json': RIM }), NOBODY);
  expect([found.version, found.session.text]).toEqual(['1', RIM]);
  await expect(openGraph({ shader: built }, nothing, NOBODY)).rejects.toThrow();
});
