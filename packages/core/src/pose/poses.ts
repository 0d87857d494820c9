import { GUEST_SLOT, SHOWN } from '../columns/flags.js';
import { SpanLog } from '../columns/span-log.js';
import { LensError } from '../errors/lens-error.js';
import { nearHint } from '../errors/near-names.js';
import type { Geometry } from '../geometry/geometry.js';
import { affineDeterminant, affineFromMatrix, affineLargestScale, affineMultiply } from '../math/affine.js';
import type { Bounds } from '../math/bounds.js';
import type { Mesh } from '../scene/components.js';
import type { SceneGuest } from '../scene/guests.js';
import type { NodeSkin, Pose } from './pose.js';
import type { Scene } from '../scene/scene.js';
import type { SceneNode } from '../scene/scene-node.js';
import { bendGeometry, Records } from './bend-geometry.js';
import { bentBy } from './posed-geometry.js';
import { reachOfJoints, reachOfTargets } from './reach.js';

/** Floats of a slot: affine 3x4 by rows. */
const SLOT = 12;

/** What skins of one mesh have in common, however many nodes are bent by them. */
interface Rig {
  /** Affine 3x4 by rows, stride 12; undefined without a skin. */
  inverseBind: Float32Array | undefined;
  /** By joint: upper bound of how much the inverse bind matrix stretches. */
  stretch: Float32Array;
  reach: Float32Array;
  targetReach: Float32Array;
}

class Posed implements Pose {
  /** Where its matrices begin, in slots. */
  slot = -1;
  row = -1;
  /** Its place in the list of poses. */
  at = 0;
  /** Number of the update in which it was taken. */
  takenAt = -1;
  isChanged = true;

  constructor(
    private readonly poses: Poses,
    readonly node: SceneNode,
    readonly skin: NodeSkin | undefined,
    readonly targetNames: readonly string[],
    readonly weights: Float32Array,
    readonly rig: Rig,
  ) {}

  /** Slots that the weights take. */
  get weightSlots(): number {
    return Math.ceil(this.weights.length / SLOT);
  }

  get slots(): number {
    return this.weightSlots + Math.max(1, this.skin?.joints.length ?? 0);
  }

  changed(): void {
    this.isChanged = true;
    this.poses.isStale = true;
  }

  setWeight(name: string, weight: number): void {
    const at = this.targetNames.indexOf(name);
    if (at < 0) {
      throw new LensError('scene/no-target', `node "${this.node.name}" has no morph target "${name}"`, {
        hint: nearHint(name, this.targetNames),
      });
    }
    if (!Number.isFinite(weight))
      throw new LensError('scene/number', `the weight of "${name}" is ${weight}`, {
        hint: 'Give a finite number.',
      });
    this.weights[at] = weight;
    this.changed();
  }
}

/** Slots of poses that are gone, up to which they wait for others of their size. */
const MOST_HOLES = 1024;

/** All bent meshes of a scene, in one array that goes to the GPU as it lies. */
export class Poses implements SceneGuest {
  /** Whether weights changed since the last update. */
  isStale = true;
  /**
   * Slots of 12 floats. A pose has as many as its weights take (the first one last, in the slots before its own), and
   * from its own slot on the matrices of its joints, affine 3x4 by rows; without a skin, the node's world transform.
   */
  values = new Float32Array(0);
  /** Slots that changed. */
  readonly log = new SpanLog();
  private readonly all = new Map<SceneNode, Posed>();
  private readonly list: Posed[] = [];
  /** Slots in use, holes included; and holes, by how many slots each has. */
  private used = 0;
  private readonly holes = new Map<number, number[]>();
  private holeSlots = 0;
  private readonly store = new Records();
  /** Bent geometries by those that they were made of, unskinned and skinned. */
  private readonly bent = new Map<Geometry, [Geometry | undefined, Geometry | undefined]>();
  private readonly rigs = new Map<Mesh, { skin: NodeSkin | undefined; rig: Rig }[]>();
  private centers = new Float32Array(0);
  private seen = -1;

  constructor(private readonly scene: Scene) {}

  /** How each vertex is bent: see `bendGeometry`. */
  get records(): Uint32Array {
    return this.store.words;
  }

  /** Words of `records` in use; those that are there do not change. */
  get recordCount(): number {
    return this.store.count;
  }

  of(node: SceneNode): Pose | undefined {
    return this.all.get(node);
  }

  /** Bends a node's mesh from now on, or no longer. */
  set(node: SceneNode, skin: NodeSkin | undefined, weights: ArrayLike<number> | undefined): void {
    this.remove(node);
    const { mesh } = node;
    const targetNames = mesh ? namesOf(mesh) : [];
    const isSkinned =
      skin !== undefined && mesh?.primitives.some(({ geometry }) => geometry.attributes['joints0']);
    if (!mesh || (!isSkinned && targetNames.length === 0)) return;
    const given = weights ?? mesh.weights ?? [];
    const own = Float32Array.from(targetNames, (_, i) => given[i] ?? 0);
    const used = isSkinned ? skin : undefined;
    if (used) checkJoints(node, mesh, used);
    const posed = new Posed(this, node, used, targetNames, own, this.rigOf(mesh, used));
    this.all.set(node, posed);
    this.scene.columns.traits[node.row]! |= GUEST_SLOT;
    posed.at = this.list.push(posed) - 1;
    this.exchange(node, mesh, used !== undefined);
    this.place(posed);
  }

  shapeOf(node: SceneNode, primitive: number): Geometry | undefined {
    const posed = this.all.get(node);
    const found = node.mesh?.primitives[primitive]?.geometry;
    return posed && found ? bentBy(posed, found) : undefined;
  }

  weightsOf(node: SceneNode): Pose | undefined {
    return this.all.get(node);
  }

  meshChanged(node: SceneNode): void {
    const posed = this.all.get(node);
    if (!posed) return;
    this.set(node, posed.skin, posed.weights);
  }

  cloned(copies: ReadonlyMap<SceneNode, SceneNode>): void {
    for (const [from, to] of copies) {
      const posed = this.all.get(from);
      if (!posed) continue;
      const { skin, weights } = posed;
      const joints = skin?.joints.map((joint) => copies.get(joint) ?? joint);
      // A copy in another scene has no joints there, unless they were copied along.
      const isHeld = joints?.every((joint) => joint.scene === to.scene);
      to.scene.guests
        .ensure(Poses)
        .set(to, skin && joints && isHeld ? { ...skin, joints } : undefined, weights);
    }
  }

  slotOf(row: number): number | undefined {
    return this.all.get(this.scene.handles[row]!)?.slot; // a row that is drawn
  }

  update(): void {
    const { scene, list } = this;
    const { columns, updateCount } = scene;
    if (!this.isStale && this.seen === updateCount) return;
    for (let i = 0; i < list.length; i++) {
      const posed = list[i]!; // i < length, here and below
      const { row } = posed.node;
      if (row !== posed.row) {
        posed.row = row;
        posed.isChanged = true;
      }
      if (!posed.isChanged && !this.hasMoved(posed)) continue;
      this.take(posed);
      columns.movedAt[row] = updateCount;
      scene.movedRows.add(row, 1);
    }
    this.seen = updateCount;
    this.isStale = false;
  }

  growBounds(node: SceneNode, { min, max }: Bounds): boolean {
    const posed = this.all.get(node);
    if (!posed) return false;
    const count = this.placeSpheres(posed);
    for (let i = 0; i < count; i++)
      for (let k = 0; k < 3; k++) {
        const [center, radius] = [this.centers[i * 4 + k]!, this.centers[i * 4 + 3]!]; // i < count
        min[k] = Math.min(min[k]!, center - radius);
        max[k] = Math.max(max[k]!, center + radius);
      }
    return true;
  }

  removed(node: SceneNode): void {
    this.remove(node);
  }

  private remove(node: SceneNode): void {
    const posed = this.all.get(node);
    if (!posed) return;
    this.all.delete(node);
    if (node.row >= 0) this.scene.columns.traits[node.row]! &= ~GUEST_SLOT;
    const last = this.list.pop()!; // it has this one
    if (last !== posed) this.list[(last.at = posed.at)] = last;
    const { slot, slots, weightSlots } = posed;
    const holes = this.holes.get(slots);
    if (holes) holes.push(slot - weightSlots);
    else this.holes.set(slots, [slot - weightSlots]);
    this.holeSlots += slots;
  }

  /** Gives a pose its slots: a hole of its size, else behind all others, which stay where they are. */
  private place(posed: Posed): void {
    const { slots, weightSlots } = posed;
    const hole = this.holes.get(slots)?.pop();
    if (hole === undefined) this.used += slots;
    else this.holeSlots -= slots;
    posed.slot = (hole ?? this.used - slots) + weightSlots;
    this.isStale = true;
    if (this.holeSlots > MOST_HOLES && this.holeSlots * 2 > this.used) this.closeHoles();
    if (this.used * SLOT <= this.values.length) return;
    const { values } = this;
    this.values = new Float32Array(Math.max(64, this.used * 2) * SLOT);
    this.values.set(values);
    this.log.forget();
  }

  /** Gives every pose other slots, one behind the other. */
  private closeHoles(): void {
    const { columns, drawables } = this.scene;
    this.used = this.holeSlots = 0;
    this.holes.clear();
    for (const posed of this.list) {
      posed.slot = this.used + posed.weightSlots;
      this.used += posed.slots;
      posed.isChanged = true;
      // Lists take it anew.
      const { row } = posed.node;
      drawables.moved(row);
      columns.markDirty(row);
    }
    this.log.forget();
  }

  /** Has the node drawn with geometry whose vertices know how they are bent. */
  private exchange(node: SceneNode, mesh: Mesh, isSkinned: boolean): void {
    const { drawables } = this.scene;
    drawables.remove(node.row);
    drawables.add(node.row, {
      ...mesh,
      primitives: mesh.primitives.map((primitive) => ({
        ...primitive,
        geometry: this.bentOf(primitive.geometry, isSkinned),
      })),
    });
  }

  private bentOf(geometry: Geometry, isSkinned: boolean): Geometry {
    let known = this.bent.get(geometry);
    if (!known) this.bent.set(geometry, (known = [undefined, undefined]));
    return (known[isSkinned ? 1 : 0] ??= bendGeometry(geometry, this.store, isSkinned));
  }

  private rigOf(mesh: Mesh, skin: NodeSkin | undefined): Rig {
    let known = this.rigs.get(mesh);
    if (!known) this.rigs.set(mesh, (known = []));
    const found = known.find(
      ({ skin: other }) =>
        other?.inverseBindMatrices === skin?.inverseBindMatrices &&
        other?.joints.length === skin?.joints.length,
    );
    if (found) return found.rig;
    const geometries = mesh.primitives.map(({ geometry }) => geometry);
    const joints = skin?.joints.length ?? 1;
    const rig: Rig = {
      inverseBind: skin && inverseBindOf(skin),
      stretch: new Float32Array(joints).fill(1),
      reach: reachOfJoints(skin ? geometries : geometries.map(withoutJoints), joints),
      targetReach: reachOfTargets(geometries, namesOf(mesh).length),
    };
    const { inverseBind } = rig;
    if (inverseBind) for (let j = 0; j < joints; j++) rig.stretch[j] = boundOfStretch(inverseBind, j * SLOT);
    known.push({ skin, rig });
    return rig;
  }

  private hasMoved({ skin, takenAt, row }: Posed): boolean {
    const { movedAt } = this.scene.columns;
    if (movedAt[row]! > takenAt) return true;
    if (!skin) return false;
    const { joints } = skin;
    for (let i = 0; i < joints.length; i++) {
      const joint = joints[i]!.row; // i < length
      if (joint >= 0 && movedAt[joint]! > takenAt) return true;
    }
    return false;
  }

  /** Writes a pose's matrices and weights, and where the mesh is. */
  private take(posed: Posed): void {
    const { columns, updateCount } = this.scene;
    const { values } = this;
    const { skin, rig, slot, row, weights } = posed;
    const { world } = columns;
    posed.isChanged = false;
    posed.takenAt = updateCount;
    const at = slot * SLOT;
    for (let t = 0; t < weights.length; t++) values[at - 4 * (1 + (t >> 2)) + (t & 3)] = weights[t]!; // t < length
    if (skin && rig.inverseBind) {
      const { joints } = skin;
      const { inverseBind } = rig;
      for (let j = 0; j < joints.length; j++) {
        const joint = joints[j]!.row; // j < length
        // A joint that is gone leaves what it held where it was.
        if (joint >= 0) affineMultiply(values, at + j * SLOT, world, joint * SLOT, inverseBind, j * SLOT);
      }
    } else {
      for (let k = 0; k < SLOT; k++) values[at + k] = world[row * SLOT + k]!; // a row in use
    }
    this.log.add(slot - posed.weightSlots, posed.slots);
    this.writeSpheres(posed);
  }

  /** Spheres in the world around what hangs on each joint, into `centers`; returns how many. */
  private placeSpheres({ skin, rig, slot, row, weights }: Posed): number {
    const { values } = this;
    const { stretch } = this.scene.columns;
    const { reach, targetReach } = rig;
    const joints = reach.length / 4;
    if (this.centers.length < reach.length) this.centers = new Float32Array(reach.length);
    const { centers } = this;
    let moved = 0;
    for (let t = 0; t < weights.length; t++) moved += Math.abs(weights[t]!) * targetReach[t]!; // t < length
    let count = 0;
    for (let j = 0; j < joints; j++) {
      const radius = reach[j * 4 + 3]!; // a joint, here and below
      if (radius < 0) continue;
      const x = reach[j * 4]!;
      const y = reach[j * 4 + 1]!;
      const z = reach[j * 4 + 2]!;
      const m = (slot + j) * SLOT;
      const o = count * 4;
      centers[o] = values[m]! * x + values[m + 1]! * y + values[m + 2]! * z + values[m + 3]!;
      centers[o + 1] = values[m + 4]! * x + values[m + 5]! * y + values[m + 6]! * z + values[m + 7]!;
      centers[o + 2] = values[m + 8]! * x + values[m + 9]! * y + values[m + 10]! * z + values[m + 11]!;
      const of = skin ? skin.joints[j]!.row : row;
      centers[o + 3] = (radius + moved) * (of < 0 ? 1 : stretch[of]!) * rig.stretch[j]!;
      count++;
    }
    return count;
  }

  /** The sphere around all of them, for every primitive of the node. */
  private writeSpheres(posed: Posed): void {
    const { columns, drawables } = this.scene;
    const { row, slot } = posed;
    const { worldSphere, itemNext } = columns;
    const count = this.placeSpheres(posed);
    const { centers } = this;
    let x0 = Infinity;
    let y0 = Infinity;
    let z0 = Infinity;
    let x1 = -Infinity;
    let y1 = -Infinity;
    let z1 = -Infinity;
    for (let i = 0; i < count * 4; i += 4) {
      const r = centers[i + 3]!; // i < count * 4, here and below
      x0 = Math.min(x0, centers[i]! - r);
      y0 = Math.min(y0, centers[i + 1]! - r);
      z0 = Math.min(z0, centers[i + 2]! - r);
      x1 = Math.max(x1, centers[i]! + r);
      y1 = Math.max(y1, centers[i + 1]! + r);
      z1 = Math.max(z1, centers[i + 2]! + r);
    }
    const x = count > 0 ? (x0 + x1) / 2 : 0;
    const y = count > 0 ? (y0 + y1) / 2 : 0;
    const z = count > 0 ? (z0 + z1) / 2 : 0;
    let radius = 0;
    for (let i = 0; i < count * 4; i += 4) {
      const dx = centers[i]! - x;
      const dy = centers[i + 1]! - y;
      const dz = centers[i + 2]! - z;
      const distance = Math.sqrt(dx * dx + dy * dy + dz * dz) + centers[i + 3]!;
      if (distance > radius) radius = distance;
    }
    // A hair more, for what the GPU's sums leave out.
    radius = radius * 1.00001 + 1e-6;
    const isShown = (columns.flags[row]! & SHOWN) !== 0;
    const isMirrored = affineDeterminant(this.values, slot * SLOT) < 0;
    for (let item = columns.firstItem[row]!; item >= 0; item = itemNext[item]!) {
      const s = item * 4;
      worldSphere[s] = x;
      worldSphere[s + 1] = y;
      worldSphere[s + 2] = z;
      const margin = drawables.marginAt(item);
      const reach = margin > 0 ? radius + margin * affineLargestScale(columns.world, row * 12) : radius;
      worldSphere[s + 3] = !isShown ? Infinity : isMirrored ? -reach : reach;
    }
  }
}

function namesOf(mesh: Mesh): string[] {
  const targets = mesh.primitives.find(({ geometry }) => geometry.targets?.length)?.geometry.targets ?? [];
  return targets.map(({ name }, i) => name ?? `target ${i}`);
}

function withoutJoints(geometry: Geometry): Geometry {
  const { joints0: _joints, ...attributes } = geometry.attributes;
  return { ...geometry, attributes };
}

function inverseBindOf({ joints, inverseBindMatrices }: NodeSkin): Float32Array {
  const out = new Float32Array(joints.length * SLOT);
  for (let j = 0; j < joints.length; j++) {
    if (inverseBindMatrices)
      affineFromMatrix(out, j * SLOT, inverseBindMatrices.subarray(j * 16, j * 16 + 16));
    else for (let k = 0; k < 3; k++) out[j * SLOT + k * 5] = 1;
  }
  return out;
}

/** Product of norms bounds the norm of a product, and Frobenius's bounds the largest stretch of one that shears. */
function boundOfStretch(a: Float32Array, i: number): number {
  const largest = affineLargestScale(a, i);
  let sum = 0;
  for (let k = 0; k < 11; k++) if (k % 4 !== 3) sum += a[i + k]! ** 2;
  return Number.isFinite(largest) ? Math.min(largest * 1.0001, Math.sqrt(sum)) : Math.sqrt(sum);
}

function checkJoints(node: SceneNode, mesh: Mesh, { joints, inverseBindMatrices }: NodeSkin): void {
  if (inverseBindMatrices && inverseBindMatrices.length < joints.length * 16)
    throw new LensError(
      'scene/skin',
      `the skin of "${node.name}" has ${joints.length} joints, but ${inverseBindMatrices.length} numbers of inverse bind matrices`,
      { hint: 'Give 16 numbers a joint, column by column.' },
    );
  for (const { geometry } of mesh.primitives)
    for (let i = 0; geometry.attributes[`joints${i}`]; i++) {
      const { bytes: _bytes, ...attribute } = geometry.attributes[`joints${i}`]!; // found just now
      if (attribute.components !== 4)
        throw new LensError(
          'scene/skin',
          `joints${i} of the mesh of "${node.name}" has ${attribute.components} numbers a vertex, not 4`,
        );
    }
}
