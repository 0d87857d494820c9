import type { ComponentType } from '../../geometry/geometry.js';

/** An attribute that is asked for: its number in the packed mesh, and as what its values are wanted. */
export interface DracoWanted {
  id: number;
  componentType: ComponentType;
}

/** A mesh that was packed by Draco. */
export interface DracoMesh {
  vertices: number;
  /** Three a triangle. */
  indices: Uint32Array;
  /** As they were asked for, tightly one vertex after the other. */
  attributes: { components: number; bytes: Uint8Array }[];
}

/** What is used of the package draco3dgltf. */
interface DracoModule {
  readonly HEAPU8: Uint8Array;
  readonly TRIANGULAR_MESH: number;
  Decoder: new () => DracoDecoder;
  DecoderBuffer: new () => { Init(bytes: Uint8Array, length: number): void };
  Mesh: new () => DracoDecoded;
  _malloc(bytes: number): number;
  _free(address: number): void;
  destroy(one: object): void;
}
interface DracoDecoded {
  readonly ptr: number;
  num_points(): number;
  num_faces(): number;
}
interface DracoDecoder {
  GetEncodedGeometryType(buffer: object): number;
  DecodeBufferToMesh(buffer: object, mesh: DracoDecoded): { ok(): boolean; error_msg(): string };
  GetAttributeByUniqueId(mesh: DracoDecoded, id: number): { readonly ptr: number; num_components(): number };
  GetAttributeDataArrayForAllPoints(
    mesh: DracoDecoded,
    attribute: object,
    type: number,
    bytes: number,
    address: number,
  ): boolean;
  GetTrianglesUInt32Array(mesh: DracoDecoded, bytes: number, address: number): boolean;
}

/** Draco's number of a type, and its bytes. */
const TYPES: Record<ComponentType, readonly [number: number, bytes: number]> = {
  i8: [1, 1],
  u8: [2, 1],
  i16: [3, 2],
  u16: [4, 2],
  u32: [6, 4],
  f32: [9, 4],
};

let opened: Promise<DracoModule> | undefined;

/** The decoder, loaded when a file first asks for it. */
function open(): Promise<DracoModule> {
  return (opened ??= import('./draco-module.js').then(({ openDraco }) =>
    (openDraco as () => Promise<DracoModule>)(),
  ));
}

/**
 * Unpacks a mesh, by the package draco3dgltf.
 *
 * @param most vertices that are expected; more are refused before memory is asked for
 * @throws Error saying what is wrong
 */
export async function decodeDraco(
  bytes: Uint8Array,
  wanted: readonly DracoWanted[],
  most: number,
): Promise<DracoMesh> {
  const draco = await open();
  const made: object[] = [];
  const keep = <T extends object>(one: T): T => {
    made.push(one);
    return one;
  };
  try {
    const decoder = keep(new draco.Decoder());
    const buffer = keep(new draco.DecoderBuffer());
    buffer.Init(bytes, bytes.length);
    if (decoder.GetEncodedGeometryType(buffer) !== draco.TRIANGULAR_MESH)
      throw new Error('it is no mesh of triangles');
    const mesh = keep(new draco.Mesh());
    const status = decoder.DecodeBufferToMesh(buffer, mesh);
    if (!status.ok() || mesh.ptr === 0) throw new Error(status.error_msg() || 'it cannot be decoded');
    const vertices = mesh.num_points();
    if (vertices > most) throw new Error(`it has ${vertices} vertices, and ${most} were announced`);
    const copied = (size: number, read: (address: number) => boolean): Uint8Array<ArrayBuffer> => {
      const address = draco._malloc(Math.max(1, size));
      try {
        if (!read(address)) throw new Error('its values cannot be read');
        return draco.HEAPU8.slice(address, address + size) as Uint8Array<ArrayBuffer>;
      } finally {
        draco._free(address);
      }
    };
    const attributes = wanted.map(({ id, componentType }) => {
      const attribute = decoder.GetAttributeByUniqueId(mesh, id);
      if (attribute.ptr === 0) throw new Error(`it has no attribute ${id}`);
      const [type, size] = TYPES[componentType];
      const components = attribute.num_components();
      const length = vertices * components * size;
      return {
        components,
        bytes: copied(length, (address) =>
          decoder.GetAttributeDataArrayForAllPoints(mesh, attribute, type, length, address),
        ),
      };
    });
    const length = mesh.num_faces() * 12;
    const indices = copied(length, (address) => decoder.GetTrianglesUInt32Array(mesh, length, address));
    return { vertices, indices: new Uint32Array(indices.buffer), attributes };
  } catch (cause) {
    // What went wrong inside may have left it in disorder.
    if (cause instanceof WebAssembly.RuntimeError) opened = undefined;
    throw cause;
  } finally {
    for (const one of made) draco.destroy(one);
  }
}
declare const WebAssembly: { RuntimeError: new () => Error };
