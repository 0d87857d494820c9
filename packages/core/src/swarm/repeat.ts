import {
  type Attribute,
  attributeFloats,
  attributeFrom,
  drawCount,
  type Geometry,
  vertexCount,
} from '../geometry/geometry.js';

/** Vertices that one instance should have at least: GPUs work on them in groups of 32 or 64. */
const GOOD_VERTICES = 192;
const MOST_REPEATS = 64;

/** How often a geometry is put into one instance: a power of two, more for smaller ones, and no more than there are copies. */
export function repeatsFor(geometry: Geometry, copies: number): number {
  if ((geometry.mode ?? 'triangles') !== 'triangles') return 1;
  let repeats = 1;
  while (repeats < MOST_REPEATS && repeats < copies && repeats * 2 * vertexCount(geometry) <= GOOD_VERTICES)
    repeats *= 2;
  return repeats;
}

/**
 * A geometry several times over, in one: vertex `v` of repeat `r` is number `r * vertices + v`. It has colours, white where
 * the geometry has none, which those of copies are multiplied with.
 */
export function repeated(geometry: Geometry, times: number): Geometry {
  const vertices = vertexCount(geometry);
  const colored = {
    color0: attributeFrom(new Float32Array(vertices * 4).fill(1), 4),
    ...geometry.attributes,
  };
  if (times === 1) return { ...geometry, attributes: colored };
  const attributes: Record<string, Attribute> = {};
  for (const [name, attribute] of Object.entries(colored)) {
    const once = attributeFloats(attribute);
    const all = new Float32Array(once.length * times);
    for (let i = 0; i < times; i++) all.set(once, i * once.length);
    attributes[name] = attributeFrom(all, attribute.components);
  }
  const count = drawCount(geometry);
  const indices = vertices * times > 0xffff ? new Uint32Array(count * times) : new Uint16Array(count * times);
  for (let r = 0; r < times; r++)
    for (let i = 0; i < count; i++) indices[r * count + i] = r * vertices + (geometry.indices?.[i] ?? i);
  return { ...geometry, attributes, indices };
}
