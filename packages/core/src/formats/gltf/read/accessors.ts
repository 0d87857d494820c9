import type { Attribute, ComponentType } from '../../../geometry/geometry.js';
import { COMPONENT_BYTES } from '../../../geometry/geometry.js';
import type { Bounds } from '../../../math/bounds.js';
import type { Cursor } from './cursor.js';
import { unpackView } from './compressed-views.js';
import { readUri } from './uri.js';

/** Gives the bytes of a file that a model names, its path percent-decoded and relative to the model. */
export type Resolve = (path: string) => Promise<Uint8Array>;

/** Buffers, views and accessors of a document, checked where they lie and read when asked for. */
export interface Accessors {
  /** The accessor that an index-valued place names, as a view of the file's bytes wherever possible. */
  read(at: Cursor): AccessorData;
  /** The bytes of a buffer view, for images. */
  view(at: Cursor): Uint8Array;
  /** What an accessor says of itself; its numbers are not there yet. */
  head(at: Cursor): AccessorData;
  /** Puts numbers in the place of an accessor's own: whoever asks for it is given these. */
  put(at: Cursor, data: AccessorData): void;
  /** How many accessors nothing asked for. */
  unusedCount(): number;
}

export interface AccessorData {
  /** Where the accessor stands in the document. */
  place: Cursor;
  componentType: ComponentType;
  /** `SCALAR`, `VEC2` ... `MAT4`. */
  type: AccessorType;
  /** Components of one element: 1 to 16. */
  components: number;
  normalized: boolean;
  count: number;
  /** Bytes of the view (shared by interleaved accessors), or of a copy for sparse ones. */
  bytes: Uint8Array;
  byteOffset: number;
  byteStride: number;
  min?: number[];
  max?: number[];
  /** Whether packing may have moved its numbers a little: its file's bounds are those from before. */
  isRounded?: boolean;
  /** Whether every number has been looked at. */
  isChecked?: boolean;
}

export type AccessorType = 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4' | 'MAT2' | 'MAT3' | 'MAT4';

const TYPES: Record<AccessorType, { components: number; columns: number }> = {
  SCALAR: { components: 1, columns: 1 },
  VEC2: { components: 2, columns: 1 },
  VEC3: { components: 3, columns: 1 },
  VEC4: { components: 4, columns: 1 },
  MAT2: { components: 4, columns: 2 },
  MAT3: { components: 9, columns: 3 },
  MAT4: { components: 16, columns: 4 },
};

const COMPONENT_TYPES: Record<number, ComponentType> = {
  5120: 'i8',
  5121: 'u8',
  5122: 'i16',
  5123: 'u16',
  5125: 'u32',
  5126: 'f32',
};

/** An accessor without a view is all zeros, so its size is bounded by this alone: 128 MiB. */
const MOST_ZERO_BYTES = 1 << 27;

/** Loads the buffers (in the order of the file) and prepares the rest. */
export async function openAccessors(
  root: Cursor,
  binary: Uint8Array | undefined,
  resolve: Resolve,
  allowOutside: boolean,
): Promise<Accessors> {
  const buffers: (Uint8Array | undefined)[] = [];
  for (const [i, at] of root.list('buffers').entries()) {
    buffers.push(await loadBuffer(at.object(), i === 0 ? binary : undefined, resolve, allowOutside));
  }
  const viewPlaces = root.list('bufferViews');
  const unpacked = await Promise.all(viewPlaces.map((at) => unpackView(at.object(), buffers)));
  const views = viewPlaces.map((at, i) => readView(at, buffers, unpacked[i]));
  const places = root.list('accessors');
  const cache = new Map<number, AccessorData>();
  return {
    read(at) {
      const place = at.pick(places, 'accessor').object();
      const index = at.asWhole();
      let data = cache.get(index);
      if (!data) {
        data = readAccessor(place, views);
        cache.set(index, data);
      }
      return data;
    },
    view: (at) => at.pick(views, 'buffer view').bytes(at),
    head: (at) => readHead(at.pick(places, 'accessor').object()),
    put: (at, data) => void cache.set(at.asWhole(), data),
    unusedCount: () => places.length - cache.size,
  };
}

async function loadBuffer(
  at: Cursor,
  binary: Uint8Array | undefined,
  resolve: Resolve,
  allowOutside: boolean,
): Promise<Uint8Array | undefined> {
  const byteLength = at.need('byteLength').asWhole(1);
  const uri = at.text('uri');
  let bytes: Uint8Array | undefined;
  if (uri === undefined) bytes = binary;
  else {
    const target = readUri(uri, at.need('uri').where, allowOutside);
    bytes = target.kind === 'data' ? target.bytes : await resolve(target.path);
  }
  if (!bytes) {
    // Extensions may leave a buffer without bytes; whoever uses it is told.
    return undefined;
  }
  if (bytes.length < byteLength) {
    at.fail(
      'buffer-short',
      `the buffer should have ${byteLength} bytes but has ${bytes.length}`,
      'The file was cut short, or byteLength is wrong.',
    );
  }
  // Typed arrays need their natural alignment in memory: one copy here saves one an accessor.
  return bytes.byteOffset % 4 === 0 ? bytes.subarray(0, byteLength) : bytes.slice(0, byteLength);
}

interface View {
  bytes(asker: Cursor): Uint8Array;
  byteOffset: number;
  byteLength: number;
  byteStride: number | undefined;
  place: Cursor;
}

/** @param unpacked what it holds, where it is compressed: its buffer need not be there then */
function readView(
  place: Cursor,
  buffers: readonly (Uint8Array | undefined)[],
  unpacked: Uint8Array | undefined,
): View {
  const buffer = place.need('buffer').pick(buffers, 'buffer');
  const byteOffset = place.whole('byteOffset') ?? 0;
  const byteLength = place.need('byteLength').asWhole(1);
  const byteStride = place.whole('byteStride', 4, 252);
  if (byteStride !== undefined && byteStride % 4 !== 0) {
    place.need('byteStride').fail('alignment', `a byte stride of ${byteStride} is not a multiple of 4`);
  }
  if (!unpacked && buffer && byteOffset + byteLength > buffer.length) {
    place.fail(
      'view-out-of-bounds',
      `the view ends at byte ${byteOffset + byteLength} of a buffer of ${buffer.length} bytes`,
    );
  }
  const region = unpacked ?? buffer?.subarray(byteOffset, byteOffset + byteLength);
  return {
    bytes: (asker) =>
      region ?? asker.fail('no-bytes', 'the buffer it lies in has no bytes: neither a URI nor a GLB chunk'),
    byteOffset,
    byteLength,
    byteStride,
    place,
  };
}

/** What an accessor says of itself. Its bytes are missing, and it is as tight as it can be. */
function readHead(place: Cursor): AccessorData & { elementBytes: number } {
  const code = place.need('componentType').asWhole();
  const componentType =
    COMPONENT_TYPES[code] ??
    place
      .need('componentType')
      .fail(
        'choice',
        `component type ${code} does not exist`,
        `Allowed is ${Object.keys(COMPONENT_TYPES).join(', ')}.`,
      );
  place.need('type');
  const type = place.choice('type', Object.keys(TYPES) as AccessorType[])!; // needed just above
  const count = place.need('count').asWhole(1);
  const { components, columns } = TYPES[type];
  const size = COMPONENT_BYTES[componentType];
  // Columns of matrices start at multiples of four bytes (3.6.2.4).
  const elementBytes =
    columns > 1
      ? (columns - 1) * align4((components / columns) * size) + (components / columns) * size
      : components * size;
  const normalized = place.flag('normalized') ?? false;
  const isFine = !normalized || (componentType !== 'f32' && componentType !== 'u32');
  if (!isFine)
    place.warn('normalized', `"normalized" has no meaning for component type ${code} and is ignored`);
  const minimum = place.numbers('min', components);
  const maximum = place.numbers('max', components);
  return {
    place,
    componentType,
    type,
    components,
    normalized: normalized && isFine,
    count,
    bytes: NO_BYTES,
    byteOffset: 0,
    byteStride: columns > 1 ? align4(elementBytes) : elementBytes,
    elementBytes,
    ...(minimum ? { min: minimum } : {}),
    ...(maximum ? { max: maximum } : {}),
  };
}

const NO_BYTES = new Uint8Array(0);

function readAccessor(place: Cursor, views: readonly View[]): AccessorData {
  const { elementBytes, ...data } = readHead(place);
  const { componentType, count } = data;
  const size = COMPONENT_BYTES[componentType];
  const byteOffset = place.whole('byteOffset') ?? 0;
  const viewAt = place.get('bufferView');
  if (viewAt) {
    const view = viewAt.pick(views, 'buffer view');
    const byteStride = (data.byteStride = view.byteStride ?? data.byteStride);
    if (byteStride < elementBytes) {
      view.place.fail(
        'stride',
        `a byte stride of ${byteStride} makes elements of ${elementBytes} bytes overlap`,
      );
    }
    if ((view.byteOffset + byteOffset) % size !== 0 || byteStride % size !== 0) {
      place.fail(
        'alignment',
        `the accessor starts at byte ${view.byteOffset + byteOffset} of the buffer, which is not a multiple of its component's ${size} bytes`,
      );
    }
    const end = byteOffset + (count - 1) * byteStride + elementBytes;
    if (end > view.byteLength) {
      place.fail(
        'accessor-out-of-bounds',
        `the accessor ends at byte ${end} of a buffer view of ${view.byteLength} bytes`,
        `${count} elements with a stride of ${byteStride} bytes do not fit.`,
      );
    }
    data.bytes = view.bytes(viewAt);
    data.byteOffset = byteOffset;
  } else {
    if (count * data.byteStride > MOST_ZERO_BYTES) {
      place.fail(
        'too-large',
        `${count} elements without a buffer view would take ${count * data.byteStride} bytes of zeros`,
      );
    }
    data.bytes = new Uint8Array(count * data.byteStride);
  }
  const sparse = place.get('sparse');
  return sparse ? applySparse(data, sparse.object(), views, elementBytes) : data;
}

/** Copies the accessor and writes the sparse values over it (3.6.2.3). */
function applySparse(
  base: AccessorData,
  at: Cursor,
  views: readonly View[],
  elementBytes: number,
): AccessorData {
  const count = at.need('count').asWhole(1, base.count);
  const indicesAt = at.need('indices').object();
  const valuesAt = at.need('values').object();
  const indexCode =
    indicesAt.choice('componentType', [5121, 5123, 5125]) ?? indicesAt.need('componentType').asWhole();
  const indexSize = COMPONENT_BYTES[COMPONENT_TYPES[indexCode]!]; // one of three by the check
  const part = (place: Cursor, bytes: number, alignment: number): [Uint8Array, number] => {
    const viewAt = place.need('bufferView');
    const view = viewAt.pick(views, 'buffer view');
    const offset = place.whole('byteOffset') ?? 0;
    if (offset + bytes > view.byteLength) {
      place.fail(
        'accessor-out-of-bounds',
        `sparse data ends at byte ${offset + bytes} of a view of ${view.byteLength} bytes`,
      );
    }
    if ((view.byteOffset + offset) % alignment !== 0) {
      place.fail('alignment', `sparse data does not start at a multiple of ${alignment} bytes`);
    }
    return [view.bytes(viewAt), offset];
  };
  const [indexBytes, indexOffset] = part(indicesAt, count * indexSize, indexSize);
  const [valueBytes, valueOffset] = part(valuesAt, count * elementBytes, COMPONENT_BYTES[base.componentType]);
  const bytes = new Uint8Array(base.count * base.byteStride);
  for (let i = 0; i < base.count; i++) {
    const from = base.byteOffset + i * base.byteStride;
    bytes.set(base.bytes.subarray(from, from + elementBytes), i * base.byteStride);
  }
  const view = new DataView(indexBytes.buffer, indexBytes.byteOffset, indexBytes.byteLength);
  let last = -1;
  for (let i = 0; i < count; i++) {
    const o = indexOffset + i * indexSize;
    const index =
      indexSize === 1
        ? view.getUint8(o)
        : indexSize === 2
          ? view.getUint16(o, true)
          : view.getUint32(o, true);
    if (index <= last || index >= base.count) {
      indicesAt.fail(
        'sparse-index',
        `sparse index ${i} is ${index}`,
        `Sparse indices grow and stay below the accessor's count of ${base.count}.`,
      );
    }
    last = index;
    const from = valueOffset + i * elementBytes;
    bytes.set(valueBytes.subarray(from, from + elementBytes), index * base.byteStride);
  }
  return { ...base, bytes, byteOffset: 0 };
}

/** The accessor as flat numbers: a view where they lie so already, else a copy. Integers are scaled when normalised. */
export function accessorFloats(data: AccessorData): Float32Array {
  const { bytes, byteOffset, byteStride, count, components, componentType } = data;
  const start = bytes.byteOffset + byteOffset;
  if (componentType === 'f32' && byteStride === components * 4) {
    return new Float32Array(bytes.buffer, start, count * components);
  }
  const view = new DataView(bytes.buffer, start, bytes.byteLength - byteOffset);
  const size = COMPONENT_BYTES[componentType];
  const columns = TYPES[data.type].columns;
  const rows = components / columns;
  const columnBytes = columns > 1 ? align4(rows * size) : rows * size;
  const get = READERS[componentType];
  const out = new Float32Array(count * components);
  for (let i = 0, o = 0; i < count; i++) {
    for (let c = 0; c < columns; c++) {
      for (let r = 0; r < rows; r++) {
        const value = get.read(view, i * byteStride + c * columnBytes + r * size);
        out[o++] = data.normalized ? Math.max(value / get.most, -1) : value;
      }
    }
  }
  return out;
}

const READERS: Record<ComponentType, { read: (view: DataView, at: number) => number; most: number }> = {
  i8: { read: (view, at) => view.getInt8(at), most: 127 },
  u8: { read: (view, at) => view.getUint8(at), most: 255 },
  i16: { read: (view, at) => view.getInt16(at, true), most: 32767 },
  u16: { read: (view, at) => view.getUint16(at, true), most: 65535 },
  u32: { read: (view, at) => view.getUint32(at, true), most: 4294967295 },
  f32: { read: (view, at) => view.getFloat32(at, true), most: 1 },
};

/**
 * The accessor as a vertex attribute, every float looked at once.
 *
 * @throws LensError `gltf/not-finite` naming the element
 */
export function accessorAttribute(data: AccessorData): Attribute {
  if (data.componentType === 'f32' && !data.isChecked) checkFloats(data);
  const { componentType, normalized, count } = data;
  const components = data.components as 1 | 2 | 3 | 4; // matrices are refused by the caller
  if (data.byteStride % 4 === 0 && data.byteOffset % 4 === 0) {
    const { bytes, byteOffset, byteStride } = data;
    return { bytes, componentType, components, normalized, byteOffset, byteStride, count };
  }
  // GPUs fetch at multiples of four bytes; the specification asks files to comply (3.6.2.4), as far as they have views.
  if (data.place.get('bufferView'))
    data.place.warn('alignment', 'vertices do not start at multiples of 4 bytes; they were repacked');
  const elementBytes = components * COMPONENT_BYTES[componentType];
  const byteStride = align4(elementBytes);
  const bytes = new Uint8Array(count * byteStride);
  for (let i = 0; i < count; i++) {
    const from = data.byteOffset + i * data.byteStride;
    bytes.set(data.bytes.subarray(from, from + elementBytes), i * byteStride);
  }
  return { bytes, componentType, components, normalized, byteOffset: 0, byteStride, count };
}

/**
 * Looks at every number: finite or an error.
 *
 * A sum of f32 in f64 cannot overflow here (3.4e38 times 2^32 elements is below 1.8e308) and is NaN
 * or infinite as soon as one number is, so one addition a number finds any of them.
 */
function checkFloats(data: AccessorData): void {
  const { byteStride, components } = data;
  const values = floatsOf(data);
  const step = byteStride / 4;
  let sum = 0;
  if (step === components) {
    sum = sumOf(values);
  } else {
    for (let i = 0; i < values.length; i += step) {
      for (let k = 0; k < components; k++) sum += values[i + k]!; // in range by length
    }
  }
  if (!Number.isFinite(sum)) failAtFirst(data, values, step);
  data.isChecked = true;
}

/** From the first number of an f32 accessor to its last, those between elements included. */
function floatsOf({ bytes, byteOffset, byteStride, count, components }: AccessorData): Float32Array {
  return new Float32Array(
    bytes.buffer,
    bytes.byteOffset + byteOffset,
    ((count - 1) * byteStride) / 4 + components,
  );
}

/** Four sums side by side: additions of one sum would each wait for the last. */
function sumOf(values: Float32Array): number {
  let [a, b, c, d] = [0, 0, 0, 0];
  const whole = values.length & ~3;
  for (let i = 0; i < whole; i += 4) {
    a += values[i]!; // i + 3 < length
    b += values[i + 1]!;
    c += values[i + 2]!;
    d += values[i + 3]!;
  }
  for (let i = whole; i < values.length; i++) a += values[i]!;
  return a + b + c + d;
}

/** Box of an f32 accessor of three components. */
export function accessorBounds(data: AccessorData): Bounds {
  const values = floatsOf(data);
  const step = data.byteStride / 4;
  let x0 = Infinity;
  let y0 = Infinity;
  let z0 = Infinity;
  let x1 = -Infinity;
  let y1 = -Infinity;
  let z1 = -Infinity;
  for (let i = 0; i + 2 < values.length; i += step) {
    const x = values[i]!; // in range by the condition
    const y = values[i + 1]!;
    const z = values[i + 2]!;
    if (x < x0) x0 = x;
    if (x > x1) x1 = x;
    if (y < y0) y0 = y;
    if (y > y1) y1 = y;
    if (z < z0) z0 = z;
    if (z > z1) z1 = z;
  }
  return { min: [x0, y0, z0], max: [x1, y1, z1] };
}

function failAtFirst(data: AccessorData, values: Float32Array, step: number): void {
  for (let i = 0; i < data.count; i++) {
    for (let k = 0; k < data.components; k++) {
      const value = values[i * step + k]!;
      if (!Number.isFinite(value)) {
        data.place.fail(
          'not-finite',
          `element ${i}, component ${k} is ${value}`,
          'Every number in a model must be finite.',
        );
      }
    }
  }
  // Finite numbers whose sum overflows are no fault.
}

const align4 = (n: number): number => (n + 3) & ~3;
