import { checkHooks } from './check-hooks.js';
import { standAlone } from './stand-alone.js';

const MODULE = `import { layeredNoise } from 'umber/patterns.wgsl';
import { twice } from './parts.wgsl';

struct Settings {
  edge: f32, // = 2.5 [0.5, 6]
}

var bark: texture_2d<f32>; // data   of a tree
var barkSampler: sampler;

/// How it is seen.
fn surface(p: Fragment, settings: Settings) -> Surface {
  var out = surfaceDefaults(p);
  let grain = layeredNoise(p.position, 4, 1);
  out.roughness = twice(grain) * settings.edge * textureSample(bark, barkSampler, p.texcoord0).r;
  return out;
}
`;
const SOURCES = {
  'parts.wgsl':
    'const HALF = 0.5;\n/// Two of it.\nfn twice(x: f32) -> f32 { return x * 4 * HALF; }\nfn unused() -> f32 { return 1; }\n',
};

test('a module stands alone: what it imports is in it, once, and nothing that it does not name', () => {
  const alone = standAlone(MODULE, { file: 'm.wgsl', sources: SOURCES });
  expect(alone).not.toContain('import');
  expect(alone).not.toContain('unused');
  expect(alone).not.toContain('struct Fragment');
  expect(alone).toContain('fn layeredNoise(');
  expect(alone).toContain('const HALF = 0.5;');
  expect(alone).toContain('edge: f32, // = 2.5 [0.5, 6]');
  expect(alone).toContain('var bark: texture_2d<f32>; // data   of a tree');
  expect(checkHooks(alone)).toEqual([]);
  expect(standAlone(alone).replace(/\\s+/g, ' ')).toBe(alone.replace(/\\s+/g, ' '));
});

test('names that meet are told apart', () => {
  const alone = standAlone(MODULE.replaceAll('twice', 'HALF'), {
    file: 'm.wgsl',
    sources: {
      'parts.wgsl': SOURCES['parts.wgsl']
        .replace('HALF', 'HALVES')
        .replace('HALF', 'HALVES')
        .replace('twice', 'HALF'),
    },
  });
  expect(checkHooks(alone)).toEqual([]);
});
