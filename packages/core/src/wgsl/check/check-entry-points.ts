import { type GlobalVar, type IoAttributes, type FunctionDecl } from '../parse/ast.js';
import type { CheckContext } from './check-context.js';
import { F16, F32, isAbstract, type Type, typeName, U32, vec, BOOL, VOID } from '../types/types.js';
import { type Span } from '../parse/source.js';
import { stagedIn } from './check-functions.js';

export function checkStages(c: CheckContext, functions: FunctionDecl[]): void {
  for (const entry of functions) {
    if (!entry.stage) continue;
    const bound = new Map<string, GlobalVar>();
    for (const fn of reachable(entry)) {
      for (const { name, stages, span } of stagedIn.get(fn) ?? []) {
        if (!stages.includes(entry.stage)) {
          throw c.fault(
            'stage',
            `${name} cannot be used in the ${entry.stage} stage, where "${entry.name}" calls it`,
            span,
            `It is for ${stages.join(' and ')}.`,
          );
        }
      }
      for (const global of fn.uses ?? []) checkUse(c, entry, global, bound);
    }
  }
}

export function checkEntryPoint(c: CheckContext, decl: FunctionDecl): void {
  const seen = new Set<string>();
  const locations = new Set<number>();
  for (const param of decl.params)
    checkIo(c, decl, 'in', param.local!.type, param.io!, param.span, seen, locations, false);
  const outputs = new Set<string>();
  if (decl.returnType !== VOID) {
    checkIo(
      c,
      decl,
      'out',
      decl.returnType!,
      decl.returnIo!,
      decl.returnExpr!.span,
      outputs,
      new Set(),
      false,
    );
  }
  if (decl.stage === 'vertex' && !outputs.has('position')) {
    throw c.fault('io', `the vertex entry point "${decl.name}" must give @builtin(position)`, decl.nameSpan);
  }
  if (decl.stage === 'compute' && decl.returnType !== VOID)
    throw c.fault('io', 'a compute entry point gives no value', decl.returnExpr!.span);
}

function checkIo(
  c: CheckContext,
  decl: FunctionDecl,
  direction: 'in' | 'out',
  type: Type,
  io: IoAttributes,
  span: Span,
  builtins: Set<string>,
  locations: Set<number>,
  isNested: boolean,
): void {
  const what = direction === 'in' ? 'an input' : 'an output';
  if (type.kind === 'struct') {
    if (isNested) throw c.fault('io', `${what} cannot hold a structure inside a structure`, span);
    if (io.location !== undefined || io.builtin !== undefined)
      throw c.fault('io', 'attributes go to the members of the structure', span);
    type.members.forEach((m) =>
      checkIo(
        c,
        decl,
        direction,
        m.type,
        m.io,
        type.decl!.members.find((d) => d.name === m.name)!.span,
        builtins,
        locations,
        true,
      ),
    );
    return;
  }
  if (io.builtin !== undefined) {
    const rule = BUILTIN_VALUES[io.builtin];
    if (!rule?.places.includes(`${decl.stage} ${direction}`)) {
      throw c.fault('io', `@builtin(${io.builtin}) cannot be ${what} of a ${decl.stage} entry point`, span);
    }
    if (type !== rule.type)
      throw c.fault('io', `@builtin(${io.builtin}) is ${typeName(rule.type)}, not ${typeName(type)}`, span);
    if (builtins.has(io.builtin)) throw c.fault('io', `@builtin(${io.builtin}) is there twice`, span);
    builtins.add(io.builtin);
    return;
  }
  if (io.location === undefined)
    throw c.fault('io', `${what} of an entry point needs @location or @builtin`, span);
  if (decl.stage === 'compute') throw c.fault('io', 'compute entry points have no @location', span);
  const of = type.kind === 'vec' ? type.of : type;
  if (of.kind !== 'scalar' || of === BOOL || isAbstract(of))
    throw c.fault('io', `${what} with a location cannot be ${typeName(type)}`, span);
  const isVarying = (decl.stage === 'vertex') === (direction === 'out');
  if (isVarying && of !== F32 && of !== F16 && io.interpolate?.[0] !== 'flat') {
    throw c.fault('io', `whole numbers between the stages need @interpolate(flat)`, span);
  }
  const key = io.location * 2 + (io.secondSource ?? 0);
  if (locations.has(key)) throw c.fault('io', `@location(${io.location}) is there twice`, span);
  locations.add(key);
}

/** Stage, direction and type of the built-in values (WGSL 13.3.1.1). */
const BUILTIN_VALUES: Record<string, { places: string[]; type: Type }> = {
  vertex_index: { places: ['vertex in'], type: U32 },
  instance_index: { places: ['vertex in'], type: U32 },
  position: { places: ['vertex out', 'fragment in'], type: vec(4, F32) },
  front_facing: { places: ['fragment in'], type: BOOL },
  frag_depth: { places: ['fragment out'], type: F32 },
  sample_index: { places: ['fragment in'], type: U32 },
  sample_mask: { places: ['fragment in', 'fragment out'], type: U32 },
  primitive_index: { places: ['fragment in'], type: U32 },
  local_invocation_id: { places: ['compute in'], type: vec(3, U32) },
  local_invocation_index: { places: ['compute in'], type: U32 },
  global_invocation_id: { places: ['compute in'], type: vec(3, U32) },
  workgroup_id: { places: ['compute in'], type: vec(3, U32) },
  num_workgroups: { places: ['compute in'], type: vec(3, U32) },
  global_invocation_index: { places: ['compute in'], type: U32 },
  workgroup_index: { places: ['compute in'], type: U32 },
  subgroup_invocation_id: { places: ['compute in', 'fragment in'], type: U32 },
  subgroup_size: { places: ['compute in', 'fragment in'], type: U32 },
  subgroup_id: { places: ['compute in'], type: U32 },
  num_subgroups: { places: ['compute in'], type: U32 },
};

/** All functions that an entry point reaches, itself first. */
export function reachable(entry: FunctionDecl): FunctionDecl[] {
  const found = new Set<FunctionDecl>([entry]);
  for (const fn of found) for (const called of fn.calls ?? []) found.add(called);
  return [...found];
}

function checkUse(
  c: CheckContext,
  entry: FunctionDecl,
  global: GlobalVar,
  bound: Map<string, GlobalVar>,
): void {
  if (global.space === 'workgroup' && entry.stage !== 'compute') {
    throw c.fault(
      'stage',
      `the workgroup variable "${global.name}" is for compute, and "${entry.name}" uses it`,
      global.nameSpan,
    );
  }
  const writes = global.access === 'read_write' && global.space === 'storage';
  const type = global.type;
  const stores = type?.kind === 'texture' && type.form === 'storage' && type.access !== 'read';
  if (entry.stage === 'vertex' && (writes || stores)) {
    throw c.fault(
      'stage',
      `"${global.name}" can be written, which vertex entry points such as "${entry.name}" may not`,
      global.nameSpan,
    );
  }
  if (global.group === undefined) return;
  const key = `${global.group} ${global.binding}`;
  const other = bound.get(key);
  if (other && other !== global) {
    throw c.fault(
      'binding',
      `"${global.name}" and "${other.name}" have the same @group and @binding in "${entry.name}"`,
      global.nameSpan,
    );
  }
  bound.set(key, global);
}

export function checkOverrideIds(c: CheckContext): void {
  const seen = new Map<number, GlobalVar>();
  for (const decl of c.order) {
    if (decl.kind !== 'global' || decl.overrideId === undefined) continue;
    const other = seen.get(decl.overrideId);
    if (other)
      throw c.fault('attribute', `"${decl.name}" and "${other.name}" have the same @id`, decl.nameSpan);
    seen.set(decl.overrideId, decl);
  }
}
