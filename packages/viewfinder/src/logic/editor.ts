import {
  type AppliedSheet,
  appliedTo,
  type Bounds,
  emptyBounds,
  growBounds,
  isEmptyBounds,
  type Material,
  type Scene,
  type SceneNode,
  type Sheet,
} from '@umber-lens/core/engine';
import { OwnView } from './camera/own-view.js';
import { freeName } from './free-name.js';
import type { Pivot, Space } from './handles/move-nodes.js';
import type { Tool } from './handles/grips.js';
import type { Shaded } from './graph/shaded.js';
import type { Vec } from './handles/vectors.js';
import { Editing } from './history/apply-edit.js';
import type { Change, Edit, Hanging, NodeRef, NodeSpec } from './history/edit.js';
import { History, type Kept } from './history/history.js';
import { specOf } from './history/make-node.js';
import { addressOfNode, escapedName } from './history/node-address.js';
import type { CopiedPart } from './properties/copied-part.js';
import type { Field, Part } from './properties/field.js';
import { partsOf, surroundingParts } from './properties/parts.js';
import { Selection } from './selection/selection.js';
import { NEW_NODES, type NewNode } from './new-nodes.js';
import { Tree } from './tree/tree-rows.js';
import { Turns } from './values/turns.js';

/** A message of the library, beside the node that it is about where it names one. */
export interface Told {
  code: string;
  text: string;
  hint: string;
  node: SceneNode | undefined;
}

/** What it is that is edited, and how. */
export interface EditorOptions {
  scene: Scene;
  look: object;
  view: object;
  kept?: Kept;
}

/** Steps that dragged nodes keep to, where snapping is on. */
export interface Snapping {
  isOn: boolean;
  /** Metres. */
  move: number;
  /** Radians. */
  turn: number;
  scale: number;
  /** To the surface under the pointer, by the middle of the handles. */
  toSurface: boolean;
  /** To sides and middles of other things. */
  toBounds: boolean;
}

/** An editor of a scene: what is chosen, what was changed, and every change that can be made. It draws nothing and hears nobody. */
export class Editor {
  readonly scene: Scene;
  readonly editing: Editing;
  readonly history: History;
  readonly selection = new Selection();
  readonly tree: Tree;
  readonly turns = new Turns();
  readonly own = new OwnView();
  readonly snapping: Snapping = {
    isOn: false,
    move: 0.25,
    turn: Math.PI / 12,
    scale: 0.1,
    toSurface: false,
    toBounds: false,
  };
  readonly told: Told[] = [];
  tool: Tool = 'move';
  space: Space = 'world';
  pivot: Pivot = 'middle';
  /** Values of a part, for others of its kind. */
  copied: CopiedPart | undefined;
  /** The material, or the effect, whose graph is open. */
  graphOf: Shaded | undefined;
  /** What happened last, in words. */
  status = '';
  private readonly listeners = new Set<() => void>();
  /** What the sheets of the scene said when they were looked at last. */
  private readonly sheets = new WeakMap<AppliedSheet, Sheet>();

  constructor({ kept, look, scene, view }: EditorOptions) {
    this.scene = scene;
    this.editing = new Editing({ scene, look, view, offers: {} });
    this.history = new History(this.editing, kept);
    this.tree = new Tree(scene, this.editing.isOwn, (node) => this.changedNodes.has(node));
    this.history.onChange(() => {
      this.selection.sweep(this.editing.isGone);
      this.unsavedKeys = undefined;
      this.tree.touch();
      this.tell();
    });
    this.selection.onChange(() => this.tell());
  }

  onChange(listener: () => void): () => void {
    this.listeners.add(listener);
    return () => void this.listeners.delete(listener);
  }

  /** Has what shows this look at it anew. */
  tell(): void {
    for (const listener of this.listeners) listener();
  }

  say(status: string): void {
    this.status = status;
    this.tell();
  }

  /** Opens the graph of a material, or of an effect; undefined: closes it. */
  showGraph(shaded: Shaded | undefined): void {
    this.graphOf = shaded;
    this.tell();
  }

  /** Makes a change; what cannot be is said. @returns whether it was made */
  make(change: Change | undefined, merge?: string): boolean {
    if (!change || change.edits.length === 0) return false;
    try {
      this.history.make(change, merge);
      this.say(change.name);
      return true;
    } catch (error) {
      this.say((error as Error).message);
      return false;
    }
  }

  undo(): void {
    const name = this.history.undoes;
    this.say(this.history.undo() ? `taken back: ${name}` : 'nothing to take back');
  }

  redo(): void {
    const name = this.history.redoes;
    this.say(this.history.redo() ? `made again: ${name}` : 'nothing to make again');
  }

  /** Where a sheet of the scene has become another one, what no file says yet stays over it. To be asked each frame. */
  followSheets(): void {
    let isOther = false;
    for (const one of appliedTo(this.scene)) {
      const before = this.sheets.get(one);
      if (before === one.sheet) continue;
      this.sheets.set(one, one.sheet);
      isOther ||= before !== undefined;
    }
    if (!isOther) return;
    try {
      this.history.insist();
      this.tell();
    } catch (error) {
      this.say((error as Error).message);
    }
  }

  /** The parts of what is chosen; of the surroundings where nothing is. */
  parts(): Part[] {
    const { nodes } = this.selection;
    return nodes.length > 0 ? partsOf(nodes, this.editing, this.turns) : surroundingParts(this.editing);
  }

  private unsavedKeys: { members: Set<string>; nodes: Set<SceneNode> } | undefined;

  private get unsaved(): { members: Set<string>; nodes: Set<SceneNode> } {
    if (this.unsavedKeys) return this.unsavedKeys;
    const members = new Set<string>();
    const nodes = new Set<SceneNode>();
    for (const { change } of this.history.unsaved)
      for (const edit of change.edits) {
        const of = edit.type === 'set' ? ('of' in edit.thing ? edit.thing.of : undefined) : edit.of;
        const node = of && this.editing.nodeOf(of);
        if (node) nodes.add(node);
        if (edit.type === 'set') members.add(this.editing.keyOf(edit.thing, edit.path));
      }
    return (this.unsavedKeys = { members, nodes });
  }

  /** Nodes that files do not have as they are. */
  get changedNodes(): ReadonlySet<SceneNode> {
    return this.unsaved.nodes;
  }

  /** Whether files do not have a value as it is. */
  isUnsaved({ path, things }: Field): boolean {
    return things.some((thing) => this.unsaved.members.has(this.editing.keyOf(thing, path)));
  }

  /** A name that no sibling has. */
  freeName(name: string, parent: SceneNode): string {
    const taken = namesBelow(parent);
    return freeName(name, (one) => taken.has(one));
  }

  /** Adds a node before the eye, or where it is said. */
  add(kind: NewNode, at: Vec = this.own.target): SceneNode | undefined {
    const parent = this.scene.root;
    const spec: NodeSpec = { ...NEW_NODES[kind](), translation: [...at].map(rounded) };
    spec.name = this.freeName(spec.name ?? kind, parent);
    const { material } = (spec.mesh ?? {}) as { material?: Material };
    if (material) material.name = spec.name;
    const edit = this.adding(spec, parent);
    if (!this.make({ name: `add ${spec.name}`, edits: [edit] })) return undefined;
    const { node } = edit.of;
    if (node) this.selection.choose([node]);
    return node;
  }

  /** The step that brings a node of a name that no sibling has. */
  private adding(spec: NodeSpec, parent: SceneNode): Extract<Edit, { type: 'add' }> {
    const above = this.editing.refOf(parent);
    const of: NodeRef = { address: [above.address, escapedName(spec.name ?? '')].filter(Boolean).join('/') };
    return { type: 'add', parent: above, of, spec };
  }

  /** A node that the page made just now, as an addition that can be taken back. */
  noteAdded(node: SceneNode, spec: NodeSpec): void {
    const parent = this.editing.refOf(node.parent ?? this.scene.root);
    this.history.note({
      name: `add ${node.name}`,
      edits: [{ type: 'add', parent, of: this.editing.refOf(node), spec, isHeld: true }],
    });
    this.selection.choose([node]);
    this.say(`add ${node.name}`);
  }

  /** Copies of what is chosen, beside it. */
  duplicate(): void {
    const taken = new Map<SceneNode, Set<string>>();
    const edits = this.selection.tops.flatMap((node) => {
      const { parent } = node;
      if (!parent) return [];
      const names = taken.get(parent) ?? namesBelow(parent);
      taken.set(parent, names);
      const name = freeName(node.name || 'copy', (one) => names.has(one));
      names.add(name);
      const spec = specOf(node);
      const edit = this.adding({ ...spec, name }, parent);
      // Geometry without words is shared: the copy lasts as long as the page.
      if (!spec) Object.assign(edit, { isHeld: true, of: { ...edit.of, node: node.clone({ name }) } });
      return edit;
    });
    const count = edits.length;
    if (!this.make({ name: count === 1 ? 'duplicate' : `duplicate ${count} nodes`, edits })) return;
    this.selection.choose(edits.flatMap(({ of }) => this.editing.nodeOf(of) ?? []));
  }

  /** Takes away what is chosen, with all below it. */
  remove(): void {
    const tops = this.selection.tops.filter((node) => node.parent);
    // Each as those before it have gone.
    const gone = new Map<SceneNode, number[]>();
    const edits = tops.map((node): Edit => {
      const parent = node.parent!; // looked at above
      const index = this.editing.indexOf(node);
      const before = gone.get(parent) ?? [];
      gone.set(parent, [...before, index]);
      return {
        type: 'remove',
        of: this.editing.refOf(node),
        parent: this.editing.refOf(parent),
        index: index - before.filter((one) => one < index).length,
        spec: specOf(node),
      };
    });
    if (
      this.make({
        name: tops.length === 1 ? `delete ${tops[0]!.name || 'a node'}` : `delete ${tops.length} nodes`,
        edits,
      })
    )
      this.selection.clear();
  }

  /** Hangs nodes below another. @param keepWorld whether they stay where they are */
  hang(nodes: readonly SceneNode[], parent: SceneNode, keepWorld: boolean): void {
    const wanted = nodes.filter((node) => {
      for (let at: SceneNode | undefined = parent; at; at = at.parent) if (at === node) return false;
      return node.parent !== parent && node !== this.scene.root;
    });
    if (wanted.length === 0) return this.say('a node cannot hang below itself');
    const edits = wanted.flatMap((node) => this.hung(node, parent, keepWorld));
    const what = wanted.length === 1 ? wanted[0]!.name : `${wanted.length} nodes`; // there is one
    this.history.note({ name: `hang ${what} below ${parent.name || 'the scene'}`, edits });
    this.say(this.history.undoes ?? '');
  }

  /** Hangs a node elsewhere; where a sibling has its name, it gets another one. */
  private hung(node: SceneNode, parent: SceneNode, keepWorld: boolean): Edit[] {
    const edits: Edit[] = [];
    const { name } = node;
    const free = this.freeName(name, parent);
    if (name !== '' && free !== name) {
      const thing = { kind: 'node', of: this.editing.refOf(node) } as const;
      edits.push({ type: 'set', thing, path: ['name'], before: name, after: free });
      node.name = free;
    }
    const from = this.hanging(node);
    const of = this.editing.refOf(node);
    // Addresses are those of before: that is when they are looked up.
    const below = this.editing.refOf(parent);
    node.setParent(parent, { keepWorld });
    return [...edits, { type: 'move', of, from, to: { ...this.hanging(node), parent: below } }];
  }

  private hanging(node: SceneNode): Hanging {
    return {
      parent: this.editing.refOf(node.parent ?? this.scene.root),
      index: this.editing.indexOf(node),
      address: addressOfNode(node),
      translation: node.readTranslation([0, 0, 0]),
      rotation: node.readRotation([0, 0, 0, 1]),
      scale: node.readScale([1, 1, 1]),
    };
  }

  /** What is chosen below a new node in its middle. */
  group(): void {
    const tops = this.selection.tops.filter((node) => node.parent);
    const [first] = tops;
    if (!first) return;
    const parent = first.parent!; // looked at above
    const name = this.freeName('group', parent);
    const middle = this.boundsOf(tops);
    const at = isEmptyBounds(middle)
      ? [0, 0, 0]
      : [0, 1, 2].map((k) => rounded((middle.min[k]! + middle.max[k]!) / 2)); // three
    // At the foot of it, so that it stands on what its nodes stand on.
    if (!isEmptyBounds(middle)) at[1] = rounded(middle.min[1]);
    const spec: NodeSpec = { name, ...(parent === this.scene.root ? { translation: at } : {}) };
    const adding = this.adding(spec, parent);
    const change: Change = { name: `group ${tops.length} nodes`, edits: [adding] };
    const group = this.make(change) ? adding.of.node : undefined;
    if (!group) return;
    for (const node of tops) change.edits.push(...this.hung(node, group, true));
    this.history.restate();
    this.tree.open(group, true);
    this.selection.choose([group]);
  }

  /** Shows or hides what is chosen. */
  toggleVisible(): void {
    const { nodes } = this.selection;
    const isShown = nodes.some(({ visible }) => visible);
    const edits = nodes.map((node): Edit => ({
      type: 'set',
      thing: { kind: 'node', of: this.editing.refOf(node) },
      path: ['visible'],
      before: node.visible,
      after: !isShown,
    }));
    this.make({ name: isShown ? 'hide' : 'show', edits });
  }

  /** Siblings have names of their own, without slashes: that is how files find them. */
  rename(node: SceneNode, wanted: string): void {
    if (wanted === node.name) return;
    const name = this.freeName(wanted.replaceAll('/', ' '), node.parent ?? this.scene.root);
    const thing = { kind: 'node', of: this.editing.refOf(node) } as const;
    this.make({
      name: `call it ${name}`,
      edits: [{ type: 'set', thing, path: ['name'], before: node.name, after: name }],
    });
  }

  /** The box of nodes with all below them, in the world. */
  boundsOf(nodes: readonly SceneNode[]): Bounds {
    const bounds = emptyBounds();
    for (const node of nodes) {
      const own = node.worldBounds();
      if (isEmptyBounds(own)) {
        const [x, y, z] = node.readWorldPosition([0, 0, 0]);
        growBounds(bounds, x - 0.5, y - 0.5, z - 0.5);
        growBounds(bounds, x + 0.5, y + 0.5, z + 0.5);
      } else {
        growBounds(bounds, ...own.min);
        growBounds(bounds, ...own.max);
      }
    }
    return bounds;
  }

  /** Turns to what is chosen, or to all. @param aspect width over height of the picture */
  frame(aspect: number): void {
    const { nodes } = this.selection;
    this.own.frame(nodes.length > 0 ? this.boundsOf(nodes) : this.scene.root.worldBounds(), aspect);
    this.tell();
  }

  dispose(): void {
    this.listeners.clear();
    this.editing.dispose();
  }
}

const namesBelow = (parent: SceneNode): Set<string> =>
  new Set([...parent.children()].map(({ name }) => name));

/** To a tenth of a millimetre: what is placed by eye has no finer places. */
const rounded = (value: number): number => Math.round(value * 1e4) / 1e4;
