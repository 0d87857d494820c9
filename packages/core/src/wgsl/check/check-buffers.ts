import type { CallExpr } from '../parse/ast.js';
import type { CheckContext } from './check-context.js';
import { constantInteger, convertTo, valueOf } from './check-expressions.js';
import { typeOf } from './check-types.js';
import {
  AINT,
  alignOf,
  hasFixedFootprint,
  holdsAtomic,
  I32,
  isHostShareable,
  ptr,
  type Ptr,
  sizeOf,
  type Type,
  typeName,
  U32,
} from '../types/types.js';

const TAKES: Record<string, { count: number; form: string }> = {
  bufferView: { count: 2, form: 'bufferView<T>(&buffer, offset)' },
  bufferArrayView: { count: 3, form: 'bufferArrayView<T>(&buffer, offset, size)' },
  bufferLength: { count: 1, form: 'bufferLength(&buffer)' },
};

export const isBufferFunction = (name: string): boolean => name in TAKES;

/** Views into untyped buffers: a pointer to a type at an offset in bytes (the language feature buffer_view). */
export function inferBufferCall(c: CheckContext, expr: CallExpr): Type {
  const { callee, args } = expr;
  const { name } = callee;
  const { count, form } = TAKES[name]!; // asked before by isBufferFunction
  const [viewed, ...more] = callee.templates ?? [];
  if (args.length !== count || more.length > 0 || (viewed === undefined) !== (name === 'bufferLength'))
    throw c.fault('arguments', `${name} is written ${form}`, expr.span);
  const [pointer, ...numbers] = args.map((arg) => valueOf(c, arg));
  if (pointer?.kind !== 'ptr' || pointer.of.kind !== 'buffer')
    throw c.fault('arguments', `${name} takes a pointer to a buffer`, args[0]!.span, `It is ${form}.`);
  numbers.forEach((type, i) => {
    const arg = args[i + 1]!; // one for each number
    if (type === AINT) convertTo(c, arg, I32, `argument ${i + 2} of ${name}`);
    else if (type !== I32 && type !== U32)
      throw c.fault('type', `offsets and sizes are whole numbers, not ${typeName(type)}`, arg.span);
  });
  expr.call = { kind: 'builtin', name };
  if (!c.fn) throw c.fault('not-constant', `${name} can only be called inside functions`, expr.span);
  if (!viewed) return U32;
  const of = typeOf(c, viewed);
  if (!isHostShareable(of))
    throw c.fault('type', `a buffer cannot be viewed as ${typeName(of)}`, viewed.span);
  if (holdsAtomic(of)) throw c.fault('atomic', 'a buffer cannot be viewed as atomics', viewed.span);
  const isOpen = !hasFixedFootprint(of);
  if (name === 'bufferArrayView' && !isOpen)
    throw c.fault('type', `${typeName(of)} has a size already`, viewed.span, 'Use bufferView for it.');
  checkRange(c, expr, pointer, of, isOpen);
  return ptr(pointer.space, of, pointer.access);
}

/** Offsets and sizes that are known must fit the type, and the buffer where its size is known. */
function checkRange(c: CheckContext, expr: CallExpr, pointer: Ptr, of: Type, isOpen: boolean): void {
  const [, offset, size] = expr.args;
  const least = sizeOf(of);
  const at = offset!.value === undefined ? 0 : constantInteger(c, offset!, 'the offset'); // checked: there is one
  if (at < 0 || at % alignOf(of) !== 0)
    throw c.fault(
      'constant',
      `${typeName(of)} cannot stand at byte ${at}`,
      offset!.span,
      `Its alignment is ${alignOf(of)}.`,
    );
  const bytes = pointer.of.kind === 'buffer' ? pointer.of.size : undefined;
  if (bytes !== undefined && at + least > bytes)
    throw c.fault(
      'constant',
      `${typeName(of)} at byte ${at} does not fit a buffer of ${bytes} bytes`,
      offset!.span,
    );
  if (!isOpen || size?.value === undefined) return;
  const given = constantInteger(c, size, 'the size');
  if (given < least)
    throw c.fault(
      'constant',
      `${given} bytes do not hold one element of ${typeName(of)}`,
      size.span,
      `It takes ${least}.`,
    );
}
