import type { NodeColumns } from './columns.js';

/** A view as the kernels take it. */
export interface KernelView {
  /** Six planes, each xyz and distance, pointing inwards. */
  readonly planes: Float32Array;
  /** Unit vector the camera looks along. */
  readonly forward: Float32Array;
  readonly position: Float32Array;
}

/**
 * The loops that touch every node of a scene. There are two sets that compute the same up to rounding: plain
 * JavaScript, and WebAssembly with SIMD for scenes that are large enough to be worth its start.
 */
export interface Kernels {
  /**
   * Brings world transforms, inherited visibility and the world spheres of items up to date, for the rows of a
   * range that are dirty or below a row that this update moved. Sets `columns.movedFrom` and `movedTo`.
   *
   * @param stamp written to `movedAt` of the rows that moved
   * @returns how many moved
   */
  updateRange(columns: NodeColumns, from: number, to: number, stamp: number): number;
  /** The same for the first `count` rows of `columns.affectedRows`, parents before children. */
  updateRows(columns: NodeColumns, count: number): void;
  /**
   * Writes `columns.viewKeys` of items: 0 for what lies outside of the view, `KEY_HIDDEN` for what is not shown,
   * else `IN_VIEW` with the depth.
   *
   * @param from a multiple of 4
   * @param to rounded up to a multiple of 4
   * @param mask items whose keys differ in these bits from what `viewKeys` held are listed in `changedItems`
   * @returns how many are listed; items beyond the last may be among them
   */
  viewKeys(
    columns: NodeColumns,
    view: KernelView,
    from: number,
    to: number,
    cull: boolean,
    mask: number,
  ): number;
}
