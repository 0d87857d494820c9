import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { compileWgsl, toGlsl } from '../wgsl/index.js';
import { bareShader } from './bare-shader.js';
import { holdsHooks } from './check-hooks.js';

const EXAMPLES = 'examples';
const modules = readdirSync(EXAMPLES, { recursive: true, encoding: 'utf8' })
  .filter((file) => file.endsWith('.wgsl') && !file.includes('node_modules'))
  .map((file): [string, string] => [file, readFileSync(join(EXAMPLES, file), 'utf8')]);
const sources = Object.fromEntries(
  modules.map(([file, text]) => [file.split(/[\\/]/).at(-1)!, text]), // split gives one part at least
);
const hooks = modules.filter(([file, text]) => holdsHooks(text, file));
const notes = (text: string): string[] =>
  text.split('\n').flatMap((line) => (line.startsWith('// ') ? [line.slice(3).trim()] : []));

test('the examples have hooks of all kinds', () => {
  expect(hooks.length).toBeGreaterThan(12);
  const all = hooks.map(([, text]) => text).join('\n');
  for (const name of ['displace', 'surface', 'march', 'light', 'outputColor', 'effect'])
    expect(all).toContain(`fn ${name}(`);
});

test.each(hooks)('%s stands alone as a whole shader in both languages', (file, text) => {
  const name = file.split(/[\\/]/).at(-1)!;
  const wgsl = bareShader(text, 'wgsl', { file: name, sources });
  // It compiles with nothing beside it, and into the other language.
  const shader = compileWgsl(wgsl, { file: 'whole.wgsl' });
  const entries = wgsl.includes('fn effectFragment')
    ? ['effectVertex', 'effectFragment']
    : ['meshVertex', 'meshFragment'];
  for (const entry of entries) expect(toGlsl(shader, entry).text).toContain('#version 300 es');
  const glsl = bareShader(text, 'glsl', { file: name, sources });
  const stages = glsl.split(/^\/\/ -- (?:vertex|fragment) --\n/m);
  expect(stages).toHaveLength(3);
  for (const stage of stages.slice(1)) expect(stage.startsWith('#version 300 es\n')).toBe(true);
  // What is bound is told, by its name in either language.
  for (const [, group, binding] of wgsl.matchAll(/^@group\((\d)\) @binding\((\d+)\)/gm))
    expect(notes(wgsl).join('\n')).toContain(`@group(${group}) @binding(${binding})`);
  for (const [, uniform] of glsl.matchAll(/uniform (?:highp )?(?:[iu]?sampler\w+ )?(\w+)(?: \{|;)/g))
    expect(notes(glsl).join('\n')).toMatch(new RegExp(`["\\s]${uniform}\\b`));
});

test('comments say where numbers lie, what vertices bring along, and what may be other', () => {
  const text = `struct Settings {
  edge: f32,  // = 2.5 [0.5, 6]   how fast it falls off
  glow: vec3f, // color = #ffb46a
}
struct InstanceSettings { phase: f32 }
var bark: texture_2d<f32>; // color  of a tree
var barkSampler: sampler;
fn surface(p: Fragment, s: Settings, own: InstanceSettings) -> Surface {
  var out = surfaceDefaults(p);
  out.emissive = s.glow * pow(1 - dot(p.normal, p.toCamera), s.edge) * own.phase * p.color.rgb;
  out.baseColor *= textureSample(bark, barkSampler, p.texcoord0).rgb;
  return out;
}`;
  const told = notes(bareShader(text, 'wgsl', { file: 'bark.wgsl' }));
  expect(told[0]).toBe(
    'bark.wgsl as a whole shader: for pages that have nothing of the library it was made with.',
  );
  expect(told).toEqual(
    expect.arrayContaining([
      'location 0: position, vec3f',
      'location 3: texcoord0, vec2f',
      'location 5: color, vec4f',
      'location 7: phase, f32, of each instance',
      'settings: uniform buffer of 32 bytes, @group(2) @binding(0)',
      '0  edge: f32   = 2.5 [0.5, 6]   how fast it falls off',
      '16  glow: vec3f   color = #ffb46a',
      'bark: texture_2d<f32>, @group(2) @binding(1)',
      'barkSampler: sampler, @group(2) @binding(2)',
      '4 times, each of 32 bytes:',
      'isEncoded = true   False where the target encodes colours by itself, as `rgba8unorm-srgb` does.',
    ]),
  );
  // Nobody asks for them.
  expect(told.some((line) => /tangent|texcoord1|hasTangent/i.test(line))).toBe(false);
  const glsl = notes(bareShader(text, 'glsl'));
  expect(glsl).toEqual(
    expect.arrayContaining([
      'settings: uniform buffer of 32 bytes, uniform block "settings_block"',
      'bark: texture_2d<f32>, uniform "bark_barkSampler"',
      expect.stringMatching(/^#define UMBER_isUnlit false {3}\S/),
    ]),
  );
});

test('what is wrong with hooks is told with the place, as ever', () => {
  expect(() =>
    bareShader('fn surface(p: Fragment) -> Surface { return 1; }', 'glsl', { file: 'm.wgsl' }),
  ).toThrow(/m\.wgsl:1/);
  expect(() => bareShader('fn nothing() {}', 'wgsl')).toThrow('defines none of the hooks');
});
