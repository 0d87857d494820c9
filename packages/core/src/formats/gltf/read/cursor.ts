import { LensError, type SourcePlace, type Warning } from '../../../errors/lens-error.js';

/** What every place in a document shares: its file, and where warnings go. */
export interface Report {
  file: string;
  warnings: Warning[];
}

/**
 * One place in a JSON document. Getters check what they give out and name the place by its JSON
 * pointer when it is wrong; the pointer's text is built only then.
 */
export class Cursor {
  private constructor(
    private readonly report: Report,
    readonly value: unknown,
    private readonly parent: Cursor | undefined,
    private readonly key: string | number,
  ) {}

  static root(value: unknown, report: Report): Cursor {
    return new Cursor(report, value, undefined, '');
  }

  get pointer(): string {
    if (!this.parent) return '';
    return `${this.parent.pointer}/${String(this.key).replace(/~/g, '~0').replace(/\//g, '~1')}`;
  }

  get where(): SourcePlace {
    return { ...(this.report.file ? { file: this.report.file } : {}), pointer: this.pointer };
  }

  fail(code: string, message: string, hint = ''): never {
    throw new LensError(`gltf/${code}`, message, { hint, where: this.where });
  }

  warn(code: string, message: string): void {
    // A file with a million faults of one kind needs not a million lines.
    if (this.report.warnings.length >= 1000) return;
    this.report.warnings.push({ code: `gltf/${code}`, message, where: this.where });
  }

  /** Property `key` as a place of its own, or undefined where it is absent. */
  get(key: string): Cursor | undefined {
    const value = (this.value as Record<string, unknown>)[key];
    return value === undefined || !Object.hasOwn(this.value as object, key)
      ? undefined
      : new Cursor(this.report, value, this, key);
  }

  /** Property `key`, which must be there. */
  need(key: string): Cursor {
    return this.get(key) ?? this.fail('missing', `"${key}" is missing`, `glTF 2.0 requires "${key}" here.`);
  }

  object(): this {
    if (typeof this.value !== 'object' || this.value === null || Array.isArray(this.value)) {
      this.fail('type', `an object is expected, not ${kindOf(this.value)}`);
    }
    return this;
  }

  /** Elements of this place, which is an array. */
  items(): Cursor[] {
    return (this.value as unknown[]).map((value, i) => new Cursor(this.report, value, this, i));
  }

  /** Elements of an array as places; a missing array is an empty one. */
  list(key: string): Cursor[] {
    const at: Cursor | undefined = this.get(key);
    if (!at) return [];
    if (!Array.isArray(at.value)) at.fail('type', `an array is expected, not ${kindOf(at.value)}`);
    return at.items();
  }

  text(key: string): string | undefined {
    const at: Cursor | undefined = this.get(key);
    if (!at) return undefined;
    if (typeof at.value !== 'string') at.fail('type', `a string is expected, not ${kindOf(at.value)}`);
    return at.value as string;
  }

  flag(key: string): boolean | undefined {
    const at: Cursor | undefined = this.get(key);
    if (!at) return undefined;
    if (typeof at.value !== 'boolean') at.fail('type', `true or false is expected, not ${kindOf(at.value)}`);
    return at.value as boolean;
  }

  number(key: string, least = -Infinity, most = Infinity): number | undefined {
    const at = this.get(key);
    return at?.asNumber(least, most);
  }

  /** This place as a finite number within limits. */
  asNumber(least = -Infinity, most = Infinity): number {
    const { value } = this;
    if (typeof value !== 'number') this.fail('type', `a number is expected, not ${kindOf(value)}`);
    if (!Number.isFinite(value)) this.fail('not-finite', `${value} is not a finite number`);
    if (value < least || value > most) {
      this.fail('range', `${value} is out of range`, `Allowed is ${range(least, most)}.`);
    }
    return value;
  }

  whole(key: string, least = 0, most = Number.MAX_SAFE_INTEGER): number | undefined {
    return this.get(key)?.asWhole(least, most);
  }

  asWhole(least = 0, most = Number.MAX_SAFE_INTEGER): number {
    const value = this.asNumber();
    if (!Number.isInteger(value)) this.fail('type', `a whole number is expected, not ${value}`);
    if (value < least || value > most) {
      this.fail('range', `${value} is out of range`, `Allowed is ${range(least, most)}.`);
    }
    return value;
  }

  /** An array of exactly `n` finite numbers. */
  numbers(key: string, n: number, least = -Infinity, most = Infinity): number[] | undefined {
    const at: Cursor | undefined = this.get(key);
    if (!at) return undefined;
    const list = this.list(key);
    if (list.length !== n) at.fail('length', `${n} numbers are expected, not ${list.length}`);
    return list.map((item) => item.asNumber(least, most));
  }

  /** This place as an index into `list`. */
  pick<T>(list: readonly T[], what: string): T {
    const index = this.asWhole();
    if (index >= list.length) {
      this.fail(
        'index-out-of-range',
        `${what} ${index} does not exist`,
        list.length === 0
          ? `The file has no ${what}s.`
          : `There are ${list.length}: 0 to ${list.length - 1}.`,
      );
    }
    return list[index]!; // in range by the check above
  }

  choice<T extends string | number>(key: string, allowed: readonly T[]): T | undefined {
    const at: Cursor | undefined = this.get(key);
    if (!at) return undefined;
    if (!allowed.includes(at.value as T)) {
      at.fail(
        'choice',
        `${JSON.stringify(at.value)} is not allowed here`,
        `Allowed is ${allowed.join(', ')}.`,
      );
    }
    return at.value as T;
  }

  /** Name and extras, which nearly everything in glTF may have. */
  common(): { name?: string; extras?: unknown } {
    const name = this.text('name');
    const extras = this.get('extras')?.value;
    return { ...(name === undefined ? {} : { name }), ...(extras === undefined ? {} : { extras }) };
  }

  /** The object of an extension at this place. */
  extension(name: string): Cursor | undefined {
    return this.get('extensions')?.object().get(name)?.object();
  }
}

function range(least: number, most: number): string {
  if (most === Infinity || most === Number.MAX_SAFE_INTEGER) return `${least} or more`;
  return least === -Infinity ? `${most} or less` : `${least} to ${most}`;
}

function kindOf(value: unknown): string {
  if (value === null) return 'null';
  if (Array.isArray(value)) return 'an array';
  return typeof value === 'object' ? 'an object' : `a ${typeof value}`;
}
