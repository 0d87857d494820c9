import { printJson } from '../json/print-json.js';
import type { Graph } from './document.js';

/** A graph as text: a node a line, where that is short. */
export const writeGraph = (graph: Graph): string =>
  `${printJson(ordered(graph), { indent: '  ', lineEnd: '\n' }, '').replace(/^\{ "graph"/, '{\n  "graph"')}\n`;

/** As the form has them. */
function ordered({
  graph,
  note,
  uses,
  settings,
  instanceSettings,
  attributes,
  textures,
  ...rest
}: Graph): Record<string, unknown> {
  const all = { graph, note, uses, settings, instanceSettings, attributes, textures, ...rest };
  return Object.fromEntries(Object.entries(all).filter(([, value]) => value !== undefined));
}
