import { LensError } from '../errors/lens-error.js';
import { nearest } from '../errors/near-names.js';

/** What a budget may limit: name, what it counts, and factor on what is given. One table for docs, files and commands. */
export const BUDGET_LIMITS = {
  draws: { about: 'draw calls of a frame', unit: '' },
  triangles: { about: 'triangles that a frame draws', unit: '' },
  instances: { about: 'instances that a frame draws', unit: '' },
  pipelines: { about: 'pipelines that are alive', unit: '' },
  textures: { about: 'textures that are alive', unit: '' },
  gpuMb: { about: 'buffers and textures on the GPU, millions of bytes', unit: ' MB' },
  textureMb: { about: 'textures on the GPU, millions of bytes', unit: ' MB' },
  fileMb: { about: 'size of the file, millions of bytes', unit: ' MB' },
  uploadKb: { about: 'bytes that a steady frame sends to the GPU, thousands', unit: ' kB' },
  scriptMs: { about: 'script of a frame, milliseconds', unit: ' ms' },
} as const;

export type BudgetLimit = keyof typeof BUDGET_LIMITS;
export type Budget = Partial<Record<BudgetLimit, number>>;
/** What is known of a frame, a scene or a file, in the units of its budget. */
export type Figures = Partial<Record<BudgetLimit, number>>;

/** One limit held against what it limits. */
export interface BudgetLine {
  limit: BudgetLimit;
  max: number;
  /** Undefined where nothing is known of it. */
  value: number | undefined;
  isOver: boolean;
}

/** Holds figures against a budget, limit by limit, the most exceeded first. @throws LensError `budget/limit` */
export function holdAgainst(figures: Figures, budget: Budget): BudgetLine[] {
  return Object.entries(readBudget(budget))
    .map(([name, most]): BudgetLine => {
      const limit = name as BudgetLimit;
      const value = figures[limit];
      return { limit, max: most, value, isOver: value !== undefined && value > most };
    })
    .sort((a, b) => (b.value ?? 0) / b.max - (a.value ?? 0) / a.max);
}

/**
 * A budget out of what somebody wrote: numbers, or texts such as `500k` and `1.5M`.
 *
 * @throws LensError `budget/limit` for a name that is none, `budget/number` for what is no number above 0
 */
export function readBudget(given: unknown, file?: string): Record<BudgetLimit, number> {
  const where = file === undefined ? {} : { where: { file } };
  if (typeof given !== 'object' || given === null || Array.isArray(given))
    throw new LensError('budget/form', 'a budget is an object of limits', {
      hint: 'Such as { "draws": 200, "triangles": "500k" }.',
      ...where,
    });
  const out: Partial<Record<BudgetLimit, number>> = {};
  for (const [name, value] of Object.entries(given)) {
    if (!(name in BUDGET_LIMITS)) {
      const near = nearest(name, Object.keys(BUDGET_LIMITS));
      throw new LensError('budget/limit', `there is no limit "${name}"`, {
        hint: near ? `Did you mean "${near}"?` : `There are ${Object.keys(BUDGET_LIMITS).join(', ')}.`,
        ...(file === undefined ? {} : { where: { file, pointer: `/${name}` } }),
      });
    }
    if (value !== undefined) out[name as BudgetLimit] = amountOf(name, value, file);
  }
  return out as Record<BudgetLimit, number>;
}

function amountOf(name: string, given: unknown, file: string | undefined): number {
  const found = typeof given === 'string' ? /^\s*([\d_.]+)\s*([kM]?)\s*$/.exec(given) : undefined;
  const amount =
    typeof given === 'number'
      ? given
      : found
        ? Number(found[1]!.replaceAll('_', '')) * { '': 1, k: 1e3, M: 1e6 }[found[2] as '' | 'k' | 'M'] // it matched
        : NaN;
  if (amount > 0 && amount < Infinity) return amount;
  throw new LensError('budget/number', `"${name}" cannot be ${JSON.stringify(given)}`, {
    hint: 'Give a number above 0, or one with k or M behind it: "500k".',
    ...(file === undefined ? {} : { where: { file, pointer: `/${name}` } }),
  });
}
