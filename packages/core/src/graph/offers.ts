import { conversionRank, vec } from '../wgsl/types/types.js';
import type { Expression } from './expression.js';
import { concrete, F32, I32, type Known, partOf, resultOf, sizeOfType, type Type, U32 } from './types.js';

interface Variant {
  words: (place: number, reference: string | undefined) => string;
  type: Type;
}

/** Values of another type that one can be made into, the nearest first. */
function variantsOf(type: Type): Variant[] {
  const wrapped =
    (name: string): Variant['words'] =>
    (place) =>
      `Put ${name} about input ${place}.`;
  const out: Variant[] = [];
  const size = sizeOfType(type);
  if (size === undefined) return out;
  if (type.kind === 'vec')
    for (const parts of ['xyz', 'xy', 'x'])
      if (parts.length < size)
        out.push({
          words: (place, reference) =>
            reference === undefined
              ? `Put input ${place} into a node of its own and name its "${parts}".`
              : `Write "${reference}.${parts}" at input ${place}.`,
          type: partOf(type, parts)!, // it has as many
        });
  const scalar = type.kind === 'vec' ? type.of : concrete(type);
  if (type.kind === 'scalar')
    for (const wanted of [2, 3, 4])
      out.push({ words: wrapped(`vec${wanted}${scalar.key[0]}`), type: vec(wanted, scalar as typeof F32) });
  for (const name of Object.keys(WHOLE_AND_NOT)) {
    if (scalar.key === name) continue;
    const other = WHOLE_AND_NOT[name]!; // one of them
    const own = size === 1 ? other : vec(size, other as typeof F32);
    out.push({ words: wrapped(size === 1 ? name : `vec${size}${name[0]}`), type: own });
  }
  return out;
}

const WHOLE_AND_NOT: Readonly<Record<string, typeof F32>> = { f32: F32, i32: I32, u32: U32 };

/** What would fit in place of one of the inputs, in words. */
export function offersFor(call: string, args: readonly Expression[], known: Known): string[] {
  const types = args.map(({ type }) => type!); // looked at by the caller
  const own = known.functions.get(call)?.params;
  const offers: string[] = [];
  for (const [i, arg] of args.entries()) {
    const param = own?.[i]?.type;
    if (param && conversionRank(types[i]!, param) >= 0) continue; // as many
    for (const variant of variantsOf(types[i]!))
      // as above
      if (resultOf(call, types.with(i, variant.type), known))
        offers.push(variant.words(i + 1, arg.reference));
  }
  return offers;
}
