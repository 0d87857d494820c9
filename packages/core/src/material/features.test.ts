import { geometryFrom } from '../geometry/geometry.js';
import { compileHooks } from '../shading/compile-hooks.js';
import { FEATURE, materialFeatures } from './features.js';

const geometry = geometryFrom({
  position: [0, 0, 0, 1, 0, 0, 0, 1, 0],
  normal: [0, 0, 1, 0, 0, 1, 0, 0, 1],
  tangent: [1, 0, 0, 1, 1, 0, 0, 1, 1, 0, 0, 1],
});
const shader = compileHooks(
  'fn surface(p: Fragment) -> Surface { var s = surfaceDefaults(p); s.baseColor = p.tangent.xyz; return s; }',
);
const has = (bits: number, name: 'normal' | 'tangent' | 'unlit'): boolean => (bits & FEATURE[name]) !== 0;

test.each<[string, object, boolean, boolean]>([
  ['a lit material has normals', {}, true, false],
  ['one that is not lit needs neither', { unlit: true }, false, false],
  ['hooks may ask for both', { shader }, true, true],
  ['and so where nothing is lit', { shader, unlit: true }, true, true],
])('%s', (_, material, normal, tangent) => {
  const bits = materialFeatures(material, geometry);
  expect([has(bits, 'normal'), has(bits, 'tangent')]).toEqual([normal, tangent]);
});
