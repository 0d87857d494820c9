import type { Image, Texture } from '@umber-lens/core/engine';
import sharp from 'sharp';
import { hash, layers, noise } from './noise.js';

/** What a surface is at one place of its texture, u to the right and v down. */
export interface Texel {
  /** sRGB, 0..1. */
  color: [number, number, number];
  /** Height in texels, for the normal map. */
  height: number;
  roughness: number;
  metallic?: number;
  /** 0 is fully shut off from ambient light. */
  occlusion?: number;
}

export interface SurfaceTextures {
  color: Texture;
  normal: Texture;
  /** Occlusion in red, roughness in green, metallic in blue. */
  surface: Texture;
}

/** Draws the three maps of a surface, tiling, as JPEG. */
export async function drawSurface(
  name: string,
  size: number,
  at: (u: number, v: number) => Texel,
): Promise<SurfaceTextures> {
  const texels = Array.from({ length: size * size }, (_, i) =>
    at((i % size) / size, Math.floor(i / size) / size),
  );
  const height = (x: number, y: number): number =>
    texels[(((y % size) + size) % size) * size + (((x % size) + size) % size)]!.height;
  const rgb = (value: (texel: Texel, x: number, y: number) => readonly number[]): Uint8Array =>
    Uint8Array.from(
      texels.flatMap((texel, i) =>
        value(texel, i % size, Math.floor(i / size)).map((c) =>
          Math.round(Math.min(1, Math.max(0, c)) * 255),
        ),
      ),
    );
  const encode = async (suffix: string, pixels: Uint8Array, quality: number): Promise<Texture> => {
    const bytes = await sharp(pixels, { raw: { width: size, height: size, channels: 3 } })
      .jpeg({ quality, chromaSubsampling: '4:4:4', optimiseCoding: true })
      .toBuffer();
    const image: Image = {
      name: `${name}-${suffix}`,
      content: { kind: 'encoded', mimeType: 'image/jpeg', bytes },
    };
    return { name: `${name} ${suffix}`, image };
  };
  return {
    color: await encode(
      'color',
      rgb((t) => t.color),
      78,
    ),
    normal: await encode(
      'normal',
      rgb((_, x, y) => {
        const dx = (height(x + 1, y) - height(x - 1, y)) / 2;
        const dy = (height(x, y + 1) - height(x, y - 1)) / 2;
        const n = Math.hypot(dx, dy, 1);
        // Green points up in the picture, so a height growing downwards leans the normal up.
        return [0.5 - dx / n / 2, 0.5 + dy / n / 2, 0.5 + 1 / n / 2];
      }),
      86,
    ),
    surface: await encode(
      'surface',
      rgb((t) => [t.occlusion ?? 1, t.roughness, t.metallic ?? 0]),
      78,
    ),
  };
}

const shade = (color: readonly number[], f: number): [number, number, number] => [
  color[0]! * f,
  color[1]! * f,
  color[2]! * f,
];
const blend = (a: readonly number[], b: readonly number[], t: number): [number, number, number] => [
  a[0]! + (b[0]! - a[0]!) * t,
  a[1]! + (b[1]! - a[1]!) * t,
  a[2]! + (b[2]! - a[2]!) * t,
];

/** Weathered granite with lichen. */
export function granite(u: number, v: number): Texel {
  const broad = layers(u, v, 4, 6, 11);
  const grain = hash(Math.floor(u * 256), Math.floor(v * 256), 3);
  const crack = Math.abs(layers(u, v, 6, 4, 23) - 0.5);
  const isCrack = crack < 0.015 ? 1 - crack / 0.015 : 0;
  const lichen = Math.max(0, layers(u, v, 5, 4, 41) - 0.6) * 3;
  const stone = shade([0.5, 0.47, 0.45], 0.62 + broad * 0.6 + (grain - 0.5) * 0.14);
  return {
    color: shade(blend(stone, [0.62, 0.56, 0.3], Math.min(0.7, lichen)), 1 - isCrack * 0.5),
    height: broad * 22 + grain * 0.4 - isCrack * 3,
    roughness: 0.78 + grain * 0.15,
    occlusion: 0.7 + broad * 0.3 - isCrack * 0.4,
  };
}

/** Boards of a crate or a quay: `boards` side by side along v, nailed, with a frame if asked for. */
export function boards(
  u: number,
  v: number,
  count: number,
  tint: readonly [number, number, number],
  framed: boolean,
): Texel {
  const isFrame = framed && (u < 0.12 || u > 0.88 || v < 0.12 || v > 0.88);
  const [along, across] =
    isFrame && (u < 0.12 || u > 0.88) && v >= 0.12 && v <= 0.88
      ? [v, u * 8]
      : [u, isFrame ? v * 8 : v * count];
  const board = Math.floor(across) + (isFrame ? 40 : 0);
  const within = across - Math.floor(across);
  const gap = isFrame ? 0 : Math.max(0, 1 - Math.min(within, 1 - within) / 0.045);
  const edge = framed ? Math.max(0, 1 - Math.abs(Math.min(u, v, 1 - u, 1 - v) - 0.12) / 0.012) : 0;
  const grain =
    noise(along * 6 + board * 3.7, within * 18 + board * 5, 4096, 5) * 0.6 +
    noise(along * 24, within * 60 + board, 4096, 6) * 0.4;
  const tone = 0.78 + hash(board, 2, 9) * 0.3;
  const nail = framed ? nailAt(u, v) : nailAt((along * 2) % 1, within);
  const wood = shade(tint, tone * (0.7 + grain * 0.5));
  return {
    color: blend(shade(wood, 1 - gap * 0.75 - edge * 0.4), [0.25, 0.2, 0.18], nail),
    height: (isFrame ? 5 : 0) + grain * 1.4 - gap * 4 - edge * 1.5 + nail * 0.6,
    roughness: 0.62 + grain * 0.25 - nail * 0.25,
    metallic: nail > 0.5 ? 0.8 : 0,
    occlusion: 1 - gap * 0.6 - edge * 0.5,
  };
}

function nailAt(u: number, v: number): number {
  const spot = (x: number, y: number): number => (Math.hypot(u - x, v - y) < 0.018 ? 1 : 0);
  return Math.max(
    spot(0.06, 0.06),
    spot(0.94, 0.06),
    spot(0.06, 0.94),
    spot(0.94, 0.94),
    spot(0.06, 0.5),
    spot(0.94, 0.5),
  );
}

/** Painted render in bands, weathered, rust running down from above. */
export function bands(
  u: number,
  v: number,
  count: number,
  a: readonly number[],
  b: readonly number[],
): Texel {
  const broad = layers(u, v, 8, 5, 61);
  const isA = Math.floor(v * count) % 2 === 0;
  const edge = Math.abs(v * count - Math.round(v * count)) < 0.02 ? 1 : 0;
  const worn = Math.max(0, layers(u, v, 10, 4, 71) - 0.63) * 4;
  const streak = Math.max(0, noise(u * 40, v * 3, 40, 77) - 0.7) * 1.2;
  const paint = shade(isA ? a : b, 0.86 + broad * 0.22);
  const rusty = blend(paint, [0.5, 0.34, 0.24], Math.min(0.5, streak));
  return {
    color: blend(rusty, [0.62, 0.58, 0.52], Math.min(0.85, worn)),
    height: broad * 2.5 - worn * 1.5 + edge * 0.3,
    roughness: 0.5 + broad * 0.2 + worn * 0.25,
    occlusion: 1 - worn * 0.15,
  };
}

/** Twisted rope: strands run across the tube. */
export function rope(u: number, v: number): Texel {
  const strand = (u * 24 + v * 3) % 1;
  const bulge = Math.sin(strand * Math.PI);
  const fibre = noise(u * 128, v * 64 + u * 90, 4096, 81);
  return {
    color: shade([0.66, 0.54, 0.36], 0.45 + bulge * 0.5 + fibre * 0.15),
    height: bulge * 5 + fibre * 0.8,
    roughness: 0.85 + fibre * 0.1,
    occlusion: 0.45 + bulge * 0.55,
  };
}

/** Small waves: only the height matters. */
export function ripples(u: number, v: number): Texel {
  const height = layers(u, v, 6, 5, 91) * 26 + layers(u, v, 16, 3, 95) * 8;
  return { color: [0.05, 0.14, 0.17], height, roughness: 0.16, occlusion: 1 };
}
