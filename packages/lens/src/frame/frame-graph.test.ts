import { TraceDevice } from '../gpu/trace/trace-device.js';
import { Ledger } from '../ledger/ledger.js';
import { describeGraph } from '../inspect/describe-graph.js';
import { FrameGraph, type GraphTexture } from './frame-graph.js';
import { TransientTextures } from './transient-textures.js';

const SIZE = { width: 64, height: 32, format: 'rgba16float' } as const;
const CLEAR = [0, 0, 0, 0];

function setUp(): {
  device: TraceDevice;
  graph: FrameGraph;
  target: GraphTexture;
  ran: string[];
  run: () => void;
} {
  const device = new TraceDevice({ width: 64, height: 32 });
  const graph = new FrameGraph(device, new TransientTextures(device));
  const target = graph.outside('target');
  graph.bind(target, device.canvasTexture);
  const ledger = new Ledger();
  let frame = 0;
  const run = (): void => {
    ledger.beginFrame(0);
    graph.run(++frame, ledger);
    ledger.endFrame(device.counts, 0, 0, 0, 0);
  };
  return { device, graph, target, ran: [], run };
}

/** A pass that draws one texture out of others. */
function step(
  graph: FrameGraph,
  ran: string[],
  name: string,
  reads: GraphTexture[],
  texture: GraphTexture,
  clear: number[] | undefined = CLEAR,
): void {
  const color = clear ? { texture, clear } : { texture };
  graph.pass({ name, reads, colors: [color], run: () => ran.push(name) });
}

test('passes that nobody reads from are left out, with those that only they read', () => {
  const { graph, target, ran, run, device } = setUp();
  const [a, b, c] = ['a', 'b', 'c'].map((name) => graph.texture(name, SIZE)) as [
    GraphTexture,
    GraphTexture,
    GraphTexture,
  ];
  step(graph, ran, 'draw a', [], a);
  step(graph, ran, 'b from a', [a], b);
  step(graph, ran, 'c from b', [b], c);
  step(graph, ran, 'show a', [a], target);
  graph.compile();
  run();
  expect(ran).toEqual(['draw a', 'show a']);
  expect(device.counts.textures).toBe(1);
  expect(describeGraph(graph)).toContain('left out\n  b from a: nobody reads what it writes\n  c from b');
});

test('textures that are not alive together share memory; those that are do not', () => {
  const { graph, target, ran, run, device } = setUp();
  const chain = ['a', 'b', 'c', 'd'].map((name) => graph.texture(name, SIZE));
  const other = graph.texture('other', { ...SIZE, format: 'rgba8unorm' });
  step(graph, ran, 'a', [], chain[0]!);
  step(graph, ran, 'b', [chain[0]!], chain[1]!);
  step(graph, ran, 'c', [chain[1]!], chain[2]!);
  step(graph, ran, 'other', [chain[2]!], other);
  step(graph, ran, 'd', [chain[2]!], chain[3]!);
  step(graph, ran, 'show', [chain[3]!, other], target);
  graph.compile();
  run();
  // a and c share, b and d share, the other format stands alone.
  expect(device.counts.textures).toBe(3);
  expect(graph.of(chain[0]!)).toBe(graph.of(chain[2]!));
  expect(graph.of(chain[1]!)).toBe(graph.of(chain[3]!));
  expect(graph.of(chain[0]!)).not.toBe(graph.of(chain[1]!));
  const made = device.commands.length;
  run();
  expect(device.commands.slice(made).some(([name]) => name === 'createTexture')).toBe(false);
});

test('attachments are stored only for those who come back to them', () => {
  const { graph, target, ran } = setUp();
  const seen: (boolean | undefined)[] = [];
  const samples = graph.texture('samples', { ...SIZE, sampleCount: 4 });
  const depth = graph.texture('depth', { ...SIZE, format: 'depth32float', sampleCount: 4 });
  const resolved = graph.texture('resolved', SIZE);
  const picture = graph.texture('picture', SIZE);
  const device = (graph as unknown as { device: TraceDevice }).device;
  const begin = device.beginRenderPass.bind(device);
  device.beginRenderPass = (options) => {
    seen.push(options.colorAttachments[0]?.store, options.depthAttachment?.store);
    return begin(options);
  };
  const colors = { texture: samples, resolve: resolved, clear: CLEAR };
  graph.pass({
    name: 'first',
    colors: [colors],
    depth: { texture: depth, clear: 0 },
    run: () => ran.push('first'),
  });
  graph.pass({
    name: 'second',
    reads: [resolved],
    colors: [{ texture: samples, resolve: picture }],
    depth: { texture: depth },
    run: () => ran.push('second'),
  });
  graph.pass({
    name: 'show',
    reads: [picture],
    colors: [{ texture: target, clear: CLEAR }],
    run: () => ran.push('show'),
  });
  graph.compile();
  const ledger = new Ledger();
  ledger.beginFrame(0);
  graph.run(1, ledger);
  ledger.endFrame(device.counts, 0, 0, 0, 0);
  expect(ran).toEqual(['first', 'second', 'show']);
  expect(seen).toEqual([true, true, false, false, true, undefined]);
  expect(ledger.passes.map(({ name }) => name)).toEqual(['list', 'first', 'second', 'show']);
});

test('a texture that is read before anything wrote it is told by name', () => {
  const { graph, target, ran } = setUp();
  step(graph, ran, 'show', [graph.texture('light', SIZE)], target);
  expect(() => graph.compile()).toThrow(/pass "show" reads "light", which no pass before it writes/);
});

test('the graph prints itself with what each pass read, wrote and cost', () => {
  const { graph, target, ran } = setUp();
  const a = graph.texture('a', SIZE);
  step(graph, ran, 'draw', [], a);
  step(graph, ran, 'show', [a], target);
  graph.compile();
  const device = (graph as unknown as { device: TraceDevice }).device;
  const ledger = new Ledger();
  ledger.beginFrame(0);
  graph.run(1, ledger);
  ledger.endFrame(device.counts, 0, 0, 0, 0);
  expect(describeGraph(graph, ledger).replace(/\d+\.\d\d ms/g, '- ms')).toBe(
    `draw: a
  draw: 0 draws, 0 triangles, - ms
show: a -> target
  show: 0 draws, 0 triangles, - ms
textures
  a: 64 x 32 rgba16float, memory rgba16float 64x32 #0`,
  );
});
