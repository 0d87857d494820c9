/**
 * Functions that WGSL has and GLSL ES 3.00 lacks. Each is written for scalars; `T` versions for
 * vectors call it for every component.
 */
interface Helper {
  /** Scalar types of the parameters, and of the result. */
  params: string[];
  result: string;
  body: string;
  needs?: string[];
}

const HELPERS: Record<string, Helper[]> = {
  // Dividing by zero, or the lowest by -1, gives the dividend (WGSL 8.7).
  umber_div: [
    {
      params: ['int', 'int'],
      result: 'int',
      body: 'return (b == 0 || (a == (-2147483647 - 1) && b == -1)) ? a : a / b;',
    },
    { params: ['uint', 'uint'], result: 'uint', body: 'return b == 0u ? a : a / b;' },
  ],
  umber_mod: [
    {
      params: ['int', 'int'],
      result: 'int',
      // GLSL leaves the remainder of negative numbers open.
      body: 'if (b == 0 || (a == (-2147483647 - 1) && b == -1)) return 0; return a - (a / b) * b;',
    },
    { params: ['uint', 'uint'], result: 'uint', body: 'return b == 0u ? 0u : a % b;' },
    { params: ['float', 'float'], result: 'float', body: 'return a - b * trunc(a / b);' },
  ],
  umber_toInt: [
    {
      params: ['float'],
      result: 'int',
      // The nearest number that both types hold; what is no number fails both comparisons.
      body: 'return a >= 2147483520.0 ? 2147483520 : (a > -2147483648.0 ? int(a) : (-2147483647 - 1));',
    },
  ],
  umber_toUint: [
    {
      params: ['float'],
      result: 'uint',
      body: 'return a >= 4294967040.0 ? 4294967040u : (a > 0.0 ? uint(a) : 0u);',
    },
  ],
  umber_select: [
    { params: ['int', 'int', 'bool'], result: 'int', body: 'return c ? b : a;' },
    { params: ['uint', 'uint', 'bool'], result: 'uint', body: 'return c ? b : a;' },
    { params: ['bool', 'bool', 'bool'], result: 'bool', body: 'return c ? b : a;' },
    // mix with bool choices would do, but drivers differ on its NaNs.
    { params: ['float', 'float', 'bool'], result: 'float', body: 'return c ? b : a;' },
  ],
  umber_countOneBits: bits(
    'a = a - ((a >> 1) & 0x55555555u); a = (a & 0x33333333u) + ((a >> 2) & 0x33333333u); return (((a + (a >> 4)) & 0x0F0F0F0Fu) * 0x01010101u) >> 24;',
  ),
  umber_reverseBits: bits(
    'a = ((a >> 1) & 0x55555555u) | ((a & 0x55555555u) << 1); a = ((a >> 2) & 0x33333333u) | ((a & 0x33333333u) << 2); a = ((a >> 4) & 0x0F0F0F0Fu) | ((a & 0x0F0F0F0Fu) << 4); a = ((a >> 8) & 0x00FF00FFu) | ((a & 0x00FF00FFu) << 8); return (a >> 16) | (a << 16);',
  ),
  umber_countLeadingZeros: bits(
    'if (a == 0u) return 32u; uint n = 0u; if (a < 0x10000u) { n += 16u; a <<= 16; } if (a < 0x1000000u) { n += 8u; a <<= 8; } if (a < 0x10000000u) { n += 4u; a <<= 4; } if (a < 0x40000000u) { n += 2u; a <<= 2; } if (a < 0x80000000u) n += 1u; return n;',
  ),
  umber_countTrailingZeros: bits(
    'if (a == 0u) return 32u; return 31u - umber_countLeadingZeros(a & (~a + 1u));',
    ['umber_countLeadingZeros'],
  ),
  umber_firstTrailingBit: bits(
    'if (a == 0u) return 4294967295u; return 31u - umber_countLeadingZeros(a & (~a + 1u));',
    ['umber_countLeadingZeros'],
  ),
  umber_firstLeadingBit: [
    {
      params: ['uint'],
      result: 'uint',
      body: 'return a == 0u ? 4294967295u : 31u - umber_countLeadingZeros(a);',
      needs: ['umber_countLeadingZeros'],
    },
    {
      params: ['int'],
      result: 'int',
      body: 'uint w = uint(a < 0 ? ~a : a); return w == 0u ? -1 : int(31u - umber_countLeadingZeros(w));',
      needs: ['umber_countLeadingZeros'],
    },
  ],
  umber_ldexp: [
    {
      params: ['float', 'int'],
      result: 'float',
      body: 'int h = b / 2; return a * exp2(float(h)) * exp2(float(b - h));',
    },
  ],
  umber_quantize: [
    { params: ['float'], result: 'float', body: 'return unpackHalf2x16(packHalf2x16(vec2(a, 0.0))).x;' },
  ],
};

function bits(body: string, needs?: string[]): Helper[] {
  const more = needs ? { needs } : {};
  return [
    { params: ['uint'], result: 'uint', body, ...more },
    { params: ['int'], result: 'int', body: 'return int(NAME(uint(a)));', ...more },
  ];
}

/** Functions with shapes of their own, written out. */
const WRITTEN: Record<string, string> = {
  umber_extractBits: `int umber_extractBits(int v, uint o, uint n) { o = min(o, 32u); n = min(n, 32u - o); return n == 0u ? 0 : (v << (32u - n - o)) >> (32u - n); }
uint umber_extractBits(uint v, uint o, uint n) { o = min(o, 32u); n = min(n, 32u - o); return n == 0u ? 0u : (v << (32u - n - o)) >> (32u - n); }`,
  umber_insertBits: `uint umber_insertBits(uint v, uint w, uint o, uint n) { o = min(o, 32u); n = min(n, 32u - o); if (n == 0u) return v; uint m = (n == 32u ? 4294967295u : (1u << n) - 1u) << o; return (v & ~m) | ((w << o) & m); }
int umber_insertBits(int v, int w, uint o, uint n) { return int(umber_insertBits(uint(v), uint(w), o, n)); }`,
  umber_bytes:
    'uvec4 umber_bytes(uint v) { return uvec4(v, v >> 8, v >> 16, v >> 24) & 255u; }\nivec4 umber_signedBytes(uint v) { return ivec4(umber_bytes(v) << 24u) >> 24; }\nuint umber_word(uvec4 b) { b &= 255u; return b.x | (b.y << 8) | (b.z << 16) | (b.w << 24); }',
};

/** Which helpers a shader needs, and their text. */
export class GlslHelpers {
  /** By name: for vectors of how many components. */
  private readonly wanted = new Map<string, Set<number>>();

  /**
   * Asks for a helper; gives its name.
   *
   * @param sizes components of what it is called with; left out: any
   */
  use(name: string, sizes: readonly number[] = [2, 3, 4]): string {
    const wanted = this.wanted.get(name) ?? new Set();
    this.wanted.set(name, wanted);
    for (const size of sizes) if (size > 1) wanted.add(size);
    for (const { needs } of HELPERS[name] ?? []) needs?.forEach((n) => this.use(n, sizes));
    return name;
  }

  text(): string {
    const order = [...Object.keys(HELPERS), ...Object.keys(WRITTEN)].sort(
      (a, b) => Number(b === 'umber_countLeadingZeros') - Number(a === 'umber_countLeadingZeros'),
    );
    return order
      .filter((name) => this.wanted.has(name))
      .map(
        (name) =>
          WRITTEN[name] ??
          HELPERS[name]!.map((helper) => helperText(name, helper, this.wanted.get(name)!)).join('\n'),
      )
      .join('\n');
  }
}

const LETTERS = ['a', 'b', 'c'];

function helperText(name: string, { params, result, body }: Helper, sizes: ReadonlySet<number>): string {
  const vector = (type: string, n: number): string => `${type === 'float' ? '' : type[0]}vec${n}`;
  const list = (type: (p: string) => string): string =>
    params.map((p, i) => `${type(p)} ${LETTERS[i]}`).join(', ');
  const lines = [`${result} ${name}(${list((p) => p)}) { ${body.replace(/NAME/g, name)} }`];
  for (const n of [2, 3, 4]) {
    if (!sizes.has(n)) continue;
    const parts = [...'xyzw']
      .slice(0, n)
      .map((k) => `${name}(${params.map((_, i) => `${LETTERS[i]}.${k}`).join(', ')})`);
    lines.push(
      `${vector(result, n)} ${name}(${list((p) => vector(p, n))}) { return ${vector(result, n)}(${parts.join(', ')}); }`,
    );
  }
  return lines.join('\n');
}
