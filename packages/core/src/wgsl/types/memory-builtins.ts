import { type Builtin, type BuiltinTable, define, resultStruct } from './builtin-table.js';
import { commonScalar } from './operators.js';
import { BOOL, type Scalar, type Type, U32, VOID } from './types.js';

const table: BuiltinTable = new Map();

/** Functions of memory: lengths, atomics and barriers. */
export const MEMORY_BUILTINS: ReadonlyMap<string, Builtin> = table;

define(table, 'arrayLength', '(pointer to an array sized at run time)', ([p, ...rest]) =>
  p?.kind === 'ptr' && p.of.kind === 'array' && p.of.count === undefined && rest.length === 0
    ? { params: [p], result: U32 }
    : undefined,
);
Object.assign(table.get('arrayLength')!, { isConstant: false });
const atomics: Partial<Builtin> = { isConstant: false, mayDrop: true, stages: ['fragment', 'compute'] };
const atomicOf = (p: Type | undefined): Scalar | undefined =>
  p?.kind === 'ptr' && p.of.kind === 'atomic' && p.access === 'read_write' ? p.of.of : undefined;
define(
  table,
  'atomicLoad',
  '(pointer to atomic)',
  ([p, ...rest]) => {
    const of = atomicOf(p);
    return of && rest.length === 0 ? { params: [p!], result: of } : undefined;
  },
  atomics,
);
define(
  table,
  'atomicStore',
  '(pointer to atomic, T)',
  ([p, v, ...rest]) => {
    const of = atomicOf(p);
    return of && v && commonScalar(v as Scalar, of) === of && rest.length === 0
      ? { params: [p!, of], result: VOID }
      : undefined;
  },
  atomics,
);
define(
  table,
  'atomicAdd atomicSub atomicMax atomicMin atomicAnd atomicOr atomicXor atomicExchange',
  '(pointer to atomic, T)',
  ([p, v, ...rest]) => {
    const of = atomicOf(p);
    return of && v?.kind === 'scalar' && commonScalar(v, of) === of && rest.length === 0
      ? { params: [p!, of], result: of }
      : undefined;
  },
  atomics,
);
define(
  table,
  'atomicCompareExchangeWeak',
  '(pointer to atomic, T, T)',
  ([p, a, b, ...rest]) => {
    const of = atomicOf(p);
    if (!of || a?.kind !== 'scalar' || b?.kind !== 'scalar' || rest.length > 0) return undefined;
    if (commonScalar(a, of) !== of || commonScalar(b, of) !== of) return undefined;
    const result = resultStruct(`__atomic_compare_exchange_result_${of.key}`, [
      ['old_value', of],
      ['exchanged', BOOL],
    ]);
    return { params: [p!, of, of], result };
  },
  atomics,
);
define(
  table,
  'storageBarrier textureBarrier workgroupBarrier',
  '()',
  (args) => (args.length === 0 ? { params: [], result: VOID } : undefined),
  {
    isConstant: false,
    mayDrop: true,
    stages: ['compute'],
  },
);
define(
  table,
  'workgroupUniformLoad',
  '(pointer to workgroup memory)',
  ([p, ...rest]) =>
    p?.kind === 'ptr' && p.space === 'workgroup' && rest.length === 0
      ? { params: [p], result: p.of.kind === 'atomic' ? p.of.of : p.of }
      : undefined,
  {
    isConstant: false,
    stages: ['compute'],
  },
);
