/** What encoded pictures begin with. */
const KINDS: readonly [mimeType: string, at: number, bytes: readonly number[]][] = [
  ['image/png', 0, [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]],
  ['image/jpeg', 0, [0xff, 0xd8, 0xff]],
  // "WEBP" behind the size of the RIFF container.
  ['image/webp', 8, [0x57, 0x45, 0x42, 0x50]],
  ['image/ktx2', 0, [0xab, 0x4b, 0x54, 0x58, 0x20, 0x32, 0x30, 0xbb]],
  ['image/avif', 4, [0x66, 0x74, 0x79, 0x70, 0x61, 0x76, 0x69, 0x66]],
];

/** The media type of an encoded picture, told by its first bytes; undefined for what is none of those that are read. */
export const imageTypeOf = (bytes: Uint8Array): string | undefined =>
  KINDS.find(([, at, wanted]) => wanted.every((byte, i) => bytes[at + i] === byte))?.[0];
