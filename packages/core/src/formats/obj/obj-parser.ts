import { LensError, type Warning } from '../../errors/lens-error.js';
import { linearFromSrgb } from '../../math/srgb.js';
import { GrownFloats } from '../bytes/grown.js';
import type { TakeLine } from '../bytes/lines.js';
import { Words } from '../bytes/words.js';
import { NONE, type ObjLists, ObjPart } from './obj-part.js';

/** Something with a name of its own: an object, or a group where there are no objects. */
export interface ObjThing {
  name: string | undefined;
  /** By material's name, '' for none, and kind of what it is made of. */
  parts: Map<string, { material: string; part: ObjPart }>;
}

/** Surfaces and curves by formulas, which need a modeller. */
const FREE_FORM = new Set(
  'vp cstype deg bmat step curv curv2 surf parm trim hole scrv sp end con bsp bzp cdc cdp res'.split(' '),
);
/** What says how to draw, and changes no shape. */
const DISPLAY = new Set(
  'mg bevel c_interp d_interp lod maplib usemap shadow_obj trace_obj ctech stech call csh'.split(' '),
);

/** Statements of an OBJ file, line by line. Numbers are checked here; what is wrong names its line and column. */
export class ObjParser {
  readonly lists: ObjLists = {
    positions: new GrownFloats(),
    coordinates: new GrownFloats(),
    normals: new GrownFloats(),
    colors: new GrownFloats(),
    hasSmoothing: false,
  };
  readonly things: ObjThing[] = [];
  /** Names of material files, as they are written. */
  readonly libraries: { name: string; line: number }[] = [];
  readonly warnings: Warning[] = [];
  private readonly words = new Words();
  private readonly told = new Set<string>();
  private objectName: string | undefined;
  private groupName: string | undefined;
  private material = '';
  private smoothing = NONE;
  private current: ObjThing | undefined;
  /** Where the element before went: the next one mostly goes there too. */
  private last: { thing: ObjThing; mode: ObjPart['mode']; material: string; part: ObjPart } | undefined;
  private readonly thingOf = new Map<string | undefined, ObjThing>();
  private line = 0;
  /** Faces may name what comes later: the highest of each list, and who did so. */
  private readonly highest = [
    { kind: 'place', number: -1, line: 0, column: 0 },
    { kind: 'texture coordinate', number: -1, line: 0, column: 0 },
    { kind: 'normal', number: -1, line: 0, column: 0 },
  ] as const;

  constructor(private readonly file: string) {}

  readonly take: TakeLine = (bytes, from, to, line) => {
    const { words } = this;
    this.line = line;
    words.begin(bytes, from, to);
    if (!words.next() || words.byte(0) === 35) return;
    if (words.is('v')) this.place();
    else if (words.is('f') || words.is('fo')) this.element('triangles', 3);
    else if (words.is('vt')) this.numbers(this.lists.coordinates, 2, 1, 'a texture coordinate');
    else if (words.is('vn')) this.numbers(this.lists.normals, 3, 3, 'a normal');
    else this.other(words.text);
  };

  /** To be called behind the last line. @throws LensError `obj/index` for numbers of what never came */
  finish(): void {
    const { positions, coordinates, normals } = this.lists;
    [positions.length / 3, coordinates.length / 2, normals.length / 3].forEach((count, i) => {
      const { kind, number, line, column } = this.highest[i]!; // three
      if (number < count) return;
      throw new LensError('obj/index', `there is no ${kind} ${number + 1}`, {
        where: { file: this.file, line, column },
        hint: `The file has ${count}, counted from 1.`,
      });
    });
  }

  private other(word: string): void {
    const { words } = this;
    switch (word) {
      case 'o':
        this.objectName = words.remainder || undefined;
        this.groupName = undefined;
        this.current = undefined;
        break;
      case 'g':
        this.groupName = words.remainder || undefined;
        if (this.objectName === undefined) this.current = undefined;
        break;
      case 'usemtl':
        this.material = words.remainder;
        break;
      case 'mtllib':
        this.libraries.push({ name: words.remainder, line: this.line });
        break;
      case 's':
        this.setSmoothing();
        break;
      case 'l':
        this.element('lines', 2);
        break;
      case 'p':
        this.element('points', 1);
        break;
      default:
        if (FREE_FORM.has(word))
          this.warn('obj/free-form', `"${word}": curves and surfaces by formulas are not read`);
        else if (!DISPLAY.has(word))
          this.warn('obj/statement', `"${word}" is no statement of OBJ and is passed over`);
    }
  }

  private setSmoothing(): void {
    const { words } = this;
    if (!words.next()) return this.fail('obj/number', 'a smoothing group has a number, or is off');
    if (words.is('off')) this.smoothing = 0;
    else {
      const { number } = words;
      if (words.is('on')) this.smoothing = 1;
      else if (Number.isInteger(number) && number >= 0) this.smoothing = number;
      else this.fail('obj/number', `"${words.text}" is no smoothing group`, 'Give a whole number, or off.');
    }
    this.lists.hasSmoothing = true;
  }

  /** A place, with a weight or a colour behind it. */
  private place(): void {
    const { lists } = this;
    let count = 0;
    while (this.nextNumber()) {
      const value = this.number();
      if (count < 7) read[count] = value;
      count++;
    }
    if (count < 3) this.fail('obj/number', `a place has three numbers, not ${count}`);
    const { positions, colors } = lists;
    const before = positions.length;
    for (let k = 0; k < 3; k++) positions.push(read[k]!); // three
    // Three behind are a colour; a fourth number alone is a weight, and a colour may follow it.
    const at = count === 6 ? 3 : count >= 7 ? 4 : 0;
    if (at === 0 && colors.length === 0) return;
    while (colors.length < before) colors.push(1);
    for (let k = 0; k < 3; k++)
      colors.push(at === 0 ? 1 : linearFromSrgb(Math.min(1, Math.max(0, read[at + k]!))));
  }

  private numbers(list: GrownFloats, most: number, least: number, what: string): void {
    let count = 0;
    while (count < most && this.nextNumber()) {
      list.push(this.number());
      count++;
    }
    if (count < least) this.fail('obj/number', `${what} has ${least} numbers or more, not ${count}`);
    while (count++ < most) list.push(0);
  }

  /** Goes to the next word, if that does not begin a remark. */
  private nextNumber(): boolean {
    return this.words.next() && this.words.byte(0) !== 35;
  }

  private number(): number {
    const value = this.words.number;
    if (!Number.isFinite(value)) this.fail('obj/number', `"${shown(this.words.text)}" is no number`);
    return value;
  }

  private element(mode: ObjPart['mode'], least: number): void {
    const part = this.partFor(mode);
    part.begin();
    let corners = 0;
    while (this.nextNumber()) {
      this.corner(part);
      corners++;
    }
    if (corners < least) {
      const what = { triangles: 'face', lines: 'line', points: 'list of points' }[mode];
      this.warn('obj/corners', `a ${what} has ${least} corners or more, not ${corners}: it is passed over`);
      return;
    }
    part.end(this.smoothing);
  }

  /** `place`, `place/coordinate`, `place//normal` or `place/coordinate/normal`; below 0: counted back from the last. */
  private corner(part: ObjPart): void {
    const { words, lists } = this;
    const { length } = words;
    let from = 0;
    found[1] = found[2] = NONE;
    for (let k = 0; k < 3; k++) {
      let to = from;
      while (to < length && words.byte(to) !== 47) to++;
      if (to > from) found[k] = this.index(k, words.numberAt(from, to), countOf(lists, k));
      else if (k === 0) this.fail('obj/index', `"${shown(words.text)}" names no place`);
      if (to >= length) break;
      if (k === 2) this.fail('obj/index', `"${shown(words.text)}" has more than three numbers`);
      from = to + 1;
    }
    part.corner(found[0]!, found[1]!, found[2]!); // three
  }

  private index(kind: number, number: number, count: number): number {
    const index = number < 0 ? count + number : number - 1;
    if (!Number.isInteger(number) || number === 0 || index < 0 || index >= NONE >>> 2) {
      this.fail(
        'obj/index',
        `"${shown(this.words.text)}" names no ${this.highest[kind]!.kind}`,
        number === 0 ? 'They are counted from 1.' : `There are ${count} so far.`,
      );
    }
    const highest = this.highest[kind]!; // three
    if (index > highest.number)
      Object.assign(highest, { number: index, line: this.line, column: this.words.column });
    return index;
  }

  private partFor(mode: ObjPart['mode']): ObjPart {
    const { last } = this;
    if (last && last.thing === this.current && last.mode === mode && last.material === this.material)
      return last.part;
    if (!this.current) {
      const name = this.objectName ?? this.groupName;
      // An object or group that is named again goes on.
      this.current = this.thingOf.get(name);
      if (!this.current) {
        this.things.push((this.current = { name, parts: new Map() }));
        this.thingOf.set(name, this.current);
      }
    }
    const key = `${mode} ${this.material}`;
    let found = this.current.parts.get(key);
    if (!found)
      this.current.parts.set(key, (found = { material: this.material, part: new ObjPart(mode, this.lists) }));
    this.last = { thing: this.current, mode, material: this.material, part: found.part };
    return found.part;
  }

  private warn(code: string, message: string): void {
    if (this.told.has(message)) return;
    this.told.add(message);
    // Whoever has thousands of strange words is told of the first.
    if (this.warnings.length < 100)
      this.warnings.push({
        code,
        message,
        where: { file: this.file, line: this.line, column: this.words.column },
      });
  }

  private fail(code: string, message: string, hint = ''): never {
    throw new LensError(code, message, {
      where: { file: this.file, line: this.line, column: this.words.column },
      hint,
    });
  }
}

const read = new Float64Array(7);
const found = new Uint32Array(3);

const countOf = ({ positions, coordinates, normals }: ObjLists, kind: number): number =>
  kind === 0 ? positions.length / 3 : kind === 1 ? coordinates.length / 2 : normals.length / 3;

const shown = (text: string): string => (text.length > 40 ? `${text.slice(0, 37)}...` : text);
