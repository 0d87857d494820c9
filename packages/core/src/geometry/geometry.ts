import { watchIndices } from '#watch';
import { LensError } from '../errors/lens-error.js';
import { type Bounds, emptyBounds, growBounds } from '../math/bounds.js';

export type ComponentType = 'i8' | 'u8' | 'i16' | 'u16' | 'u32' | 'f32';

/** Bytes of one component. */
export const COMPONENT_BYTES: Record<ComponentType, number> = {
  i8: 1,
  u8: 1,
  i16: 2,
  u16: 2,
  u32: 4,
  f32: 4,
};

/**
 * One vertex attribute, described where it lies: nothing is unpacked. Interleaved attributes share
 * one `bytes` object, which becomes one GPU buffer.
 */
export interface Attribute {
  /** The region that holds the values, perhaps with those of other attributes between them. */
  bytes: Uint8Array;
  componentType: ComponentType;
  /** Components of one value: 1 to 4 (matrices take several attributes). */
  components: 1 | 2 | 3 | 4;
  /** Integers stand for -1..1 (signed) or 0..1 (unsigned). */
  normalized: boolean;
  /** Offset of the first value in `bytes`, a multiple of the component's size. */
  byteOffset: number;
  /** Bytes from one value to the next. */
  byteStride: number;
  /** How many values. */
  count: number;
}

export type PrimitiveMode =
  'points' | 'lines' | 'line-loop' | 'line-strip' | 'triangles' | 'triangle-strip' | 'triangle-fan';

export type Indices = Uint8Array | Uint16Array | Uint32Array;

/** Displacements of one morph target, by attribute: `position`, `normal`, `tangent` and others. */
export interface MorphTarget {
  name?: string;
  attributes: Record<string, Attribute>;
}

/**
 * Vertices and how they are joined.
 *
 * Attribute names are glTF's semantics in camelCase: `position` (metres), `normal` (unit),
 * `tangent` (unit xyz, w = handedness), `texcoord0`, `texcoord1` (0,0 is the picture's upper left),
 * `color0` (linear), `joints0`, `weights0`; any other name is an attribute of the user's.
 */
export interface Geometry {
  name?: string;
  attributes: Record<string, Attribute>;
  indices?: Indices;
  /** Default `triangles`. */
  mode?: PrimitiveMode;
  /** Box of `position`, morph targets not included. */
  bounds: Bounds;
  targets?: MorphTarget[];
  /** What places its vertices besides the transform of a node; left out: nothing. */
  placement?: Placement;
  /** Raised by `geometryChanged`. */
  version?: number;
  /** Raised with it where the box is another. */
  boundsVersion?: number;
}

/**
 * What places the vertices of geometries besides the transform of a node, by kind. Whoever brings a kind adds it here, with
 * a `kind` of that name (declaration merging).
 */
// eslint-disable-next-line @typescript-eslint/no-empty-object-type -- for whoever brings a kind
export interface Placements {}

export type Placement = Placements[keyof Placements] & {
  /** Of what grows: another number where the geometry's bounds are others. */
  readonly boundsVersion?: number;
};

export type PlacedBy = 'node' | keyof Placements;

/** What places a geometry. */
export const placedBy = ({ placement }: Geometry): PlacedBy => placement?.kind ?? 'node';

/** What `geometryFrom` takes: flat arrays, vertex after vertex. */
export interface GeometryArrays {
  /** 3 a vertex, metres. */
  position: ArrayLike<number>;
  /** 3 a vertex, unit length. */
  normal?: ArrayLike<number>;
  /** 4 a vertex: unit xyz and handedness w, +1 or -1. */
  tangent?: ArrayLike<number>;
  /** 2 a vertex. */
  texcoord0?: ArrayLike<number>;
  texcoord1?: ArrayLike<number>;
  /** 4 a vertex, linear. */
  color0?: ArrayLike<number>;
  /** Attributes of the user's own: components a vertex follow from the length. */
  [name: string]: ArrayLike<number> | undefined;
}

const FIXED_COMPONENTS: Record<string, 1 | 2 | 3 | 4> = {
  position: 3,
  normal: 3,
  tangent: 4,
  texcoord0: 2,
  texcoord1: 2,
  color0: 4,
  joints0: 4,
  weights0: 4,
};

/**
 * Builds a geometry from flat arrays. Float32Arrays are used as they are, others are copied.
 *
 * @throws LensError `geometry/length` when an array's length does not fit the number of vertices,
 *   `geometry/index` when an index names no vertex.
 */
export function geometryFrom(
  arrays: GeometryArrays,
  indices?: ArrayLike<number>,
  options: { name?: string; mode?: PrimitiveMode } = {},
): Geometry {
  const { position } = (arrays as Partial<GeometryArrays> | undefined) ?? {};
  if (!position)
    throw new LensError('geometry/no-position', 'a geometry needs positions', {
      hint: `Give \`position\`, 3 numbers a vertex. It was given ${Object.keys((arrays as GeometryArrays | undefined) ?? {}).join(', ') || 'nothing'}.`,
    });
  if (position.length % 3 !== 0)
    throw new LensError('geometry/length', `"position" has ${position.length} numbers`, {
      hint: 'It takes 3 a vertex: x, y and z.',
    });
  const count = position.length / 3;
  const attributes: Record<string, Attribute> = {};
  for (const [name, values] of Object.entries(arrays)) {
    if (values === undefined) continue;
    if (name === 'indices' || name === 'index')
      throw new LensError('geometry/index', `indices are no attribute of a geometry`, {
        hint: 'They are the second argument: geometryFrom({ position }, indices).',
      });
    const components = FIXED_COMPONENTS[name] ?? values.length / count;
    if (values.length !== components * count || ![1, 2, 3, 4].includes(components)) {
      throw new LensError(
        'geometry/length',
        `attribute "${name}" has ${values.length} numbers, which does not fit ${count} vertices`,
        {
          hint: FIXED_COMPONENTS[name]
            ? `"${name}" takes ${components} numbers a vertex: ${components * Math.floor(count)} here.`
            : 'Give 1, 2, 3 or 4 numbers a vertex.',
        },
      );
    }
    attributes[name] = attributeFrom(values, components as 1 | 2 | 3 | 4);
  }
  const geometry: Geometry = {
    attributes,
    bounds: attributeBounds(attributes['position']!), // position is required by the type
    ...(options.name === undefined ? {} : { name: options.name }),
    ...(options.mode === undefined ? {} : { mode: options.mode }),
  };
  if (indices) {
    watchIndices(indices, count, options.name);
    geometry.indices = packIndices(indices, count);
  }
  return geometry;
}

/**
 * Attributes as floats in one array, vertex by vertex, for those who fill vertex buffers by hand.
 *
 * @throws LensError `geometry/no-attribute`
 */
export function interleave(geometry: Geometry, names: readonly string[]): Float32Array {
  const columns = names.map((name) => {
    const attribute = geometry.attributes[name];
    if (attribute) return { components: attribute.components, values: attributeFloats(attribute) };
    throw new LensError('geometry/no-attribute', `the geometry has no attribute "${name}"`, {
      hint: `It has ${Object.keys(geometry.attributes).join(', ')}.`,
    });
  });
  const count = vertexCount(geometry);
  const stride = columns.reduce((sum, { components }) => sum + components, 0);
  const out = new Float32Array(count * stride);
  let at = 0;
  for (const { components, values } of columns) {
    for (let v = 0; v < count; v++)
      for (let k = 0; k < components; k++) out[v * stride + at + k] = values[v * components + k]!; // in range
    at += components;
  }
  return out;
}

/** An attribute of tightly packed f32. A Float32Array is used as it is. */
export function attributeFrom(values: ArrayLike<number>, components: 1 | 2 | 3 | 4): Attribute {
  const floats = values instanceof Float32Array ? values : Float32Array.from(values);
  return {
    bytes: new Uint8Array(floats.buffer, floats.byteOffset, floats.byteLength),
    componentType: 'f32',
    components,
    normalized: false,
    byteOffset: 0,
    byteStride: components * 4,
    count: floats.length / components,
  };
}

/** Narrowest of u16 and u32 that can name every vertex, 65535 left free as the restart value. */
export function packIndices(indices: ArrayLike<number>, vertexCount: number): Indices {
  for (let i = 0; i < indices.length; i++) {
    const index = indices[i]!;
    if (!(index >= 0 && index < vertexCount) || !Number.isInteger(index)) {
      throw new LensError('geometry/index', `index ${i} is ${index}, but there are ${vertexCount} vertices`, {
        hint: 'Indices are whole numbers from 0 to the number of vertices less one.',
      });
    }
  }
  if (indices instanceof Uint16Array || indices instanceof Uint32Array) return indices;
  return vertexCount <= 65535 ? Uint16Array.from(indices) : Uint32Array.from(indices);
}

/** How many vertices. */
export function vertexCount(geometry: Geometry): number {
  return geometry.attributes['position']?.count ?? 0;
}

/** How many indices are drawn, or vertices where there are none. */
export function drawCount(geometry: Geometry): number {
  return geometry.indices ? geometry.indices.length : vertexCount(geometry);
}

type TypedArray = Int8Array | Uint8Array | Int16Array | Uint16Array | Uint32Array | Float32Array;

const VIEW: Record<
  ComponentType,
  new (buffer: ArrayBufferLike, byteOffset: number, length: number) => TypedArray
> = { i8: Int8Array, u8: Uint8Array, i16: Int16Array, u16: Uint16Array, u32: Uint32Array, f32: Float32Array };

/** Largest positive value of a normalised integer (glTF 2.0, 3.6.2.2): c / max, signed clamped to -1. */
const NORMALIZED_MAX: Record<ComponentType, number> = {
  i8: 127,
  u8: 255,
  i16: 32767,
  u16: 65535,
  u32: 4294967295,
  f32: 1,
};

/** The attribute's values as a flat Float32Array: a view where they lie so already, else a copy. */
export function attributeFloats(attribute: Attribute): Float32Array {
  const { bytes, componentType, components, byteOffset, byteStride, count } = attribute;
  const size = COMPONENT_BYTES[componentType];
  const start = bytes.byteOffset + byteOffset;
  if (componentType === 'f32' && byteStride === components * 4 && start % 4 === 0) {
    return new Float32Array(bytes.buffer, start, count * components);
  }
  const length = count === 0 ? 0 : ((count - 1) * byteStride) / size + components;
  const from = new VIEW[componentType](bytes.buffer, start, length);
  const step = byteStride / size;
  const out = new Float32Array(count * components);
  const factor = attribute.normalized ? 1 / NORMALIZED_MAX[componentType] : 1;
  const lowest = attribute.normalized ? -1 : -Infinity;
  for (let i = 0, o = 0; i < count; i++) {
    for (let k = 0; k < components; k++) {
      const value = from[i * step + k]! * factor;
      out[o++] = value < lowest ? lowest : value;
    }
  }
  return out;
}

/** Box of an attribute of three components. NaN counts as nothing. */
export function attributeBounds(attribute: Attribute): Bounds {
  const values = attributeFloats(attribute);
  const bounds = emptyBounds();
  const step = attribute.components;
  for (let i = 0; i + 2 < values.length; i += step) {
    growBounds(bounds, values[i]!, values[i + 1]!, values[i + 2]!);
  }
  return bounds;
}
