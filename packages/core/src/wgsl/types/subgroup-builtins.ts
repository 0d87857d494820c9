import { type Builtin, type BuiltinTable, define, elementwise, same } from './builtin-table.js';
import { AINT, BOOL, I32, type Type, U32, vec } from './types.js';

const table: BuiltinTable = new Map();

/** Functions over the invocations that run side by side (WGSL 17.12 and 17.13); they need `enable subgroups;`. */
export const SUBGROUP_BUILTINS: ReadonlyMap<string, Builtin> = table;

const SUBGROUPS: Partial<Builtin> = {
  isConstant: false,
  stages: ['fragment', 'compute'],
  feature: 'subgroups',
};

elementwise(
  table,
  'subgroupAdd subgroupMul subgroupMin subgroupMax subgroupInclusiveAdd subgroupInclusiveMul subgroupExclusiveAdd subgroupExclusiveMul subgroupBroadcastFirst quadSwapX quadSwapY quadSwapDiagonal',
  1,
  'number',
  SUBGROUPS,
);
elementwise(table, 'subgroupAnd subgroupOr subgroupXor', 1, 'integer', SUBGROUPS);

/** A value and the number of an invocation, or how far it is moved. */
function exchange(names: string, lane: Type[]): void {
  define(
    table,
    names,
    `(T, ${lane.map((t) => t.key).join(' or ')}) with T a scalar or vector of numbers`,
    ([value, at, ...rest]) => {
      const t = value && same([value], 'number');
      const to = at && (lane.includes(at) ? at : at === AINT ? lane[0] : undefined);
      return t && to && rest.length === 0 ? { params: [t, to], result: t } : undefined;
    },
    SUBGROUPS,
  );
}
exchange('subgroupBroadcast subgroupShuffle quadBroadcast', [I32, U32]);
exchange('subgroupShuffleXor subgroupShuffleUp subgroupShuffleDown', [U32]);

const about = (names: string, params: Type[], result: Type): void =>
  define(
    table,
    names,
    `(${params.map((p) => p.key).join(', ')})`,
    (args) =>
      args.length === params.length && args.every((arg, i) => arg === params[i])
        ? { params, result }
        : undefined,
    SUBGROUPS,
  );
about('subgroupElect', [], BOOL);
about('subgroupAll subgroupAny', [BOOL], BOOL);
about('subgroupBallot', [BOOL], vec(4, U32));

/** Where a function takes the number of an invocation that must be known beforehand, and what it must be below. */
export const LANE_LIMITS: Readonly<Record<string, { limit: number; isConstant: boolean }>> = {
  subgroupBroadcast: { limit: 128, isConstant: true },
  quadBroadcast: { limit: 4, isConstant: true },
  subgroupShuffle: { limit: 128, isConstant: false },
  subgroupShuffleXor: { limit: 128, isConstant: false },
  subgroupShuffleUp: { limit: 128, isConstant: false },
  subgroupShuffleDown: { limit: 128, isConstant: false },
};
