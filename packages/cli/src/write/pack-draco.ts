import { createRequire } from 'node:module';
import {
  type Attribute,
  attributeBounds,
  type Geometry,
  type ModelAsset,
  type PackedGeometry,
  unpackDraco,
} from '@umber-lens/core/engine';

/** The package's name of what puts a mesh together. */
const BUILDER = `Mesh${'Builder'}` as const;

/** What is used of the encoder of the package draco3dgltf. */
interface DracoEncoderModule {
  Mesh: new () => object;
  [BUILDER]: new () => Record<string, (mesh: object, ...rest: unknown[]) => number>;
  Encoder: new () => {
    SetEncodingMethod(method: number): void;
    SetSpeedOptions(encoding: number, decoding: number): void;
    SetAttributeQuantization(kind: number, bits: number): void;
    EncodeMeshToDracoBuffer(mesh: object, out: object): number;
  };
  DracoInt8Array: new () => { GetValue(at: number): number };
  readonly POSITION: number;
  readonly NORMAL: number;
  readonly COLOR: number;
  readonly TEX_COORD: number;
  readonly GENERIC: number;
  readonly MESH_EDGEBREAKER_ENCODING: number;
  destroy(one: object): void;
}

const ARRAYS = {
  i8: [Int8Array, 'AddInt8Attribute'],
  u8: [Uint8Array, 'AddUInt8Attribute'],
  i16: [Int16Array, 'AddInt16Attribute'],
  u16: [Uint16Array, 'AddUInt16Attribute'],
  u32: [Uint32Array, 'AddUInt32Attribute'],
  f32: [Float32Array, 'AddFloatAttribute'],
} as const;

/** Bits that floats of each kind are kept in: steps of the mesh's size over 16,384, of normals 0.1 degrees. */
const BITS = { POSITION: 14, NORMAL: 10, TEX_COORD: 12, COLOR: 10, GENERIC: 12 } as const;

/**
 * Packs the triangles of an asset by Draco. Geometries with morph targets or joints stay as they are: their parts must keep their
 * order and their sums. So do those that would not be smaller.
 */
export async function packGeometries(asset: ModelAsset): Promise<Map<Geometry, PackedGeometry>> {
  const { createEncoderModule } = createRequire(import.meta.url)('draco3dgltf') as {
    createEncoderModule(options: object): Promise<DracoEncoderModule>;
  };
  const draco = await createEncoderModule({});
  const all = new Set(asset.meshes.flatMap(({ primitives }) => primitives.map(({ geometry }) => geometry)));
  const out = new Map<Geometry, PackedGeometry>();
  for (const geometry of all) {
    const packed = await packGeometry(draco, geometry);
    if (packed) out.set(geometry, packed);
  }
  return out;
}

async function packGeometry(
  draco: DracoEncoderModule,
  { attributes, indices, mode = 'triangles', targets }: Geometry,
): Promise<PackedGeometry | undefined> {
  const position = attributes['position'];
  if (
    mode !== 'triangles' ||
    targets ||
    !position ||
    Object.keys(attributes).some((name) => /^joints/.test(name))
  )
    return undefined;
  const { count } = position;
  const corners = indices ? Uint32Array.from(indices) : Uint32Array.from({ length: count }, (_, i) => i);
  if (corners.length < 3 || corners.length % 3 !== 0) return undefined;
  const builder = new draco[BUILDER]();
  const mesh = new draco.Mesh();
  const encoder = new draco.Encoder();
  const buffer = new draco.DracoInt8Array();
  try {
    builder['AddFacesToMesh']!(mesh, corners.length / 3, corners); // the package has these
    const ids: Record<string, number> = {};
    for (const [name, attribute] of Object.entries(attributes)) {
      const [, add] = ARRAYS[attribute.componentType];
      ids[name] = builder[add]!(mesh, draco[kindOf(name)], count, attribute.components, tight(attribute));
    }
    encoder.SetEncodingMethod(draco.MESH_EDGEBREAKER_ENCODING);
    encoder.SetSpeedOptions(3, 5);
    for (const [kind, bits] of Object.entries(BITS))
      encoder.SetAttributeQuantization(draco[kind as keyof typeof BITS], bits);
    const length = encoder.EncodeMeshToDracoBuffer(mesh, buffer);
    const plain = Object.values(attributes).reduce((sum, { byteStride }) => sum + byteStride * count, 0);
    if (length === 0 || length >= plain + (indices?.byteLength ?? 0)) return undefined;
    const bytes = Uint8Array.from({ length }, (_, i) => buffer.GetValue(i));
    return { bytes, ids, unpacked: await unpacked(bytes, ids, attributes) };
  } finally {
    for (const one of [builder, mesh, encoder, buffer]) draco.destroy(one);
  }
}

const kindOf = (name: string): keyof typeof BITS =>
  name === 'position'
    ? 'POSITION'
    : name === 'normal'
      ? 'NORMAL'
      : name.startsWith('texcoord')
        ? 'TEX_COORD'
        : name.startsWith('color')
          ? 'COLOR'
          : 'GENERIC';

/** Its numbers, one vertex after the other. */
function tight({ byteOffset, bytes, byteStride, componentType, components, count }: Attribute): object {
  const [Numbers] = ARRAYS[componentType];
  const size = components * Numbers.BYTES_PER_ELEMENT;
  const out = new Uint8Array(count * size);
  for (let i = 0; i < count; i++) {
    const from = byteOffset + i * byteStride;
    out.set(bytes.subarray(from, from + size), i * size);
  }
  return new Numbers(out.buffer);
}

/** What comes out again: vertices in another order, numbers in their steps. */
async function unpacked(
  bytes: Uint8Array,
  ids: Record<string, number>,
  given: Geometry['attributes'],
): Promise<Geometry> {
  const names = Object.keys(ids);
  const wanted = names.map((name) => ({ id: ids[name]!, componentType: given[name]!.componentType })); // its own names
  const mesh = await unpackDraco(bytes, wanted);
  const attributes = Object.fromEntries(
    names.map((name, i) => {
      const { componentType, normalized } = given[name]!; // its own names
      const { bytes: values, components } = mesh.attributes[i]!; // as many as were asked for
      const byteStride = mesh.vertices === 0 ? 0 : values.length / mesh.vertices;
      const attribute: Attribute = {
        bytes: values,
        componentType,
        components: components as Attribute['components'],
        normalized,
        byteOffset: 0,
        byteStride,
        count: mesh.vertices,
      };
      return [name, attribute];
    }),
  );
  const indices = mesh.vertices < 65536 ? Uint16Array.from(mesh.indices) : mesh.indices;
  return { attributes, indices, bounds: attributeBounds(attributes['position']!) }; // it has one
}
