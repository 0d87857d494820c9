import { NONE } from '../columns/flags.js';
import { LensError } from '../errors/lens-error.js';
import { attributeFloats } from '../geometry/geometry.js';
import { affineDeterminant, affineInvert } from '../math/affine.js';
import { cross, type Vec3 } from '../math/vectors.js';
import { planesOf, clipRay, isCut } from '../scene/clipping.js';
import type { Scene } from '../scene/scene.js';
import type { SceneNode } from '../scene/scene-node.js';
import { meetTriangles, type TriangleHit } from './meet-triangles.js';
import { eachTarget, type Target, type TargetOptions } from './targets.js';

/** A ray in the world; lengths do not matter. */
export interface Ray {
  origin: Vec3;
  direction: Vec3;
}

export interface CastOptions extends TargetOptions {
  /** Metres from the origin between which things count. Default 0 to Infinity. */
  near?: number;
  far?: number;
  /** Whether faces count from behind too, that are not drawn so. Default false. */
  bothSides?: boolean;
}

/** What a ray meets. */
export interface RayHit {
  node: SceneNode;
  /** Number of the primitive in the node's mesh. */
  primitive: number;
  /** Number of the copy, in a swarm; else undefined. */
  instance?: number;
  /** Number of the triangle in the primitive's geometry. */
  triangle: number;
  /** In the world. */
  point: Vec3;
  /** Of the surface, in the world, of length 1, towards the ray; smooth where the geometry has normals. */
  normal: Vec3;
  /** Of the first set; undefined without one. */
  texcoord: [u: number, v: number] | undefined;
  /** Metres from the ray's origin. */
  distance: number;
}

/** The nearest thing on a ray, as it stands and is bent now; undefined where there is none. */
export function castRay(scene: Scene, ray: Ray, options: CastOptions = {}): RayHit | undefined {
  return cast(scene, ray, options, false)[0];
}

/** Everything on a ray, the nearest first: of each primitive of a node its nearest triangle. */
export function castRayAll(scene: Scene, ray: Ray, options: CastOptions = {}): RayHit[] {
  return cast(scene, ray, options, true).sort((a, b) => a.distance - b.distance);
}

function cast(scene: Scene, { origin, direction }: Ray, options: CastOptions, wantsAll: boolean): RayHit[] {
  const length = Math.hypot(...direction);
  if (!(length > 0 && length < Infinity && origin.every(Number.isFinite)))
    throw new LensError(
      'pick/ray',
      `a ray from [${origin.join(', ')}] along [${direction.join(', ')}] leads nowhere`,
      {
        hint: 'Give finite numbers, and a direction that is not zero.',
      },
    );
  const way = direction.map((part) => part / length) as Vec3;
  const [ox, oy, oz] = origin;
  const [dx, dy, dz] = way;
  const { near = 0, far = Infinity, bothSides = false } = options;
  let most = far;
  const { clipping } = scene;
  // Of what is cut: the part of the ray that the planes leave.
  const left: [number, number] = [near, far];
  if (clipping) clipRay(planesOf(clipping), origin, way, left);
  const hits: RayHit[] = [];
  const found: TriangleHit = { triangle: 0, distance: 0, u: 0, v: 0 };
  const reaches = (cx: number, cy: number, cz: number, radius: number): boolean => {
    const [x, y, z] = [cx - ox, cy - oy, cz - oz];
    const along = x * dx + y * dy + z * dz;
    if (along < -radius || along - radius > most) return false;
    return x * x + y * y + z * z - along * along <= radius * radius * 1.00001;
  };
  eachTarget(scene, options, reaches, (target) => {
    const { node, tree, isDoubleSided, isPosed } = target;
    if (!affineInvert(inverse, 0, target.world, target.at)) return;
    // The direction keeps its length in the world, so distances are metres.
    for (let k = 0; k < 3; k++) {
      const at = k * 4;
      localOrigin[k] = inverse[at]! * ox + inverse[at + 1]! * oy + inverse[at + 2]! * oz + inverse[at + 3]!; // twelve
      localWay[k] = inverse[at]! * dx + inverse[at + 1]! * dy + inverse[at + 2]! * dz;
    }
    const cull = bothSides || isDoubleSided ? 0 : isPosed && isTurnedOver(scene, node) ? -1 : 1;
    const isClipped = clipping !== undefined && isCut(clipping, node);
    const least = isClipped ? left[0] : near;
    const end = isClipped ? Math.min(left[1], most) : most;
    if (least > end || !meetTriangles(tree, localOrigin, localWay, { cull, least, most: end }, found)) return;
    if (!wantsAll) most = found.distance;
    const hit = describe(target, found, origin, way);
    if (wantsAll) hits.push(hit);
    else hits[0] = hit;
  });
  return hits;
}

const inverse = new Float64Array(12) as unknown as number[];
const localOrigin = [0, 0, 0];
const localWay = [0, 0, 0];

/**
 * Whether front faces wind the other way in the node's own space: never, since a mirrored node's faces are turned with it,
 * but in bent meshes whose joints mirror and whose node does not, or the other way round.
 */
function isTurnedOver({ columns }: Scene, { row }: SceneNode): boolean {
  const item = columns.firstItem[row]!; // a living row
  const isDrawnMirrored = item !== NONE && columns.worldSphere[item * 4 + 3]! < 0;
  return isDrawnMirrored !== affineDeterminant(columns.world, row * 12) < 0;
}

function describe(
  { node, primitive, instance, geometry, tree: { positions, corners } }: Target,
  { triangle, distance, u, v }: TriangleHit,
  origin: Vec3,
  way: Vec3,
): RayHit {
  const vertices = [0, 1, 2].map((k) => corners[triangle * 3 + k]!); // a triangle
  const shares = [1 - u - v, u, v];
  const mixed = (values: Float32Array, width: number): number[] =>
    Array.from({ length: width }, (_, k) =>
      vertices.reduce((sum, vertex, i) => sum + values[vertex * width + k]! * shares[i]!, 0),
    );
  const at = (i: number): Vec3 => [0, 1, 2].map((k) => positions[vertices[i]! * 3 + k]!) as Vec3;
  const [a, b, c] = [at(0), at(1), at(2)];
  const flat = cross(b.map((x, k) => x - a[k]!) as Vec3, c.map((x, k) => x - a[k]!) as Vec3);
  const { normal, texcoord0 } = geometry.attributes;
  const local = normal ? mixed(attributeFloats(normal), 3) : flat;
  // Rows of the inverse are what normals are turned by.
  const turned = [0, 1, 2].map(
    (k) => inverse[k]! * local[0]! + inverse[4 + k]! * local[1]! + inverse[8 + k]! * local[2]!,
  ) as Vec3;
  const size = Math.hypot(...turned) || 1;
  const side = turned[0] * way[0] + turned[1] * way[1] + turned[2] * way[2] > 0 ? -1 : 1;
  const uv = texcoord0 && mixed(attributeFloats(texcoord0), 2);
  return {
    node,
    primitive,
    ...(instance === undefined ? {} : { instance }),
    triangle,
    point: origin.map((part, k) => part + way[k]! * distance) as Vec3,
    normal: turned.map((part) => (part * side) / size) as Vec3,
    texcoord: uv ? [uv[0]!, uv[1]!] : undefined,
    distance,
  };
}
