import { LensError } from '@umber-lens/core/engine';
import { graphOf, isGraphName, writeGraph } from '@umber-lens/core/graphs';
import chalk from 'chalk';
import { readShader } from '../open/open-shader.js';
import { checkOutput, writeOutput } from '../report/write-output.js';

export const isShaderName = (file: string): boolean => file.endsWith('.wgsl') || isGraphName(file);

/**
 * Writes a module of hooks as a graph, or a graph as a module of hooks.
 *
 * @throws LensError `recast/shader` for anything else; what is wrong with what is read
 */
export async function recastShader(
  inputs: readonly string[],
  out: string,
  { force = false, json = false }: { force?: boolean; json?: boolean },
): Promise<void> {
  const [file] = inputs as [string];
  const toGraph = isGraphName(out);
  if (inputs.length !== 1 || isGraphName(file) === toGraph || !isShaderName(file) || !isShaderName(out))
    throw new LensError('recast/shader', 'one shader becomes one graph, or one graph one shader', {
      hint: 'Such as umber recast rim.wgsl rim.graph.json, and back.',
    });
  await checkOutput(out, inputs, force);
  const { sources, text } = await readShader(file);
  const written = toGraph ? writeGraph(graphOf(text, { file, sources })) : text;
  await writeOutput(out, new TextEncoder().encode(written), { inputs, force });
  const lines = written.split('\n').length - 1;
  process.stdout.write(
    json
      ? `${JSON.stringify({ out, format: toGraph ? 'graph' : 'wgsl', lines, bytes: written.length }, null, 2)}\n`
      : `${chalk.green('wrote')} ${out}, ${lines} lines\n`,
  );
}
