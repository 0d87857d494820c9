/** The middle of several numbers. */
export function median(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  const middle = sorted.length >> 1;
  return sorted.length % 2 ? sorted[middle]! : (sorted[middle - 1]! + sorted[middle]!) / 2;
}

/** Runs contestants in turn, round after round, so that a slow moment hits all of them; medians in ms. */
export async function race(
  contestants: Record<string, () => void | Promise<void>>,
  rounds: number,
): Promise<Record<string, number>> {
  const times = new Map(Object.keys(contestants).map((name) => [name, [] as number[]]));
  for (let round = -3; round < rounds; round++) {
    for (const [name, run] of Object.entries(contestants)) {
      const start = performance.now();
      await run();
      const time = performance.now() - start;
      // As between the frames of a page, whatever waits may run.
      await new Promise((resolve) => setTimeout(resolve, 0));
      if (round >= 0) times.get(name)!.push(time);
    }
  }
  return Object.fromEntries([...times].map(([name, list]) => [name, median(list)]));
}

export interface Row {
  what: string;
  ours: string;
  against: string;
  ratio: number | undefined;
  /** Upper limit of the ratio; undefined: told, not held. */
  limit: number | undefined;
}

export function row(what: string, ours: number, against: number, unit: string, limit?: number): Row {
  return {
    what,
    ours: `${ours.toFixed(2)} ${unit}`,
    against: `${against.toFixed(2)} ${unit}`,
    ratio: ours / against,
    limit,
  };
}
