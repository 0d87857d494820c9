/** Something that is kept as long as frames use it. */
export interface Used {
  lastUsed: number;
}

/**
 * Frees what of a map no frame since `frame` has used.
 *
 * @param free what it is on the GPU
 */
export function freeUnused<K, V extends Used>(
  known: Map<K, V>,
  frame: number,
  free: (value: V, key: K) => void,
): void {
  for (const [key, value] of known) {
    if (value.lastUsed >= frame) continue;
    known.delete(key);
    free(value, key);
  }
}

/** The same for maps of maps: those that become empty go as well. */
export function freeUnusedWithin<K, L, V extends Used>(
  known: Map<K, Map<L, V>>,
  frame: number,
  free: (value: V) => void,
): void {
  for (const [key, values] of known) {
    freeUnused(values, frame, free);
    if (values.size === 0) known.delete(key);
  }
}
