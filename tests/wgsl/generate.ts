/**
 * Random well-typed programs, the same for the same seed. Floats stay small multiples of a quarter,
 * whose sums and products f32 holds exactly, so three implementations must agree to the last bit.
 */

/** A statement as text with statements inside, so that a failing program can be cut down. */
export interface Piece {
  head: string;
  inner: Piece[] | undefined;
  tail: string;
}

export interface Program {
  seed: number;
  /** Declarations ahead of the body. */
  head: string;
  body: Piece[];
}

export function programText({ head, body }: Program): string {
  const text = (pieces: Piece[], indent: string): string =>
    pieces
      .map(
        (p) => `${indent}${p.head}${p.inner ? `\n${text(p.inner, `${indent}  `)}${indent}` : ''}${p.tail}\n`,
      )
      .join('');
  return `${head}\nfn program(i: u32) -> vec4u {\n${START}${text(body, '  ')}${END}}\n`;
}

const START = `  var n0 = i32(i) - 7; var n1 = 12345i; var w0 = i * 2654435761u; var w1 = 77u;
  var f0 = f32(i) * 0.25; var f1 = -1.5; var b0 = i > 3u;
  var v0 = vec3f(0.5, -2, f32(i)); var vi = vec3i(n0, 3, -8); var vu = vec2u(w0, 9);
  var list = array<i32, 4>(1, n0, 3, -4); var m = mat2x2f(1, 0.5, -1, f0); var s = S(2, vec2f(0.25, 1), array<u32, 3>(1, 2, w0));
`;
const END = `  var hash = u32(n0) ^ (u32(n1) * 31u) ^ w0 ^ (w1 << 7u) ^ u32(vi.x) ^ (u32(vi.y) * 7u) ^ u32(vi.z) ^ vu.x ^ (vu.y * 3u);
  for (var k = 0u; k < 4u; k++) { hash = (hash * 16777619u) ^ u32(list[k]); }
  hash ^= s.list[0] ^ s.list[1] ^ s.list[2] ^ u32(s.a);
  if b0 { hash += 1u; }
  return vec4u(hash, bitcast<u32>(f0 + 0.0), bitcast<u32>(f1 + v0.x + 0.0), bitcast<u32>(v0.y + v0.z + m[1].y + s.v.x + 0.0));
`;

const HEAD = `struct S { a: i32, v: vec2f, list: array<u32, 3> }
var<private> count: i32;
const TABLE = array<i32, 5>(3, -1, 4, -15, 92);
fn tame(x: f32) -> f32 { return clamp(floor(x * 4) * 0.25, -64, 64); }
fn tame3(x: vec3f) -> vec3f { return clamp(floor(x * 4) * 0.25, vec3f(-64), vec3f(64)); }
fn bump(p: ptr<function, i32>, by: i32) -> i32 { *p += by; count += 1; return *p ^ count; }
fn turn(p: ptr<function, array<i32, 4>>) { let t = (*p)[0]; for (var k = 0; k < 3; k++) { p[k] = p[k + 1]; } p[3] = t; }
fn early(x: i32) -> i32 { if x > 10 { return x - 10; } for (var k = 0; k < 5; k++) { if k * k > x { return k; } } return -x; }
`;

/** Factors that take floats to the ends of the whole numbers and beyond. */
const LARGE = ['1e8f', '-3e8f', '2147483520f', '4294967040f', '1e30f', '134217728f'];
/** Constants about those ends, of f32 and of no type yet. */
const CONSTANT = [
  '3e9f',
  '-3e9f',
  '5e9f',
  '2147483648f',
  '4294967296f',
  '2147483647.0',
  '3e9',
  '-3e9',
  '5e9',
  '1e300',
];

export function generate(seed: number): Program {
  let state = (seed * 2654435761 + 1) >>> 0;
  const random = (n: number): number => {
    state ^= state << 13;
    state >>>= 0;
    state ^= state >>> 17;
    state ^= state << 5;
    state >>>= 0;
    return state % n;
  };
  const pick = <T>(options: readonly T[]): T => options[random(options.length)]!;
  let names = 0;
  let depth = 0;
  const deep = (make: () => string, leaf: () => string): string => {
    if (depth > 3 || random(4) === 0) return leaf();
    depth++;
    const text = make();
    depth--;
    return text;
  };
  const int = (): string =>
    deep(
      () =>
        pick([
          () => `(${int()} ${pick(['+', '-', '*', '/', '%', '&', '|', '^'])} ${int()})`,
          () => `(${int()} ${pick(['<<', '>>'])} (${word()} & 31u))`,
          () =>
            `${pick(['abs', '-', '~', 'sign', 'countOneBits', 'reverseBits', 'firstLeadingBit', 'firstTrailingBit', 'countLeadingZeros', 'countTrailingZeros'])}(${int()})`,
          () => `${pick(['min', 'max'])}(${int()}, ${int()})`,
          () => `clamp(${int()}, -100, 100)`,
          () => `select(${int()}, ${int()}, ${bool()})`,
          () => `i32(${pick([word, float])()})`,
          () => `i32(${float()} * ${pick(LARGE)})`,
          () => `i32(${pick(CONSTANT)})`,
          () => `list[${word()} & 3u]`,
          () => `TABLE[${word()} % 5u]`,
          () => `extractBits(${int()}, ${random(20)}u, ${random(12)}u)`,
          () => `insertBits(${int()}, ${int()}, ${random(20)}u, ${random(12)}u)`,
          () => `dot(${ivec()}, ${ivec()})`,
          () => `bump(&n1, ${random(9)})`,
          () => `early(${int()})`,
          () => `bitcast<i32>(${word()})`,
          () => `${ivec()}[${random(3)}]`,
        ])(),
      () => pick(['n0', 'n1', 'vi.x', 'vi.z', 's.a', 'list[2]', 'count', `(${random(40) - 20}i)`]),
    );
  const word = (): string =>
    deep(
      () =>
        pick([
          () => `(${word()} ${pick(['+', '-', '*', '/', '%', '&', '|', '^'])} ${word()})`,
          () => `(${word()} ${pick(['<<', '>>'])} (${word()} & 31u))`,
          () =>
            `${pick(['~', 'countOneBits', 'reverseBits', 'firstLeadingBit', 'firstTrailingBit', 'countLeadingZeros'])}(${word()})`,
          () => `${pick(['min', 'max'])}(${word()}, ${word()})`,
          () => `u32(${pick([int, float])()})`,
          () => `u32(${float()} * ${pick(LARGE)})`,
          () => `u32(${pick(CONSTANT)})`,
          () => `vec2u(vec2f(${float()}, ${float()}) * ${pick(LARGE)}).y`,
          () => `pack4xU8(vec4u(${word()}, 1u, ${word()}, 4u))`,
          () => `unpack4xU8(${word()}).${pick(['x', 'y', 'w'])}`,
          () => `dot4U8Packed(${word()}, ${word()})`,
          () => `s.list[${word()} % 3u]`,
          () =>
            `extractBits(${word()}, ${random(32)}u, ${random(32)}u)`.replace(
              /, (\d+)u, (\d+)u\)$/,
              (_m, o: string, c: string) => `, ${o}u, ${Math.min(Number(c), 32 - Number(o))}u)`,
            ),
          () => `select(${word()}, ${word()}, ${bool()})`,
        ])(),
      () => pick(['w0', 'w1', 'vu.x', 'vu.y', 'i', `${random(100)}u`]),
    );
  const float = (): string =>
    deep(
      () =>
        pick([
          () => `tame(${float()} ${pick(['+', '-', '*'])} ${float()})`,
          () =>
            `${pick(['abs', 'floor', 'ceil', 'trunc', 'sign', '-', 'fract', 'round', 'saturate'])}(${float()})`,
          () => `${pick(['min', 'max', 'step'])}(${float()}, ${float()})`,
          () => `f32(${int()} & 15)`,
          () => `select(${float()}, ${float()}, ${bool()})`,
          () => `tame(dot(${vec()}, ${vec()}))`,
          () => `${vec()}.${pick(['x', 'y', 'z'])}`,
          () => `tame((m * vec2f(${float()}, 0.5)).${pick(['x', 'y'])})`,
          () => `tame(mix(${float()}, ${float()}, 0.5))`,
          () => `tame(determinant(m))`,
          () => `modf(${float()}).${pick(['fract', 'whole'])}`,
          () => `tame(ldexp(${float()}, ${random(4) - 1}))`,
        ])(),
      () => pick(['f0', 'f1', 'v0.x', 'v0.z', 's.v.y', 'm[0].x', `(${(random(40) / 4 - 5).toFixed(2)}f)`]),
    );
  const bool = (): string =>
    deep(
      () =>
        pick([
          () => `(${int()} ${pick(['<', '<=', '>', '>=', '==', '!='])} ${int()})`,
          () => `(${word()} ${pick(['<', '>', '=='])} ${word()})`,
          () => `(${float()} ${pick(['<', '<=', '>', '==', '!='])} ${float()})`,
          () => `(${bool()} ${pick(['&&', '||', '&', '|', '==', '!='])} ${bool()})`,
          () => `!${bool()}`,
          () => `${pick(['all', 'any'])}(${vec()} ${pick(['<', '>=', '=='])} ${vec()})`,
        ])(),
      () => pick(['b0', 'true', 'false']),
    );
  const vec = (): string =>
    deep(
      () =>
        pick([
          () => `tame3(${vec()} ${pick(['+', '-', '*'])} ${vec()})`,
          () => `tame3(${vec()} * ${float()})`,
          () => `vec3f(${float()}, ${float()}, ${float()})`,
          () => `vec3f(${float()})`,
          () => `${vec()}.${pick(['zyx', 'xxy', 'yzz'])}`,
          () => `${pick(['abs', 'floor', 'sign'])}(${vec()})`,
          () => `select(${vec()}, ${vec()}, ${vec()} < ${vec()})`,
          () => `vec3f(${ivec()} & vec3i(7))`,
          () => `tame3(cross(${vec()}, ${vec()}))`,
        ])(),
      () => pick(['v0', 'vec3f(1, 2, -0.5)', 'vec3f()']),
    );
  const ivec = (): string =>
    deep(
      () =>
        pick([
          () => `(${ivec()} ${pick(['+', '-', '*', '/', '%', '&', '^'])} ${ivec()})`,
          () => `(${ivec()} + ${int()})`,
          () => `vec3i(${int()}, ${int()}, ${int()})`,
          () => `vec3i(${vec()})`,
          () => `vec3i(${vec()} * ${pick(LARGE)})`,
          () => `${ivec()}.zxy`,
          () => `(${ivec()} << (vec3u(${word()}) & vec3u(7)))`,
          () => `select(${ivec()}, ${ivec()}, ${ivec()} < ${ivec()})`,
        ])(),
      () => pick(['vi', 'vec3i(5, -6, 7)']),
    );
  const simple = (head: string): Piece => ({ head, inner: undefined, tail: '' });
  const statements = (n: number, level: number, inLoop: boolean): Piece[] =>
    Array.from({ length: n }, () => statement(level, inLoop));
  const statement = (level: number, inLoop: boolean): Piece => {
    const kind = random(level > 2 ? 9 : 16);
    switch (kind) {
      case 0:
        return simple(
          `${pick(['n0', 'n1', 'vi.y', 's.a'])} ${pick(['=', '+=', '^=', '-=', '*=', '%=', '/='])} ${int()};`,
        );
      case 1:
        return simple(`${pick(['w0', 'w1', 'vu.x'])} ${pick(['=', '+=', '^=', '|='])} ${word()};`);
      case 2:
        return simple(`${pick(['f0', 'f1', 'v0.y', 's.v.x', 'm[1].y'])} = ${float()};`);
      case 3:
        return simple(`v0 = ${vec()};`);
      case 4:
        return simple(`vi ${pick(['=', '+=', '-='])} ${ivec()};`);
      case 5:
        return simple(`list[${word()} & 3u] = ${int()};`);
      case 6:
        return simple(
          pick([
            'turn(&list);',
            'n0++;',
            'w1--;',
            `b0 = ${bool()};`,
            `s.list[${random(3)}] += ${word()};`,
            'v0.xy = v0.yx;',
            `_ = bump(&n0, ${int()});`,
          ]),
        );
      case 7: {
        const name = `k${names++}`;
        return { head: `{ let ${name} = ${int()};`, inner: [simple(`n1 = n1 ^ ${name};`)], tail: '}' };
      }
      case 8:
        return inLoop
          ? simple(`if ${bool()} { ${pick(['break', 'continue'])}; }`)
          : simple(`{ let p = &list[${word()} & 3u]; *p = *p + ${int()}; }`);
      case 9:
      case 10:
        return {
          head: `if ${bool()} {`,
          inner: statements(1 + random(2), level + 1, inLoop),
          tail: random(2) ? '}' : `} else { n0 = ${int()}; }`,
        };
      case 11: {
        const name = `k${names++}`;
        return {
          head: `for (var ${name} = 0; ${name} < ${1 + random(4)}; ${name}++) {`,
          inner: statements(1 + random(2), level + 1, true),
          tail: '}',
        };
      }
      case 12: {
        const name = `k${names++}`;
        return {
          head: `{ var ${name} = 0; loop {`,
          inner: statements(1 + random(2), level + 1, true),
          tail: `continuing { ${name}++; n1 += ${name}; break if ${name} >= ${1 + random(4)}; } } }`,
        };
      }
      case 13: {
        const name = `k${names++}`;
        return {
          head: `{ var ${name} = 0; while ${name} < ${1 + random(4)} { ${name}++;`,
          inner: statements(1 + random(2), level + 1, true),
          tail: '} }',
        };
      }
      case 14:
        return {
          head: `switch ${int()} & 3 { case 0: { n0 = ${int()}; } case 1, 2: {`,
          // A break inside would leave the switch, not the loop: both are fine.
          inner: statements(1, level + 1, inLoop),
          tail: `} default: { w0 = ${word()}; } }`,
        };
      default:
        return { head: '{', inner: statements(2, level + 1, inLoop), tail: '}' };
    }
  };
  return { seed, head: HEAD, body: statements(4 + random(6), 0, false) };
}

/** Every program that has one statement less, or the inside of one in its place. */
export function* smaller(program: Program): Generator<Program> {
  const variants = function* (pieces: Piece[]): Generator<Piece[]> {
    for (let i = 0; i < pieces.length; i++) {
      yield [...pieces.slice(0, i), ...pieces.slice(i + 1)];
      const piece = pieces[i]!;
      if (!piece.inner) continue;
      for (const inner of variants(piece.inner))
        yield [...pieces.slice(0, i), { ...piece, inner }, ...pieces.slice(i + 1)];
    }
  };
  for (const body of variants(program.body)) yield { ...program, body };
}
