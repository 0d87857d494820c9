import type { NodeColumns } from './columns.js';
import { ALIVE, NONE } from './flags.js';
import type { SpanLog } from './span-log.js';

/** Dirty rows from which on a pass over all rows is cheaper than going from one to the next. */
const MOST_LISTED = 2048;

/**
 * Brings world transforms up to date: row by row where few are dirty, in one pass over all where many are. Writes
 * the rows that moved to `log`.
 *
 * @param stamp the number of this update, for `movedAt`
 * @returns how many rows moved
 */
export function updateColumns(columns: NodeColumns, stamp: number, log: SpanLog): number {
  columns.settle();
  const { dirtyCount } = columns;
  const isFew = dirtyCount <= MOST_LISTED && dirtyCount * 4 <= columns.count && columns.bulkTo === 0;
  const affected = isFew ? listAffected(columns, stamp) : -1;
  columns.dirtyCount = 0;
  columns.bulkFrom = Infinity;
  columns.bulkTo = 0;
  if (affected < 0) {
    const moved = columns.kernels.updateRange(columns, 0, columns.count, stamp);
    if (moved > 0) log.add(columns.movedFrom, columns.movedTo - columns.movedFrom);
    return moved;
  }
  columns.kernels.updateRows(columns, affected);
  logRows(columns, affected, log);
  return affected;
}

/** Lists the dirty rows with all below them, parents first; -1 when that grew too long. */
function listAffected(columns: NodeColumns, stamp: number): number {
  const { dirtyRows, affectedRows, dirtyCount, flags, movedAt, firstChild } = columns;
  const most = columns.count >> 1;
  let isAscending = true;
  let hasChildren = false;
  for (let i = 0; i < dirtyCount; i++) {
    const row = dirtyRows[i]!; // i < dirtyCount, and a row, here and below
    if (i > 0 && row < dirtyRows[i - 1]!) isAscending = false;
    if (firstChild[row] !== NONE) hasChildren = true;
  }
  // Whoever stands above another has the lower row.
  if (hasChildren && !isAscending) sortRows(dirtyRows, dirtyCount);
  let count = 0;
  for (let i = 0; i < dirtyCount; i++) {
    const top = dirtyRows[i]!;
    if ((flags[top]! & ALIVE) === 0 || movedAt[top] === stamp) continue;
    for (let row = top; row !== NONE; row = columns.nextInSubtree(row, top)) {
      movedAt[row] = stamp;
      affectedRows[count++] = row;
      if (count > most) return -1;
    }
  }
  return count;
}

/** Neighbours become one span. */
function logRows({ affectedRows }: NodeColumns, count: number, log: SpanLog): void {
  for (let i = 0; i < count;) {
    const first = affectedRows[i]!; // i < count
    let next = first + 1;
    i++;
    while (i < count && affectedRows[i] === next) {
      next++;
      i++;
    }
    log.add(first, next - first);
  }
}

/** Shell's sort with Ciura's gaps ("Best Increments for the Average Case of Shellsort", 2001): in place, no allocation. */
function sortRows(rows: Uint32Array, count: number): void {
  for (const gap of GAPS) {
    for (let i = gap; i < count; i++) {
      const row = rows[i]!; // i < count, here and below
      let at = i;
      for (; at >= gap && rows[at - gap]! > row; at -= gap) rows[at] = rows[at - gap]!;
      rows[at] = row;
    }
  }
}

const GAPS = [1750, 701, 301, 132, 57, 23, 10, 4, 1];
