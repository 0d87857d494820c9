import { LensError } from '../../errors/lens-error.js';
import type { Panorama } from '../../light/panorama.js';

const LARGEST = 32_768;

/**
 * Reads a Radiance picture (`.hdr`, RGBE): run-length encoded by channels, the older kind of runs, or plain. Numbers
 * become linear radiance as the file means it; `EXPOSURE` lines are taken out again, as the format asks.
 *
 * @throws LensError `hdr/header`, `hdr/size`, `hdr/truncated`, `hdr/run` with the number of the byte
 */
export function readHdr(bytes: Uint8Array, name?: string): Panorama {
  const refuse = (code: string, message: string, at: number): never => {
    throw new LensError(`hdr/${code}`, `${message} (byte ${at})`, {
      hint:
        code === 'truncated'
          ? 'The file was cut off: copy or load it again.'
          : 'Export it again as Radiance HDR.',
      where: name === undefined ? {} : { file: name },
    });
  };
  const { lines, end } = headerOf(bytes);
  if (!/^#\?/.test(lines[0] ?? ''))
    refuse('header', 'this is no Radiance picture: it does not begin with "#?"', 0);
  const format = lines
    .find((line) => line.startsWith('FORMAT='))
    ?.slice(7)
    .trim();
  if (format !== undefined && format !== '32-bit_rle_rgbe')
    refuse('header', `pictures of the format ${format} are not read, only 32-bit_rle_rgbe`, 0);
  const size = lines[lines.length - 1]!; // there is a first line
  const match = /^([-+])Y (\d+) ([-+])X (\d+)$/.exec(size);
  if (!match) return refuse('size', `"${size.slice(0, 40)}" is no size such as "-Y 512 +X 1024"`, 0);
  const [height, width] = [Number(match[2]), Number(match[4])];
  if (!(width > 0 && height > 0 && width <= LARGEST && height <= LARGEST))
    refuse(
      'size',
      `a picture of ${width} x ${height} pixels is not read; each side may have 1 to ${LARGEST}`,
      0,
    );
  // Four bytes stand for 255 pixels at most, so a file much too short is told before memory is taken.
  if ((bytes.length - end) * 256 < width * height * 4)
    refuse('truncated', `${bytes.length - end} bytes cannot hold ${width} x ${height} pixels`, bytes.length);
  let exposure = 1;
  for (const line of lines) if (line.startsWith('EXPOSURE=')) exposure *= Number(line.slice(9)) || 1;
  const data = new Float32Array(width * height * 4);
  const row = new Uint8Array(width * 4);
  let at = end;
  const need = (count: number): void => {
    if (at + count > bytes.length) refuse('truncated', 'the picture ends before its last row', bytes.length);
  };
  for (let y = 0; y < height; y++) {
    need(4);
    const isByChannel =
      width >= 8 && width < 32_768 && bytes[at] === 2 && bytes[at + 1] === 2 && bytes[at + 2]! < 128; // needed above
    if (isByChannel) {
      if (((bytes[at + 2]! << 8) | bytes[at + 3]!) !== width)
        refuse('run', 'a row is told to have another width', at);
      at += 4;
      for (let channel = 0; channel < 4; channel++) {
        for (let x = 0; x < width;) {
          need(2);
          const count = bytes[at++]!; // needed above, here and below
          const run = count > 128 ? count - 128 : count;
          if (run === 0 || x + run > width) refuse('run', 'a run leaves its row', at - 1);
          if (count > 128) {
            const value = bytes[at++]!;
            for (let i = 0; i < run; i++) row[x++ * 4 + channel] = value;
          } else {
            need(run);
            for (let i = 0; i < run; i++) row[x++ * 4 + channel] = bytes[at++]!;
          }
        }
      }
    } else {
      let shift = 0;
      for (let x = 0; x < width;) {
        need(4);
        const isRun = bytes[at] === 1 && bytes[at + 1] === 1 && bytes[at + 2] === 1;
        if (isRun) {
          const run = bytes[at + 3]! << shift;
          if (x === 0 || x + run > width) refuse('run', 'a run leaves its row', at);
          for (let i = 0; i < run; i++, x++) row.copyWithin(x * 4, (x - 1) * 4, x * 4);
          shift = Math.min(24, shift + 8);
        } else {
          row.set(bytes.subarray(at, at + 4), x++ * 4);
          shift = 0;
        }
        at += 4;
      }
    }
    const target = match[1] === '-' ? y : height - 1 - y;
    for (let x = 0; x < width; x++) {
      const column = match[3] === '+' ? x : width - 1 - x;
      const exponent = row[x * 4 + 3]!; // within the row, here and below
      const out = (target * width + column) * 4;
      const scale = exponent === 0 ? 0 : 2 ** (exponent - 136) / exposure;
      for (let c = 0; c < 3; c++) data[out + c] = exponent === 0 ? 0 : (row[x * 4 + c]! + 0.5) * scale;
      data[out + 3] = 1;
    }
  }
  return { ...(name === undefined ? {} : { name }), width, height, data };
}

/** Writes a panorama as a Radiance picture, run-length encoded by channels. Values below 0 become 0. */
export function writeHdr({ width, height, data }: Panorama): Uint8Array {
  const head = `#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y ${height} +X ${width}\n`;
  const out: number[] = Array.from(head, (letter) => letter.charCodeAt(0));
  const row = new Uint8Array(width * 4);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const at = (y * width + x) * 4;
      const most = Math.max(data[at]!, data[at + 1]!, data[at + 2]!, 0); // within the data, here and below
      const exponent = most < 1e-32 ? 0 : Math.ceil(Math.log2(most * (256 / 255)));
      for (let c = 0; c < 3; c++)
        row[x * 4 + c] = most < 1e-32 ? 0 : Math.min(255, Math.max(0, data[at + c]! * 2 ** (8 - exponent)));
      row[x * 4 + 3] = most < 1e-32 ? 0 : exponent + 128;
    }
    if (width < 8 || width >= 32_768) {
      out.push(...row);
      continue;
    }
    out.push(2, 2, width >> 8, width & 255);
    for (let channel = 0; channel < 4; channel++) writeRuns(row, channel, width, out);
  }
  return Uint8Array.from(out);
}

/** Runs of three and more equal values, and what lies between them. */
function writeRuns(row: Uint8Array, channel: number, width: number, out: number[]): void {
  const value = (x: number): number => row[x * 4 + channel]!; // x < width
  const runAt = (x: number): number => {
    let length = 1;
    while (x + length < width && length < 127 && value(x + length) === value(x)) length++;
    return length;
  };
  for (let x = 0; x < width;) {
    const run = runAt(x);
    if (run > 2) {
      out.push(128 + run, value(x));
      x += run;
      continue;
    }
    const start = x;
    while (x < width && x - start < 128 && runAt(x) <= 2) x++;
    out.push(x - start);
    for (let i = start; i < x; i++) out.push(value(i));
  }
}

/** The lines up to and with the size, and where the pixels begin. */
function headerOf(bytes: Uint8Array): { lines: string[]; end: number } {
  const lines: string[] = [];
  let line = '';
  let isBody = false;
  for (let at = 0; at < Math.min(bytes.length, 16_384); at++) {
    const code = bytes[at]!; // at < length
    if (code !== 10) {
      line += String.fromCharCode(code);
      continue;
    }
    lines.push(line.replace(/\r$/, ''));
    if (isBody) return { lines, end: at + 1 };
    if (lines[lines.length - 1] === '') isBody = true;
    line = '';
  }
  return { lines: lines.length > 0 ? lines : [line], end: bytes.length };
}
