import { checkGraph, readShaderSources } from './index.js';

test('a graph is read with what it uses, and with what that imports', async () => {
  const file = 'looks/deep/a.graph.json';
  const files: Record<string, string> = {
    'looks/deep/bands.wgsl': `import { half } from '../../terms/half.wgsl';
import { noise2 } from 'umber/noise.wgsl';
fn band(x: f32) -> f32 { return half(x) * noise2(vec2f(x), 1); }
`,
    'terms/half.wgsl': 'fn half(x: f32) -> f32 { return x / 2; }\n',
  };
  const graph = (uses: string): string =>
    `{ "graph": 1, "uses": [${uses}], "hooks": { "surface": { "roughness": { "call": "band", "in": [0.5] } } } }`;
  const asked: string[] = [];
  const read = (path: string): Promise<string | undefined> => {
    asked.push(path);
    return Promise.resolve(files[path]);
  };
  const sources = await readShaderSources(file, graph('"./bands.wgsl"'), read);
  expect(sources).toEqual(files);
  expect(checkGraph(graph('"./bands.wgsl"'), { file, sources })).toEqual([]);
  // The library is not asked for; what is missing is the compiler's to tell.
  expect(asked).toEqual(['looks/deep/bands.wgsl', 'terms/half.wgsl']);
  const without = await readShaderSources(file, graph('"./gone.wgsl"'), read);
  expect(without).toEqual({});
  expect(checkGraph(graph('"./gone.wgsl"'), { file, sources: without })[0]?.message).toContain('gone.wgsl');
});
