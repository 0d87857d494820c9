import { checkHooks } from './index.js';

const surface = (body: string): string =>
  `fn surface(p: Fragment) -> Surface { var o = surfaceDefaults(p); ${body} return o; }`;

/** Code, line and severity of what is found. */
const found = (text: string): string[] =>
  checkHooks(text, { file: 'a.wgsl' }).map(({ code, line, severity }) => `${severity} ${code} ${line}`);

test.each<[what: string, text: string, says: string[]]>([
  [
    'a sum as the normal',
    surface('o.normal = p.normal + vec3f(0.1, 0, 0);'),
    ['warning wgsl/unnormalized 1'],
  ],
  [
    'a mixed normal',
    surface('o.normal = mix(p.normal, vec3f(0, 1, 0), 0.5);'),
    ['warning wgsl/unnormalized 1'],
  ],
  ['a normal that is added to', surface('o.normal += vec3f(0.1, 0, 0);'), ['warning wgsl/unnormalized 1']],
  ['a normalized sum', surface('o.normal = normalize(p.normal + vec3f(0.1, 0, 0));'), []],
  ['a turned normal', surface('o.normal = -p.normal;'), []],
  [
    'vectors of two spaces',
    surface('o.alpha = saturate(dot(p.viewNormal, p.toCamera));'),
    ['warning wgsl/mixed-spaces 1'],
  ],
  ['vectors of one space', surface('o.alpha = saturate(dot(p.normal, normalize(p.toCamera)));'), []],
  [
    'pow of a dot product',
    surface('o.alpha = pow(dot(p.normal, p.toCamera), 2.5);'),
    ['warning wgsl/negative-pow 1'],
  ],
  ['pow of a sine', surface('o.alpha = pow(sin(p.position.x), 2);'), ['warning wgsl/negative-pow 1']],
  ['pow of what is kept', surface('o.alpha = pow(1 - saturate(dot(p.normal, p.toCamera)), 2.5);'), []],
  ['pow of a length', surface('o.alpha = pow(length(p.position), 0.5);'), []],
  ['pow of what nobody knows', surface('o.alpha = pow(p.position.x, 0.5);'), []],
  [
    'a hook that is misspelt beside a right one',
    `${surface('')}\nfn displce(v: Vertex) -> Vertex { return v; }`,
    ['warning wgsl/near-hook 2'],
  ],
  ['a function of its own', `fn surfaces() -> f32 { return 1; }\n${surface('o.alpha = surfaces();')}`, []],
])('%s', (_, text, says) => {
  expect(found(text)).toEqual(says);
});
