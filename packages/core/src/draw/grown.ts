/** An array with more room behind what it holds. */
export function grown(old: Uint32Array, length: number): Uint32Array<ArrayBuffer> {
  const next = new Uint32Array(length);
  next.set(old);
  return next;
}
