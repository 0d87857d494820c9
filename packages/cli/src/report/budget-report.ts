import { BUDGET_LIMITS, type BudgetLimit, type BudgetLine } from '@umber-lens/core/engine';
import chalk from 'chalk';
import type { Taker } from '../survey/model-figures.js';
import { grid } from './survey-report.js';

/** Figures held against limits as a person reads them: a table, and who takes most where one is over. */
export function budgetReport({
  file,
  lines,
  isOver,
  takers,
}: {
  file: string;
  lines: readonly BudgetLine[];
  isOver: boolean;
  takers: readonly { limit: BudgetLimit; most: readonly Taker[] }[];
}): string {
  const table = grid(['', 'is', 'may be', 'of it', ''], [1, 2, 3]);
  for (const { limit, max: most, value, isOver: isThis } of lines)
    table.push([
      BUDGET_LIMITS[limit].about,
      value === undefined ? chalk.dim('unknown') : amount(value, limit),
      amount(most, limit),
      value === undefined ? '' : `${Math.round((value / most) * 100)}%`,
      isThis ? chalk.red('over') : chalk.green('within'),
    ]);
  const parts = [
    `${chalk.bold(file)} ${isOver ? chalk.red('is over its budget') : chalk.green('is within its budget')}`,
    table.toString(),
  ];
  for (const { limit, most: all } of takers) {
    // What rounds to nothing takes nothing.
    const most = all.filter(({ value }) => value >= 0.005);
    parts.push(
      `${chalk.cyan(limit === 'draws' ? 'draws stand apart, since there is' : `most of ${limit} is taken by`)}\n${most.map(({ name, value }) => `  ${name} ${chalk.dim(amount(value, limit))}`).join('\n')}`,
    );
  }
  return `${parts.join('\n')}\n`;
}

const amount = (value: number, limit: BudgetLimit): string =>
  `${value.toLocaleString('en-US', { maximumFractionDigits: value < 100 ? 2 : 0 })}${BUDGET_LIMITS[limit].unit}`;
