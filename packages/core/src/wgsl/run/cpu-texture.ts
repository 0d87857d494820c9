import { roundF16, type Value } from '../types/values.js';

/** A texture as plain numbers: four a texel, rows top first, layers one after the other. */
export interface CpuTexture {
  width: number;
  height?: number;
  depth?: number;
  /** Layers of an array, or 6 faces of a cube (+X, -X, +Y, -Y, +Z, -Z). */
  layers?: number;
  /** 4 numbers a texel, as the shader sees them: 0..1 for normalised formats. Storage textures are written in place. */
  data: ArrayLike<number>;
  /** Levels below the base, each half as large. */
  levels?: ArrayLike<number>[];
}

export interface CpuSampler {
  magFilter?: 'nearest' | 'linear';
  minFilter?: 'nearest' | 'linear';
  mipmapFilter?: 'nearest' | 'linear';
  addressModeU?: AddressMode;
  addressModeV?: AddressMode;
  addressModeW?: AddressMode;
  compare?: 'less' | 'less-equal' | 'greater' | 'greater-equal' | 'equal' | 'not-equal' | 'always' | 'never';
}

type AddressMode = 'clamp-to-edge' | 'repeat' | 'mirror-repeat';

/** Width, height, depth of a level. */
export function textureSize(texture: CpuTexture, level: number): number[] {
  return [texture.width, texture.height ?? 1, texture.depth ?? 1].map((n) => Math.max(1, n >> level));
}

/** One texel; outside it is zero, as robust access has it. */
export function loadTexel(texture: CpuTexture, coordinate: Value, layer: number, level: number): number[] {
  const at = (Array.isArray(coordinate) ? coordinate : [coordinate]) as number[];
  const size = textureSize(texture, level);
  const data = level === 0 ? texture.data : texture.levels?.[level - 1];
  if (!data || at.some((x, i) => x < 0 || x >= size[i]!)) return [0, 0, 0, 0];
  const slice = (at[2] ?? 0) + layer * size[2]!;
  const first = ((slice * size[1]! + (at[1] ?? 0)) * size[0]! + at[0]!) * 4;
  return [0, 1, 2, 3].map((k) => data[first + k] ?? 0);
}

/** Writes one texel as a storage format holds it; outside of the texture nothing happens. */
export function storeTexel(
  texture: CpuTexture,
  format: string,
  coordinate: Value,
  layer: number,
  texel: number[],
): void {
  const at = (Array.isArray(coordinate) ? coordinate : [coordinate]) as number[];
  const size = textureSize(texture, 0);
  if (at.some((x, i) => x < 0 || x >= size[i]!) || layer < 0 || layer >= (texture.layers ?? 1)) return;
  const slice = (at[2] ?? 0) + layer * size[2]!;
  const first = ((slice * size[1]! + (at[1] ?? 0)) * size[0]! + at[0]!) * 4;
  const data = texture.data as number[];
  const channels =
    format.startsWith('rgba') || format.startsWith('bgra') || format.startsWith('rgb10')
      ? 4
      : format.startsWith('rg11')
        ? 3
        : format.startsWith('rg')
          ? 2
          : 1;
  const hold = holder(format);
  for (let k = 0; k < 4; k++) data[first + k] = k < channels ? hold(texel[k]!, k) : k === 3 ? 1 : 0;
}

/** How a format holds a channel. */
function holder(format: string): (x: number, channel: number) => number {
  const bits = (channel: number): number =>
    format.startsWith('rgb10a2') ? (channel === 3 ? 2 : 10) : Number(/\d+/.exec(format)![0]); // formats name their bits
  const unit = (x: number, low: number, steps: number): number =>
    Math.fround(Math.round(Math.min(1, Math.max(low, x)) * steps) / steps);
  if (format.endsWith('unorm')) return (x, k) => unit(x, 0, 2 ** bits(k) - 1);
  if (format.endsWith('snorm')) return (x, k) => unit(x, -1, 2 ** (bits(k) - 1) - 1);
  // Whole numbers keep their low bits.
  if (format.endsWith('uint')) return (x, k) => (x >>> 0) % 2 ** bits(k);
  if (format.endsWith('sint')) return (x, k) => (x << (32 - bits(k))) >> (32 - bits(k));
  if (format === 'rg11b10ufloat') return (x, k) => smallFloat(x, k === 2 ? 5 : 6);
  return format.includes('16float') ? roundF16 : Math.fround;
}

/** A float without a sign, five bits of exponent and a few of fraction. */
function smallFloat(x: number, fraction: number): number {
  if (!(x > 0)) return 0;
  const step = 2 ** (Math.max(-14, Math.floor(Math.log2(x))) - fraction);
  return Math.min(Math.floor(x / step) * step, (2 - 2 ** -fraction) * 2 ** 15);
}

/** Filtered by the sampler; with `reference`, each texel is compared before they are mixed. `offset` is in texels. */
export function sampleTexture(
  texture: CpuTexture,
  sampler: CpuSampler,
  coordinate: Value,
  layer: number,
  level: number,
  reference: number | undefined,
  offset: number[] = [],
): number[] {
  const levels = 1 + (texture.levels?.length ?? 0);
  const lod = Math.min(levels - 1, Math.max(0, level));
  const filter = (level > 0 ? sampler.minFilter : sampler.magFilter) ?? 'nearest';
  const uvw = (Array.isArray(coordinate) ? coordinate : [coordinate]) as number[];
  const isCube = texture.layers === 6 && uvw.length === 3;
  const [uv, slice] = isCube ? cubeFace(uvw) : [uvw, layer];
  const at = (l: number): number[] => sampleLevel(texture, sampler, uv, slice, l, filter, reference, offset);
  if (sampler.mipmapFilter !== 'linear' || Number.isInteger(lod)) return at(Math.round(lod));
  const [low, high] = [at(Math.floor(lod)), at(Math.ceil(lod))];
  const t = lod - Math.floor(lod);
  return low.map((x, i) => Math.fround(x + (high[i]! - x) * t));
}

function sampleLevel(
  texture: CpuTexture,
  sampler: CpuSampler,
  uv: number[],
  layer: number,
  level: number,
  filter: 'nearest' | 'linear',
  reference: number | undefined,
  offset: number[],
): number[] {
  const size = textureSize(texture, level);
  const modes = [sampler.addressModeU, sampler.addressModeV, sampler.addressModeW];
  const fetch = (cell: number[]): number[] => {
    const wrapped = cell.map((x, i) => address(x + (offset[i] ?? 0), size[i]!, modes[i] ?? 'clamp-to-edge'));
    const texel = loadTexel(texture, wrapped, layer, level);
    return reference === undefined
      ? texel
      : [passes(sampler.compare ?? 'less-equal', reference, texel[0]!) ? 1 : 0, 0, 0, 0];
  };
  if (filter === 'nearest') return fetch(uv.map((x, i) => Math.floor(x * size[i]!)));
  const scaled = uv.map((x, i) => x * size[i]! - 0.5);
  const base = scaled.map(Math.floor);
  const out = [0, 0, 0, 0];
  for (let corner = 0; corner < 1 << uv.length; corner++) {
    let weight = 1;
    const cell = base.map((x, i) => {
      const t = scaled[i]! - x;
      const isUpper = (corner >> i) & 1;
      weight *= isUpper ? t : 1 - t;
      return x + isUpper;
    });
    if (weight === 0) continue;
    fetch(cell).forEach((x, k) => (out[k]! += x * weight));
  }
  return out.map(Math.fround);
}

/** One component of the four texels around a place: lower left, lower right, upper right, upper left, v downwards. */
export function gatherTexels(
  texture: CpuTexture,
  sampler: CpuSampler,
  coordinate: Value,
  layer: number,
  component: number,
  reference: number | undefined,
  offset: number[] = [],
): number[] {
  const uvw = coordinate as number[];
  const [uv, slice] = texture.layers === 6 && uvw.length === 3 ? cubeFace(uvw) : [uvw, layer];
  const size = textureSize(texture, 0);
  const modes = [sampler.addressModeU, sampler.addressModeV];
  const base = uv.map((x, i) => Math.floor(x * size[i]! - 0.5) + (offset[i] ?? 0));
  const corners = [
    [0, 1],
    [1, 1],
    [1, 0],
    [0, 0],
  ];
  return corners.map((corner) => {
    const cell = base.map((x, i) => address(x + corner[i]!, size[i]!, modes[i] ?? 'clamp-to-edge'));
    const texel = loadTexel(texture, cell, slice, 0)[component]!;
    if (reference === undefined) return texel;
    return passes(sampler.compare ?? 'less-equal', reference, texel) ? 1 : 0;
  });
}

function address(x: number, size: number, mode: AddressMode): number {
  if (mode === 'repeat') return ((x % size) + size) % size;
  if (mode === 'mirror-repeat') {
    const period = ((x % (2 * size)) + 2 * size) % (2 * size);
    return period < size ? period : 2 * size - 1 - period;
  }
  return Math.min(size - 1, Math.max(0, x));
}

function passes(compare: NonNullable<CpuSampler['compare']>, reference: number, texel: number): boolean {
  switch (compare) {
    case 'less':
      return reference < texel;
    case 'less-equal':
      return reference <= texel;
    case 'greater':
      return reference > texel;
    case 'greater-equal':
      return reference >= texel;
    case 'equal':
      return reference === texel;
    case 'not-equal':
      return reference !== texel;
    default:
      return compare === 'always';
  }
}

/** Face and coordinates of a direction (OpenGL ES 3.0, table 3.21). */
function cubeFace([x = 0, y = 0, z = 0]: number[]): [number[], number] {
  const [ax, ay, az] = [Math.abs(x), Math.abs(y), Math.abs(z)];
  const [face, s, t, m] =
    ax >= ay && ax >= az
      ? x >= 0
        ? [0, -z, -y, ax]
        : [1, z, -y, ax]
      : ay >= az
        ? y >= 0
          ? [2, x, z, ay]
          : [3, x, -z, ay]
        : z >= 0
          ? [4, x, -y, az]
          : [5, -x, -y, az];
  return [[(s / m + 1) / 2, (t / m + 1) / 2], face];
}
