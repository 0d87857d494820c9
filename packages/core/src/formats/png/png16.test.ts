import sharp from 'sharp';
import { readPng16 } from './read-png16.js';

/** Heights of slopes and of steps, 16 bits each. */
function heights(width: number, height: number, channels: number): Uint16Array {
  return Uint16Array.from({ length: width * height * channels }, (_, i) => {
    const [c, pixel] = [i % channels, Math.floor(i / channels)];
    const [x, y] = [pixel % width, Math.floor(pixel / width)];
    return (x * 1021 + y * 257 + c * 9001 + ((x * y) % 5) * 3) & 0xffff;
  });
}

test.each([
  [1, false],
  [2, false],
  [3, false],
  [4, false],
  [1, true],
  [3, true],
  [4, true],
] as const)('%i channels of 16 bits, interlaced: %s', async (channels, progressive) => {
  const [width, height] = [37, 23];
  const given = heights(width, height, channels);
  const space = channels < 3 ? 'grey16' : 'rgb16';
  const file = await sharp(given, { raw: { width, height, channels } })
    .toColourspace(space)
    .png({ progressive, compressionLevel: 9, adaptiveFiltering: true })
    .toBuffer();
  expect(file[24]).toBe(16);
  const read = await readPng16(new Uint8Array(file));
  expect([read.width, read.height]).toEqual([width, height]);
  const isGray = channels < 3;
  const expected = Uint16Array.from({ length: width * height * 4 }, (_, i) => {
    const [c, at] = [i & 3, (i >> 2) * channels];
    if (c === 3) return channels % 2 === 0 ? given[at + channels - 1]! : 65535;
    return given[at + (isGray ? 0 : c)]!;
  });
  expect(read.pixels).toEqual(expected);
});

test('fewer bits, damage and lies about the size are told', async () => {
  const raw = { raw: { width: 4, height: 4, channels: 3 as const } };
  const eight = await sharp(Buffer.alloc(48), raw).png().toBuffer();
  await expect(readPng16(new Uint8Array(eight), 'a.png')).rejects.toThrow(
    'it has 8 bits a channel, not 16, at byte 24',
  );
  const file = new Uint8Array(await sharp(new Uint16Array(48), raw).toColourspace('rgb16').png().toBuffer());
  const refusal = (bytes: Uint8Array): Promise<unknown> =>
    readPng16(bytes).catch((error: { code: string }) => error.code);
  expect(await refusal(file.subarray(0, 60))).toBe('png/broken');
  const wider = file.slice();
  wider[19] = 200;
  expect(await refusal(wider)).toBe('png/broken');
  const huge = file.slice();
  huge[16] = 0x7f;
  expect(await refusal(huge)).toBe('png/broken');
  expect(await refusal(new Uint8Array(4))).toBe('png/broken');
});
