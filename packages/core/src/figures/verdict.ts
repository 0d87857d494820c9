/** What times that were taken in turn say of two ways of doing the same. */
export interface Verdict {
  /** Of b against a. */
  kind: 'faster' | 'slower' | 'cannot tell';
  /** Time of b over that of a, and the bounds within which it lies with `confidence`. */
  ratio: number;
  low: number;
  high: number;
  confidence: number;
  /** Pairs of times that this rests on. */
  pairs: number;
  /** Where it cannot tell: how many more pairs it would take, by the spread of these, to find a difference of `find`. */
  more: number | undefined;
}

export interface VerdictOptions {
  /** How sure a verdict is to be. 0.5 to below 1, default 0.99. */
  confidence?: number;
  /** Differences that do not matter, as a share. Default 0.01. */
  min?: number;
  /** What difference is sought, as a share, where `more` is told. Default 0.05. */
  find?: number;
}

/**
 * Holds times against each other that were taken in turn, pair by pair. Their logarithms' differences are judged by their
 * signed ranks (Wilcoxon, "Individual Comparisons by Ranking Methods", 1945), the ratio is the median of their pairwise
 * means with the bounds that belong to it (Hodges and Lehmann, "Estimates of Location Based on Rank Tests", 1963): a few
 * frames that something else held up do not matter.
 *
 * @param a milliseconds, above 0
 * @param b as many
 */
export function verdictOn(a: readonly number[], b: readonly number[], options: VerdictOptions = {}): Verdict {
  const { confidence = 0.99, min: least = 0.01, find = 0.05 } = options;
  const differences: number[] = [];
  for (let i = 0; i < Math.min(a.length, b.length); i++)
    if (a[i]! > 0 && b[i]! > 0) differences.push(Math.log(b[i]! / a[i]!)); // i < length
  const pairs = differences.length;
  const { middle, low, high } = location(differences, confidence);
  const [ratio, from, to] = [Math.exp(middle), Math.exp(low), Math.exp(high)];
  const isSure = low > 0 || high < 0;
  const isLarge = Math.abs(middle) >= Math.log1p(least);
  const kind = !isSure || !isLarge ? 'cannot tell' : middle < 0 ? 'faster' : 'slower';
  return {
    kind,
    ratio,
    low: from,
    high: to,
    confidence,
    pairs,
    more: kind === 'cannot tell' ? moreFor() : undefined,
  };

  /** Bounds shrink with the root of the number of pairs. */
  function moreFor(): number {
    const half = (high - low) / 2;
    // So few that not even all of them on one side would tell.
    if (half === Infinity) return Math.ceil(Math.log2(2 / (1 - confidence))) - pairs;
    const needed = pairs * (half / Math.log1p(find)) ** 2;
    return Math.max(0, Math.ceil(needed - pairs));
  }
}

/** The median of the means of all pairs, and of those in order the two that bound it. */
function location(
  values: readonly number[],
  confidence: number,
): { middle: number; low: number; high: number } {
  const n = values.length;
  if (n === 0) return { middle: 0, low: -Infinity, high: Infinity };
  const means: number[] = [];
  for (let i = 0; i < n; i++) for (let j = i; j < n; j++) means.push((values[i]! + values[j]!) / 2); // in range
  means.sort((x, y) => x - y);
  const m = means.length;
  const middle = (means[(m - 1) >> 1]! + means[m >> 1]!) / 2;
  // As many means on either side are left out as rank sums that are too small to be by chance.
  const k = smallRankSums(n, (1 - confidence) / 2);
  if (k < 1) return { middle, low: -Infinity, high: Infinity };
  return { middle, low: means[k - 1]!, high: means[m - k]! };
}

/** Pairs from which on rank sums are as good as normally distributed. */
const MANY = 50;

/** How many rank sums, from 0 on, are together less likely than `share`. */
function smallRankSums(n: number, share: number): number {
  const most = (n * (n + 1)) / 2;
  if (n > MANY)
    return Math.floor(most / 2 - normalQuantile(1 - share) * Math.sqrt((n * (n + 1) * (2 * n + 1)) / 24));
  // Subsets of the ranks by their sum, each as likely.
  const subsets = new Float64Array(most + 1);
  subsets[0] = 0.5 ** n;
  for (let rank = 1; rank <= n; rank++)
    for (let sum = most; sum >= rank; sum--) subsets[sum]! += subsets[sum - rank]!; // in range
  let [count, together] = [0, subsets[0]!];
  while (count <= most && together <= share) together += subsets[++count] ?? 1;
  return count;
}

/** Quantile of the normal distribution, to 4.5e-4 (Abramowitz and Stegun, "Handbook of Mathematical Functions", 26.2.23). */
function normalQuantile(p: number): number {
  const t = Math.sqrt(-2 * Math.log(1 - p));
  return (
    t - (2.515517 + t * (0.802853 + t * 0.010328)) / (1 + t * (1.432788 + t * (0.189269 + t * 0.001308)))
  );
}

/** The middle of values, and the half of them that lies around it. */
export interface Spread {
  median: number;
  /** First and third quartile. */
  low: number;
  high: number;
}

export function spreadOf(values: readonly number[]): Spread {
  const sorted = [...values].sort((x, y) => x - y);
  const at = (share: number): number => {
    const place = share * (sorted.length - 1);
    const [i, t] = [Math.floor(place), place % 1];
    return sorted[i]! * (1 - t) + (sorted[i + 1] ?? sorted[i]!) * t; // in range
  };
  return sorted.length === 0
    ? { median: 0, low: 0, high: 0 }
    : { median: at(0.5), low: at(0.25), high: at(0.75) };
}
