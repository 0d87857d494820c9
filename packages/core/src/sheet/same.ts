/** Whether two values of JSON are the same; the order of members does not count. */
export function same(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false;
  if (Array.isArray(a) !== Array.isArray(b)) return false;
  if (Array.isArray(a)) {
    const other = b as readonly unknown[];
    if (a.length !== other.length) return false;
    for (let i = 0; i < a.length; i++) if (!same(a[i], other[i])) return false;
    return true;
  }
  const [left, right] = [a as Record<string, unknown>, b as Record<string, unknown>];
  let count = 0;
  for (const key in left) {
    if (!(key in right) || !same(left[key], right[key])) return false;
    count++;
  }
  for (const _ in right) count--;
  return count === 0;
}
