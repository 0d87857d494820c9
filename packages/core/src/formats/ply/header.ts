import { LensError } from '../../errors/lens-error.js';
import { textOf } from '../bytes/words.js';

export type PlyType = 'i8' | 'u8' | 'i16' | 'u16' | 'i32' | 'u32' | 'f32' | 'f64';

/** Both namings there are. */
const TYPES: Readonly<Record<string, PlyType>> = {
  char: 'i8',
  int8: 'i8',
  uchar: 'u8',
  uint8: 'u8',
  short: 'i16',
  int16: 'i16',
  ushort: 'u16',
  uint16: 'u16',
  int: 'i32',
  int32: 'i32',
  uint: 'u32',
  uint32: 'u32',
  float: 'f32',
  float32: 'f32',
  double: 'f64',
  float64: 'f64',
};
export const PLY_BYTES: Readonly<Record<PlyType, number>> = {
  i8: 1,
  u8: 1,
  i16: 2,
  u16: 2,
  i32: 4,
  u32: 4,
  f32: 4,
  f64: 8,
};

export interface PlyProperty {
  name: string;
  type: PlyType;
  /** Type of a list's length, for lists. */
  countType: PlyType | undefined;
}

export interface PlyElement {
  name: string;
  count: number;
  properties: PlyProperty[];
}

export interface PlyHeader {
  format: 'ascii' | 'little' | 'big';
  elements: PlyElement[];
  comments: string[];
  /** Bytes of it, and lines. */
  length: number;
  lines: number;
}

/** A header that is longer is none. */
export const LONGEST_HEADER = 1 << 16;
const MOST_PROPERTIES = 1000;

/**
 * Reads the header; undefined while its end is not among the bytes.
 *
 * @throws LensError `ply/header` with the line
 */
export function readPlyHeader(bytes: Uint8Array, file: string): PlyHeader | undefined {
  const text = textOf(bytes, 0, Math.min(bytes.length, LONGEST_HEADER));
  const refuse = (line: number, message: string, hint = ''): never => {
    throw new LensError('ply/header', message, { where: { file, line }, hint });
  };
  if (!/^ply[ \t]*(\r\n|\r|\n|$)/.test(text)) refuse(1, 'a PLY file begins with a line "ply"');
  const end = /(^|[\r\n])end_header[ \t]*(\r\n|\r(?!\n)|\n)/.exec(text);
  if (!end) {
    if (bytes.length >= LONGEST_HEADER)
      refuse(1, 'the header has no end', 'It ends with a line "end_header".');
    return undefined;
  }
  // The data may begin with a line feed of its own: where lines end with CR, CR alone ends the header.
  const usesBareReturns = !/\n/.test(text.slice(0, end.index + 1)) && /\r/.test(text.slice(0, end.index + 1));
  let length = end.index + end[0].length;
  if (usesBareReturns && end[2] === '\r\n') length--;
  const header: PlyHeader = { format: 'ascii', elements: [], comments: [], length, lines: 0 };
  const lines = text.slice(0, length).split(/\r\n|\r|\n/);
  let hasFormat = false;
  let properties = 0;
  header.lines = lines.length - 1;
  lines.slice(1, -1).forEach((raw, i) => {
    const line = i + 2;
    const words = raw.trim().split(/\s+/);
    const [keyword = ''] = words;
    if (keyword === '' || keyword === 'end_header') return;
    if (keyword === 'comment' || keyword === 'obj_info') {
      header.comments.push(raw.trim().slice(keyword.length).trim());
    } else if (keyword === 'format') {
      const kinds: Readonly<Record<string, PlyHeader['format']>> = {
        ascii: 'ascii',
        binary_little_endian: 'little',
        binary_big_endian: 'big',
      };
      const format = kinds[words[1] ?? ''];
      if (!format)
        return refuse(
          line,
          `"${words[1] ?? ''}" is no format of PLY`,
          `There are ${Object.keys(kinds).join(', ')}.`,
        );
      header.format = format;
      hasFormat = true;
    } else if (keyword === 'element') {
      const count = Number(words[2]);
      if (words.length !== 3 || !Number.isInteger(count) || count < 0 || count > 0xffffffff)
        return refuse(line, `"${raw.trim().slice(0, 60)}" names no element and number of them`);
      header.elements.push({ name: words[1]!, count, properties: [] }); // three words
    } else if (keyword === 'property') {
      const element = header.elements.at(-1);
      if (!element) return refuse(line, 'a property stands before every element');
      const isList = words[1] === 'list';
      const [typeWord = '', name = ''] = isList ? words.slice(3) : words.slice(1);
      const type = TYPES[typeWord];
      const countType = isList ? TYPES[words[2] ?? ''] : undefined;
      if (!type || name === '' || (isList && (!countType || countType.startsWith('f'))))
        return refuse(
          line,
          `"${raw.trim().slice(0, 60)}" is no property`,
          `Types are ${Object.keys(TYPES).join(', ')}.`,
        );
      if (++properties > MOST_PROPERTIES)
        return refuse(line, `there are more than ${MOST_PROPERTIES} properties`);
      element.properties.push({ name, type, countType });
    } else refuse(line, `"${keyword.slice(0, 40)}" is no word of a PLY header`);
  });
  if (!hasFormat) refuse(2, 'the header names no format');
  return header;
}
