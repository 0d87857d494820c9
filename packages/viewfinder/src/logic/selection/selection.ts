import type { SceneNode } from '@umber-lens/core/engine';

/** Which nodes are chosen, in the order of being chosen; the last one is the one that others follow. */
export class Selection {
  private readonly chosen = new Set<SceneNode>();
  private readonly listeners = new Set<() => void>();
  /** Nodes that clicks and rectangles pass by. Held here and not in the scene: they are nobody else's business. */
  readonly locked = new Set<SceneNode>();

  get nodes(): readonly SceneNode[] {
    return [...this.chosen].filter((node) => node.isAlive);
  }

  get size(): number {
    return this.chosen.size;
  }

  /** The one that was chosen last. */
  get primary(): SceneNode | undefined {
    return this.nodes.at(-1);
  }

  has(node: SceneNode): boolean {
    return this.chosen.has(node);
  }

  /** @param mode `set`: these alone; `add`: these too; `toggle`: each the other way round */
  choose(nodes: Iterable<SceneNode>, mode: 'set' | 'add' | 'toggle' = 'set'): void {
    const before = [...this.chosen];
    if (mode === 'set') this.chosen.clear();
    for (const node of nodes) {
      const had = this.chosen.delete(node);
      if (!(had && mode === 'toggle')) this.chosen.add(node);
    }
    const now = [...this.chosen];
    if (now.length === before.length && now.every((node, i) => node === before[i])) return;
    this.tell();
  }

  clear(): void {
    this.choose([]);
  }

  /** Lets go of nodes that are gone. @param isGone of nodes that are alive, and out of the scene */
  sweep(isGone: (node: SceneNode) => boolean = () => false): void {
    let isOther = false;
    for (const node of this.chosen)
      if (!node.isAlive || isGone(node)) isOther = this.chosen.delete(node) || isOther;
    for (const node of this.locked) if (!node.isAlive) this.locked.delete(node);
    if (isOther) this.tell();
  }

  /** Chosen nodes that hang below no other chosen one: what moves those moves these. */
  get tops(): SceneNode[] {
    return this.nodes.filter((node) => {
      for (let up = node.parent; up; up = up.parent) if (this.chosen.has(up)) return false;
      return true;
    });
  }

  /** Whether it, or a node above it, is locked. */
  isLocked(node: SceneNode): boolean {
    if (this.locked.size === 0) return false;
    for (let at: SceneNode | undefined = node; at; at = at.parent) if (this.locked.has(at)) return true;
    return false;
  }

  lock(node: SceneNode, isLocked: boolean): void {
    if (isLocked) this.locked.add(node);
    else this.locked.delete(node);
    this.tell();
  }

  /** @returns stops it */
  onChange(listener: () => void): () => void {
    this.listeners.add(listener);
    return () => void this.listeners.delete(listener);
  }

  private tell(): void {
    for (const listener of this.listeners) listener();
  }
}

/**
 * What a click on a place chooses: the nearest thing there, and after it, click by click, what lies behind.
 *
 * @param hits nodes at the place, the nearest first
 * @param current what is chosen now
 */
export function nextAt(hits: readonly SceneNode[], current: SceneNode | undefined): SceneNode | undefined {
  const distinct = [...new Set(hits)];
  const at = current ? distinct.indexOf(current) : -1;
  return distinct[(at + 1) % Math.max(1, distinct.length)];
}
