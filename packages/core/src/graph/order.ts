/**
 * Names in an order in which each comes after those that it names; as they stand, where that leaves a choice.
 *
 * @returns with the first ring of names that is found, where there is one; what is in one comes as it stands
 */
export function inFlow(
  names: readonly string[],
  namedBy: (name: string) => readonly string[],
): { order: string[]; cycle?: string[] } {
  const all = new Set(names);
  const state = new Map<string, 'open' | 'done'>();
  const order: string[] = [];
  let cycle: string[] | undefined;
  for (const root of names) {
    if (state.has(root)) continue;
    const path: { name: string; next: number; named: readonly string[] }[] = [];
    const enter = (name: string): void => {
      state.set(name, 'open');
      path.push({ name, next: 0, named: namedBy(name).filter((one) => all.has(one)) });
    };
    enter(root);
    for (let top = path.at(-1); top; top = path.at(-1)) {
      const other = top.named[top.next++];
      if (other === undefined) {
        state.set(top.name, 'done');
        order.push(top.name);
        path.pop();
      } else if (!state.has(other)) enter(other);
      else if (state.get(other) === 'open')
        cycle ??= path.slice(path.findIndex(({ name }) => name === other)).map(({ name }) => name);
    }
  }
  return { order, ...(cycle ? { cycle } : {}) };
}
