/**
 * What a frame is made of and costs, in figures and in words.
 *
 * @module umber-lens/figures
 */
export { describeFrame } from './inspect/describe-graph.js';
export {
  type ComparedWay,
  type Comparison,
  type CompareOptions,
  verdictText,
  type ComparedDraw,
} from './figures/compare.js';
export { FrameRing, type RingColumn, RING_COLUMNS } from './ledger/frame-ring.js';
export type { Dominant, FrameReport } from './ledger/frame-report.js';
export {
  BATCH_BREAK_REASONS,
  type BatchBreak,
  type BatchBreakReason,
  batchBreaks,
  type Budget,
  BUDGET_LIMITS,
  type BudgetLimit,
  type BudgetLine,
  readBudget,
  type Figures,
  holdAgainst,
  type Spread,
  spreadOf,
  type Verdict,
  type VerdictOptions,
  verdictOn,
} from '@umber-lens/core/engine';
