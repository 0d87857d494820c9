import type { Numbers } from '../math/vectors.js';
import type { Clipping } from './clipping.js';
import { watchNode } from '#watch';
import { LensError } from '../errors/lens-error.js';
import type { Rotation } from '../math/rotation.js';
import { NodeColumns } from '../columns/columns.js';
import { ALIVE, MOST_SLOTS, NONE, PLACED } from '../columns/flags.js';
import { SpanLog } from '../columns/span-log.js';
import { updateColumns } from '../columns/update.js';
import type { Backdrop, ImageLight, Fog, Probe } from '../light/environment.js';
import type { Effect } from '../effects/effect.js';
import type { Camera, Light, Mesh, Primitive } from './components.js';
import { type Apart, Drawables, NOT_APART } from './drawables.js';
import { SceneGuests } from './guests.js';
import { NameIndex } from './name-index.js';
import { SceneNode } from './scene-node.js';

/** What a node is made from. Everything may be left out. */
export interface NodeOptions {
  name?: string;
  /** Left out: the scene itself. */
  parent?: SceneNode;
  /** Metres. */
  translation?: ArrayLike<number>;
  /** Unit quaternion xyzw. */
  rotation?: Rotation | ArrayLike<number>;
  scale?: ArrayLike<number>;
  /** Column-major 4x4 whose last row is 0 0 0 1, in place of the three above. */
  matrix?: ArrayLike<number>;
  visible?: boolean;
  /** Whether it throws shadows; default true. */
  castsShadow?: boolean;
  /** Whether shadows fall on it; default true. */
  receivesShadow?: boolean;
  /** Bits of the cameras that see it and what is below it: see `SceneNode.visibleTo`. Default all. */
  visibleTo?: number;
  /** Effects on it and all below it. */
  effects?: readonly Effect[];
  /** A mesh, or a single primitive, or several. */
  mesh?: Mesh | Primitive | Primitive[];
  camera?: Camera;
  light?: Light;
  /** Values for shaders that take settings by instance. */
  settings?: InstanceSettings;
  extras?: unknown;
}

/** A node's own values for the instance settings of its materials' shaders, by name. */
export type InstanceSettings = Record<string, number | ArrayLike<number>>;

/**
 * A tree of nodes, each of which may carry a mesh, a camera and a light.
 *
 * Nodes live as rows of typed-array columns, parents before children; a `SceneNode` is a handle.
 * Creating a node costs O(1); re-parenting and removing cost the size of the subtree; 100,000 nodes
 * are ordinary.
 */
export class Scene {
  name = '';
  /** What is seen where nothing is drawn: linear RGBA, shown exactly as given, whatever the exposure. May be written to at any time. */
  clearColor: Numbers = [0, 0, 0, 0];
  /** A panorama in front of the clear color. May be written to at any time. */
  backdrop: Backdrop | undefined;
  /** Image-based light from all around. May be written to at any time. */
  imageLight: ImageLight | undefined;
  /** Light captured at places, which stands for the environment within boxes; the first four count. */
  readonly probes: Probe[] = [];
  /** Air between the camera and things. May be written to at any time. */
  fog: Fog | undefined;
  /**
   * In which order what is blended is drawn: the farthest first (the default), or as the tree has it, depth first: what comes later
   * lies over what came before, as in a page. `drawOrder` of materials comes before both.
   */
  blendedOrder: 'distance' | 'tree' = 'distance';
  /** Planes that cut things open. May be written to at any time. */
  clipping: Clipping | undefined;
  /** The columns behind the handles, for loops over very many nodes. Row 0 is the scene's root. */
  readonly columns = new NodeColumns(64);
  /** The root: it cannot be moved, renamed or removed. Its children are the scene's top nodes. */
  readonly root: SceneNode;
  /** Counts updates that moved at least one row; `columns.movedAt` compares with it. */
  updateCount = 0;
  /** Changes when a light comes or goes. */
  lightsVersion = 0;
  /** Rows that updates moved, for those who keep copies of transforms. */
  readonly movedRows = new SpanLog();
  /** What the nodes' meshes come to, for drawing. */
  readonly drawables: Drawables;
  /** What rows carry. Sparse: an entry for each node that carries such a thing. */
  readonly meshes = new Map<SceneNode, Mesh>();
  readonly cameras = new Map<SceneNode, Camera>();
  readonly lights = new Map<SceneNode, Light>();
  readonly effects = new Map<SceneNode, readonly Effect[]>();
  /** @internal Bits of the cameras that see a node, where not all do. */
  readonly visibilities = new Map<SceneNode, number>();
  /** What nodes say of those below them, each combination once. */
  private readonly aparts = new Map<SceneNode | undefined, Map<number, Apart>>();
  /** What hangs on the scene, such as skins and morph targets. */
  readonly guests = new SceneGuests(this);
  /** Row to handle; undefined at holes. */
  readonly handles: (SceneNode | undefined)[] = [];
  /** @internal */
  readonly names = new NameIndex();
  private treePlaces = new Uint32Array(0);
  private treeVersion = -1;
  /** Rows of removed nodes, to be used again. */
  private freeRows: number[] = [];

  constructor(
    options: {
      name?: string;
      clearColor?: Numbers;
      backdrop?: Backdrop;
      imageLight?: ImageLight;
      fog?: Fog;
      clipping?: Clipping;
    } = {},
  ) {
    if (options.name !== undefined) this.name = options.name;
    if (options.clearColor) this.clearColor = options.clearColor;
    this.backdrop = options.backdrop;
    this.imageLight = options.imageLight;
    this.fog = options.fog;
    this.clipping = options.clipping;
    this.drawables = new Drawables(this.columns, (row) => this.apartOf(row));
    const row = this.columns.append();
    this.root = new SceneNode(this, row);
    this.handles[row] = this.root;
    this.update();
  }

  /** How many nodes there are, the root not counted. */
  get nodeCount(): number {
    return this.columns.count - this.freeRows.length - 1;
  }

  /**
   * Creates a node.
   *
   * @throws LensError `scene/number` for a number that is not finite, `scene/length` for an array
   *   that is too short, `scene/foreign-node` for a parent of another scene or a removed one.
   */
  createNode(options: NodeOptions = {}): SceneNode {
    watchNode(options as Readonly<Record<string, unknown>>);
    const parent = options.parent ?? this.root;
    this.own(parent);
    // The last hole, where it keeps children behind their parents.
    const hole = this.freeRows[this.freeRows.length - 1];
    checkRoom(this.columns.count);
    const row = this.columns.append(
      hole !== undefined && hole > parent.row ? this.freeRows.pop() : undefined,
    );
    const node = new SceneNode(this, row);
    this.handles[row] = node;
    this.columns.link(row, parent.row);
    try {
      node.assign(options);
    } catch (error) {
      node.remove();
      const { name } = options;
      if (!(error instanceof LensError) || name === undefined || error.summary.includes(`"${name}"`))
        throw error;
      const { code, hint, summary, where } = error;
      throw new LensError(code, `node "${name}": ${summary}`, { hint, where, cause: error });
    }
    return node;
  }

  /** The first created of the living nodes with this name. */
  find(name: string): SceneNode | undefined {
    return this.names.first(name);
  }

  /**
   * The same, where it has to be there.
   *
   * @throws LensError `scene/no-node` with the name that is near
   */
  get(name: string): SceneNode {
    return this.find(name) ?? this.root.get(name);
  }

  /** Every living node with this name, in order of creation. */
  findAll(name: string): SceneNode[] {
    return this.names.all(name);
  }

  /** The node at a path of names from the top, such as `quay/crates/crate 12`. */
  findPath(path: string): SceneNode | undefined {
    return this.root.findPath(path);
  }

  /** All nodes, depth first, the root not counted. */
  nodes(): Generator<SceneNode> {
    return this.root.descendants();
  }

  /**
   * Brings world transforms up to date. Drawing does this by itself; call it to read world
   * transforms in between. Costs nothing when nothing changed.
   *
   * @returns how many nodes moved
   */
  update(): number {
    const { columns, guests } = this;
    if (columns.dirtyCount === 0 && columns.bulkTo === 0 && !guests.isStale) return 0;
    this.updateCount++;
    const moved = updateColumns(columns, this.updateCount, this.movedRows);
    guests.update();
    if (columns.badRow !== NONE) this.refuseMatrix(columns.badRow);
    return moved;
  }

  private refuseMatrix(row: number): void {
    this.columns.badRow = NONE;
    const { local, world, flags } = this.columns;
    const source = (flags[row]! & PLACED) !== 0 ? world : local;
    const matrix = source.subarray(row * 12, row * 12 + 12).join(', ');
    throw new LensError(
      'scene/number',
      `the matrix of node "${this.handles[row]?.name ?? ''}" is [${matrix}]`,
      {
        hint: 'Numbers must be finite.',
      },
    );
  }

  /** @internal Throws unless the node is a living one of this scene. */
  own(node: SceneNode): void {
    if (node.scene !== this || node.row === NONE) {
      throw new LensError(
        'scene/foreign-node',
        node.row === NONE
          ? `node "${node.name}" has been removed`
          : `node "${node.name}" belongs to another scene`,
        { hint: 'Clone it into this scene, or create it here.' },
      );
    }
  }

  /** @internal Re-parents; rows move to the end when they would stand before the parent's. */
  reparent(node: SceneNode, parent: SceneNode): void {
    this.own(parent);
    const { columns } = this;
    for (let at = parent.row; at !== NONE; at = columns.parent[at]!) {
      if (at === node.row) {
        throw new LensError('scene/cycle', `node "${node.name}" cannot hang below itself`, {
          hint: `"${parent.name}" is "${node.name}" or one of its descendants.`,
        });
      }
    }
    columns.unlink(node.row);
    columns.link(node.row, parent.row);
    if (node.row < parent.row) this.moveToEnd(node);
    this.columns.markDirty(node.row);
    this.setApart(node);
  }

  /** The nearest of a row's node and those above it that has effects. */
  layerOf(row: number): SceneNode | undefined {
    const { columns, effects, handles } = this;
    if (effects.size === 0) return undefined;
    for (let at = row; at !== NONE; at = columns.parent[at]!) {
      const node = handles[at]!; // linked rows are alive
      if (effects.has(node)) return node;
    }
    return undefined;
  }

  /** By row: its place in the tree, depth first. */
  get treeOrder(): Uint32Array {
    const { columns } = this;
    if (this.treeVersion !== columns.linkVersion || this.treePlaces.length < columns.count) {
      this.treeVersion = columns.linkVersion;
      if (this.treePlaces.length < columns.count) this.treePlaces = new Uint32Array(columns.count * 2);
      let place = 0;
      for (let row = 0; row !== NONE; row = columns.nextInSubtree(row, 0)) this.treePlaces[row] = place++;
    }
    return this.treePlaces;
  }

  /** Bits of the cameras that see a row: its node's, and of all above it. */
  visibleBits(row: number): number {
    const { columns, handles, visibilities } = this;
    let bits = -1;
    if (visibilities.size > 0)
      for (let at = row; at !== NONE; at = columns.parent[at]!) bits &= visibilities.get(handles[at]!) ?? -1; // linked rows are alive
    return bits;
  }

  /** Nodes that not all cameras, lights and effects see. */
  limitedNodes(): Iterable<SceneNode> {
    return this.visibilities.keys();
  }

  /** What the things of a row are apart by: one object for each combination. */
  private apartOf(row: number): Apart {
    const { aparts, effects, visibilities } = this;
    if (effects.size === 0 && visibilities.size === 0) return NOT_APART;
    const layer = this.layerOf(row);
    const visibleTo = this.visibleBits(row);
    if (!layer && visibleTo === -1) return NOT_APART;
    let byBits = aparts.get(layer);
    if (!byBits) aparts.set(layer, (byBits = new Map<number, Apart>()));
    let found = byBits.get(visibleTo);
    if (!found) byBits.set(visibleTo, (found = { layer, visibleTo, over: 0 }));
    return found;
  }

  /** @internal Has what is below a node drawn with those that nodes above say the same of. */
  setApart(node: SceneNode): void {
    const { columns } = this;
    for (let row = node.row; row !== NONE; row = columns.nextInSubtree(row, node.row))
      this.drawables.setApart(row);
  }

  /** Gives a subtree fresh rows behind all others, parents first. */
  private moveToEnd(node: SceneNode): void {
    const { columns, handles } = this;
    const rows: number[] = [];
    for (let at = node.row; at !== NONE; at = columns.nextInSubtree(at, node.row)) rows.push(at);
    const fresh = new Map<number, number>([[NONE, NONE]]);
    for (const row of rows) {
      const to = columns.append();
      columns.copyValues(to, row);
      fresh.set(row, to);
    }
    const moved = (row: number): number => fresh.get(row) ?? row;
    for (const row of rows) {
      const to = moved(row);
      columns.parent[to] = moved(columns.parent[row]!);
      columns.firstChild[to] = moved(columns.firstChild[row]!);
      columns.lastChild[to] = moved(columns.lastChild[row]!);
      columns.previousSibling[to] = moved(columns.previousSibling[row]!);
      columns.nextSibling[to] = moved(columns.nextSibling[row]!);
    }
    // The subtree's top is also known to its siblings and its parent.
    const top = moved(node.row);
    const up = columns.parent[top]!;
    const previous = columns.previousSibling[top]!;
    if (previous === NONE) columns.firstChild[up] = top;
    else columns.nextSibling[previous] = top;
    columns.lastChild[up] = top;
    for (const row of rows) {
      this.moveRow(row, moved(row));
      this.drawables.moved(moved(row));
      columns.flags[row] = 0;
      columns.firstItem[row] = NONE;
      handles[row] = undefined;
      this.freeRows.push(row);
    }
    this.compactWhenSparse();
  }

  /** Points the handle of one row at another. */
  private moveRow(from: number, to: number): void {
    const handle = this.handles[from];
    this.handles[to] = handle;
    if (handle) handle.row = to;
  }

  /** @internal Removes a node with its subtree. */
  removeSubtree(node: SceneNode): void {
    const { columns } = this;
    const rows: number[] = [];
    for (let at = node.row; at !== NONE; at = columns.nextInSubtree(at, node.row)) rows.push(at);
    columns.unlink(node.row);
    for (const row of rows) {
      const handle = this.handles[row];
      if (handle) this.guests.tell((guest) => guest.removed?.(handle));
      this.drawables.remove(row);
      columns.flags[row] = 0;
      this.handles[row] = undefined;
      this.freeRows.push(row);
      if (!handle) continue;
      this.meshes.delete(handle);
      this.cameras.delete(handle);
      this.effects.delete(handle);
      this.visibilities.delete(handle);
      this.aparts.delete(handle);
      if (this.lights.delete(handle)) this.lightsVersion++;
      this.names.remove(handle);
      handle.row = NONE;
    }
    this.compactWhenSparse();
  }

  /** Closes the holes when they are the greater part, so that the cost stays with their makers. */
  private compactWhenSparse(): void {
    const { columns } = this;
    if (this.freeRows.length < 1024 || this.freeRows.length * 2 < columns.count) return;
    const fresh = new Int32Array(columns.count).fill(NONE);
    let to = 0;
    for (let row = 0; row < columns.count; row++) {
      if ((columns.flags[row]! & ALIVE) !== 0) fresh[row] = to++;
    }
    const moved = (row: number): number => (row === NONE ? NONE : fresh[row]!);
    for (let row = 0; row < columns.count; row++) {
      const at = fresh[row]!;
      if (at === NONE) continue;
      if (at !== row) columns.copyValues(at, row);
      columns.parent[at] = moved(columns.parent[row]!);
      columns.firstChild[at] = moved(columns.firstChild[row]!);
      columns.lastChild[at] = moved(columns.lastChild[row]!);
      columns.previousSibling[at] = moved(columns.previousSibling[row]!);
      columns.nextSibling[at] = moved(columns.nextSibling[row]!);
      if (at !== row) this.moveRow(row, at);
    }
    columns.linkVersion++;
    columns.flags.fill(0, to, columns.count);
    columns.count = to;
    this.handles.length = to;
    this.freeRows = [];
    this.drawables.log.forget();
  }
}

/** An eighth of the slots that instances can name is for rows that are brought together: see the lens's transforms. */
const MOST_ROWS = MOST_SLOTS * (7 / 8);

function checkRoom(rows: number): void {
  if (rows < MOST_ROWS) return;
  throw new LensError('scene/rows', `a scene cannot have more than ${MOST_ROWS} nodes`, {
    hint: 'Copies of one thing in a swarm are no nodes.',
  });
}
