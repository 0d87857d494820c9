import { outlineWgsl } from '../wgsl/outline.js';
import { type GraphFunction, isCall } from './document.js';
import { type Draft, INDENT } from './draft.js';
import { isIdentifier } from './names.js';
import { identsOf, reachedFrom, tellUnused, workAll, writeNode } from './node-flow.js';
import { inFlow } from './order.js';
import { type Argument, Scope } from './scope.js';
import { concrete, type Known, shownType, type Signature, typeNamed } from './types.js';
import { inputsOfNode, inputsWithin } from './walk.js';

export function writeFunctions(draft: Draft, known: Known, functions: Map<string, Signature>): void {
  const all = Object.entries(draft.graph.functions ?? {});
  const calls = (held: GraphFunction): string[] => {
    const names = new Set<string>();
    for (const node of Object.values(held.nodes ?? {})) {
      if (node.call !== undefined) names.add(node.call);
      for (const { input } of inputsOfNode(node, [])) if (isCall(input)) names.add(input.call);
    }
    for (const { input } of inputsWithin(held.gives, [])) if (isCall(input)) names.add(input.call);
    for (const [word] of (held.code ?? '').matchAll(/\w+/g)) names.add(word);
    return [...names].filter((name) => Object.hasOwn(draft.graph.functions ?? {}, name));
  };
  const { cycle, order } = inFlow(
    all.map(([name]) => name),
    (name) =>
      calls(draft.graph.functions![name]!).filter(
        (other) => other !== name || draft.graph.functions![name]!.code === undefined,
      ), // one of them
  );
  if (cycle)
    draft.fault(
      'error',
      'graph/cycle',
      ['functions', cycle[0]!],
      `functions call each other in a ring: ${[...cycle, cycle[0]].join(', ')}`,
      'Take one of the calls away.',
      { function: cycle[0]! },
    );
  for (const name of order) {
    const held = draft.graph.functions![name]!; // one of them
    if (held.note) for (const one of held.note.split('\n')) draft.line(`/// ${one}`.trimEnd());
    if (held.code !== undefined) {
      draft.line(held.code.trim(), { function: name });
      signatureOfCode(draft, name, held.code, known, functions);
      draft.line('');
      continue;
    }
    writeFunction(draft, name, held, known, functions);
  }
}

/** What a function that is written in WGSL takes and gives, by its first line. */
function signatureOfCode(
  draft: Draft,
  name: string,
  code: string,
  known: Known,
  functions: Map<string, Signature>,
): void {
  const path = ['functions', name, 'code'];
  const outline = outlineWgsl(code, draft.file);
  const fn = outline.functions.find((one) => one.name === name);
  const [finding] = outline.findings;
  if (finding || !fn) {
    draft.fault(
      'error',
      'graph/code',
      path,
      finding
        ? `line ${finding.line} of the code: ${finding.message}`
        : `the code of "${name}" is no function of that name`,
      finding?.hint ?? `Begin it with fn ${name}(...).`,
      { function: name },
    );
    return;
  }
  const params = fn.params.map((param) => ({
    name: param.name,
    type: typeNamed(param.type, known.structs),
  }));
  functions.set(name, { name, params, result: typeNamed(fn.type, known.structs) });
}

function writeFunction(
  draft: Draft,
  name: string,
  held: GraphFunction,
  known: Known,
  functions: Map<string, Signature>,
): void {
  const args = new Map<string, Argument>();
  const params: Signature['params'] = [];
  if (!draft.isEffect) args.set('frame', { text: 'frame', type: known.structs.get('Frame') });
  for (const [param, typeName] of Object.entries(held.takes ?? {})) {
    const type = typeNamed(typeName, known.structs);
    const path = ['functions', name, 'takes', param];
    if (!type)
      draft.fault(
        'error',
        'graph/type',
        path,
        `there is no type "${typeName}"`,
        'Such as f32, vec2f, vec3f, vec4f.',
        { function: name },
      );
    if (!isIdentifier(param))
      draft.fault(
        'error',
        'graph/name-taken',
        path,
        `"${param}" cannot be a name in WGSL`,
        'Use letters and digits.',
        { isKey: true, function: name },
      );
    args.set(param, { text: param, type });
    if (type) params.push({ name: param, type });
  }
  const nodes = held.nodes ?? {};
  const idents = identsOf(draft, nodes, [...args.keys()]);
  const scope = new Scope(nodes, {
    known,
    args,
    textures: draft.textures,
    of: name,
    idents,
    faults: draft.faults,
  });
  const order = workAll(draft, scope, nodes, name);
  const { expression, uses } = scope.output(held.gives ?? null, ['functions', name, 'gives']);
  const type = expression.type && concrete(expression.type);
  functions.set(name, { name, params, result: type });
  const reached = reachedFrom(uses, scope.worked);
  tellUnused(draft, nodes, reached, name);
  const takes = Object.entries(held.takes ?? {}).map(([param, text]) => `${param}: ${text}`);
  draft.line(`fn ${name}(${takes.join(', ')}) -> ${type ? shownType(type) : 'f32'} {`, { function: name });
  for (const node of order)
    if (reached.has(node)) writeNode(draft, node, nodes[node]!, scope.worked.get(node)!, name); // of these nodes
  draft.line(`${INDENT}return ${expression.text};`, { function: name });
  draft.line('}\n');
  for (const [node, { expression: own }] of scope.worked)
    if (own.type) draft.types.set(`${name}/${node}`, shownType(own.type));
  for (const [node, ident] of idents) draft.names.set(`${name}/${node}`, ident);
}
