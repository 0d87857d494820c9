import {
  type BatchBreak,
  type Budget,
  BUDGET_LIMITS,
  type BudgetLimit,
  holdAgainst,
} from '@umber-lens/core/engine';

/** What a frame cost, in the units of budgets. */
export type FrameFigures = Partial<Record<BudgetLimit, number>>;

/** A figure, with what it may be where there is a limit. */
export interface CostRow {
  name: string;
  value: string;
  isOver: boolean;
}

/** Limits that a frame is held against, in words, those without a limit too. */
export function costRows(figures: FrameFigures, budget: Budget): CostRow[] {
  const held = new Map(holdAgainst(figures, budget).map((line) => [line.limit, line]));
  return (Object.keys(BUDGET_LIMITS) as BudgetLimit[]).flatMap((limit): CostRow[] => {
    const value = figures[limit];
    if (value === undefined) return [];
    const line = held.get(limit);
    const { unit } = BUDGET_LIMITS[limit];
    const most = line ? ` of ${line.max.toLocaleString('en')}` : '';
    return [{ name: WORDS[limit], value: `${amount(value)}${most}${unit}`, isOver: line?.isOver ?? false }];
  });
}

const WORDS: Readonly<Record<BudgetLimit, string>> = {
  draws: 'draws',
  triangles: 'triangles',
  instances: 'instances',
  pipelines: 'pipelines alive',
  textures: 'textures alive',
  gpuMb: 'memory on the GPU',
  textureMb: 'of it textures',
  fileMb: 'file',
  uploadKb: 'uploaded',
  scriptMs: 'script',
};

const amount = (value: number): string =>
  value.toLocaleString('en', { maximumFractionDigits: value < 100 && !Number.isInteger(value) ? 2 : 0 });

/** Why draws stand by themselves: one line a reason, the most frequent first, with some of those that it is about. */
export function breakRows(
  breaks: readonly BatchBreak[],
): { words: string; count: number; examples: string[] }[] {
  const rows = new Map<string, { words: string; count: number; examples: string[] }>();
  for (const { geometry, material, reason, words } of breaks) {
    if (reason === 'first') continue;
    const row = rows.get(words) ?? { words, count: 0, examples: [] };
    rows.set(words, row);
    row.count++;
    const name = [geometry, material].filter(Boolean).join(', ');
    if (name !== '' && row.examples.length < 3 && !row.examples.includes(name)) row.examples.push(name);
  }
  return [...rows.values()].sort((a, b) => b.count - a.count);
}
