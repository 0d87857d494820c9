import { LensError } from '../errors/lens-error.js';
import { nearHint } from '../errors/near-names.js';
import { type Bounds, growBounds } from '../math/bounds.js';
import { attributeBounds, attributeFloats, type Attribute, type Geometry } from './geometry.js';

/** What of a geometry was written to. */
export interface GeometryChange {
  /** The attribute, or `indices`. Left out: everything, also how many there are. */
  attribute?: string;
  /** The first vertex (or index). Default 0. */
  first?: number;
  /** How many. Default: the rest. */
  count?: number;
}

interface Noted {
  version: number;
  attribute: string | undefined;
  first: number;
  count: number;
}

/** Changes that are remembered: whoever lags behind more takes everything anew. */
const MOST_CHANGES = 64;
const noted = new WeakMap<Geometry, Noted[]>();

/**
 * Tells that a geometry was written to: what is said is uploaded before the next frame, and nothing else. Its box, and what picking looks
 * things up in, follow by themselves. Attributes may be exchanged for longer or shorter ones (`attributeFrom`), and `count` of an
 * attribute lowered to draw fewer vertices than there is room for: say so without a range then.
 *
 *     positions.set([x, y, z], 3 * 17); // the array that geometryFrom was given
 *     geometryChanged(geometry, { attribute: 'position', first: 17, count: 1 });
 *
 * @throws LensError `geometry/no-attribute`, `geometry/range`
 */
export function geometryChanged(geometry: Geometry, change: GeometryChange = {}): void {
  const { attribute, first = 0 } = change;
  const length = attribute === undefined ? Infinity : lengthOf(geometry, attribute);
  const { count = length - first } = change;
  if (!(first >= 0 && count >= 0 && first + count <= length))
    throw new LensError('geometry/range', `"${attribute}" has no ${count} values from ${first} on`, {
      hint: `It has ${length}.`,
    });
  const version = (geometry.version = (geometry.version ?? 0) + 1);
  let changes = noted.get(geometry);
  if (!changes) noted.set(geometry, (changes = []));
  if (changes.length === MOST_CHANGES) changes.shift();
  changes.push({ version, attribute, first, count });
  const { position } = geometry.attributes;
  if (position && (attribute === undefined || attribute === 'position'))
    follow(geometry, position, first, Math.min(count, position.count - first));
}

/** Changes since a version, the oldest first; undefined where not all are known, or everything may have changed. */
export function changesSince(geometry: Geometry, version: number): readonly Noted[] | undefined {
  const changes = (noted.get(geometry) ?? []).filter((change) => change.version > version);
  const isWhole = changes.length === (geometry.version ?? 0) - version;
  return isWhole && changes.every(({ attribute }) => attribute !== undefined) ? changes : undefined;
}

function lengthOf({ attributes, indices }: Geometry, name: string): number {
  if (name === 'indices') return indices?.length ?? 0;
  const attribute = attributes[name];
  if (attribute) return attribute.count;
  throw new LensError('geometry/no-attribute', `the geometry has no attribute "${name}"`, {
    hint: nearHint(name, ['indices', ...Object.keys(attributes)]),
  });
}

/** Of positions that all changed the box is made anew; by some it grows. */
function follow(geometry: Geometry, position: Attribute, first: number, count: number): void {
  const { bounds } = geometry;
  const isWhole = first === 0 && count === position.count;
  const box = isWhole ? attributeBounds(position) : grown(bounds, position, first, count);
  let isOther = false;
  for (let k = 0; k < 3; k++)
    if (box.min[k] !== bounds.min[k] || box.max[k] !== bounds.max[k]) isOther = true;
  if (!isOther) return;
  geometry.bounds = box;
  geometry.boundsVersion = (geometry.boundsVersion ?? 0) + 1;
}

function grown({ min, max }: Bounds, position: Attribute, first: number, count: number): Bounds {
  const box: Bounds = { min: [...min], max: [...max] };
  const { byteOffset, byteStride } = position;
  const values = attributeFloats({ ...position, byteOffset: byteOffset + first * byteStride, count });
  for (let v = 0; v < count * 3; v += 3) growBounds(box, values[v]!, values[v + 1]!, values[v + 2]!); // three each
  return box;
}
