import { type Attribute, type IoAttributes } from '../parse/ast.js';
import type { CheckContext } from './check-context.js';
import { valueOf, constantInteger } from './check-expressions.js';

/** Reads @location, @builtin, @interpolate, @invariant and @blend_src; other names are refused. */
export function ioAttributes(c: CheckContext, attributes: Attribute[], alsoAllowed: string[]): IoAttributes {
  const io: IoAttributes = {};
  const seen = new Set<string>();
  for (const attribute of attributes) {
    const { name, args, span } = attribute;
    if (seen.has(name)) throw c.fault('attribute', `@${name} is given twice`, span);
    seen.add(name);
    switch (name) {
      case 'location':
        io.location = attributeNumber(c, attribute);
        break;
      case 'blend_src':
        if (!c.features.has('dual_source_blending'))
          throw c.fault('feature', '@blend_src needs "enable dual_source_blending;"', span);
        io.secondSource = attributeNumber(c, attribute);
        if (io.secondSource > 1) throw c.fault('attribute', '@blend_src is 0 or 1', span);
        break;
      case 'builtin': {
        const [arg] = args;
        if (args.length !== 1 || arg?.kind !== 'name' || !BUILTIN_INPUTS.includes(arg.name)) {
          throw c.fault('attribute', '@builtin takes the name of a built-in value', span);
        }
        const feature = BUILTIN_FEATURES[arg.name];
        if (feature && !c.features.has(feature))
          throw c.fault(
            'feature',
            `@builtin(${arg.name}) needs the feature "${feature}"`,
            span,
            `Write "enable ${feature};" at the top.`,
          );
        io.builtin = arg.name;
        break;
      }
      case 'interpolate': {
        const words = args.map((arg) => (arg.kind === 'name' ? arg.name : ''));
        const [kind, sampling] = words;
        const fits =
          (words.length === 1 || words.length === 2) &&
          ['flat', 'linear', 'perspective'].includes(kind!) &&
          (sampling === undefined ||
            (kind === 'flat' ? ['first', 'either'] : ['center', 'centroid', 'sample']).includes(sampling));
        if (!fits)
          throw c.fault(
            'attribute',
            '@interpolate takes flat, linear or perspective, and how it is sampled',
            span,
          );
        io.interpolate = words;
        break;
      }
      case 'invariant':
        if (args.length > 0) throw c.fault('attribute', '@invariant takes nothing', span);
        io.invariant = true;
        break;
      default:
        if (!alsoAllowed.includes(name)) throw c.fault('attribute-place', `@${name} cannot stand here`, span);
    }
  }
  if (io.interpolate && io.location === undefined) {
    throw c.fault(
      'attribute',
      '@interpolate needs a @location beside it',
      attributes.find((a) => a.name === 'interpolate')!.span,
    );
  }
  if (io.invariant && io.builtin !== 'position') {
    throw c.fault(
      'attribute',
      '@invariant needs @builtin(position) beside it',
      attributes.find((a) => a.name === 'invariant')!.span,
    );
  }
  if (io.builtin !== undefined && io.location !== undefined) {
    throw c.fault('attribute', 'a value is either a built-in or has a location', attributes[0]!.span);
  }
  return io;
}

export function attributeNumber(c: CheckContext, attribute: Attribute, at = 0): number {
  const expr = attribute.args[at];
  if (!expr || attribute.args.length > (attribute.name === 'workgroup_size' ? 3 : 1)) {
    throw c.fault('attribute', `@${attribute.name} takes one whole number`, attribute.span);
  }
  valueOf(c, expr);
  const n = constantInteger(c, expr, `@${attribute.name}`);
  if (n < 0) throw c.fault('attribute', `@${attribute.name} cannot be ${n}`, expr.span);
  return n;
}

const BUILTIN_INPUTS = [
  'vertex_index',
  'instance_index',
  'position',
  'front_facing',
  'frag_depth',
  'sample_index',
  'sample_mask',
  'local_invocation_id',
  'local_invocation_index',
  'global_invocation_id',
  'workgroup_id',
  'num_workgroups',
  'clip_distances',
  'subgroup_invocation_id',
  'subgroup_size',
  'primitive_index',
  'subgroup_id',
  'num_subgroups',
  'global_invocation_index',
  'workgroup_index',
];

/** Built-in values that must be enabled. */
const BUILTIN_FEATURES: Record<string, string> = {
  subgroup_invocation_id: 'subgroups',
  subgroup_size: 'subgroups',
  subgroup_id: 'subgroups',
  num_subgroups: 'subgroups',
  primitive_index: 'primitive_index',
  clip_distances: 'clip_distances',
};
