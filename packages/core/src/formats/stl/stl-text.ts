import { LensError, type Warning } from '../../errors/lens-error.js';
import type { TakeLine } from '../bytes/lines.js';
import { Words } from '../bytes/words.js';
import { StlSolid } from './solid.js';

/** Statements of an ASCII STL, line by line: whatever its words stand on, and however they are indented. */
export class StlText {
  private solid: StlSolid | undefined;
  private readonly words = new Words();
  private readonly corners = new Float32Array(9);
  private count = 0;
  private isInFacet = false;
  private line = 0;

  constructor(
    private readonly file: string,
    private readonly solids: StlSolid[],
    private readonly warnings: Warning[],
  ) {}

  readonly take: TakeLine = (bytes, from, to, line) => {
    const { words } = this;
    this.line = line;
    words.begin(bytes, from, to);
    while (words.next()) {
      const word = words.text.toLowerCase();
      switch (word) {
        case 'solid':
          this.solid = new StlSolid(words.remainder || undefined);
          this.solids.push(this.solid);
          return;
        case 'endsolid':
          if (this.isInFacet) this.fail('a solid ends within a facet');
          this.solid = undefined;
          return;
        case 'facet':
          if (this.isInFacet) this.fail('a facet begins within another');
          this.isInFacet = true;
          this.count = 0;
          break;
        case 'normal':
          for (let k = 0; k < 3; k++) this.number(true);
          break;
        case 'outer':
        case 'loop':
        case 'endloop':
          break;
        case 'vertex':
          this.vertex();
          break;
        case 'endfacet':
          this.endFacet();
          break;
        default:
          this.fail(`"${words.text.slice(0, 40)}" is no word of an ASCII STL`, 'stl/word');
      }
    }
  };

  /** @throws LensError `stl/truncated` for a facet without end */
  end(): void {
    if (this.isInFacet)
      throw new LensError('stl/truncated', 'the file ends within a facet', {
        where: { file: this.file, line: this.line },
        hint: 'It was cut off: copy or load it again.',
      });
    if (this.solid)
      this.warnings.push({
        code: 'stl/open',
        message: 'the last solid has no end: the file may have been cut off',
        where: { file: this.file, line: this.line },
      });
  }

  private vertex(): void {
    if (!this.isInFacet || this.count === 3)
      this.fail(
        this.isInFacet ? 'a facet has three corners, not more' : 'a corner stands outside of every facet',
      );
    for (let k = 0; k < 3; k++) this.corners[this.count * 3 + k] = this.number(false);
    this.count++;
  }

  private endFacet(): void {
    if (this.count !== 3) this.fail(`a facet has three corners, not ${this.count}`);
    if (!this.solid) this.solids.push((this.solid = new StlSolid(undefined)));
    this.solid.add(this.corners, undefined);
    this.isInFacet = false;
  }

  /** @param mayBeNone normals of no direction are written as nan by some */
  private number(mayBeNone: boolean): number {
    const { words } = this;
    const value = words.next() ? words.number : Number.NaN;
    if (!Number.isFinite(value) && !(mayBeNone && words.length > 0))
      this.fail(`"${words.text.slice(0, 40)}" is no number`, 'stl/number');
    return value;
  }

  private fail(message: string, code = 'stl/facet'): never {
    throw new LensError(code, message, {
      where: { file: this.file, line: this.line, column: this.words.column },
    });
  }
}
