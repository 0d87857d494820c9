import type { Declaration, FunctionDecl, GlobalVar, IoAttributes, Module } from '../parse/ast.js';
import { checkAliases } from './aliases.js';
import { CheckContext, type FunctionContext, type Reference } from './check-context.js';
import { constAssert, checkBody } from './check-statements.js';
import {
  checkGlobal,
  checkStruct,
  ioAttributes,
  isOverrideExpression,
  attributeNumber,
  typeOf,
} from './check-types.js';
import { valueOf } from './check-expressions.js';
import { type Finding, findingOf, type Source, type Span, WgslFault } from '../parse/source.js';
import {
  BOOL,
  concrete,
  F16,
  F32,
  I32,
  isAbstract,
  isConstructible,
  type Type,
  typeName,
  U32,
  vec,
  VOID,
} from '../types/types.js';

/** Features of WGSL that a module may enable. */
const ENABLE = ['f16', 'clip_distances', 'dual_source_blending', 'subgroups', 'primitive_index'];
/** Language features that Chromium 156 has without asking. */
const REQUIRES = [
  'readonly_and_readwrite_storage_textures',
  'packed_4x8_integer_dot_product',
  'unrestricted_pointer_parameters',
  'pointer_composite_access',
  'uniform_buffer_standard_layout',
  'subgroup_id',
  'subgroup_uniformity',
  'texture_and_sampler_let',
  'texture_formats_tier1',
  'linear_indexing',
  'swizzle_assignment',
  'fragment_depth',
  'immediate_address_space',
  'buffer_view',
];

/** A module whose every expression knows its type. Declarations stand in an order of use before users. */
export interface CheckedModule {
  module: Module;
  order: Declaration[];
  functions: FunctionDecl[];
  entryPoints: FunctionDecl[];
  globals: GlobalVar[];
  /** Every use of a name, for tools and for writing the module out again. */
  references: Reference[];
}

/** Checks a parsed module; what is wrong is told, a fault a declaration. */
export function checkModule(
  module: Module,
  scopes: Map<Source, Map<string, Declaration>>,
): { checked: CheckedModule; findings: Finding[] } {
  const c = new CheckContext(module);
  const faults: WgslFault[] = [];
  const attempt = (act: () => void): void => {
    try {
      act();
    } catch (error) {
      if (error instanceof WgslFault) {
        if (error.code !== 'cascade') faults.push(error);
      } else if (error instanceof RangeError)
        faults.push(new WgslFault('nesting', 'the module is nested too deeply', moduleSpan(module)));
      else throw error;
    }
  };
  for (const { name, span } of module.enables) {
    attempt(() => {
      if (!ENABLE.includes(name))
        throw c.fault(
          'feature',
          `there is no feature "${name}" to enable`,
          span,
          `There are ${ENABLE.join(', ')}.`,
        );
      c.features.add(name);
    });
  }
  for (const { name, span } of module.requires) {
    attempt(() => {
      if (!REQUIRES.includes(name)) throw c.fault('feature', `the language has no feature "${name}"`, span);
    });
  }
  for (const [source, names] of scopes) c.scopes.set(source, names);
  const failed = new Set<Declaration>();
  c.resolve = (decl, at) => {
    // What failed was told where it stands; its users say nothing more.
    if (failed.has(decl)) throw c.fault('cascade', '', at);
    const state = c.state.get(decl);
    if (state === 'done') return;
    if (state === 'open') {
      const what = decl.kind === 'fn' ? 'calls itself' : 'depends on itself';
      throw c.fault('recursion', `"${decl.name}" ${what}`, at);
    }
    c.state.set(decl, 'open');
    const outer = { fn: c.fn, owner: c.owner };
    c.fn = undefined;
    c.owner = decl;
    try {
      checkDeclaration(c, decl);
      c.order.push(decl);
    } catch (error) {
      failed.add(decl);
      throw error;
    } finally {
      c.fn = outer.fn;
      c.owner = outer.owner;
      c.state.set(decl, 'done');
    }
  };
  for (const decl of module.declarations) {
    if (failed.has(decl)) continue;
    attempt(() => c.resolve(decl, decl.nameSpan));
  }
  for (const { condition, span } of module.asserts) attempt(() => constAssert(c, condition, span));
  const functions = c.order.filter((d) => d.kind === 'fn');
  if (faults.length === 0) attempt(() => checkStages(c, functions));
  if (faults.length === 0) attempt(() => checkOverrideIds(c));
  return {
    checked: {
      module,
      order: c.order,
      functions,
      entryPoints: functions.filter((f) => f.stage),
      globals: c.order.filter((d) => d.kind === 'global'),
      references: c.references,
    },
    findings: dedupe(faults).map((fault) => findingOf(fault)),
  };
}

function moduleSpan(module: Module): Span {
  const first = module.declarations[0] ?? module.asserts[0];
  return first?.span ?? { source: { file: '', text: '' }, from: 0, to: 0 };
}

/** A fault found again through a second user is told once. */
function dedupe(faults: WgslFault[]): WgslFault[] {
  const seen = new Set<string>();
  return faults.filter(({ span, message }) => {
    const key = `${span.source.file} ${span.from} ${message}`;
    return !seen.has(key) && seen.add(key);
  });
}

function checkDeclaration(c: CheckContext, decl: Declaration): void {
  switch (decl.kind) {
    case 'struct':
      return checkStruct(c, decl);
    case 'alias':
      decl.type = typeOf(c, decl.typeExpr);
      return;
    case 'global':
      return checkGlobal(c, decl);
    case 'fn':
      return checkFunction(c, decl);
  }
}

/** Functions that only some stages have, met in a function or below it. */
const stagedIn = new WeakMap<FunctionDecl, FunctionContext['staged']>();

function checkFunction(c: CheckContext, decl: FunctionDecl): void {
  functionAttributes(c, decl);
  const fn: FunctionContext = {
    decl,
    scopes: [new Map()],
    locals: [],
    calls: new Set(),
    uses: new Set(),
    staged: [],
    surroundings: [],
  };
  for (const param of decl.params) {
    const type = typeOf(c, param.typeExpr);
    if (!isConstructible(type) && !['ptr', 'texture', 'sampler'].includes(type.kind)) {
      throw c.fault('param', `a parameter cannot be of type ${typeName(type)}`, param.typeExpr.span);
    }
    param.io = ioAttributes(c, param.attributes, []);
    if (!decl.stage && param.attributes.length > 0)
      throw c.fault(
        'attribute-place',
        `@${param.attributes[0]!.name} is for entry points`,
        param.attributes[0]!.span,
      );
    c.fn = fn;
    param.local = c.declareLocal({ kind: 'param', name: param.name, span: param.nameSpan, type });
    c.refer(param.name, param.nameSpan, param.local);
    c.fn = undefined;
  }
  decl.returnType = decl.returnExpr ? typeOf(c, decl.returnExpr) : VOID;
  if (decl.returnType !== VOID && !isConstructible(decl.returnType)) {
    throw c.fault('return', `a function cannot give a ${typeName(decl.returnType)}`, decl.returnExpr!.span);
  }
  decl.returnIo = ioAttributes(c, decl.returnAttributes, []);
  if (!decl.stage && decl.returnAttributes.length > 0)
    throw c.fault(
      'attribute-place',
      `@${decl.returnAttributes[0]!.name} is for entry points`,
      decl.returnAttributes[0]!.span,
    );
  c.fn = fn;
  checkBody(c, decl);
  Object.assign(decl, { locals: fn.locals, calls: fn.calls, uses: fn.uses });
  checkAliases(c, decl);
  stagedIn.set(decl, fn.staged);
  if (decl.stage) checkEntryPoint(c, decl);
}

function functionAttributes(c: CheckContext, decl: FunctionDecl): void {
  const seen = new Set<string>();
  for (const attribute of decl.attributes) {
    const { name, args, span } = attribute;
    if (seen.has(name) && name !== 'diagnostic') throw c.fault('attribute', `@${name} is given twice`, span);
    seen.add(name);
    switch (name) {
      case 'vertex':
      case 'fragment':
      case 'compute':
        if (args.length > 0) throw c.fault('attribute', `@${name} takes nothing`, span);
        if (decl.stage) throw c.fault('attribute', 'a function has one stage', span);
        decl.stage = name;
        break;
      case 'workgroup_size': {
        if (args.length < 1 || args.length > 3)
          throw c.fault('attribute', '@workgroup_size takes one to three numbers', span);
        decl.workgroupSize = args.map((arg, i) => {
          const type = concrete(valueOf(c, arg));
          if (type !== I32 && type !== U32)
            throw c.fault('type', 'a workgroup size is a whole number', arg.span);
          if (arg.value === undefined) {
            if (!isOverrideExpression(arg))
              throw c.fault(
                'not-constant',
                'a workgroup size must be known when the pipeline is made',
                arg.span,
              );
            return 1;
          }
          const n = attributeNumber(c, attribute, i);
          if (n < 1) throw c.fault('attribute', 'a workgroup size is 1 or more', arg.span);
          return n;
        });
        break;
      }
      case 'must_use':
        if (!decl.returnExpr)
          throw c.fault('attribute', '@must_use is for functions that give a value', span);
        break;
      case 'diagnostic':
        break;
      default:
        throw c.fault('attribute-place', `@${name} cannot stand before a function`, span);
    }
  }
  if (decl.workgroupSize && decl.stage !== 'compute')
    throw c.fault('attribute', '@workgroup_size is for compute entry points', decl.nameSpan);
  if (decl.stage === 'compute' && !decl.workgroupSize)
    throw c.fault('attribute', 'a compute entry point needs @workgroup_size', decl.nameSpan);
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

function checkEntryPoint(c: CheckContext, decl: FunctionDecl): void {
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
  const key = io.location * 2 + (io.blendSrc ?? 0);
  if (locations.has(key)) throw c.fault('io', `@location(${io.location}) is there twice`, span);
  locations.add(key);
}

/** All functions that an entry point reaches, itself first. */
export function reachable(entry: FunctionDecl): FunctionDecl[] {
  const found = new Set<FunctionDecl>([entry]);
  for (const fn of found) for (const called of fn.calls ?? []) found.add(called);
  return [...found];
}

function checkStages(c: CheckContext, functions: FunctionDecl[]): void {
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

function checkOverrideIds(c: CheckContext): void {
  const seen = new Map<number, GlobalVar>();
  for (const decl of c.order) {
    if (decl.kind !== 'global' || decl.overrideId === undefined) continue;
    const other = seen.get(decl.overrideId);
    if (other)
      throw c.fault('attribute', `"${decl.name}" and "${other.name}" have the same @id`, decl.nameSpan);
    seen.set(decl.overrideId, decl);
  }
}
