import type { AssetNode, ModelAsset } from '../formats/asset/asset.js';
import { type Attribute, attributeFloats, type Geometry } from '../geometry/geometry.js';
import type { Mesh } from '../scene/components.js';
import { replaceGeometries } from './vertex-table.js';

/** How each attribute is stored, where its values allow it. */
const FORMS: [pattern: RegExp, form: Form][] = [
  [/^(normal|tangent)$/, { type: 'i16', least: -1, most: 1 }],
  [/^texcoord\d$/, { type: 'u16', least: 0, most: 1 }],
  [/^color\d$/, { type: 'u8', least: 0, most: 1 }],
  [/^weights\d$/, { type: 'u16', least: 0, most: 1 }],
];

interface Form {
  type: 'i16' | 'u16' | 'u8';
  least: number;
  most: number;
}

const MOST = { i16: 32767, u16: 65535, u8: 255 };
const ARRAYS = { i16: Int16Array, u16: Uint16Array, u8: Uint8Array };

/**
 * Stores vertex attributes in 16 or 8 bits (KHR_mesh_quantization). Places too, where asked for: they are stored in steps of
 * a 65,535th of the mesh's size, and a node between takes them back; meshes that are bent keep theirs.
 */
export function lowerPrecision(asset: ModelAsset, positions: boolean): string {
  let [before, after] = [0, 0];
  const size = ({ byteStride, count }: Attribute): number => byteStride * count;
  replaceGeometries(asset.meshes, (geometry) => {
    const attributes = { ...geometry.attributes };
    for (const [name, attribute] of Object.entries(attributes)) {
      const form = FORMS.find(([pattern]) => pattern.test(name))?.[1];
      const packed = form && packedAs(attribute, form);
      if (!packed || size(packed) >= size(attribute)) continue;
      before += size(attribute);
      after += size(packed);
      attributes[name] = packed;
    }
    return { ...geometry, attributes };
  });
  if (positions) {
    const saved = quantizePositions(asset);
    before += saved.before;
    after += saved.after;
  }
  return before > after ? `${kilobytes(before)} of attributes in ${kilobytes(after)}` : '';
}

const kilobytes = (bytes: number): string =>
  `${(bytes / 1000).toLocaleString('en-US', { maximumFractionDigits: 1 })} kB`;

/** Undefined where values lie outside of what the form can hold. */
function packedAs(attribute: Attribute, { type, least, most }: Form): Attribute | undefined {
  if (attribute.componentType !== 'f32') return undefined;
  const { components, count } = attribute;
  const values = attributeFloats(attribute);
  for (const value of values) if (!(value >= least - 1e-6 && value <= most + 1e-6)) return undefined;
  return packed(values, components, count, type, (value) => value * MOST[type]);
}

function packed(
  values: Float32Array,
  components: 1 | 2 | 3 | 4,
  count: number,
  type: Form['type'],
  stored: (value: number, k: number) => number,
): Attribute {
  const size = ARRAYS[type].BYTES_PER_ELEMENT;
  const step = (((components * size + 3) & ~3) / size) | 0;
  const out = new ARRAYS[type](count * step);
  const lowest = type === 'i16' ? -MOST.i16 : 0;
  for (let v = 0; v < count; v++)
    for (let k = 0; k < components; k++)
      out[v * step + k] = Math.min(
        MOST[type],
        Math.max(lowest, Math.round(stored(values[v * components + k]!, k))),
      ); // in range
  return {
    bytes: new Uint8Array(out.buffer),
    componentType: type,
    components,
    normalized: true,
    byteOffset: 0,
    byteStride: step * size,
    count,
  };
}

function quantizePositions(asset: ModelAsset): { before: number; after: number } {
  let [before, after] = [0, 0];
  const bent = new Set<Mesh | undefined>(
    asset.nodes.filter(({ skin, instances }) => skin ?? instances).map(({ mesh }) => mesh),
  );
  for (const mesh of asset.meshes) {
    const isPlain = mesh.primitives.every(
      ({ geometry: { attributes, targets } }) => !targets && attributes['position']?.componentType === 'f32',
    );
    if (bent.has(mesh) || !isPlain || mesh.primitives.length === 0) continue;
    const { min, size } = boxOf(mesh);
    if (!(size > 0)) continue;
    for (const primitive of mesh.primitives) {
      const { geometry } = primitive;
      const position = geometry.attributes['position']!; // looked at above
      const stored = packed(
        attributeFloats(position),
        3,
        position.count,
        'u16',
        (value, k) => ((value - min[k]!) / size) * MOST.u16,
      );
      before += position.byteStride * position.count;
      after += stored.byteStride * stored.count;
      primitive.geometry = within(geometry, stored, min, size);
    }
    for (const node of [...asset.nodes]) if (node.mesh === mesh) putBetween(asset, node, mesh, min, size);
  }
  return { before, after };
}

function boxOf({ primitives }: Mesh): { min: number[]; size: number } {
  const [min, max] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ];
  for (const { geometry } of primitives)
    for (let k = 0; k < 3; k++) {
      min[k] = Math.min(min[k]!, geometry.bounds.min[k]!); // three numbers
      max[k] = Math.max(max[k]!, geometry.bounds.max[k]!);
    }
  return { min: min as number[], size: Math.max(...min.map((least, k) => max[k]! - least)) };
}

function within(geometry: Geometry, position: Attribute, min: readonly number[], size: number): Geometry {
  const to = (corner: readonly number[]): [number, number, number] =>
    corner.map((value, k) => (value - min[k]!) / size) as [number, number, number];
  return {
    ...geometry,
    attributes: { ...geometry.attributes, position },
    bounds: { min: to(geometry.bounds.min), max: to(geometry.bounds.max) },
  };
}

/** A node without a name between another one and its mesh, so that the other keeps its transform, which clips may move. */
function putBetween(
  asset: ModelAsset,
  node: AssetNode,
  mesh: Mesh,
  min: readonly number[],
  size: number,
): void {
  const between: AssetNode = {
    children: [],
    translation: [...min] as [number, number, number],
    scale: [size, size, size],
    mesh,
  };
  delete node.mesh;
  node.children.push(between);
  asset.nodes.push(between);
}
