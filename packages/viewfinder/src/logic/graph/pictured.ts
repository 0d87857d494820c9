/** Which of many nodes have pictures, by their numbers: all where there is room, else those in sight, or the first. */
export function pictured(nodes: readonly string[], seen: ReadonlySet<string>, most: number): number[] {
  const all = nodes.map((_, i) => i);
  if (nodes.length <= most) return all;
  const near = all.filter((i) => seen.has(nodes[i]!));
  return (near.length > 0 ? near : all).slice(0, most);
}
