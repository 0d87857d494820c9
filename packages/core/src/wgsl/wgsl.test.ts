import fc from 'fast-check';
import { holds } from '../../../../tests/holds.js';
import type { LensError } from '../engine.js';
import {
  checkWgsl,
  compileWgsl,
  drawWgsl,
  emitWgsl,
  formatFinding,
  reflect,
  runWgsl,
  toGlsl,
  type TraceStep,
} from '../engine.js';

const first = (text: string, options = {}): string => {
  const finding = checkWgsl(text, options)[0];
  return finding
    ? `${finding.line}:${finding.column} ${finding.message}${finding.hint ? ` | ${finding.hint}` : ''}`
    : '';
};

test('overrides that are left open take plain numbers on WebGL2', () => {
  const text = `override rows = 3u; override gain = 0.5; override isOn = false;
    @fragment fn f() -> @location(0) vec4f { if isOn { return vec4f(gain); } return vec4f(f32(rows)); }`;
  const glsl = toGlsl(compileWgsl(text), 'f');
  expect(Object.keys(glsl.overrides)).toEqual(expect.arrayContaining(['rows', 'gain', 'isOn']));
  for (const conversion of ['uint(UMBER_rows)', 'float(UMBER_gain)', '= UMBER_isOn;'])
    expect(glsl.text).toContain(conversion);
});

test('what a setting leaves out stands behind the setting alone: drivers see no further', () => {
  const text = `override isOn = false; override isCut = false; @group(0) @binding(0) var<uniform> by: vec4f;
    fn dear(x: f32) -> bool { return sin(x) > by.x; }
    @fragment fn f(@builtin(position) at: vec4f) -> @location(0) vec4f {
      if isOn && isCut && dear(at.x) { discard; }
      if isOn && dear(at.y) { return vec4f(1); } else { return vec4f(0.5); }
    }`;
  const glsl = toGlsl(compileWgsl(text), 'f').text.replace(/\s+/g, ' ');
  expect(glsl).toMatch(/if \(\(?isOn\w* && isCut\w*\)?\) \{ if \(dear\w*\([^{]*\) \{ discard; \} \}/);
  // What is done otherwise stays with the whole condition.
  expect(glsl).toMatch(/if \(\(?isOn\w* && dear\w*\([^{]*\) \{ return/);
});

describe('messages', () => {
  test('show file, line, column, the line itself and a caret', () => {
    const [finding] = checkWgsl('fn f() -> f32 {\n\tlet lenght = 2.0;\n\treturn lengt * 2;\n}', {
      file: 'rim.wgsl',
    });
    expect(formatFinding(finding!)).toBe(
      'rim.wgsl:3:9: error: there is no name "lengt"\n  3 | \treturn lengt * 2;\n      \t       ^^^^^\n  hint: Did you mean "lenght"?',
    );
  });

  test.each([
    [
      'fn f() { let a = 1 + 1.5f + 2u; }',
      '1:27 there is no "+" for f32 and u32 | Convert one side: f32(...).',
    ],
    [
      'struct Light { color: vec3f } fn f(l: Light) -> vec3f { return l.colour; }',
      '1:66 "Light" has no member "colour" | Did you mean "color"?',
    ],
    [
      'fn f() { let a = normalise(vec3f(1)); }',
      '1:18 there is no function "normalise" | Did you mean "normalize"?',
    ],
    [
      'var a: f32;',
      '1:8 a variable of type f32 needs an address space | Write var<private>, var<uniform>, var<storage> or var<workgroup>.',
    ],
    ['fn f(x: i32) { if x { } }', '1:19 a condition is a bool, and this is i32 | Compare it: x != 0.'],
    ['fn f() { let a = 1; a = 2; }', '1:21 this cannot be assigned to | Declare it with var to change it.'],
    ['fn f() { f(); }', '1:10 "f" calls itself'],
    [
      'fn f(v: vec3f) -> f32 { return v.w; }',
      '1:34 a vector of 3 has no "w" | Use x, y, z, w or r, g, b, a, not mixed.',
    ],
    [
      'fn f() -> i32 { if true { return 1; } }',
      '1:4 "f" can end without giving a i32 | Return a value on every way through it.',
    ],
    ['const a = 5 / 0;', '1:11 division by zero: 5 / 0'],
  ])('%s', (text, expected) => expect(first(text)).toBe(expected));

  test('a fault a declaration is told, each once', () => {
    const findings = checkWgsl(
      'fn a() { x = 1; }\nfn b() -> f32 { return 1; }\nfn c() { let y: i32 = 1.5; }\nfn d() { c(); }',
    );
    expect(findings.map((f) => f.line)).toEqual([1, 3]);
  });
});

describe('linking', () => {
  const sources = {
    'lib/noise.wgsl':
      'const scale = 2.0; fn helper(x: f32) -> f32 { return x * scale; } fn noise(x: f32) -> f32 { return helper(x); } fn unused() {}',
    'lib/types.wgsl': 'struct Hit { t: f32, n: vec3f }',
  };

  test('imports bring in what is named; private names may clash; what is unused is dropped', () => {
    const text = `import { noise } from './lib/noise.wgsl';
import { Hit } from './lib/types.wgsl'; // shapes
const scale = 10.0;
fn helper(x: f32) -> f32 { return x + scale; }
@fragment fn main() -> @location(0) vec4f { let h = Hit(noise(1), vec3f()); return vec4f(h.t + helper(1)); }`;
    const shader = compileWgsl(text, { file: 'main.wgsl', sources });
    expect([...drawWgsl(shader, 'main', { width: 1, height: 1 }).data]).toEqual([13, 13, 13, 13]);
    const written = emitWgsl(shader);
    expect(written).not.toContain('unused');
    expect(written).not.toContain('import');
    expect(checkWgsl(written)).toEqual([]);
    expect(written.match(/fn helper\w*/g)).toEqual(['fn helper', 'fn helper_1']);
  });

  test('faults of imports name their place', () => {
    expect(first("\nimport { nois } from './lib/noise.wgsl';", { file: 'main.wgsl', sources })).toBe(
      '2:10 "lib/noise.wgsl" has no "nois" | Did you mean "noise"?',
    );
    expect(first("import { a } from './lib/nose.wgsl';", { file: 'main.wgsl', sources })).toBe(
      '1:20 there is no module "lib/nose.wgsl" | Did you mean "lib/noise.wgsl"?',
    );
    const inside = checkWgsl("import { a } from './b.wgsl';", {
      file: 'm.wgsl',
      sources: { 'b.wgsl': 'fn a() {\n  oops();\n}' },
    })[0]!;
    expect([inside.file, inside.line, inside.column]).toEqual(['b.wgsl', 2, 3]);
    const above = { file: 'm.wgsl', sources: { '../b.wgsl': 'fn a() -> f32 { return 3; }' } };
    const up = compileWgsl("import { a } from '../b.wgsl';\nfn f() -> f32 { return a(); }", above);
    expect(runWgsl(up, 'f')).toBe(3);
  });

  test('parts for named features come and go, without moving the rest', () => {
    const text =
      'fn f() -> f32 {\n#if fog\n  return 1;\n#else\n  return 2;\n#endif\n}\n#if !fog\nfn g() { x = 1; }\n#endif';
    expect(runWgsl(compileWgsl(text, { features: ['fog'] }), 'f')).toBe(1);
    expect(checkWgsl(text)[0]!.line).toBe(9);
    expect(first('#if fog\nconst a = 1;')).toContain('1:1 this #if is never closed');
  });

  test('resources without a binding get the next free ones', () => {
    const shader = compileWgsl(
      '@group(0) @binding(1) var<uniform> b: vec4f; var<uniform> a: vec4f; var t: texture_2d<f32>; @fragment fn f() { _ = a + b; _ = textureDimensions(t); }',
    );
    expect(reflect(shader).resources.map((r) => [r.name, r.group, r.binding])).toEqual([
      ['b', 0, 1],
      ['a', 0, 0],
      ['t', 0, 2],
    ]);
    expect(emitWgsl(shader)).toContain('@group(0) @binding(2) var t: texture_2d<f32>;');
  });
});

describe('reflection', () => {
  test('settings have type, range, default, kind and description from their comments', () => {
    const { settings } = reflect(
      compileWgsl(`struct Settings {
  edge: f32,        // 0.5..6 = 2.5   how fast the rim falls off
  glow: vec3f,      // color = #ff8000
  steps: u32,       // = 4
  on: bool_,
  way: vec3f,       // = [0, 1, 0]  where it comes from
  plain: f32
}
alias bool_ = u32;`),
    );
    expect(settings[0]).toEqual({
      name: 'edge',
      type: 'f32',
      documentation: 'how fast the rim falls off',
      kind: 'number',
      range: [0.5, 6],
      default: 2.5,
      offset: 0,
    });
    // sRGB 0x80 is 0.2158605 in linear light.
    expect(settings[1]).toMatchObject({ kind: 'color', default: [1, expect.closeTo(0.2158605, 5), 0] });
    expect(settings.slice(2).map((s) => s.default)).toEqual([4, undefined, [0, 1, 0], undefined]);
    expect(settings[4]!.documentation).toBe('where it comes from');
  });

  test('layouts follow the rules of WGSL, worked out by hand', () => {
    const { structs } = reflect(
      compileWgsl(
        'struct A { a: f32, b: vec3f, c: f32, d: mat3x3f, e: array<vec2f, 3>, f: u32 } struct B { @size(20) a: f32, @align(32) b: A }',
      ),
    );
    expect(structs[0]!.members.map((m) => [m.offset, m.size])).toEqual([
      [0, 4],
      [16, 12],
      [28, 4],
      [32, 48],
      [80, 24],
      [104, 4],
    ]);
    expect([structs[0]!.size, structs[1]!.members[1]!.offset, structs[1]!.size]).toEqual([112, 32, 160]);
  });

  test('entry points, inputs, outputs and resources', () => {
    const { entryPoints } = reflect(
      compileWgsl(
        'struct O { @builtin(position) p: vec4f, @location(1) uv: vec2f } var<uniform> m: mat4x4f; fn g() -> vec4f { return m[0]; } @vertex fn v(@location(0) a: vec3f) -> O { return O(g(), a.xy); }',
      ),
    );
    expect(entryPoints).toEqual([
      {
        name: 'v',
        stage: 'vertex',
        inputs: [{ name: 'a', type: 'vec3<f32>', location: 0 }],
        outputs: [
          { name: 'p', type: 'vec4<f32>', builtin: 'position' },
          { name: 'uv', type: 'vec2<f32>', location: 1 },
        ],
        resources: ['m'],
      },
    ]);
  });
});

describe('running on the CPU', () => {
  test('numbers are those of the GPU: f32 rounds, i32 wraps, division by zero is defined', () => {
    const shader = compileWgsl(
      'fn f(x: f32) -> f32 { return x + 0.1; } fn g(a: i32, b: i32) -> i32 { return a * b; } fn h(a: u32, b: u32) -> u32 { return a / b + a % b; } fn k(a: i32) -> i32 { return a / -1; }',
    );
    expect(runWgsl(shader, 'f', [0.2])).toBe(Math.fround(Math.fround(0.2) + Math.fround(0.1)));
    expect(runWgsl(shader, 'g', [65537, 65537])).toBe(131073);
    expect(runWgsl(shader, 'h', [7, 0])).toBe(7);
    expect(runWgsl(shader, 'k', [-2147483648])).toBe(-2147483648);
  });

  test('structures are objects, matrices arrays of columns; storage is read and written', () => {
    const shader = compileWgsl(
      'struct P { at: vec2f, n: u32 } var<storage, read_write> list: array<P>; fn f(m: mat2x2f) -> P { list[1].at = m * list[0].at; list[1].n = arrayLength(&list); return list[1]; }',
    );
    const resources: Record<string, unknown> = {
      list: [
        { at: [1, 2], n: 0 },
        { at: [0, 0], n: 0 },
      ],
    };
    expect(
      runWgsl(
        shader,
        'f',
        [
          [
            [1, 2],
            [3, 4],
          ],
        ],
        { resources },
      ),
    ).toEqual({ at: [7, 10], n: 2 });
    expect(resources['list']).toEqual([
      { at: [1, 2], n: 0 },
      { at: [7, 10], n: 2 },
    ]);
  });

  test('a trace has the value of each name at each line', () => {
    const trace: TraceStep[] = [];
    runWgsl(
      compileWgsl(
        'fn g(x: f32) -> f32 {\n  return x * 2;\n}\nfn f() -> f32 {\n  var a = g(3);\n  a += 1;\n  return a;\n}',
      ),
      'f',
      [],
      { trace },
    );
    expect(trace.map((s) => [s.line, s.kind, s.name, s.value])).toEqual([
      [1, 'param', 'x', 3],
      [2, 'return', '', 6],
      [5, 'call', 'g', 6],
      [5, 'var', 'a', 6],
      [6, 'assign', 'a', 7],
      [7, 'return', '', 7],
    ]);
  });

  test('a fragment entry point draws a picture, with derivatives in quads and discarded pixels left out', () => {
    const shader = compileWgsl(
      '@fragment fn f(@builtin(position) p: vec4f, @location(0) uv: vec2f) -> @location(0) vec4f { if p.x < 1 { discard; } return vec4f(dpdx(p.x * p.x), dpdy(p.y * 3), uv.x, fwidth(dpdx(p.x * 5))); }',
    );
    const { data } = drawWgsl(shader, 'f', { width: 4, height: 2 });
    expect([...data.slice(0, 4)]).toEqual([0, 0, 0, 0]);
    // Within the quad of x = 2.5 and 3.5: 12.25 - 6.25.
    expect([...data.slice(8, 12)]).toEqual([6, 3, 0.625, 0]);
  });

  test('textures are plain numbers, filtered by their sampler', () => {
    const shader = compileWgsl(
      'var t: texture_2d<f32>; var s: sampler; fn f(uv: vec2f) -> vec4f { return textureSampleLevel(t, s, uv, 0); } fn g() -> vec4f { return textureLoad(t, vec2i(1, 0), 0); }',
    );
    const resources = {
      t: { width: 2, height: 1, data: [0, 0, 0, 1, 1, 0.5, 0, 1] },
      s: { magFilter: 'linear' },
    };
    expect(runWgsl(shader, 'f', [[0.5, 0.5]], { resources })).toEqual([0.5, 0.25, 0, 1]);
    expect(runWgsl(shader, 'g', [], { resources })).toEqual([1, 0.5, 0, 1]);
  });

  test.each([
    ['a missing function', 'fun', [], /no function "fun"/],
    ['too few arguments', 'f', [], /takes 1 arguments, not 0/],
    ['a wrong argument', 'f', ['x'], /argument 1 \(n\) should be a number/],
    ['half a whole number', 'f', [1.5], /should be a whole number/],
    ['an endless loop', 'f', [1], /went on for more than/],
  ])('%s is refused', (_, name, args, message) => {
    const shader = compileWgsl('fn f(n: i32) -> i32 { var k = n; while k != 0 { k = k | 1; } return k; }');
    expect(() => runWgsl(shader, name, args)).toThrow(message);
  });
});

describe('what WebGL2 cannot do is refused with the reason and the place', () => {
  test.each([
    ['@compute @workgroup_size(1) fn f() {}', 'no compute shaders', 'f'],
    [
      'var<storage, read_write> o: array<f32>; @fragment fn f() { o[0] = 1; }',
      'cannot write to storage',
      'o',
    ],
    [
      'var t: texture_multisampled_2d<f32>; @fragment fn f() { _ = textureLoad(t, vec2i(), 0); }',
      'multisampled',
      't',
    ],
    [
      'var t: texture_2d<f32>; var s: sampler; @fragment fn f(@location(0) uv: vec2f) -> @location(0) vec4f { return textureGather(0, t, s, uv); }',
      'no textureGather',
      'textureGather',
    ],
    ['@fragment fn f(@location(0) @interpolate(linear) a: f32) {}', 'without perspective', ''],
  ])('%s', (text, reason, at) => {
    try {
      toGlsl(compileWgsl(text), 'f');
      throw new Error('it was not refused');
    } catch (error) {
      expect((error as LensError).message).toContain(reason);
      const { column } = (error as LensError).where;
      if (at) expect(text.slice(column! - 1)).toMatch(new RegExp(`^${at}`));
    }
  });
});

describe('it never hangs or crashes', () => {
  const seeds = [
    'struct S { a: f32, b: array<vec3f, 4> } @group(0) @binding(0) var<uniform> s: S; fn f(i: u32) -> vec3f { var x = s.b[i & 3u]; for (var k = 0; k < 4; k++) { x += vec3f(f32(k)); } return x * s.a; }',
    'const a = array<array<i32, 2>, 2>(array(1, 2), array(3, 4)); fn g(p: ptr<function, i32>) -> bool { *p = a[1][0] << 2u; return *p > 3 && !(a[0][1] == 2); }',
  ];
  const words = fc.constantFrom(
    '<',
    '>',
    '(',
    ')',
    '{',
    '}',
    '[',
    ']',
    '@',
    ';',
    ',',
    'var',
    'let',
    'fn',
    'array',
    '<<',
    '>>=',
    '&',
    '*',
    '0x',
    '1e',
    '"',
    '/*',
    '*/',
    '//',
    '\u0000',
    '😀',
    'vec3',
    ':',
    '->',
    '#if x',
    '_',
  );

  test('sources changed anywhere give findings or a shader', () => {
    holds(
      fc.property(
        fc.constantFrom(...seeds),
        fc.array(fc.tuple(fc.nat(400), words, fc.nat(12)), { minLength: 1, maxLength: 5 }),
        (seed, changes) => {
          let text = seed;
          for (const [at, word, cut] of changes) text = text.slice(0, at) + word + text.slice(at + cut);
          for (const finding of checkWgsl(text)) expect(finding.line).toBeGreaterThanOrEqual(1);
        },
      ),
      { numRuns: 1500 },
    );
  });

  test.each([
    ['parentheses', `const a = ${'('.repeat(50_000)}1${')'.repeat(50_000)};`],
    ['blocks', `fn f() ${'{'.repeat(50_000)}${'}'.repeat(50_000)}`],
    ['templates', `alias A = ${'array<'.repeat(20_000)}f32${', 1>'.repeat(20_000)};`],
    ['unary signs', `const a = ${'- '.repeat(50_000)}1;`],
    ['else if', `fn f(a: i32) { if a == 0 {} ${'else if a == 1 {} '.repeat(20_000)} }`],
    ['index chains', `var<private> a: array<i32, 2>; fn f() { let x = a${'[0]'.repeat(50_000)}; }`],
  ])('deep nesting of %s is refused', (_, text) => expect(checkWgsl(text)[0]!.code).toBe('wgsl/nesting'));

  test('a megabyte of statements, a long line and a long sum compile', () => {
    const lines = Array.from({ length: 20_000 }, (_, i) => `x = x * 1.5 + ${i}.0; // line ${i}`);
    expect(checkWgsl(`fn f() -> f32 { var x = 1.0;\n${lines.join('\n')}\nreturn x; }`)).toEqual([]);
    expect(checkWgsl(`const a = 1; // ${'long '.repeat(200_000)}`)).toEqual([]);
    expect(
      checkWgsl(`fn f(x: f32) -> f32 { return ${Array.from({ length: 400 }, () => 'x').join(' + ')}; }`),
    ).toEqual([]);
  });
});

/** Line, column and code of everything that is found. */
const found = (text: string): string[] =>
  checkWgsl(text).map(({ line, column, code }) => `${line}:${column} ${code}`);

test('more than one fault in a statement is told, from left to right', () => {
  expect(
    found('fn f(p: vec3f) -> f32 {\n  return dot(p, vec3f(nope, p.zip, 1)) + gone * sin(true);\n}'),
  ).toEqual([
    '2:23 wgsl/unknown-name',
    '2:31 wgsl/unknown-member',
    '2:42 wgsl/unknown-name',
    '2:49 wgsl/arguments',
  ]);
});

test('every independent fault of a module is told in one go, statement by statement', () => {
  const text = `fn a(x: f32) -> f32 {
  let p = sine(x);
  let q = p * 2 + p;
  var n: i32 = 1.5;
  n += 1;
  if n { return q; }
  for (var i = 0u; i < x; i++) { let t = x + i; n = n + missing; }
  switch x { case 0: { return true; } default: { n = 2u; } }
  return "x";
}
fn b() -> f32 { return a(1) + a(2u); }
struct S { m: nothing }
fn c(s: S) -> f32 { return s.m; }`;
  // What uses p, n or S says nothing more: those were told where they stand.
  expect(found(text)).toEqual([
    '2:11 wgsl/unknown-name',
    '4:16 wgsl/type',
    '7:22 wgsl/operator',
    '7:44 wgsl/operator',
    '7:57 wgsl/unknown-name',
    '8:10 wgsl/type',
    '8:31 wgsl/type',
    '9:10 wgsl/letter',
    '11:33 wgsl/type',
    '12:15 wgsl/unknown-name',
  ]);
});

test.each([
  ['behind the next semicolon', 'fn a() { let x = (1 + ; let y = x; let z = nothing; }', ['1:23', '1:44']],
  [
    'at the next line when a semicolon is missing',
    'fn a() {\n  let x = 1\n  let y = x + nothing; nope();\n}',
    ['3:3', '3:15', '3:24'],
  ],
  [
    'behind a structure',
    'struct S { a f32 }\nfn b(s: S) -> f32 { return s.a + nothing; }\nfn c() { nope(); }',
    ['1:14', '3:10'],
  ],
  [
    'at the next declaration when a block is never closed',
    'fn a() { if true {\nfn b() { nope(); }',
    ['2:1', '2:10'],
  ],
  ['inside a block', 'fn a() { if true { let = 2; nope(); } gone(); }', ['1:24', '1:29', '1:39']],
  ['behind a comment that is never closed', 'fn a() { nope(); }\n/* kelp', ['1:10', '2:1']],
  [
    'behind a function without a name',
    'fn (x: f32) { let kelp = 1; }\nfn b() { kelp(); nope(); }',
    ['1:4', '2:18'],
  ],
  [
    'after an import that is not there',
    "import { rim } from './rim.wgsl';\nfn b() { rim(); nope(); }",
    ['1:22', '2:17'],
  ],
])('after a fault of form reading goes on %s', (_, text, places) => {
  expect(checkWgsl(text).map(({ line, column }) => `${line}:${column}`)).toEqual(places);
});

test('any cut and any letter put in or taken out is told, and never hangs or throws', () => {
  const text = SAMPLE;
  holds(
    fc.property(
      fc.nat(text.length),
      fc.nat(12),
      fc.constantFrom('', ';', '}', '{', '(', ')', '"', '/*', '<', 'fn '),
      (at, n, put) => {
        const changed = text.slice(0, at) + put + text.slice(at + n);
        for (const { line, column, message } of checkWgsl(changed)) {
          expect(line).toBeGreaterThan(0);
          expect(column).toBeGreaterThan(0);
          expect(message).not.toBe('');
        }
      },
    ),
    { numRuns: 300 },
  );
});

const SAMPLE = `struct S { a: f32, list: array<vec4f, 4> }
@group(0) @binding(0) var<uniform> s: S;
const K = 3;
fn f(x: f32, n: i32) -> f32 {
  var sum = 0.0;
  for (var i = 0; i < n; i++) { if i == K { continue; } sum += s.list[i & 3].x * x; }
  switch n { case 1, 2: { sum *= 2; } default {} }
  loop { sum -= 1; continuing { break if sum < 0; } }
  return select(sum, -sum, n > 4);
}
@fragment fn main(@location(0) uv: vec2f) -> @location(0) vec4f { return vec4f(f(uv.x, i32(uv.y)), uv, 1); }
`;

test('floating point becomes whole numbers by the nearest that both types hold', () => {
  const value = (expr: string): unknown =>
    runWgsl(compileWgsl(`fn f(x: f32) -> vec2u { return ${expr}; }`), 'f', [3e9]);
  // f32 has no 2147483647 and no 4294967295: below them stand 2^31 - 2^7 and 2^32 - 2^8.
  expect(value('vec2u(bitcast<u32>(i32(x)), u32(x * 2))')).toEqual([2 ** 31 - 2 ** 7, 2 ** 32 - 2 ** 8]);
  expect(value('vec2u(bitcast<u32>(i32(3e9f)), u32(5e9f))')).toEqual([2 ** 31 - 2 ** 7, 2 ** 32 - 2 ** 8]);
  expect(value('vec2u(bitcast<u32>(i32(-x)), u32(-x))')).toEqual([2 ** 31, 0]);
  // Numbers of no type yet are exact.
  expect(value('vec2u(bitcast<u32>(i32(3e9)), u32(5e9))')).toEqual([2 ** 31 - 1, 2 ** 32 - 1]);
  expect(value('vec2u(vec2f(x, 1.9))')).toEqual([3e9, 1]);
});

test.each([
  [
    'conditions and both branches',
    'if 1 { gone(); } else if 2u { gone(); } else { gone(); }',
    [3, 7, 25, 30, 47],
  ],
  ['all parts of a for', 'for (var i = gone(); j < 2; k++) { gone(); }', [13, 21, 28, 35]],
  ['a while', 'while 1 { gone(); }', [6, 10]],
  [
    'a switch, its cases and their bodies',
    'switch 1.5 { case 1: { gone(); } default: { gone(); } }',
    [7, 23, 44],
  ],
  ['a loop and its continuing', 'loop { gone(); continuing { gone(); break if true; } }', [7, 28]],
  ['blocks within blocks', '{ { gone(); } gone(); }', [4, 14]],
  ['statements behind a return', 'return; gone(); gone();', [8, 16]],
  ['assignments of all kinds', 'let a = 1; a = 2; var b = 1; b = 2u; b += 1.5; b++; a++;', [11, 33, 37, 52]],
  [
    'arguments of calls, one for each statement',
    '_ = max(1, true); _ = sqrt(true); _ = dot(1, 2);',
    [4, 22, 38],
  ],
])('findings in %s', (_, body, columns) => {
  const prefix = 'fn f() { ';
  const found = checkWgsl(`${prefix}${body} }`).map(({ column }) => column - prefix.length - 1);
  expect(found).toEqual(columns);
});
