/** Puts one more into the list of a key. */
export function addTo<K, T>(lists: Map<K, T[]>, key: K, one: T): void {
  const list = lists.get(key);
  if (list) list.push(one);
  else lists.set(key, [one]);
}
