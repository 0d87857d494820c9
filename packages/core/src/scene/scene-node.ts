import { marginOf, widened } from './margins.js';
import { LensError } from '../errors/lens-error.js';
import { nearHint } from '../errors/near-names.js';
import type { Effect } from '../effects/effect.js';
import {
  affineFromMatrix,
  affineFromTrs,
  affineInvert,
  affineMultiply,
  affineToTrs,
} from '../math/affine.js';
import { type Bounds, emptyBounds, growByTransformed } from '../math/bounds.js';
import type { NodeColumns } from '../columns/columns.js';
import {
  DIRTY,
  MATRIX,
  NO_SHADOW_CAST,
  NO_SHADOW_RECEIVE,
  NONE,
  PLACED,
  GUEST_SLOT,
  SHOWN,
  VISIBLE,
} from '../columns/flags.js';
import type { Camera, Light, Mesh, Primitive } from './components.js';
import type { InstanceSettings, NodeOptions, Scene } from './scene.js';

/**
 * A handle of one node. Setters take plain numbers and mark what depends on them; readers write
 * into an array of yours, so that a loop allocates nothing.
 */
export class SceneNode {
  /** Data of the user's own; glTF's `extras` land here. */
  extras: unknown = undefined;
  /**
   * Values for the instance settings of its materials' shaders; may be written to at any time. Nodes that
   * differ in them alone are still drawn by one call.
   */
  settings: InstanceSettings | undefined = undefined;
  private ownName = '';
  /** The scene's, at hand: setters are called for thousands of nodes a frame. */
  private readonly columns: NodeColumns;

  /** @internal Made by `Scene.createNode`. `row` is this node's row in `scene.columns`, -1 once removed. */
  constructor(
    readonly scene: Scene,
    public row: number,
  ) {
    this.columns = scene.columns;
  }

  get name(): string {
    return this.ownName;
  }

  set name(name: string) {
    this.scene.names.remove(this);
    this.ownName = name;
    this.scene.names.add(this);
  }

  /** False once the node or an ancestor of it has been removed. */
  get isAlive(): boolean {
    return this.row !== NONE;
  }

  /** The node it hangs from; undefined for the scene's root. */
  get parent(): SceneNode | undefined {
    return this.scene.handles[this.scene.columns.parent[this.living()]!];
  }

  /** Names from the top, joined by `/`. */
  get path(): string {
    const { root } = this.scene;
    if (this === root) return '';
    const names = [this.name];
    for (let at = this.parent; at && at !== root; at = at.parent) names.push(at.name);
    return names.reverse().join('/');
  }

  get mesh(): Mesh | undefined {
    return this.scene.meshes.get(this);
  }

  get camera(): Camera | undefined {
    return this.scene.cameras.get(this);
  }

  get light(): Light | undefined {
    return this.scene.lights.get(this);
  }

  /**
   * Effects on the picture of the node with all below it, one after the other; none: it is drawn as all else. It is drawn into a
   * layer of its own, treated, and put back where it stands: hidden by what is before it, and hiding what is behind.
   * Members of effects may be written to at any frame; a list that is to be longer or shorter is set anew.
   *
   * @throws LensError `scene/effects` for what is no list
   */
  get effects(): readonly Effect[] {
    return this.scene.effects.get(this) ?? NO_EFFECTS;
  }

  set effects(effects: readonly Effect[]) {
    const { scene } = this;
    this.living();
    if (!Array.isArray(effects))
      throw new LensError('scene/effects', `the effects of node "${this.name}" are no list`, {
        hint: "Give an array: [{ type: 'blur', stdDeviation: 4 }].",
      });
    const had = scene.effects.has(this);
    if (effects.length > 0) scene.effects.set(this, effects);
    else scene.effects.delete(this);
    if (had !== effects.length > 0) scene.setApart(this);
  }

  /**
   * Which cameras see the node with all below it, as 32 bits of your own meaning: a camera whose `sees` has none of them does not.
   * What nodes above say counts as well. Shadows are thrown whoever sees them. Default all bits.
   *
   *     minimapCamera.setCamera({ ...camera, sees: 0b10 });
   *     roof.visibleTo = 0b01;
   */
  get visibleTo(): number {
    return (this.scene.visibilities.get(this) ?? -1) >>> 0;
  }

  set visibleTo(bits: number) {
    const { scene } = this;
    this.living();
    if (!Number.isInteger(bits)) this.refuse('visibleTo', [bits]);
    if (~bits === 0) scene.visibilities.delete(this);
    else scene.visibilities.set(this, bits | 0);
    scene.setApart(this);
  }

  /** The node's own switch; whether it shows depends on its ancestors too, see `isShown`. */
  get visible(): boolean {
    return (this.scene.columns.flags[this.living()]! & VISIBLE) !== 0;
  }

  /** Whether it and all its ancestors are visible. */
  get isShown(): boolean {
    this.scene.update();
    return (this.scene.columns.flags[this.living()]! & SHOWN) !== 0;
  }

  setTranslation(x: number, y: number, z: number): this {
    // NaN and infinities spread through sums, so one test finds any of them.
    if (!(Math.abs(x + y + z) < Infinity)) this.refuse('translation', [x, y, z]);
    const at = this.row * 3;
    const { translation } = this.columns;
    translation[at] = x;
    translation[at + 1] = y;
    translation[at + 2] = z;
    this.changed();
    return this;
  }

  /** A quaternion xyzw; it is brought to unit length. */
  setRotation(x: number, y: number, z: number, w: number): this {
    const squared = x * x + y * y + z * z + w * w;
    if (!(squared > 0 && squared < Infinity)) this.refuse('rotation', [x, y, z, w]);
    const f = Math.abs(squared - 1) < 1e-12 ? 1 : 1 / Math.sqrt(squared);
    const at = this.row * 4;
    const { rotation } = this.columns;
    rotation[at] = x * f;
    rotation[at + 1] = y * f;
    rotation[at + 2] = z * f;
    rotation[at + 3] = w * f;
    this.changed();
    return this;
  }

  setScale(x: number, y: number = x, z: number = x): this {
    const at = this.row * 3;
    const { scale } = this.columns;
    if (!(Math.abs(x + y + z) < Infinity)) this.refuse('scale', [x, y, z]);
    scale[at] = x;
    scale[at + 1] = y;
    scale[at + 2] = z;
    this.changed();
    return this;
  }

  /**
   * Sets the local transform from a column-major 4x4 whose last row is 0 0 0 1. Split into
   * translation, rotation and scale where that gives it back; kept as it is where it shears.
   */
  setMatrix(matrix: ArrayLike<number>): this {
    const row = this.living();
    const { columns } = this.scene;
    const values = numbers(matrix, 16, 'matrix');
    if (values[3] !== 0 || values[7] !== 0 || values[11] !== 0 || values[15] !== 1) {
      throw new LensError('scene/matrix', 'a matrix of a node has 0 0 0 1 as its last row', {
        hint: 'Matrices are column-major: the translation stands at 12, 13 and 14.',
      });
    }
    const affine = new Float32Array(12);
    affineFromMatrix(affine, 0, values);
    this.changed();
    const { translation, rotation, scale } = columns;
    if (affineToTrs(affine, 0, translation, row * 3, rotation, row * 4, scale, row * 3)) return this;
    translation.set([affine[3]!, affine[7]!, affine[11]!], row * 3);
    rotation.set([0, 0, 0, 1], row * 4);
    scale.fill(1, row * 3, row * 3 + 3);
    columns.reserveMatrices();
    columns.local.set(affine, row * 12);
    columns.flags[row]! |= MATRIX;
    return this;
  }

  setVisible(visible: boolean): this {
    const row = this.living();
    const { columns } = this.scene;
    columns.flags[row] = visible ? columns.flags[row]! | VISIBLE : columns.flags[row]! & ~VISIBLE;
    columns.markDirty(row);
    return this;
  }

  /** Whether it throws shadows, and whether shadows fall on it; both are so at first. Children have their own. */
  setShadows(casts: boolean, receives: boolean): this {
    const row = this.living();
    const { columns, drawables } = this.scene;
    const traits =
      (columns.traits[row]! & GUEST_SLOT) | (casts ? 0 : NO_SHADOW_CAST) | (receives ? 0 : NO_SHADOW_RECEIVE);
    if (traits === columns.traits[row]) return this;
    columns.traits[row] = traits;
    // Lists take it anew.
    drawables.moved(row);
    columns.markDirty(row);
    return this;
  }

  get castsShadow(): boolean {
    return (this.scene.columns.traits[this.living()]! & NO_SHADOW_CAST) === 0;
  }

  get receivesShadow(): boolean {
    return (this.scene.columns.traits[this.living()]! & NO_SHADOW_RECEIVE) === 0;
  }

  setMesh(mesh: Mesh | Primitive | Primitive[] | undefined): this {
    const whole = Array.isArray(mesh)
      ? { primitives: mesh }
      : mesh && 'geometry' in mesh
        ? { primitives: [mesh] }
        : mesh;
    if (whole) checkMesh(whole, this);
    this.carry(this.scene.meshes, whole);
    const { drawables } = this.scene;
    drawables.remove(this.row);
    if (whole) drawables.add(this.row, whole);
    this.scene.guests.tell((guest) => guest.meshChanged?.(this));
    return this;
  }

  setCamera(camera: Camera | undefined): this {
    return this.carry(this.scene.cameras, camera);
  }

  setLight(light: Light | undefined): this {
    this.scene.lightsVersion++;
    return this.carry(this.scene.lights, light);
  }

  /**
   * Sets the weight of a morph target by its name; most targets are meant for 0 to 1.
   *
   * @throws LensError `scene/no-target` with the names that there are
   */
  setWeight(name: string, weight: number): this {
    const known = this.scene.guests.weightsOf(this);
    if (!known) throw new LensError('scene/no-target', `"${this.name}" has no morph targets`);
    known.setWeight(name, weight);
    return this;
  }

  /** Weights of the morph targets as they are now, by their names; undefined where there are none. A copy: see `setWeight`. */
  get weights(): Readonly<Record<string, number>> | undefined {
    const { targetNames = [], weights } = this.scene.guests.weightsOf(this) ?? {};
    if (!weights || targetNames.length === 0) return undefined;
    return Object.fromEntries(targetNames.map((name, i) => [name, weights[i] ?? 0]));
  }

  /** Writes the local translation into `out` (3). */
  readTranslation<T extends { [i: number]: number }>(out: T): T {
    const row = this.living();
    const { translation, flags } = this.columns;
    if ((flags[row]! & (MATRIX | PLACED)) === 0) return copy(out, translation, row * 3, 3);
    const local = readLocal(this, new Float32Array(12));
    for (let k = 0; k < 3; k++) out[k] = local[k * 4 + 3]!; // twelve
    return out;
  }

  /**
   * Writes the local rotation, xyzw, into `out` (4). A node whose transform was given as a matrix that shears
   * has the one that was set before.
   */
  readRotation<T extends { [i: number]: number }>(out: T): T {
    this.splitPlaced();
    return copy(out, this.scene.columns.rotation, this.living() * 4, 4);
  }

  /** Writes the local scale into `out` (3). As for rotations, a matrix that shears has none of its own. */
  readScale<T extends { [i: number]: number }>(out: T): T {
    this.splitPlaced();
    return copy(out, this.scene.columns.scale, this.living() * 3, 3);
  }

  /**
   * @internal Writes the world transform as it lies in the columns, affine 3x4 by rows, into `out` (12), up to date.
   */
  readWorld<T extends { [i: number]: number }>(out: T): T {
    this.scene.update();
    return copy(out, this.scene.columns.world, this.living() * 12, 12);
  }

  /** Writes the world transform into `out` (16), up to date: a 4x4 matrix by columns, as glTF and GPUs have it. */
  readWorldMatrix<T extends { [i: number]: number }>(out: T): T {
    this.scene.update();
    const { world } = this.scene.columns;
    const at = this.living() * 12;
    for (let column = 0; column < 4; column++) {
      for (let row = 0; row < 3; row++) out[column * 4 + row] = world[at + row * 4 + column]!; // twelve
      out[column * 4 + 3] = column === 3 ? 1 : 0;
    }
    return out;
  }

  /** Writes the position in the world into `out` (3), up to date. */
  readWorldPosition<T extends { [i: number]: number }>(out: T): T {
    this.scene.update();
    const { world } = this.scene.columns;
    const at = this.living() * 12;
    out[0] = world[at + 3]!;
    out[1] = world[at + 7]!;
    out[2] = world[at + 11]!;
    return out;
  }

  /**
   * Hangs the node under another (undefined: the scene's top). Its local transform stays, so it
   * moves with its new parent, unless `keepWorld` asks that it stays where it is.
   */
  setParent(parent: SceneNode | undefined, options: { keepWorld?: boolean } = {}): this {
    this.living();
    if (this === this.scene.root) {
      throw new LensError('scene/root', "the scene's root has no parent and cannot be moved");
    }
    const to = parent ?? this.scene.root;
    if (!options.keepWorld) {
      this.scene.reparent(this, to);
      return this;
    }
    const world = this.readWorld(new Float32Array(12));
    const inverse = new Float32Array(12);
    const local = new Float32Array(12);
    if (!affineInvert(inverse, 0, to.readWorld(new Float32Array(12)), 0)) {
      throw new LensError(
        'scene/flat-parent',
        `"${to.name}" has a scale of zero, so nothing can keep its place`,
      );
    }
    affineMultiply(local, 0, inverse, 0, world, 0);
    this.scene.reparent(this, to);
    const m = local;
    const matrix = [m[0], m[4], m[8], 0, m[1], m[5], m[9], 0, m[2], m[6], m[10], 0, m[3], m[7], m[11], 1];
    return this.setMatrix(matrix as number[]);
  }

  /** Removes the node with its subtree. Its handles are dead afterwards. */
  remove(): void {
    if (this.row === NONE) return;
    if (this === this.scene.root) throw new LensError('scene/root', "the scene's root cannot be removed");
    this.scene.removeSubtree(this);
  }

  /** Copies the node with its subtree; meshes, cameras and lights are shared, not copied. */
  clone(options: { parent?: SceneNode; name?: string } = {}): SceneNode {
    this.living();
    const parent = options.parent ?? this.parent ?? this.scene.root;
    const rows = [this as SceneNode, ...this.descendants()];
    const copies = new Map<SceneNode, SceneNode>();
    for (const node of rows) {
      const up = (node === this ? parent : copies.get(node.parent!)) ?? parent; // parents come first
      const twin = up.scene.createNode({ parent: up, name: node.name });
      copies.set(node, twin);
      node.copyTo(twin);
    }
    this.scene.guests.tell((guest) => guest.cloned?.(copies));
    const top = copies.get(this)!; // set in the first round
    if (options.name !== undefined) top.name = options.name;
    return top;
  }

  *children(): Generator<SceneNode> {
    const { columns, handles } = this.scene;
    for (let row = columns.firstChild[this.living()]!; row !== NONE; row = columns.nextSibling[row]!) {
      yield handles[row]!; // linked rows are alive
    }
  }

  /** The subtree below the node, depth first, the node itself not counted. */
  *descendants(): Generator<SceneNode> {
    const { columns, handles } = this.scene;
    const top = this.living();
    for (let row = columns.nextInSubtree(top, top); row !== NONE; row = columns.nextInSubtree(row, top)) {
      yield handles[row]!; // linked rows are alive
    }
  }

  /** The first descendant with this name, depth first. */
  find(name: string): SceneNode | undefined {
    for (const node of this.descendants()) if (node.name === name) return node;
    return undefined;
  }

  /**
   * The same, where it has to be there.
   *
   * @throws LensError `scene/no-node` with the name that is near
   */
  get(name: string): SceneNode {
    const found = this.find(name);
    if (found) return found;
    const names = new Set<string>();
    for (const node of this.descendants()) if (node.name) names.add(node.name);
    const where = this === this.scene.root ? 'in the scene' : `below node "${this.name}"`;
    throw new LensError('scene/no-node', `there is no node "${name}" ${where}`, {
      hint: names.size > 0 ? nearHint(name, [...names]) : 'No node has a name.',
    });
  }

  /** The descendant at a path of names, such as `crates/crate 12`. */
  findPath(path: string): SceneNode | undefined {
    let found: SceneNode[] = [this];
    for (const name of path.split('/')) found = found.flatMap((node) => node.childrenNamed(name));
    return found[0];
  }

  /** Goes through its children and through all of that name at once: the fewer of them count. */
  private childrenNamed(name: string): SceneNode[] {
    const { columns, handles, names } = this.scene;
    const found: SceneNode[] = [];
    let row = columns.firstChild[this.living()]!; // a living row
    if (name !== '') {
      const below: SceneNode[] = [];
      const all = names.each(name);
      while (row !== NONE) {
        const { done, value } = all.next();
        if (done) {
          if (below.length < 2) return below;
          break;
        }
        if (value.parent === this) below.push(value);
        const child = handles[row]!; // linked rows are alive
        if (child.name === name) found.push(child);
        row = columns.nextSibling[row]!; // as above
      }
    }
    for (; row !== NONE; row = columns.nextSibling[row]!) {
      const child = handles[row]!; // linked rows are alive
      if (child.name === name) found.push(child);
    }
    return found;
  }

  /** Box of all geometry in the subtree, in world space; empty (min above max) when there is none. */
  worldBounds(): Bounds {
    const { scene } = this;
    scene.update();
    const bounds = emptyBounds();
    const top = this.living();
    const { columns, handles } = scene;
    for (let row = top; row !== NONE; row = columns.nextInSubtree(row, top)) {
      const mesh = scene.meshes.get(handles[row]!); // linked rows are alive
      if (!mesh) continue;
      const node = handles[row]!; // as above
      if (!scene.guests.ask((guest) => guest.growBounds?.(node, bounds) || undefined))
        for (const { geometry, material } of mesh.primitives) {
          const margin = mesh.boundsMargin ?? (material ? marginOf(geometry, material) : 0);
          const own = margin > 0 ? widened(geometry.bounds, margin) : geometry.bounds;
          growByTransformed(bounds, own, columns.world, row * 12);
        }
    }
    return bounds;
  }

  /** @internal */
  assign(options: NodeOptions): void {
    if (options.name !== undefined) this.name = options.name;
    if (options.matrix) this.setMatrix(options.matrix);
    if (options.translation) {
      const [x, y, z] = numbers(options.translation, 3, 'translation');
      this.setTranslation(x!, y!, z!); // three by the check above
    }
    if (options.rotation) {
      const [x, y, z, w] = numbers(options.rotation, 4, 'rotation');
      this.setRotation(x!, y!, z!, w!);
    }
    if (options.scale) {
      const [x, y, z] = numbers(options.scale, 3, 'scale');
      this.setScale(x!, y!, z!);
    }
    if (options.visible !== undefined) this.setVisible(options.visible);
    if (options.castsShadow === false || options.receivesShadow === false)
      this.setShadows(options.castsShadow ?? true, options.receivesShadow ?? true);
    if (options.mesh) this.setMesh(options.mesh);
    if (options.camera) this.setCamera(options.camera);
    if (options.light) this.setLight(options.light);
    if (options.visibleTo !== undefined) this.visibleTo = options.visibleTo;
    if (options.effects) this.effects = options.effects;
    if (options.settings !== undefined) this.settings = options.settings;
    if (options.extras !== undefined) this.extras = options.extras;
  }

  private copyTo(twin: SceneNode): void {
    const from = this.scene.columns;
    const to = twin.scene.columns;
    const { row } = this;
    to.translation.set(from.translation.subarray(row * 3, row * 3 + 3), twin.row * 3);
    to.rotation.set(from.rotation.subarray(row * 4, row * 4 + 4), twin.row * 4);
    to.scale.set(from.scale.subarray(row * 3, row * 3 + 3), twin.row * 3);
    if ((from.flags[row]! & PLACED) !== 0) {
      to.world.set(from.world.subarray(row * 12, row * 12 + 12), twin.row * 12);
      to.flags[twin.row]! |= PLACED;
    } else if ((from.flags[row]! & MATRIX) !== 0) {
      to.reserveMatrices();
      to.local.set(from.local.subarray(row * 12, row * 12 + 12), twin.row * 12);
      to.flags[twin.row]! |= MATRIX;
    }
    twin.setVisible(this.visible);
    twin.extras = this.extras;
    if (this.settings) twin.settings = { ...this.settings };
    if (~this.visibleTo !== 0) twin.visibleTo = this.visibleTo;
    if (this.effects.length > 0) twin.effects = this.effects.map((effect) => ({ ...effect }));
    twin.setShadows(this.castsShadow, this.receivesShadow);
    if (this.mesh) twin.setMesh(this.mesh);
    if (this.camera) twin.setCamera(this.camera);
    if (this.light) twin.setLight(this.light);
  }

  private carry<T>(map: Map<SceneNode, T>, thing: T | undefined): this {
    this.living();
    if (thing === undefined) map.delete(this);
    else map.set(this, thing);
    return this;
  }

  /** After any write to the transform. A matrix gives way to what was set. */
  private changed(): void {
    const { row, columns } = this;
    if (row < 0) this.living();
    const flag = columns.flags[row]!; // a living row
    if ((flag & (DIRTY | MATRIX | PLACED)) === DIRTY) return;
    columns.flags[row] = (flag & ~(MATRIX | PLACED)) | DIRTY;
    // As `markDirty` does it, without a second look: this runs for thousands of nodes a frame.
    if ((flag & DIRTY) !== 0) return;
    const at = columns.dirtyCount;
    if (at === columns.capacity) columns.markBulk(row, row + 1);
    else {
      columns.dirtyRows[at] = row;
      columns.dirtyCount = at + 1;
    }
  }

  /** Of a node that was placed in the world: finds the parts of its local transform. */
  private splitPlaced(): void {
    const row = this.living();
    const { translation, rotation, scale, flags } = this.columns;
    if ((flags[row]! & PLACED) === 0) return;
    const local = readLocal(this, new Float32Array(12));
    affineToTrs(local, 0, translation, row * 3, rotation, row * 4, scale, row * 3);
  }

  private living(): number {
    if (this.row === NONE) {
      throw new LensError('scene/removed', `node "${this.name}" has been removed`, {
        hint: 'Drop handles of removed nodes, or ask isAlive first.',
      });
    }
    return this.row;
  }

  private refuse(what: string, values: number[]): never {
    throw new LensError('scene/number', `${what} of node "${this.name}" is [${values.join(', ')}]`, {
      hint:
        what === 'rotation'
          ? 'A rotation is a quaternion of finite, not all zero numbers.'
          : what === 'visibleTo'
            ? 'It is a whole number of up to 32 bits: 0b101.'
            : 'Numbers must be finite.',
    });
  }
}

const NO_EFFECTS: readonly Effect[] = [];

/** Local transform of a node as an affine 3x4 by rows. */
export function readLocal(node: SceneNode, out: Float32Array): Float32Array {
  const { columns } = node.scene;
  const flag = columns.flags[node.row]!; // a living row
  if ((flag & PLACED) !== 0) {
    node.scene.update();
    const parent = columns.parent[node.row]! * 12;
    // Below a parent without an inverse nothing can be said of the local transform but zero.
    affineInvert(inverse, 0, columns.world, parent);
    affineMultiply(out, 0, inverse, 0, columns.world, node.row * 12);
  } else if ((flag & MATRIX) !== 0) {
    out.set(columns.local.subarray(node.row * 12, node.row * 12 + 12));
  } else {
    const { translation, rotation, scale } = columns;
    affineFromTrs(out, 0, translation, node.row * 3, rotation, node.row * 4, scale, node.row * 3);
  }
  return out;
}

const inverse = new Float32Array(12);

function copy<T extends { [i: number]: number }>(out: T, from: Float32Array, at: number, n: number): T {
  for (let k = 0; k < n; k++) out[k] = from[at + k]!; // in range: a living row
  return out;
}

function numbers(values: ArrayLike<number>, n: number, what: string): number[] {
  const list = Array.from(values);
  if (list.length !== n) {
    throw new LensError('scene/length', `${what} takes ${n} numbers, got ${list.length}`);
  }
  if (!list.every(Number.isFinite)) {
    throw new LensError('scene/number', `${what} is [${list.join(', ')}]`, {
      hint: 'Numbers must be finite.',
    });
  }
  return list;
}

/** @throws LensError `scene/mesh` for what is no mesh */
function checkMesh(mesh: Mesh, { name }: SceneNode): void {
  const of = name === '' ? 'a node' : `node "${name}"`;
  if ('attributes' in mesh)
    throw new LensError('scene/mesh', `${of} was given a geometry as its mesh`, {
      hint: 'Give { geometry, material }: the material may be left out.',
    });
  if (!Array.isArray(mesh.primitives))
    throw new LensError('scene/mesh', `${of} was given a mesh without primitives`, {
      hint: 'Give { geometry, material }, several of them, or { primitives: [...] }.',
    });
  for (const { overlays } of mesh.primitives.filter(Boolean))
    if (
      overlays !== undefined &&
      !(Array.isArray(overlays) && overlays.every((one) => typeof one === 'object'))
    )
      throw new LensError('scene/mesh', `the overlays of ${of} are no materials`, {
        hint: 'Give a list: { geometry, material, overlays: [rim] }.',
      });
  for (const primitive of mesh.primitives)
    if (!(primitive as Partial<typeof primitive> | undefined)?.geometry?.attributes)
      throw new LensError('scene/mesh', `a primitive of ${of} has no geometry`, {
        hint: 'Give { geometry: box(), material }, or geometryFrom of arrays.',
      });
}
