import { type GlobalVar, type Declaration, type FunctionDecl, type Module } from '../parse/ast.js';
import { CheckContext, type Reference } from './check-context.js';
import { constAssert } from './check-statements.js';
import { type Finding, findingOf, type Source, type Span, WgslFault } from '../parse/source.js';
import { typeOf } from './check-types.js';
import { checkStruct } from './check-structs.js';
import { checkGlobal } from './check-globals.js';
import { checkStages, checkOverrideIds } from './check-entry-points.js';
import { checkFunction } from './check-functions.js';

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

/**
 * Checks a parsed module; what is wrong is told, a fault a statement.
 *
 * @param already faults found before, to be told along
 */
export function checkModule(
  module: Module,
  scopes: Map<Source, Map<string, Declaration>>,
  already: readonly WgslFault[] = [],
): { checked: CheckedModule; findings: Finding[] } {
  const c = new CheckContext(module);
  const faults: WgslFault[] = [...already];
  c.report = (fault) => {
    if (fault.code !== 'cascade') faults.push(fault);
  };
  const attempt = (act: () => void): void => {
    try {
      act();
    } catch (error) {
      if (error instanceof WgslFault) {
        c.report(error);
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
    findings: inOrder(dedupe(faults), [...scopes.keys()]).map((fault) => findingOf(fault)),
  };
}

function moduleSpan(module: Module): Span {
  const first = module.declarations[0] ?? module.asserts[0];
  return first?.span ?? { source: { file: '', text: '' }, from: 0, to: 0 };
}

/** As an author reads: module by module, the one asked for first, and downwards in each. */
function inOrder(faults: WgslFault[], sources: Source[]): WgslFault[] {
  const files = sources.map(({ file }) => file);
  const rank = ({ span }: WgslFault): number => files.indexOf(span.source.file);
  return faults.sort((a, b) => rank(a) - rank(b) || a.span.from - b.span.from);
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
