import type { SceneNode } from './scene-node.js';

const NONE: ReadonlySet<SceneNode> = new Set<SceneNode>();

/** Nodes by name, kept as names come and go: O(1) each, even for thousands of one name. */
export class NameIndex {
  private readonly sets = new Map<string, Set<SceneNode>>();

  add(node: SceneNode): void {
    if (node.name === '') return;
    const set = this.sets.get(node.name);
    if (set) set.add(node);
    else this.sets.set(node.name, new Set([node]));
  }

  remove(node: SceneNode): void {
    const set = this.sets.get(node.name);
    if (set?.delete(node) && set.size === 0) this.sets.delete(node.name);
  }

  /** Those of a name, in no order that counts. */
  each(name: string): Iterator<SceneNode, undefined> {
    return (this.sets.get(name) ?? NONE).values() as Iterator<SceneNode, undefined>;
  }

  first(name: string): SceneNode | undefined {
    for (const node of this.sets.get(name) ?? []) return node;
    return undefined;
  }

  all(name: string): SceneNode[] {
    return [...(this.sets.get(name) ?? [])];
  }
}
