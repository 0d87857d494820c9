import type { Scene, SceneNode } from '@umber-lens/core/engine';

/** No row: what columns say of a node without children or siblings. */
const NONE = -1;

/** What nodes may be sieved by: by what they carry. */
export const CARRIED = ['meshes', 'lights', 'cameras', 'changed'] as const;
export type Carried = (typeof CARRIED)[number];

/** The rows of the tree that can be seen, as numbers: of 100,000 nodes no object is made. */
export interface TreeRows {
  /** Rows of the scene's columns, from the top down. */
  readonly rows: Int32Array;
  /** How deep each is: 0 for the scene's own children. */
  readonly depths: Uint16Array;
  readonly count: number;
}

export interface Sieve {
  /** A part of the name, whatever the case. */
  text: string;
  carried: Carried | undefined;
}

/** Folds and sieves a scene's nodes into the rows that are shown. */
export class Tree {
  private readonly opened = new Set<SceneNode>();
  private known: { rows: TreeRows; links: number; version: number; sieve: string } | undefined;
  private version = 0;
  private rows = new Int32Array(256);
  private depths = new Uint16Array(256);

  /** @param isOwn whether a node is a helper of the editor, which is not shown */
  constructor(
    readonly scene: Scene,
    private readonly isOwn: (node: SceneNode) => boolean = () => false,
    private readonly isChanged: (node: SceneNode) => boolean = () => false,
  ) {}

  isOpen(node: SceneNode): boolean {
    return this.opened.has(node);
  }

  open(node: SceneNode, isOpen: boolean): void {
    if (isOpen) this.opened.add(node);
    else this.opened.delete(node);
    this.version++;
  }

  /** Opens what is above a node, so that it is seen. */
  reveal(node: SceneNode): void {
    for (let up = node.parent; up && up !== this.scene.root; up = up.parent) this.open(up, true);
  }

  /** Has rows made anew where a name or what is carried changed. */
  touch(): void {
    this.version++;
  }

  /** The rows as they are now; the same object as long as nothing changed. */
  shown(sieve: Sieve): TreeRows {
    const { columns } = this.scene;
    const key = `${sieve.carried ?? ''} ${sieve.text}`;
    const { known } = this;
    if (known?.links === columns.linkVersion && known.version === this.version && known.sieve === key)
      return known.rows;
    const isSieved = sieve.text !== '' || sieve.carried !== undefined;
    const count = isSieved ? this.sieved(sieve) : this.unfolded();
    const rows = { rows: this.rows, depths: this.depths, count };
    this.known = { rows, links: columns.linkVersion, version: this.version, sieve: key };
    return rows;
  }

  nodeAt({ count, rows }: TreeRows, index: number): SceneNode | undefined {
    return index >= 0 && index < count ? this.scene.handles[rows[index]!] : undefined; // index < count
  }

  /** Where a node stands among the rows; -1 where it is folded away. */
  indexOf({ count, rows }: TreeRows, node: SceneNode): number {
    const at = rows.indexOf(node.row);
    return at < count ? at : -1;
  }

  hasChildren(node: SceneNode): boolean {
    return this.scene.columns.firstChild[node.row]! !== NONE; // a living row
  }

  private put(at: number, row: number, depth: number): void {
    if (at === this.rows.length) {
      const [rows, depths] = [new Int32Array(at * 2), new Uint16Array(at * 2)];
      rows.set(this.rows);
      depths.set(this.depths);
      this.rows = rows;
      this.depths = depths;
    }
    this.rows[at] = row;
    this.depths[at] = depth;
  }

  private unfolded(): number {
    const { columns, handles } = this.scene;
    const { firstChild, nextSibling, parent } = columns;
    let count = 0;
    let depth = 0;
    let row = firstChild[0]!; // the root's
    while (row !== NONE) {
      const node = handles[row]!; // linked rows are alive
      if (!this.isOwn(node)) {
        this.put(count++, row, depth);
        if (firstChild[row]! !== NONE && this.opened.has(node)) {
          row = firstChild[row]!;
          depth++;
          continue;
        }
      }
      while (row !== NONE && nextSibling[row]! === NONE) {
        row = parent[row]!;
        depth--;
        if (row <= 0) return count;
      }
      row = row === NONE ? NONE : nextSibling[row]!;
    }
    return count;
  }

  /** What fits, with all above it. */
  private sieved({ carried, text }: Sieve): number {
    const { scene } = this;
    const { columns, handles } = scene;
    // Without a copy of each name in small letters: there may be 100,000.
    const wanted = text === '' ? undefined : new RegExp(text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'), 'i');
    const isShown = new Uint8Array(columns.capacity);
    for (let row = columns.nextInSubtree(0, 0); row !== NONE; row = columns.nextInSubtree(row, 0)) {
      const node = handles[row]!; // linked rows are alive
      if (this.isOwn(node) || !this.carries(node, carried)) continue;
      if (wanted && !wanted.test(node.name)) continue;
      for (let at = row; at > 0 && isShown[at] === 0; at = columns.parent[at]!) isShown[at] = 1;
    }
    let count = 0;
    const depthOf = new Uint16Array(columns.capacity);
    for (let row = columns.nextInSubtree(0, 0); row !== NONE; row = columns.nextInSubtree(row, 0)) {
      if (isShown[row] === 0) continue;
      const above = columns.parent[row]!; // it has one: it is not the root
      depthOf[row] = above === 0 ? 0 : depthOf[above]! + 1;
      this.put(count++, row, depthOf[row]);
    }
    return count;
  }

  private carries(node: SceneNode, carried: Carried | undefined): boolean {
    const { scene } = this;
    switch (carried) {
      case 'meshes':
        return scene.meshes.has(node);
      case 'lights':
        return scene.lights.has(node);
      case 'cameras':
        return scene.cameras.has(node);
      case 'changed':
        return this.isChanged(node);
      default:
        return true;
    }
  }
}
