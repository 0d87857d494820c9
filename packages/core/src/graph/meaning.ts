import type { Type } from './types.js';

/** What a value stands for, beyond its type: of a direction or a place the space it is in, of a number between what it lies. */
export interface Meaning {
  space?: 'world' | 'view' | 'object' | 'screen';
  isDirection?: boolean;
  /** Of a direction whether its length is 1; undefined: not known. */
  isUnit?: boolean;
  low?: number;
  high?: number;
  /** Of a setting: what it begins with. */
  usual?: number;
}

/** Something that WGSL takes and that is seldom meant. */
export interface Doubt {
  code: string;
  summary: string;
  hint: string;
}

const place = (space: Meaning['space']): Meaning => ({ ...(space ? { space } : {}) });
const direction = (space: Meaning['space'], isUnit = true): Meaning => ({
  ...(space ? { space } : {}),
  isDirection: true,
  isUnit,
});
const between = (low: number, high: number): Meaning => ({ low, high });

/** What members of the library's structures stand for. */
export const MEMBER_MEANINGS: Readonly<Record<string, Readonly<Record<string, Meaning>>>> = {
  Fragment: {
    position: place('world'),
    normal: direction('world'),
    toCamera: direction('world'),
    viewPosition: place('view'),
    viewNormal: direction('view'),
    objectPosition: place('object'),
    objectNormal: direction('object'),
    screenPosition: place('screen'),
  },
  Surface: {
    normal: direction('world'),
    clearcoatNormal: direction('world'),
    alpha: between(0, 1),
    metallic: between(0, 1),
    roughness: between(0, 1),
    occlusion: between(0, 1),
  },
  Light: { direction: direction('world') },
  Vertex: { position: place('object'), normal: direction('object') },
  Ray: { origin: place('object'), direction: direction('object') },
  Hit: { position: place('object'), normal: direction('object') },
  Frame: {
    cameraPosition: place('world'),
    forward: direction('world'),
    time: { low: 0 },
    delta: { low: 0 },
  },
  Pixel: { position: place('screen') },
};

/** What a call's value stands for. */
export function meaningOf(call: string, args: readonly Meaning[], type: Type | undefined): Meaning {
  const [a = {}, b = {}] = args;
  const space = a.space ?? b.space;
  switch (call) {
    case 'normalize':
      return direction(a.space);
    case 'reflect':
      return a.isUnit ? direction(a.space) : place(a.space);
    case 'cross':
      return { ...place(space), isDirection: true };
    case '-':
      if (args.length === 1)
        return { ...a, ...(a.low === undefined && a.high === undefined ? {} : opposite(a)) };
      // From one place to another is a way, of some length.
      return space ? { ...place(space), isDirection: true, isUnit: false } : difference(a, b);
    case '+':
      if (args.every(({ isDirection }) => isDirection)) return direction(space, false);
      return { ...place(space), ...sum(args) };
    case 'mix':
      return a.isDirection && b.isDirection ? direction(space, false) : { ...place(space), ...hull(a, b) };
    case '*':
      return product(args);
    case 'dot':
      return a.isUnit && b.isUnit ? between(-1, 1) : {};
    case 'saturate':
    case 'fract':
    case 'smoothstep':
    case 'step':
    case 'stepped':
    case 'checker':
    case 'stripes':
    case 'easeIn':
    case 'easeOut':
    case 'easeInOut':
    case 'mirroredShare':
    case 'hashFloat':
      return type && type.kind === 'vec' && call === 'hashFloat' ? {} : between(0, 1);
    case 'sin':
    case 'cos':
    case 'sign':
      return between(-1, 1);
    case 'noise':
    case 'noise2':
    case 'layeredNoise':
      return between(-1.1, 1.1);
    case 'abs':
      return absolute(a);
    case 'length':
    case 'distance':
    case 'exp':
    case 'exp2':
    case 'sqrt':
    case 'luminance':
      return { low: 0 };
    case 'pow':
      return a.low !== undefined && a.low >= 0
        ? { low: 0, ...(a.high !== undefined && a.high <= 1 ? { high: 1 } : {}) }
        : {};
    case 'max':
      return bounds(most(a.low, b.low), both(a.high, b.high, Math.max));
    case 'min':
      return bounds(both(a.low, b.low, Math.min), least(a.high, b.high));
    case 'clamp':
      return bounds(most(a.low, args[1]?.low), least(a.high, args[2]?.high));
    default:
      return {};
  }
}

const bounds = (low: number | undefined, high: number | undefined): Meaning => ({
  ...(low === undefined ? {} : { low }),
  ...(high === undefined ? {} : { high }),
});
const both = (
  a: number | undefined,
  b: number | undefined,
  of: (a: number, b: number) => number,
): number | undefined => (a === undefined || b === undefined ? undefined : of(a, b));
const most = (a: number | undefined, b: number | undefined): number | undefined =>
  a === undefined ? b : b === undefined ? a : Math.max(a, b);
const least = (a: number | undefined, b: number | undefined): number | undefined =>
  a === undefined ? b : b === undefined ? a : Math.min(a, b);
const negated = (value: number | undefined): number | undefined =>
  value === undefined ? undefined : 0 - value;
const opposite = ({ high, low }: Meaning): Meaning => bounds(negated(high), negated(low));
const sum = (args: readonly Meaning[]): Meaning =>
  args.reduce((a, b) =>
    bounds(
      both(a.low, b.low, (x, y) => x + y),
      both(a.high, b.high, (x, y) => x + y),
    ),
  );
const difference = (a: Meaning, b: Meaning): Meaning => sum([a, opposite(b)]);
const hull = (a: Meaning, b: Meaning): Meaning =>
  bounds(both(a.low, b.low, Math.min), both(a.high, b.high, Math.max));
const absolute = ({ high, low }: Meaning): Meaning =>
  low !== undefined && high !== undefined
    ? bounds(
        low <= 0 && high >= 0 ? 0 : Math.min(Math.abs(low), Math.abs(high)),
        Math.max(Math.abs(low), Math.abs(high)),
      )
    : { low: 0 };

function product(args: readonly Meaning[]): Meaning {
  const space = args.find((one) => one.space)?.space;
  const [first, ...rest] = args;
  const range = rest.reduce<Meaning>((a, b) => {
    if (a.low === undefined || a.high === undefined || b.low === undefined || b.high === undefined)
      return a.low !== undefined && a.low >= 0 && b.low !== undefined && b.low >= 0 ? { low: 0 } : {};
    const all = [a.low * b.low, a.low * b.high, a.high * b.low, a.high * b.high];
    return bounds(Math.min(...all), Math.max(...all));
  }, first ?? {});
  return { ...place(space), ...bounds(range.low, range.high) };
}

/** Whether two stand in spaces that have nothing to do with each other. */
const differ = (a: Meaning | undefined, b: Meaning | undefined): boolean =>
  a?.space !== undefined && b?.space !== undefined && a.space !== b.space;

const TOGETHER = new Set(['dot', 'cross', 'distance', 'reflect', 'refract', '+', '-', 'mix', 'faceForward']);

/** What of a call is seldom meant. @param names what its inputs are called, for messages */
export function doubtsOf(call: string, args: readonly Meaning[], names: readonly string[]): Doubt[] {
  const doubts: Doubt[] = [];
  const [a, b] = args;
  const say = (code: string, summary: string, hint: string): void =>
    void doubts.push({ code, summary, hint });
  if (TOGETHER.has(call) && differ(a, b))
    say(
      'graph/spaces',
      `${names[0]} is in ${a!.space} space and ${names[1]} in ${b!.space} space`, // both have one
      'Take both of one space: normal, toCamera and position of a fragment are of the world.',
    );
  if (call === 'dot' || call === 'reflect')
    for (const [i, one] of args.slice(0, 2).entries())
      if (
        one.isDirection &&
        one.isUnit === false &&
        (args[1 - i]?.isUnit === true || (call === 'reflect' && i === 1))
      )
        say(
          'graph/length',
          `${names[i]} is a direction whose length is not 1`,
          'Put normalize before it: the sum or the difference of directions has another length.',
        );
  if (
    (call === 'pow' || call === 'sqrt' || call === 'log' || call === 'log2') &&
    a?.low !== undefined &&
    a.low < 0
  )
    say(
      'graph/negative',
      `${names[0]} may be below 0, and ${call} of that is not a number`,
      'Put saturate, abs or max before it.',
    );
  if (call === 'pow' && b?.low === 0 && b.high === 0)
    say('graph/power', 'to the power of 0 everything is 1', 'Give an exponent above 0.');
  const edge = a?.usual ?? a?.high;
  if (call === 'step' && edge !== undefined && b?.low !== undefined && edge <= b.low)
    say(
      'graph/passes-all',
      `${names[1]} is never below ${edge}: step lets everything through`,
      'Raise the edge.',
    );
  if (call === 'step' && a && b && a.low !== undefined && b.high !== undefined && a.low > b.high)
    say(
      'graph/passes-none',
      `${names[1]} never reaches ${a.low}: step lets nothing through`,
      'Lower the edge.',
    );
  const x = args[2];
  const isRising = a?.high !== undefined && b?.low !== undefined && a.high < b.low;
  if (call === 'smoothstep' && isRising && b.high !== undefined && x?.low !== undefined && b.high <= x.low)
    say(
      'graph/passes-all',
      `${names[2]} is never below ${b.high}: smoothstep lets everything through`,
      'Raise both edges.',
    );
  if (
    call === 'smoothstep' &&
    a?.low !== undefined &&
    a.low === a.high &&
    a.low === b?.low &&
    b.low === b.high
  )
    say('graph/edges', 'both edges are the same', 'Move them apart.');
  return doubts;
}
