import fc, { type IAsyncProperty, type IProperty, type Parameters } from 'fast-check';

const { SEED, TIMES = '1' } = process.env;

function chances<Args>(options: Parameters<Args> = {}): Parameters<Args> {
  const own = options.seed ?? 1;
  const seed = SEED === 'random' ? Math.trunc(Math.random() * 2 ** 31) : Number(SEED ?? own);
  return { ...options, seed, numRuns: Math.ceil(Number(TIMES) * (options.numRuns ?? 100)) };
}

/**
 * That a property holds, by the same chances in each run, so that what is tested twice is judged alike. To search
 * further: `SEED=random TIMES=20 npx jest …` takes other chances (or `SEED=12`) and twenty times as many. What it
 * finds is mended, and gets a test of its own.
 */
export function holds<Args>(property: IAsyncProperty<Args>, options?: Parameters<Args>): Promise<void>;
export function holds<Args>(property: IProperty<Args>, options?: Parameters<Args>): void;
export function holds<Args>(
  property: IAsyncProperty<Args> | IProperty<Args>,
  options?: Parameters<Args>,
): Promise<void> | void {
  return fc.assert(property as IProperty<Args>, chances(options));
}
