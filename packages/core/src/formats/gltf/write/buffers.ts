import type { Attribute, Indices } from '../../../geometry/geometry.js';
import { type PackMode, PackedViews, type ViewPacker } from './packed-views.js';
import { asWhole, rawBounds, sparseOf, type SparseValues } from './attributes.js';
import { clean, type Json } from './json.js';

export const COMPONENT_CODE = { i8: 5120, u8: 5121, i16: 5122, u16: 5123, u32: 5125, f32: 5126 } as const;
/** Whole numbers by their bytes. */
export const UNSIGNED_CODE = { 1: 5121, 2: 5123, 4: 5125 } as const;
const ARRAY_BUFFER = 34962;
const ELEMENT_ARRAY_BUFFER = 34963;

/** glTF's name of so many components, and how many they are. */
export const typeOf = (components: number): readonly [string, number] => [
  components === 1 ? 'SCALAR' : `VEC${components}`,
  components,
];

/** The bytes of a file that is written, with the views and accessors that say what they are. Shared bytes are put once. */
export class WrittenBuffers {
  readonly views: Json[] = [];
  readonly accessors: Json[] = [];
  private readonly chunks: Uint8Array[] = [];
  private byteCount = 0;
  /** Where bytes that are shared have been put. */
  private readonly placed = new Map<Uint8Array, number>();
  /** By shared bytes and stride. */
  private readonly viewsOf = new Map<Uint8Array, Map<number, number>>();
  private readonly attributeOf = new Map<Attribute, number>();
  private readonly targetAttributeOf = new Map<Attribute, number>();
  private readonly indicesOf = new Map<object, number>();
  /** Views that are packed when all is known, and what of the buffer without bytes they stand for. */
  readonly packed: PackedViews | undefined;

  /** @param uses is told which extensions are used */
  constructor(
    packer: ViewPacker | undefined,
    private readonly uses: (extension: string) => string,
  ) {
    this.packed = packer && new PackedViews(packer);
  }

  /** The file's buffers: its bytes, and those that packed views stand for, which nobody has. */
  buffers(uri: string | undefined, byteLength: number): Json[] | undefined {
    const { packed } = this;
    if (byteLength === 0) return undefined;
    return [clean({ uri, byteLength }), ...(packed?.used ? [packed.fallback()] : [])];
  }

  binary(): Uint8Array {
    const out = new Uint8Array(this.byteCount);
    let at = 0;
    for (const chunk of this.chunks) {
      out.set(chunk, at);
      at += (chunk.length + 3) & ~3;
    }
    return out;
  }

  /** @param maySparse whether zeros may be left out: readers may ask more of attributes that are drawn as they are */
  attribute(given: Attribute, withBounds: boolean, name: string, maySparse = false): number {
    const known = maySparse ? this.targetAttributeOf : this.attributeOf;
    const found = known.get(given);
    if (found !== undefined) return found;
    const attribute = name.startsWith('joints') ? asWhole(given) : given;
    const { bytes, componentType, components, normalized, byteOffset, byteStride, count } = attribute;
    if (componentType !== 'f32' && ['position', 'normal', 'tangent'].includes(name))
      this.uses('KHR_mesh_quantization');
    const sparse = maySparse ? sparseOf(attribute) : undefined;
    const accessor = clean({
      ...(sparse
        ? { sparse: this.sparse(sparse) }
        : { bufferView: this.view(bytes, byteStride), byteOffset: byteOffset || undefined }),
      componentType: COMPONENT_CODE[componentType],
      normalized: normalized || undefined,
      count,
      type: components === 1 ? 'SCALAR' : `VEC${components}`,
      ...(withBounds ? rawBounds(attribute) : {}),
    });
    const index = this.accessors.push(accessor) - 1;
    known.set(given, index);
    return index;
  }

  /** What is not zero; nothing where all is, as accessors without bytes are by themselves. */
  private sparse({ indices, values }: SparseValues): Json | undefined {
    if (indices.length === 0) return undefined;
    const viewOf = (bytes: Uint8Array): number => this.addView(this.add(bytes), bytes.length, {});
    return {
      count: indices.length,
      indices: {
        bufferView: viewOf(new Uint8Array(indices.buffer)),
        componentType: UNSIGNED_CODE[indices.BYTES_PER_ELEMENT as 1 | 2 | 4],
      },
      values: { bufferView: viewOf(values) },
    };
  }

  indices(indices: Uint8Array | Uint16Array | Uint32Array): number {
    const found = this.indicesOf.get(indices);
    if (found !== undefined) return found;
    const bytes = new Uint8Array(indices.buffer, indices.byteOffset, indices.byteLength);
    const index =
      this.accessors.push({
        bufferView: this.indexView(indices, bytes),
        componentType: UNSIGNED_CODE[indices.BYTES_PER_ELEMENT as 1 | 2 | 4],
        count: indices.length,
        type: 'SCALAR',
      }) - 1;
    this.indicesOf.set(indices, index);
    return index;
  }

  private indexView(indices: Indices, bytes: Uint8Array): number {
    const more = { target: ELEMENT_ARRAY_BUFFER };
    const size = indices.BYTES_PER_ELEMENT;
    const mode = indices.length % 3 === 0 ? 'TRIANGLES' : 'INDICES';
    return (
      this.packView(bytes, indices.length, size, mode, more) ??
      this.addView(this.add(bytes), bytes.length, more)
    );
  }

  /** A packed view, where views are packed and that makes it smaller. */
  private packView(
    bytes: Uint8Array,
    count: number,
    stride: number,
    mode: PackMode,
    more: Json,
  ): number | undefined {
    const view = this.packed?.pack(bytes, count, stride, mode, (packed) => this.add(packed));
    return view && this.views.push(clean({ ...view, ...more })) - 1;
  }

  /** Plain numbers, for skins and animations. */
  numbers(values: Float32Array, type: string, components: number, withBounds = false): number {
    const bytes = new Uint8Array(values.buffer, values.byteOffset, values.byteLength);
    const count = values.length / components;
    const packed = this.packView(bytes, count, components * 4, 'ATTRIBUTES', {});
    const accessor: Json = {
      bufferView: packed ?? this.addView(this.add(bytes), bytes.length, {}),
      componentType: COMPONENT_CODE.f32,
      count,
      type,
    };
    if (withBounds) Object.assign(accessor, { min: [values[0]], max: [values.at(-1)] });
    return this.accessors.push(accessor) - 1;
  }

  /** Yes and no, a byte each. */
  flags(values: Float32Array): number {
    const bytes = Uint8Array.from(values, (value) => (value >= 0.5 ? 1 : 0));
    return (
      this.accessors.push({
        bufferView: this.addView(this.add(bytes), bytes.length, {}),
        componentType: COMPONENT_CODE.u8,
        count: bytes.length,
        type: 'SCALAR',
      }) - 1
    );
  }

  /** A view of shared vertex bytes; one for each stride they are read with. */
  private view(bytes: Uint8Array, byteStride: number): number {
    let views = this.viewsOf.get(bytes);
    if (!views) this.viewsOf.set(bytes, (views = new Map<number, number>()));
    let view = views.get(byteStride);
    if (view === undefined) {
      const more = { byteStride, target: ARRAY_BUFFER };
      const count = bytes.length / byteStride;
      view =
        (Number.isInteger(count) ? this.packView(bytes, count, byteStride, 'ATTRIBUTES', more) : undefined) ??
        this.addView(this.add(bytes), bytes.length, more);
      views.set(byteStride, view);
    }
    return view;
  }

  private addView(byteOffset: number, byteLength: number, rest: Json): number {
    return (
      this.views.push(clean({ buffer: 0, byteOffset: byteOffset || undefined, byteLength, ...rest })) - 1
    );
  }

  private add(bytes: Uint8Array): number {
    let offset = this.placed.get(bytes);
    if (offset === undefined) {
      offset = this.byteCount;
      this.placed.set(bytes, offset);
      this.chunks.push(bytes);
      this.byteCount += (bytes.length + 3) & ~3;
    }
    return offset;
  }

  /** An accessor of an attribute whose numbers lie packed elsewhere. */
  packedAttribute(attribute: Attribute, withBounds: boolean): number {
    const { componentType, components, count, normalized } = attribute;
    const [type] = typeOf(components);
    return (
      this.accessors.push(
        clean({
          componentType: COMPONENT_CODE[componentType],
          normalized: normalized || undefined,
          count,
          type,
          ...(withBounds ? rawBounds(attribute) : {}),
        }),
      ) - 1
    );
  }

  /** One of indices whose numbers lie packed elsewhere. */
  packedIndices(indices: Indices): number {
    const componentType = UNSIGNED_CODE[indices.BYTES_PER_ELEMENT as 1 | 2 | 4];
    return this.accessors.push({ componentType, count: indices.length, type: 'SCALAR' }) - 1;
  }

  /** A view of bytes that mean something to whoever put them there. */
  bytesView(bytes: Uint8Array): number {
    return this.addView(this.add(bytes), bytes.length, {});
  }
}
