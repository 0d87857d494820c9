import fc from 'fast-check';
import { holds } from '../../../../../tests/holds.js';
import { LensError } from '../../errors/lens-error.js';
import type { Panorama } from '../../light/panorama.js';
import { readHdr, writeHdr } from './hdr.js';

function panorama(width: number, height: number, value: (i: number) => number): Panorama {
  const data = Float32Array.from({ length: width * height * 4 }, (_, i) => (i % 4 === 3 ? 1 : value(i)));
  return { width, height, data };
}

const text = (lines: string, ...rest: number[]): Uint8Array =>
  Uint8Array.from([...new TextEncoder().encode(lines), ...rest]);

test('what is written is read back within the half step of eight bits', () => {
  holds(
    fc.property(
      fc.integer({ min: 1, max: 40 }),
      fc.integer({ min: 1, max: 5 }),
      fc.integer(),
      (width, height, seed) => {
        const given = panorama(width, height, (i) =>
          (Math.imul(i + 1, seed | 1) >>> 8) % 7 === 0 ? 3 : Math.abs(Math.sin(i * seed)) * 900,
        );
        const read = readHdr(writeHdr(given));
        expect([read.width, read.height]).toEqual([width, height]);
        for (let pixel = 0; pixel < width * height; pixel++) {
          const most = Math.max(...given.data.subarray(pixel * 4, pixel * 4 + 3));
          for (let c = 0; c < 3; c++)
            expect(Math.abs(read.data[pixel * 4 + c]! - given.data[pixel * 4 + c]!)).toBeLessThanOrEqual(
              most / 128,
            );
        }
      },
    ),
    { numRuns: 60 },
  );
});

test('plain pixels, the older runs, other directions and exposures are read', () => {
  const head = '#?RGBE\nFORMAT=32-bit_rle_rgbe\nEXPOSURE=2\n\n';
  // Exponent 129 makes steps of 1/128; the exposure of 2 halves them.
  const plain = readHdr(text(`${head}-Y 1 +X 2\n`, 128, 64, 0, 129, 255, 0, 0, 129));
  expect([...plain.data]).toEqual([
    128.5 / 256,
    64.5 / 256,
    0.5 / 256,
    1,
    255.5 / 256,
    0.5 / 256,
    0.5 / 256,
    1,
  ]);
  const runs = readHdr(text(`${head}-Y 1 +X 4\n`, 128, 64, 0, 129, 1, 1, 1, 3));
  expect([...runs.data].filter((_, i) => i % 4 === 0)).toEqual(new Array(4).fill(128.5 / 256));
  const turned = readHdr(text(`${head}+Y 2 -X 1\n`, 10, 0, 0, 129, 20, 0, 0, 129));
  expect(turned.data[0]).toBe(20.5 / 256);
  const black = readHdr(text(`${head}-Y 1 +X 1\n`, 200, 200, 200, 0));
  expect([...black.data]).toEqual([0, 0, 0, 1]);
});

test.each([
  ['nothing', new Uint8Array(0), 'hdr/header'],
  ['another kind of file', text('P6\n1 1\n'), 'hdr/header'],
  ['another format', text('#?RADIANCE\nFORMAT=32-bit_rle_xyze\n\n-Y 1 +X 1\n'), 'hdr/header'],
  ['no size', text('#?RADIANCE\n\nwide\n'), 'hdr/size'],
  ['a size of nothing', text('#?RADIANCE\n\n-Y 0 +X 4\n'), 'hdr/size'],
  [
    'a size that no file of its length has',
    text('#?RADIANCE\n\n-Y 30000 +X 30000\n', 1, 2, 3),
    'hdr/truncated',
  ],
  ['a row cut off', text('#?RADIANCE\n\n-Y 1 +X 8\n', 2, 2, 0, 8, 136), 'hdr/truncated'],
  ['a run over its row', text('#?RADIANCE\n\n-Y 1 +X 8\n', 2, 2, 0, 8, 137, 5, 0, 0), 'hdr/run'],
  ['a row of another width', text('#?RADIANCE\n\n-Y 1 +X 8\n', 2, 2, 0, 9, 136, 5, 0, 0), 'hdr/run'],
  ['a run before any pixel', text('#?RADIANCE\n\n-Y 1 +X 4\n', 1, 1, 1, 3), 'hdr/run'],
])('%s is refused with a reason and a hint', (_, bytes, code) => {
  try {
    readHdr(bytes, 'dusk.hdr');
    throw new Error('was read');
  } catch (error) {
    expect(error).toMatchObject({ code, where: { file: 'dusk.hdr' } });
    expect((error as LensError).hint).not.toBe('');
  }
});

test('damaged files end in an error or a picture, never otherwise', () => {
  const whole = writeHdr(panorama(24, 6, (i) => (i * 37) % 11));
  holds(
    fc.property(
      fc.array(fc.tuple(fc.nat(whole.length - 1), fc.nat(255)), { maxLength: 4 }),
      fc.nat(whole.length),
      (changes, length) => {
        const bytes = whole.slice(0, length);
        for (const [at, value] of changes) if (at < bytes.length) bytes[at] = value;
        try {
          expect(readHdr(bytes).data.length).toBeGreaterThan(0);
        } catch (error) {
          expect(error).toBeInstanceOf(LensError);
        }
      },
    ),
    { numRuns: 300 },
  );
});
