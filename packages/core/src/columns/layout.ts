/** The columns in the order in which they lie in memory: elements of what type, how many, for each of what. */
export const COLUMNS = [
  ['translation', Float32Array, 3, 'row'],
  ['rotation', Float32Array, 4, 'row'],
  ['scale', Float32Array, 3, 'row'],
  ['local', Float32Array, 12, 'matrix'],
  ['world', Float32Array, 12, 'row'],
  ['stretch', Float32Array, 1, 'row'],
  ['flags', Uint8Array, 1, 'row'],
  ['movedAt', Uint32Array, 1, 'row'],
  ['parent', Int32Array, 1, 'row'],
  ['firstItem', Int32Array, 1, 'row'],
  ['affectedRows', Uint32Array, 1, 'row'],
  ['itemNext', Int32Array, 1, 'item'],
  ['localSphere', Float32Array, 4, 'item'],
  ['worldSphere', Float32Array, 4, 'item'],
  ['viewKeys', Uint32Array, 1, 'item'],
  ['changedItems', Uint32Array, 1, 'item'],
  ['firstChild', Int32Array, 1, 'row'],
  ['lastChild', Int32Array, 1, 'row'],
  ['previousSibling', Int32Array, 1, 'row'],
  ['nextSibling', Int32Array, 1, 'row'],
  ['dirtyRows', Uint32Array, 1, 'row'],
  ['itemRow', Int32Array, 1, 'item'],
  ['itemBatch', Uint32Array, 1, 'item'],
  ['traits', Uint8Array, 1, 'row'],
] as const;

export type ColumnArray = Float32Array | Uint8Array | Uint32Array | Int32Array;
