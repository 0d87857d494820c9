import { attributeFloats, type Geometry } from '../geometry/geometry.js';
import { influenceSets } from './bend-geometry.js';

/**
 * How far what hangs on a joint reaches, in the mesh's own space: stride 4, centre xyz and radius, by joint; radius below 0
 * where nothing hangs on it. Without joints one sphere for the whole.
 */
export function reachOfJoints(geometries: readonly Geometry[], joints: number): Float32Array {
  const [min, max] = [
    new Float32Array(joints * 3).fill(Infinity),
    new Float32Array(joints * 3).fill(-Infinity),
  ];
  for (const geometry of geometries)
    eachHold(geometry, joints, (joint, x, y, z) => {
      const at = joint * 3;
      min[at] = Math.min(min[at]!, x); // a joint, here and below
      min[at + 1] = Math.min(min[at + 1]!, y);
      min[at + 2] = Math.min(min[at + 2]!, z);
      max[at] = Math.max(max[at]!, x);
      max[at + 1] = Math.max(max[at + 1]!, y);
      max[at + 2] = Math.max(max[at + 2]!, z);
    });
  const spheres = new Float32Array(joints * 4).fill(-1);
  for (let j = 0; j < joints; j++) {
    if (min[j * 3]! > max[j * 3]!) continue;
    for (let k = 0; k < 3; k++) spheres[j * 4 + k] = (min[j * 3 + k]! + max[j * 3 + k]!) / 2;
    spheres[j * 4 + 3] = 0;
  }
  for (const geometry of geometries)
    eachHold(geometry, joints, (joint, x, y, z) => {
      const at = joint * 4;
      const distance = Math.hypot(x - spheres[at]!, y - spheres[at + 1]!, z - spheres[at + 2]!);
      spheres[at + 3] = Math.max(spheres[at + 3]!, distance);
    });
  return spheres;
}

/** How far a target moves any vertex at the most, by target. */
export function reachOfTargets(geometries: readonly Geometry[], targets: number): Float32Array {
  const reach = new Float32Array(targets);
  for (const geometry of geometries)
    geometry.targets?.forEach(({ attributes }, t) => {
      const { position } = attributes;
      if (!position) return;
      const values = attributeFloats(position);
      for (let i = 0; i < values.length; i += 3)
        reach[t] = Math.max(reach[t]!, Math.hypot(values[i]!, values[i + 1]!, values[i + 2]!)); // three a vertex
    });
  return reach;
}

/** Calls with each vertex for each joint that holds it; joint 0 for geometry that has none. */
function eachHold(
  geometry: Geometry,
  joints: number,
  visit: (joint: number, x: number, y: number, z: number) => void,
): void {
  const { position } = geometry.attributes;
  if (!position) return;
  const places = attributeFloats(position);
  const sets = joints > 1 || geometry.attributes['joints0'] ? influenceSets(geometry) : [];
  for (let v = 0; v * 3 < places.length; v++) {
    const [x, y, z] = [places[v * 3]!, places[v * 3 + 1]!, places[v * 3 + 2]!];
    if (sets.length === 0) visit(0, x, y, z);
    for (const { joints: held, weights } of sets)
      for (let k = 0; k < 4; k++) {
        const joint = held[v * 4 + k]!; // four a vertex
        if (weights[v * 4 + k]! > 0 && joint < joints) visit(joint, x, y, z);
      }
  }
}
