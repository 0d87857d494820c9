/** The nearest of some names, if near enough to be meant (optimal string alignment distance). */
export function nearest(name: string, names: Iterable<string>): string | undefined {
  let best: string | undefined;
  let least = Math.max(1, Math.floor(name.length / 3)) + 1;
  for (const other of names) {
    if (Math.abs(other.length - name.length) >= least) continue;
    const d = distance(name.toLowerCase(), other.toLowerCase());
    if (d < least) {
      least = d;
      best = other;
    }
  }
  return best;
}

/** A hint: the name that may be meant, and all that there are (the first twelve). */
export function nearHint(name: string, names: Iterable<string>): string {
  const all = [...new Set(names)];
  if (all.length === 0) return 'There is none.';
  const near = nearest(name, all);
  const rest = all.length > 12 ? ` and ${all.length - 12} more` : '';
  const list = all.slice(0, 12).map((one) => `"${one}"`);
  return `${near === undefined ? '' : `Did you mean "${near}"? `}There is ${list.join(', ')}${rest}.`;
}

function distance(a: string, b: string): number {
  let before: number[] = [];
  let last = Array.from({ length: b.length + 1 }, (_, i) => i);
  for (let i = 1; i <= a.length; i++) {
    const row = [i];
    for (let j = 1; j <= b.length; j++) {
      const same = a[i - 1] === b[j - 1];
      let d = Math.min(last[j]! + 1, row[j - 1]! + 1, last[j - 1]! + (same ? 0 : 1));
      if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1])
        d = Math.min(d, before[j - 2]! + 1);
      row.push(d);
    }
    before = last;
    last = row;
  }
  return last[b.length]!;
}
