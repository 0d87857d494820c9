/**
 * How the pixels of a texture are stored, as WebGPU names it, without `-srgb`: whether numbers are sRGB is told by who reads
 * them. Those with blocks are packed: GPUs read them as they are, where they can.
 */
export type TexelFormat = 'r8unorm' | 'rgba8unorm' | 'rgba16float' | 'rgba32float' | PackedFormat;

export type PackedFormat =
  | 'bc1-rgba-unorm'
  | 'bc2-rgba-unorm'
  | 'bc3-rgba-unorm'
  | 'bc4-r-unorm'
  | 'bc5-rg-unorm'
  | 'bc6h-rgb-ufloat'
  | 'bc6h-rgb-float'
  | 'bc7-rgba-unorm'
  | 'etc2-rgb8unorm'
  | 'etc2-rgb8a1unorm'
  | 'etc2-rgba8unorm'
  | 'eac-r11unorm'
  | 'eac-rg11unorm'
  | `astc-${AstcSize}-unorm`;

type AstcSize = (typeof ASTC_SIZES)[number];

/** Pixels of a block of ASTC, in the order of Vulkan's numbers. */
export const ASTC_SIZES = [
  '4x4',
  '5x4',
  '5x5',
  '6x5',
  '6x6',
  '8x5',
  '8x6',
  '8x8',
  '10x5',
  '10x6',
  '10x8',
  '10x10',
  '12x10',
  '12x12',
] as const;

/** Size of a block in pixels and bytes; of a pixel where there are none. */
export interface TexelBlock {
  width: number;
  height: number;
  bytes: number;
}

/** Formats of half a block of 16 bytes. */
const SMALL = /^(bc1|bc4|etc2-rgb8|eac-r11)(?!.*rgba8unorm)/;

const PLAIN_BYTES = { r8unorm: 1, rgba8unorm: 4, rgba16float: 8, rgba32float: 16 };

export function texelBlock(format: TexelFormat): TexelBlock {
  const plain = PLAIN_BYTES[format as keyof typeof PLAIN_BYTES] as number | undefined;
  if (plain !== undefined) return { width: 1, height: 1, bytes: plain };
  const [, width = '4', height = '4'] = /^astc-(\d+)x(\d+)/.exec(format) ?? [];
  return { width: Number(width), height: Number(height), bytes: SMALL.test(format) ? 8 : 16 };
}

/** Bytes of a picture of a format. */
export function texelBytes(format: TexelFormat, width: number, height: number): number {
  const block = texelBlock(format);
  return Math.ceil(width / block.width) * Math.ceil(height / block.height) * block.bytes;
}

/** The format that means sRGB numbers, where there is one. */
export function srgbFormat(format: TexelFormat): string {
  return /^(rgba8|bc[1237]-|etc2|astc)/.test(format) ? `${format}-srgb` : format;
}

/** How numbers lie in files whose pixels are not packed. */
export interface PlainTexels {
  /** `red green blue alpha`, or `blue green red alpha`. */
  order: 'rgba' | 'bgra';
  channels: number;
  type: 'u8' | 'u16' | 'f16' | 'f32' | 'f11' | 'e5';
}

const plain = (
  type: PlainTexels['type'],
  channels: number,
  order: 'rgba' | 'bgra' = 'rgba',
): PlainTexels => ({
  order,
  channels,
  type,
});

/** By the number of Vulkan's format (VkFormat), which KTX has: those that are read; odd ones out are sRGB. */
export function vkFormat(
  number: number,
): { format?: PackedFormat; texels?: PlainTexels; isSrgb: boolean } | undefined {
  const texels = PLAIN.get(number);
  if (texels) return { texels, isSrgb: SRGB_PLAIN.has(number) };
  const format = PACKED.get(number);
  return format && { format, isSrgb: SRGB_PACKED.has(number) };
}

const PLAIN = new Map<number, PlainTexels>([
  [9, plain('u8', 1)],
  [15, plain('u8', 1)],
  [16, plain('u8', 2)],
  [22, plain('u8', 2)],
  [23, plain('u8', 3)],
  [29, plain('u8', 3)],
  [30, plain('u8', 3, 'bgra')],
  [36, plain('u8', 3, 'bgra')],
  [37, plain('u8', 4)],
  [43, plain('u8', 4)],
  [44, plain('u8', 4, 'bgra')],
  [50, plain('u8', 4, 'bgra')],
  [70, plain('u16', 1)],
  [76, plain('f16', 1)],
  [77, plain('u16', 2)],
  [83, plain('f16', 2)],
  [84, plain('u16', 3)],
  [90, plain('f16', 3)],
  [91, plain('u16', 4)],
  [97, plain('f16', 4)],
  [100, plain('f32', 1)],
  [103, plain('f32', 2)],
  [106, plain('f32', 3)],
  [109, plain('f32', 4)],
  [122, plain('f11', 3)],
  [123, plain('e5', 3)],
]);
const SRGB_PLAIN = new Set([15, 22, 29, 36, 43, 50]);

const PACKED = new Map<number, PackedFormat>([
  [131, 'bc1-rgba-unorm'],
  [132, 'bc1-rgba-unorm'],
  [133, 'bc1-rgba-unorm'],
  [134, 'bc1-rgba-unorm'],
  [135, 'bc2-rgba-unorm'],
  [136, 'bc2-rgba-unorm'],
  [137, 'bc3-rgba-unorm'],
  [138, 'bc3-rgba-unorm'],
  [139, 'bc4-r-unorm'],
  [141, 'bc5-rg-unorm'],
  [143, 'bc6h-rgb-ufloat'],
  [144, 'bc6h-rgb-float'],
  [145, 'bc7-rgba-unorm'],
  [146, 'bc7-rgba-unorm'],
  [147, 'etc2-rgb8unorm'],
  [148, 'etc2-rgb8unorm'],
  [149, 'etc2-rgb8a1unorm'],
  [150, 'etc2-rgb8a1unorm'],
  [151, 'etc2-rgba8unorm'],
  [152, 'etc2-rgba8unorm'],
  [153, 'eac-r11unorm'],
  [155, 'eac-rg11unorm'],
  ...ASTC_SIZES.flatMap((size, i): [number, PackedFormat][] => [
    [157 + i * 2, `astc-${size}-unorm`],
    [158 + i * 2, `astc-${size}-unorm`],
  ]),
]);
const SRGB_PACKED = new Set([
  132,
  134,
  136,
  138,
  146,
  148,
  150,
  152,
  ...ASTC_SIZES.map((_, i) => 158 + i * 2),
]);
