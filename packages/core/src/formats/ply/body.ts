import { LensError } from '../../errors/lens-error.js';
import { behind } from '../bytes/byte-source.js';
import { Lines } from '../bytes/lines.js';
import { Words } from '../bytes/words.js';
import { PLY_BYTES, type PlyElement, type PlyHeader, type PlyType } from './header.js';
import type { PlyReader } from './read-ply.js';

/** A list that is longer is damage. */
const LONGEST_LIST = 1 << 24;

/** The data behind a header, as it comes: elements one after the other, cut where pieces end. */
export class PlyBody {
  /** Which element, and which of its kind. */
  private element = 0;
  private number = 0;
  private readonly lines: Lines | undefined;
  private readonly words = new Words();
  private rest = new Uint8Array(0);
  /** Bytes of the file before `rest`. */
  private before: number;
  private values = new Float64Array(0);
  private list = new Float64Array(16);
  private listCount = 0;
  private readonly lists: number[];
  private readonly endpoints: [number, number][];

  constructor(
    private readonly header: PlyHeader,
    private readonly file: string,
    private readonly reader: PlyReader,
  ) {
    this.before = header.length;
    if (header.format === 'ascii') {
      this.lines = new Lines(
        (bytes, from, to, line) => this.takeLine(bytes, from, to, line + header.lines),
        false,
      );
    }
    this.lists = header.elements.map((element) => reader.listOf(element));
    this.endpoints = header.elements.map(({ properties }) => [
      properties.findIndex(({ name }) => name === 'vertex1'),
      properties.findIndex(({ name }) => name === 'vertex2'),
    ]);
    this.skipEmpty();
  }

  push(piece: Uint8Array): void {
    if (this.lines) {
      this.lines.push(piece);
      return;
    }
    const bytes = behind(this.rest, piece);
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    let at = 0;
    for (let element = this.current; element; element = this.current) {
      const next = this.binaryElement(element, view, at);
      if (next < 0) break;
      at = next;
      this.advance();
    }
    this.before += at;
    this.rest = bytes.slice(at);
    // Behind the last element there may be anything.
    if (!this.current) this.rest = new Uint8Array(0);
  }

  /** @throws LensError `ply/truncated` */
  end(): void {
    this.lines?.end();
    const { current } = this;
    if (!current) return;
    const told = this.lines ? '' : ` at byte ${this.before + this.rest.length}`;
    throw new LensError(
      'ply/truncated',
      `the file ends${told} with ${this.number} of ${current.count} elements "${current.name}"`,
      { where: { file: this.file }, hint: 'It was cut off: copy or load it again.' },
    );
  }

  private get current(): PlyElement | undefined {
    return this.header.elements[this.element];
  }

  private advance(): void {
    this.number++;
    this.skipEmpty();
  }

  private skipEmpty(): void {
    for (let element = this.current; element && this.number >= element.count; element = this.current) {
      this.element++;
      this.number = 0;
    }
  }

  private takeLine(bytes: Uint8Array, from: number, to: number, line: number): void {
    const { current, words } = this;
    if (!current) return;
    words.begin(bytes, from, to);
    if (!words.next()) return;
    const refuse = (message: string, hint = ''): LensError =>
      new LensError('ply/number', message, { where: { file: this.file, line, column: words.column }, hint });
    let isFirst = true;
    const next = (): number => {
      if (!isFirst && !words.next())
        throw refuse(
          `an element "${current.name}" has ${current.properties.length} properties, and the line ends before`,
        );
      isFirst = false;
      const value = words.number;
      if (Number.isNaN(value) && !/^[+-]?nan/i.test(words.text))
        throw refuse(`"${words.text.slice(0, 40)}" is no number`);
      return value;
    };
    const { properties } = current;
    this.begin(properties.length);
    for (let p = 0; p < properties.length; p++) {
      const { countType } = properties[p]!; // p < length
      if (countType === undefined) this.values[p] = next();
      else {
        const count = next();
        if (!(Number.isInteger(count) && count >= 0 && count <= LONGEST_LIST))
          throw refuse(`a list cannot have ${count} members`);
        this.beginList(p, count);
        for (let k = 0; k < count; k++) {
          const value = next();
          if (p === this.lists[this.element]) this.list[k] = value;
        }
      }
    }
    this.finish(
      current,
      () =>
        new LensError('ply/index', `a ${current.name} names a vertex that is not there`, {
          where: { file: this.file, line },
          hint: `There are ${this.vertices}, counted from 0.`,
        }),
    );
    this.advance();
  }

  /** @returns where the next element begins; -1 when this one is not whole yet */
  private binaryElement(element: PlyElement, view: DataView, start: number): number {
    const { properties } = element;
    const isLittle = this.header.format === 'little';
    const { byteLength } = view;
    let at = start;
    this.begin(properties.length);
    for (let p = 0; p < properties.length; p++) {
      const { type, countType } = properties[p]!; // p < length
      const size = PLY_BYTES[type];
      if (countType === undefined) {
        if (at + size > byteLength) return -1;
        this.values[p] = read(view, at, type, isLittle);
        at += size;
        continue;
      }
      const countSize = PLY_BYTES[countType];
      if (at + countSize > byteLength) return -1;
      const count = read(view, at, countType, isLittle);
      if (count < 0 || count > LONGEST_LIST) {
        throw new LensError('ply/number', `a list at byte ${this.before + at} cannot have ${count} members`, {
          where: { file: this.file },
          hint: 'The file is damaged, or says another order of bytes than it has.',
        });
      }
      at += countSize;
      if (at + count * size > byteLength) return -1;
      this.beginList(p, count);
      if (p === this.lists[this.element])
        for (let k = 0; k < count; k++) this.list[k] = read(view, at + k * size, type, isLittle);
      at += count * size;
    }
    this.finish(
      element,
      () =>
        new LensError(
          'ply/index',
          `the ${element.name} at byte ${this.before + start} names a vertex that is not there`,
          { where: { file: this.file }, hint: `There are ${this.vertices}, counted from 0.` },
        ),
    );
    return at;
  }

  private get vertices(): number {
    return this.header.elements.find(({ name }) => name === 'vertex')!.count; // the reader found it
  }

  private begin(properties: number): void {
    if (this.values.length < properties) this.values = new Float64Array(properties);
    this.listCount = 0;
  }

  private beginList(property: number, count: number): void {
    this.values[property] = 0;
    if (property !== this.lists[this.element]) return;
    this.listCount = count;
    if (this.list.length < count) this.list = new Float64Array(Math.max(count, this.list.length * 2));
  }

  private finish({ name }: PlyElement, place: () => LensError): void {
    if (name === 'vertex') this.reader.takeVertex(this.values);
    else if (name === 'edge') {
      const [a, b] = this.endpoints[this.element]!; // one an element
      if (a >= 0 && b >= 0) this.reader.takeEdge(this.values[a]!, this.values[b]!, place); // properties of it
    } else if (this.lists[this.element]! >= 0)
      this.reader.takeFace(this.list, this.listCount, name === 'tristrips', place);
  }
}

function read(view: DataView, at: number, type: PlyType, isLittle: boolean): number {
  switch (type) {
    case 'i8':
      return view.getInt8(at);
    case 'u8':
      return view.getUint8(at);
    case 'i16':
      return view.getInt16(at, isLittle);
    case 'u16':
      return view.getUint16(at, isLittle);
    case 'i32':
      return view.getInt32(at, isLittle);
    case 'u32':
      return view.getUint32(at, isLittle);
    case 'f32':
      return view.getFloat32(at, isLittle);
    case 'f64':
      return view.getFloat64(at, isLittle);
  }
}
