import { nearest } from '../errors/near-names.js';
import { type HookName, HOOKS } from '../shading/hook-outline.js';
import { conversionRank, vec } from '../wgsl/types/types.js';
import type { GraphSetting } from './document.js';
import { type Draft, INDENT } from './draft.js';
import type { Expression } from './expression.js';
import type { doubtsOf, Meaning } from './meaning.js';
import { HOOK_ARGUMENTS } from './names.js';
import { identsOf, reachedFrom, tellUnused, workAll, writeNode } from './node-flow.js';
import { type Argument, Scope } from './scope.js';
import { concrete, F32, type Known, partOf, shownType, type Type, typeNamed } from './types.js';
import { codeOf, outputsOf, type Path } from './walk.js';

/** Hooks whose outputs are members of a structure. */
const BY_MEMBERS = { surface: 'Surface', displace: 'Vertex', march: 'Hit' } as const;

const ALL_ARGUMENTS: Readonly<Record<string, unknown>> = Object.assign(
  {},
  ...Object.values(HOOK_ARGUMENTS),
) as Record<string, unknown>;

export function writeHooks(draft: Draft, known: Known): void {
  const nodes = draft.graph.nodes ?? {};
  const hooks = Object.entries(draft.graph.hooks).filter(([name]) => name in HOOKS) as [HookName, unknown][];
  const idents = identsOf(draft, nodes, []);
  const args = argumentsOf(draft, known);
  const scope = new Scope(nodes, { known, args, textures: draft.textures, idents, faults: draft.faults });
  const order = workAll(draft, scope, nodes);
  const used = new Set<string>();
  for (const [name, hook] of hooks) {
    const code = codeOf(hook);
    if (code !== undefined) {
      draft.line(code.trim(), { hook: name });
      draft.line('');
      continue;
    }
    for (const one of writeHook(draft, name, hook, scope, order, known)) used.add(one);
  }
  tellUnused(draft, nodes, used);
  for (const [node, { expression }] of scope.worked)
    if (expression.type) draft.types.set(node, shownType(expression.type));
  for (const [node, ident] of idents) draft.names.set(node, ident);
}

/** What inputs know beside nodes. */
function argumentsOf(draft: Draft, known: Known): Map<string, Argument> {
  const args = new Map<string, Argument>();
  const struct = (name: string): Type | undefined => known.structs.get(name);
  const hooks = Object.keys(draft.graph.hooks) as HookName[];
  for (const hook of hooks)
    for (const [name, type] of Object.entries(HOOK_ARGUMENTS[hook] ?? {}))
      args.set(name, { text: name, type: type === 'vec4f' ? vec(4, F32) : struct(type) });
  if (draft.graph.settings)
    args.set('settings', {
      text: 'settings',
      type: struct('Settings'),
      members: meaningsOf(draft.graph.settings),
    });
  if (draft.graph.instanceSettings)
    args.set('instance', {
      text: 'instance',
      type: struct('InstanceSettings'),
      members: meaningsOf(draft.graph.instanceSettings),
    });
  if (draft.graph.attributes) args.set('attributes', { text: 'attributes', type: struct('Attributes') });
  if (!draft.isEffect) args.set('frame', { text: 'frame', type: struct('Frame') });
  return args;
}

/** @returns the nodes that it takes */
function writeHook(
  draft: Draft,
  name: HookName,
  hook: unknown,
  scope: Scope,
  order: readonly string[],
  known: Known,
): Set<string> {
  const outputs = outputsOf(hook, name).map((one) => ({ ...one, ...scope.output(one.input, one.path) }));
  const reached = reachedFrom(
    outputs.flatMap(({ uses }) => [...uses]),
    scope.worked,
  );
  const args = new Set(outputs.flatMap((output) => [...output.args]));
  for (const node of reached) for (const one of scope.worked.get(node)?.args ?? []) args.add(one);
  const own: Readonly<Record<string, string>> = HOOK_ARGUMENTS[name];
  for (const arg of args)
    if (!(arg in own) && arg in ALL_ARGUMENTS) tellMissing(draft, name, arg, reached, scope, outputs);
  const whole = outputs.length === 1 && outputs[0]!.member === undefined ? outputs[0] : undefined; // one
  const takes: string[] = [];
  for (const [arg, type] of Object.entries(own)) {
    if (arg === 'defaults') continue;
    const isTaken =
      args.has(arg) ||
      (name === 'surface' && (!whole || args.has('defaults'))) ||
      (name === 'displace' && !whole);
    if (isTaken) takes.push(`${arg}: ${type}`);
  }
  // An effect, or a color in the end, may ask for nothing.
  if (args.has('settings')) takes.push('settings: Settings');
  if (args.has('instance')) takes.push('instance: InstanceSettings');
  if (args.has('attributes')) takes.push('attributes: Attributes');
  const { gives } = HOOKS[name];
  draft.line(`fn ${name}(${takes.join(', ')}) -> ${gives} {`, { hook: name });
  if (args.has('defaults') && name === 'surface')
    draft.line(`${INDENT}let defaults = surfaceDefaults(p);`, { hook: name });
  for (const node of order)
    if (reached.has(node)) writeNode(draft, node, scope.nodes[node]!, scope.worked.get(node)!); // of these nodes
  if (whole) writeWhole(draft, name, whole, known);
  else writeMembers(draft, name, outputs, args.has('defaults'), known);
  draft.line('}\n');
  return reached;
}

function tellMissing(
  draft: Draft,
  hook: HookName,
  arg: string,
  reached: ReadonlySet<string>,
  scope: Scope,
  outputs: readonly { args: Set<string>; path: Path; member?: string }[],
): void {
  const node = [...reached].find((one) => scope.worked.get(one)?.args.has(arg));
  const output = outputs.find(({ args }) => args.has(arg));
  const has = Object.keys(HOOK_ARGUMENTS[hook]).map((one) => `"@${one}"`);
  draft.fault(
    'error',
    'graph/argument',
    node === undefined ? (output?.path ?? ['hooks', hook]) : ['nodes', node],
    `${hook} is not given "@${arg}"`,
    `It has ${has.join(', ')}. "@${arg}" is given to ${(Object.keys(HOOK_ARGUMENTS) as HookName[]).filter((one) => arg in HOOK_ARGUMENTS[one]).join(', ')}.`,
    node === undefined ? {} : { node },
  );
}

function writeWhole(
  draft: Draft,
  name: HookName,
  { expression, path }: { expression: Expression; path: Path },
  known: Known,
): void {
  const { gives } = HOOKS[name];
  const wanted = typeNamed(gives, known.structs);
  const text = fitted(draft, expression, wanted, path, `what ${name} gives`);
  draft.line(`${INDENT}return ${text};`, { hook: name });
}

/** Members of a surface, a vertex or a hit, over what they are anyway. */
function writeMembers(
  draft: Draft,
  name: HookName,
  outputs: readonly { member?: string; expression: Expression; path: Path }[],
  hasDefaults: boolean,
  known: Known,
): void {
  const struct = name in BY_MEMBERS ? BY_MEMBERS[name as keyof typeof BY_MEMBERS] : undefined;
  if (!struct) {
    draft.fault(
      'error',
      'graph/output',
      ['hooks', name],
      `${name} gives one value, a ${HOOKS[name].gives}`,
      `Write "${name}": "@name".`,
    );
    return;
  }
  const type = known.structs.get(struct);
  const begin = {
    surface: hasDefaults ? 'defaults' : 'surfaceDefaults(p)',
    displace: 'v',
    march: 'miss()',
  }[name as keyof typeof BY_MEMBERS];
  draft.line(`${INDENT}var out = ${begin};`, { hook: name });
  if (name === 'march' && !outputs.some(({ member }) => member === 'isHit'))
    draft.line(`${INDENT}out.isHit = true;`, { hook: name });
  for (const { expression, member = '', path } of outputs) {
    const wanted = type && partOf(type, member);
    if (type && !wanted) {
      const names = type.kind === 'struct' ? type.members.map((one) => one.name) : [];
      const near = nearest(member, names);
      draft.fault(
        'error',
        'graph/output',
        path,
        `a ${struct.toLowerCase()} has no "${member}"`,
        near === undefined ? `It has ${names.slice(0, 12).join(', ')}.` : `Did you mean "${near}"?`,
        { isKey: true },
      );
      continue;
    }
    const text = fitted(draft, expression, wanted, path, `"${member}" of a ${struct.toLowerCase()}`);
    if (member === 'normal')
      for (const { code, hint, summary } of normalDoubts(name, expression.meaning))
        draft.fault('warning', code, path, summary, hint);
    draft.line(`${INDENT}out.${member} = ${text};`, { hook: name, member });
  }
  draft.line(`${INDENT}return out;`, { hook: name });
}

/** An output as its place takes it: numbers count for all parts of a vector. */
function fitted(
  draft: Draft,
  expression: Expression,
  wanted: Type | undefined,
  path: Path,
  what: string,
): string {
  const { number, text, type } = expression;
  if (!type || !wanted || conversionRank(type, wanted) >= 0) return text;
  if (number !== undefined && wanted.kind === 'vec') return `vec${wanted.size}f(${text})`;
  const size = wanted.kind === 'vec' ? wanted.size : 1;
  const own = type.kind === 'vec' ? type.size : 1;
  const parts = 'xyzw'.slice(0, size);
  const hint =
    own > size
      ? expression.reference === undefined
        ? `Take its "${parts}".`
        : `Write "${expression.reference}.${parts}".`
      : own === 1
        ? `Put ${shownType(wanted)} about it.`
        : `Put ${shownType(wanted)} about it, with the parts that are missing.`;
  draft.fault(
    'error',
    'graph/type',
    path,
    `${what} is a ${shownType(wanted)}, and this is a ${shownType(concrete(type))}`,
    hint,
  );
  return text;
}

/** What settings may be. */
const meaningsOf = (settings: Readonly<Record<string, GraphSetting>>): Record<string, Meaning> =>
  Object.fromEntries(
    Object.entries(settings).map(([name, { range, type, value = 0 }]) => [
      name,
      type.startsWith('color')
        ? { low: 0 }
        : {
            ...(range ? { low: range[0], high: range[1] } : {}),
            ...(typeof value === 'number' ? { usual: value } : {}),
          },
    ]),
  );

/** A normal that is none. */
function normalDoubts(hook: HookName, meaning: Meaning): ReturnType<typeof doubtsOf> {
  const space = hook === 'surface' ? 'world' : 'object';
  const doubts: ReturnType<typeof doubtsOf> = [];
  if (meaning.space !== undefined && meaning.space !== space)
    doubts.push({
      code: 'graph/spaces',
      summary: `the normal is in ${meaning.space} space, and is taken in ${space} space`,
      hint: `Give one of ${space} space.`,
    });
  if (meaning.isDirection && meaning.isUnit === false)
    doubts.push({
      code: 'graph/length',
      summary: "the normal's length is not 1",
      hint: 'Put normalize before it.',
    });
  return doubts;
}
