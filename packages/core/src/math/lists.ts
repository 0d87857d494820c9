/** Puts one more into the list of a key. */
export function addTo<K, T>(lists: Map<K, T[]>, key: K, one: T): void {
  const list = lists.get(key);
  if (list) list.push(one);
  else lists.set(key, [one]);
}

/** Number of the first of rising values that is not below one; their count where all are. @param at the value of a number */
export function lowerBound(count: number, value: number, at: (number: number) => number): number {
  let [low, high] = [0, count];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (at(middle) < value) low = middle + 1;
    else high = middle;
  }
  return low;
}
