/**
 * Shader graphs: read, checked, compiled to WGSL, made of WGSL, computed on the CPU, edited as text.
 *
 * @module @umber-lens/core/graphs
 */
export {
  type CompiledGraph,
  compileGraph,
  type CompileGraphOptions,
  tryCompileGraph,
} from './compile-graph.js';
export type {
  Graph,
  GraphCall,
  GraphFrame,
  GraphFunction,
  GraphHook,
  GraphInput,
  GraphValue,
  GraphSetting,
  GraphTexture,
} from './document.js';
export { evaluateGraph, type EvaluatedGraph, type EvaluateOptions } from './evaluate-graph.js';
export type { GraphFault, GraphSpot } from './faults.js';
export { type GraphChange, graphEdit } from './graph-edit.js';
export { graphOf, type GraphOfOptions } from './graph-of.js';
export { graphCosts, type GraphCosts } from './graph-costs.js';
export type { ShaderCost } from '../wgsl/bound/costs.js';
export { GRAPH_FORM } from './graph-forms.js';
export { graphSchema } from './graph-schema.js';
export { type CallGroup, type CallInput, type CallRow, CALLS } from './node-table.js';
export {
  checkGraph,
  type CheckGraphOptions,
  compileGraphText,
  type GraphLooks,
  lookAtGraph,
  readLooks,
  type SeenGraph,
  type GraphFinding,
  readGraph,
  spotOfLine,
} from './read-graph.js';
export { isGraphName, readShaderSources } from './shader-sources.js';
export { identifiersFor } from './names.js';
export { inFlow } from './order.js';
export { comparesPixels } from './compares-pixels.js';
export { callsFor } from './calls-for.js';
export { PREVIEW_LIGHT, previewGraph, type PreviewedGraph } from './preview-graph.js';
export {
  probeEffect,
  type ProbedEffect,
  type ProbedFrom,
  probedValues,
  roomForProbed,
} from './probe-effect.js';
export { typesOf } from './types-of.js';
export { exchangedInput, exchangedNode, hasMembers, inputsOfGraph, nodeNamed, nodesNamedIn } from './walk.js';
export { writeGraph } from './write-graph.js';
