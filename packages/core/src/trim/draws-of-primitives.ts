import { addTo } from '../math/lists.js';
import type { ModelAsset } from '../formats/asset/asset.js';
import {
  type Attribute,
  attributeBounds,
  COMPONENT_BYTES,
  type Geometry,
  packIndices,
  vertexCount,
} from '../geometry/geometry.js';
import type { Primitive } from '../scene/components.js';
import { fewer } from './uses.js';
import { wholeIndices } from './vertex-table.js';

/** Puts primitives of one mesh together that one draw could be: of one material, with the same attributes. */
export function mergePrimitives({ meshes }: ModelAsset): string {
  let [before, after] = [0, 0];
  for (const mesh of meshes) {
    before += mesh.primitives.length;
    const groups = new Map<string, Primitive[]>();
    const materials: unknown[] = [];
    const number = (thing: unknown): number => {
      const at = materials.indexOf(thing);
      return at >= 0 ? at : materials.push(thing) - 1;
    };
    for (const primitive of mesh.primitives) {
      const { geometry, material, standard, variants = {}, extras } = primitive;
      const key = JSON.stringify([
        number(material),
        number(standard),
        Object.entries(variants).map(([name, one]) => [name, number(one)]),
        layoutOf(geometry),
        extras === undefined ? 0 : number(primitive),
      ]);
      addTo(groups, key, primitive);
    }
    mesh.primitives = [...groups.values()]
      .map(([first, ...others]) =>
        others.length === 0 || !isJoinable(first!.geometry)
          ? [first!, ...others]
          : [{ ...first!, geometry: joined([first!, ...others].map(({ geometry }) => geometry)) }],
      )
      .flat();
    after += mesh.primitives.length;
  }
  return fewer({ primitives: before }, { primitives: after }, 'joined to others');
}

export const isJoinable = ({ mode = 'triangles' }: Geometry): boolean =>
  ['triangles', 'lines', 'points'].includes(mode);

/** Equal for geometries whose vertices can lie behind one another. */
export function layoutOf({ attributes, mode, targets = [] }: Geometry): unknown {
  const of = (named: Record<string, Attribute>): unknown =>
    Object.entries(named)
      .map(([name, { componentType, components, normalized }]) =>
        [name, componentType, components, normalized].join(),
      )
      .sort();
  return [mode ?? 'triangles', of(attributes), targets.map(({ name, attributes: own }) => [name, of(own)])];
}

/** One geometry of several with the same layout. */
export function joined(all: readonly Geometry[]): Geometry {
  const [first] = all as [Geometry, ...Geometry[]];
  const behind = (of: (geometry: Geometry) => Record<string, Attribute>): Record<string, Attribute> =>
    Object.fromEntries(
      Object.keys(of(first)).map((name) => [
        name,
        joinedAttribute(all.map((geometry) => of(geometry)[name]!)),
      ]),
    ); // one layout
  const attributes = behind(({ attributes: own }) => own);
  const indices: number[] = [];
  let start = 0;
  for (const geometry of all) {
    for (const index of wholeIndices(geometry)) indices.push(index + start);
    start += vertexCount(geometry);
  }
  return {
    ...first,
    attributes,
    bounds: attributeBounds(attributes['position']!), // every geometry has one
    indices: packIndices(indices, start),
    ...(first.targets
      ? {
          targets: first.targets.map((target, i) => ({
            ...target,
            attributes: behind(({ targets }) => targets![i]!.attributes),
          })),
        } // one layout
      : {}),
  };
}

function joinedAttribute(parts: readonly Attribute[]): Attribute {
  const [first] = parts as [Attribute, ...Attribute[]];
  const width = first.components * COMPONENT_BYTES[first.componentType];
  const stride = (width + 3) & ~3;
  const count = parts.reduce((sum, part) => sum + part.count, 0);
  const bytes = new Uint8Array(count * stride);
  let at = 0;
  for (const part of parts)
    for (let v = 0; v < part.count; v++, at += stride) {
      const from = part.byteOffset + v * part.byteStride;
      bytes.set(part.bytes.subarray(from, from + width), at);
    }
  return { ...first, bytes, byteOffset: 0, byteStride: stride, count };
}
