import { madeOf, readMember, type Scene, type SceneNode, writeMember } from '@umber-lens/core/engine';
import type { Change, Edit, Hanging, NodeRef, NodeSpec, Thing } from './edit.js';
import { makeNode, shapeOf } from './make-node.js';
import { addressOfNode, nodeAt } from './node-address.js';

/** What edits are made in: a scene, and how it is shown. */
export interface Edited {
  scene: Scene;
  look: object;
  view: object;
  /** Values that the page offers. */
  offers: Record<string, unknown>;
}

/** Name of the node that removed ones wait below. */
export const SHELF = 'removed in the viewfinder';

/** Makes edits of a scene, and takes them back. */
export class Editing {
  private held: SceneNode | undefined;

  constructor(readonly edited: Edited) {}

  /** Whether a node is a helper of the editor, and no part of the scene. */
  readonly isOwn = (node: SceneNode): boolean => node === this.held;

  /** Whether a node was taken away, with all below it, and waits to come back. */
  readonly isGone = (node: SceneNode): boolean => {
    for (let at: SceneNode | undefined = node; at; at = at.parent) if (this.isOwn(at)) return true;
    return false;
  };

  /** A node to be found again later. */
  readonly refOf = (node: SceneNode): NodeRef => ({ node, address: addressOfNode(node) });

  /** The node of a reference as it is now; undefined where the page has removed it. */
  nodeOf(ref: NodeRef): SceneNode | undefined {
    if (ref.node?.isAlive) return ref.node;
    const found = nodeAt(this.edited.scene, ref.address);
    if (found) ref.node = found;
    return found;
  }

  /** What tells a member of a thing from all others, as long as nodes stay where they are. */
  keyOf(thing: Thing, path: readonly string[]): string {
    const row = 'of' in thing ? (this.nodeOf(thing.of)?.row ?? '') : '';
    const which = thing.kind === 'material' ? `${thing.primitive} ${thing.overlay ?? ''}` : '';
    return `${thing.kind} ${row} ${which} ${path.join('/')}`;
  }

  /** What stands there; undefined where it is left out, and has its default. */
  read(thing: Thing, path: readonly string[]): unknown {
    const holder = this.holderOf(thing);
    if (holder === undefined) return undefined;
    const { kind } = thing;
    const [first = '', second = '', ...rest] = path;
    const members = holder as Record<string, unknown>;
    if (kind !== 'node') return deep(members[first], path.slice(1));
    const node = holder as SceneNode;
    if (first === 'weights') return node.weights?.[second];
    if (first === 'shape') return this.shapeAt(node, Number(second));
    if (first === 'settings') return node.settings?.[second];
    return deep(readMember('node', node, first), second === '' ? [] : [second, ...rest]);
  }

  /** @throws LensError for what the member does not take; nothing is changed then */
  write(thing: Thing, path: readonly string[], value: unknown): void {
    const holder = this.holderOf(thing);
    if (holder === undefined) return;
    const own = copied(value);
    const [first = '', second = ''] = path;
    if (thing.kind === 'offer') (holder as Record<string, unknown>)[first] = own;
    else if (thing.kind === 'node' && first === 'weights')
      (holder as SceneNode).setWeight(second, (own as number | undefined) ?? 0);
    else if (thing.kind === 'node' && first === 'shape')
      this.reshape(holder as SceneNode, Number(second), own);
    else if (thing.kind === 'node' && first === 'settings')
      (holder as SceneNode).settings = without({ ...(holder as SceneNode).settings, [second]: own }) as never;
    else if (first === 'settings' || first === 'extras') {
      const all = ((holder as Record<string, unknown>)[first] ?? {}) as Record<string, unknown>;
      (holder as Record<string, unknown>)[first] = without({ ...all, [second]: own });
    } else if (first === 'finish' || first === 'effects')
      this.writeList(holder as Record<string, unknown>, path, own);
    else writeMember(thing.kind === 'node' ? 'node' : thing.kind, holder as never, path, own);
    if (thing.kind === 'node' && first === 'light') this.edited.scene.lightsVersion++;
  }

  /** Effects are written to in place; a list that is longer or shorter is set anew. */
  private writeList(
    holder: Record<string, unknown>,
    [name, number, ...rest]: readonly string[],
    value: unknown,
  ): void {
    if (number === undefined) {
      holder[name!] = value ?? []; // it is finish or effects
      return;
    }
    const effect = (holder[name!] as Record<string, unknown>[])[Number(number)]; // as above
    if (!effect) return;
    if (value === undefined) delete effect[rest[0]!];
    else effect[rest[0]!] = value; // of an effect a member
  }

  private shapeAt(node: SceneNode, primitive: number): unknown {
    const geometry = node.mesh?.primitives[primitive]?.geometry;
    return geometry && madeOf(geometry);
  }

  /** Makes the geometry of a primitive anew. @throws LensError for options that the shape does not take */
  private reshape(node: SceneNode, primitive: number, made: unknown): void {
    const { mesh } = node;
    if (!mesh || !made) return;
    const { options, shape } = made as { shape: string; options: object };
    const geometry = shapeOf(shape, options);
    const primitives = mesh.primitives.map((one, i) => (i === primitive ? { ...one, geometry } : one));
    node.setMesh({ ...mesh, primitives });
  }

  private holderOf(thing: Thing): object | undefined {
    const { edited } = this;
    switch (thing.kind) {
      case 'node':
        return this.nodeOf(thing.of);
      case 'material': {
        if (thing.material) return thing.material;
        const { material, overlays } = this.nodeOf(thing.of)?.mesh?.primitives[thing.primitive] ?? {};
        const found = thing.overlay === undefined ? material : overlays?.[thing.overlay];
        if (found) thing.material = found;
        return found;
      }
      case 'scene':
        return edited.scene;
      case 'offer':
        return edited.offers;
      default:
        return edited[thing.kind];
    }
  }

  /** @param isBack whether it is taken back */
  apply({ edits }: Change, isBack: boolean): void {
    for (const edit of isBack ? [...edits].reverse() : edits) this.step(edit, isBack);
    this.edited.scene.update();
  }

  private step(edit: Edit, isBack: boolean): void {
    switch (edit.type) {
      case 'set':
        return this.write(edit.thing, edit.path, isBack ? edit.before : edit.after);
      case 'add':
        return isBack ? this.takeAway(edit.of) : this.bring(edit.of, edit.parent, edit.spec);
      case 'remove':
        return isBack ? this.bring(edit.of, edit.parent, edit.spec, edit.index) : this.takeAway(edit.of);
      case 'move':
        // All are looked up before any of them moves.
        for (const ref of [edit.of, edit.from.parent, edit.to.parent]) this.nodeOf(ref);
        return this.hang(edit.of, isBack ? edit.from : edit.to);
    }
  }

  private takeAway(ref: NodeRef): void {
    const node = this.nodeOf(ref);
    if (!node || node.parent === this.held) return;
    node.setParent(this.shelf());
  }

  private bring(ref: NodeRef, parent: NodeRef, spec: NodeSpec | undefined, index?: number): void {
    const above = this.nodeOf(parent);
    if (!above) return;
    if (ref.node?.isAlive) ref.node.setParent(above);
    else if (spec) ref.node = makeNode(this.edited.scene, above, spec);
    if (ref.node?.isAlive && index !== undefined) this.order(ref.node, above, index);
  }

  /** Which of its siblings a node is; helpers of the editor do not count. */
  indexOf(node: SceneNode): number {
    return this.siblingsOf(node.parent!).indexOf(node); // the root has none and is never asked
  }

  private siblingsOf(parent: SceneNode): SceneNode[] {
    return [...parent.children()].filter((child) => !this.isOwn(child));
  }

  /** Has the last of its siblings stand where it did: those behind are hung there once more, in their order. */
  private order(node: SceneNode, parent: SceneNode, index: number): void {
    const behind = this.siblingsOf(parent).slice(index);
    for (const one of behind) if (one !== node) one.setParent(parent);
  }

  private hang(ref: NodeRef, { address, index, parent, rotation, scale, translation }: Hanging): void {
    const node = this.nodeOf(ref);
    const above = this.nodeOf(parent);
    if (!node || !above) return;
    node.setParent(above);
    this.order(node, above, index);
    node.setTranslation(...(translation as [number, number, number]));
    node.setRotation(...(rotation as [number, number, number, number]));
    node.setScale(...(scale as [number, number, number]));
    ref.address = address;
  }

  /** What removed nodes wait below: out of sight, and alive for those who hold them. */
  private shelf(): SceneNode {
    if (!this.held?.isAlive) this.held = this.edited.scene.createNode({ name: SHELF, visible: false });
    return this.held;
  }

  /** What waits there goes for good. */
  dispose(): void {
    if (this.held?.isAlive) this.held.remove();
    this.held = undefined;
  }
}

/** What stands below a value; undefined where the way ends. */
export function deep(value: unknown, path: readonly (string | number)[]): unknown {
  let at = value;
  for (const name of path) {
    if (typeof at !== 'object' || at === null) return undefined;
    at = (at as Record<string, unknown>)[name];
  }
  return at;
}

function without(members: Record<string, unknown>): Record<string, unknown> | undefined {
  const entries = Object.entries(members).filter(([, value]) => value !== undefined);
  return entries.length > 0 ? Object.fromEntries(entries) : undefined;
}

/** Plain values are copied, and arrays of numbers made plain, so that what history holds stays what it is and has words. */
export function copied<T>(value: T): T {
  if (Array.isArray(value)) return value.map(copied) as T;
  if (ArrayBuffer.isView(value)) return Array.from(value as unknown as Float32Array) as T;
  if (typeof value !== 'object' || value === null || Object.getPrototypeOf(value) !== Object.prototype)
    return value;
  // Textures, panoramas and geometries are what they are.
  if ('image' in value || 'data' in value || 'attributes' in value || 'wgsl' in value) return value;
  return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, copied(one)])) as T;
}
