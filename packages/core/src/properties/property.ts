/** What a member of a plain object, or of a node, may hold. */
export interface Property {
  /** What it does, in a line. */
  line: string;
  /** `object`: by a table of its own, in `of`. `given`: something of the library's or the user's that is not looked into. */
  type: PropertyType;
  /** Types that it may be as well. */
  or?: readonly PropertyType[];
  /** Of `numbers`: how many. Left out: any. */
  length?: number;
  /** Least and greatest of each number. */
  range?: readonly [min: number, max: number];
  /** Whether the range's ends are left out. */
  isOpen?: boolean;
  /** Whether its numbers have no fraction. */
  isWhole?: boolean;
  /** Of `word`: all that there are. */
  words?: readonly string[];
  of?: Table;
  /** What its numbers count; by the `type` of its thing where that differs. */
  unit?: Unit | Readonly<Record<string, Unit>>;
  /** Where it is a color: `linear` is what light is added in, `encoded` what screens and CSS have (sRGB). */
  color?: 'linear' | 'encoded';
  /** Where it is a name: of itself, or of something else. */
  names?: 'itself' | 'node' | 'animation' | 'parameter' | 'state' | 'shader';
  /** What counts where it is left out. Left out itself: nothing, or what the line says. */
  default?: number | boolean | string | readonly number[];
  /** Values of `type`, of the thing that has it, for which it counts. Left out: for all. */
  only?: readonly string[];
  /** Of a texture: what files call its strength. */
  strength?: 'scale' | 'strength';
  /** Where glTF 2.0 or an extension has it, below the thing: names joined by slashes. */
  file?: string;
  /** Whether it counts when the thing is made, and cannot be written to afterwards. Left out: as its kind says. */
  isFixed?: boolean;
}

export type PropertyType =
  'number' | 'numbers' | 'boolean' | 'string' | 'word' | 'texture' | 'object' | 'given' | 'function';

export type Unit =
  | 'radians'
  | 'metres'
  | '1 / metre'
  | 'nanometres'
  | 'metres / second'
  | 'metres / second²'
  | 'seconds'
  | 'milliseconds'
  | 'pixels'
  | 'texels'
  | 'lux'
  | 'candela'
  | 'candela / metre²'
  | 'kelvin'
  | 'stops';

/** What a thing may hold, by name. */
export type Table = Readonly<Record<string, Property>>;

/** Names that other trades and formats have for ours. */
export type Meant = Readonly<Record<string, string>>;
