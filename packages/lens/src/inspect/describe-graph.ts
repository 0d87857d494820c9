import type { Lens } from '../lens.js';
import type { Ledger } from '../ledger/ledger.js';
import { type FrameGraph, kindOf, type TransientOptions, writes } from '../frame/frame-graph.js';

/** The passes of a lens's last frame in words: what each read, wrote and cost, and which textures shared memory. */
export function describeFrame(lens: Lens): string {
  return lens.frameGraph ? describeGraph(lens.frameGraph, lens.ledger) : 'nothing was drawn yet';
}

/** A graph in words, with the costs of its last run if its ledger is given. */
export function describeGraph({ nodes, kept, left }: FrameGraph, ledger?: Ledger): string {
  const passes = kept.map(({ pass }) => {
    const reads = (pass.reads ?? []).map(({ name }) => name);
    const written = nodes.filter((node) => writes(pass, node)).map(({ name }) => name);
    const parts = ledger?.passes.filter(({ name }) => (pass.parts ?? [pass.name]).includes(name)) ?? [];
    const costs = parts.map(
      (p) => `\n  ${p.name}: ${p.draws} draws, ${p.triangles} triangles, ${p.milliseconds.toFixed(2)} ms`,
    );
    return `${pass.name}: ${reads.length > 0 ? `${reads.join(', ')} -> ` : ''}${written.join(', ')}${costs.join('')}`;
  });
  const textures = nodes
    .filter(({ options, first }) => options && first >= 0)
    .map(
      ({ name, options, slot }) => `  ${name}: ${sizeText(options!)}, memory ${kindOf(options!)} #${slot}`,
    );
  const unread = left.map(({ name }) => `  ${name}: nobody reads what it writes`);
  return [
    ...passes,
    ...(textures.length > 0 ? ['textures', ...textures] : []),
    ...(unread.length > 0 ? ['left out', ...unread] : []),
  ].join('\n');
}

const sizeText = ({ width, height, format, sampleCount = 1 }: TransientOptions): string =>
  `${width} x ${height} ${format}${sampleCount > 1 ? ` x${sampleCount}` : ''}`;
