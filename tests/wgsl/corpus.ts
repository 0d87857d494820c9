/** Small modules, each about one rule. What we accept the browser accepts, and what we refuse it refuses. */
export interface Sample {
  name: string;
  text: string;
}

const list = (prefix: string, texts: string[]): Sample[] => texts.map((text, i) => ({ name: `${prefix} ${i + 1}`, text }));
/** Statements inside a function. */
const body = (prefix: string, texts: string[]): Sample[] =>
  texts.map((text, i) => ({ name: `${prefix} ${i + 1}`, text: `fn f() { ${text} }` }));
/** Statements that may use some values of the running program. */
const given = 'var<private> b: bool; var<private> i: i32; var<private> u: u32; var<private> x: f32; var<private> v: vec3f; var<private> w: vec4f; var<private> vi: vec3i; var<private> vu: vec3u; var<private> vb: vec3<bool>; var<private> m: mat3x3f; var<private> a: array<f32, 4>;';
const running = (prefix: string, texts: string[]): Sample[] =>
  texts.map((text, i) => ({ name: `${prefix} ${i + 1}`, text: `${given} fn f() { ${text} }` }));
const fragment = (prefix: string, texts: string[]): Sample[] =>
  texts.map((text, i) => ({
    name: `${prefix} ${i + 1}`,
    text: `@group(0) @binding(0) var t: texture_2d<f32>; @group(0) @binding(1) var s: sampler; @group(0) @binding(2) var td: texture_depth_2d; @group(0) @binding(3) var sc: sampler_comparison; @group(0) @binding(4) var ta: texture_2d_array<f32>; @group(0) @binding(5) var t3: texture_3d<f32>; @group(0) @binding(6) var tc: texture_cube<f32>; @group(0) @binding(7) var ti: texture_2d<i32>; @group(0) @binding(8) var tm: texture_multisampled_2d<f32>; @group(0) @binding(9) var ts: texture_storage_2d<rgba8unorm, write>; @group(0) @binding(10) var t1: texture_1d<f32>;
@fragment fn f(@location(0) uv: vec2f) -> @location(0) vec4f { ${text} }`,
  }));

const FLOAT_1 = 'acos acosh asin asinh atan atanh ceil cos cosh degrees exp exp2 floor fract inverseSqrt log log2 radians round saturate sin sinh sqrt tan tanh trunc'.split(' ');
const INT_1 = 'countLeadingZeros countOneBits countTrailingZeros firstLeadingBit firstTrailingBit reverseBits'.split(' ');

export const VALID: Sample[] = [
  ...list('literals', [
    'const a = 0; const b = 1u; const c = -2147483648; const d = 4294967295u; const e = 0x7fffffff; const g = 0XFFu;',
    'const a = 1.0; const b = .5; const c = 3.; const d = 1e5; const e = 1.5e-3f; const g = 2f; const h = 0x1.8p1; const k = 0x.8p0f; const l = 0xap-3;',
    'const a: f32 = 1; const b: u32 = 1; const c: vec2f = vec2(1, 2); const d: array<f32, 2> = array(1, 2.5);',
    'const a = true && !false; const b = 5 > 3 && 2.0 <= 2; const c = 1 == 1 || 1 / 1 == 2;',
    'const a = 9223372036854775807; const b = -9223372036854775807;',
    'const a = 1 << 10u; const b = 0xffu >> 4u; const c = ~0u; const d = 5 & 3 | 0;'.replace('5 & 3 | 0', '(5 & 3) | 0'),
    'const_assert 1 < 2; const_assert(vec2(1, 2).y == 2);',
  ]),
  ...list('comments', ['// line\n/* block /* nested */ */ const a = 1; // end', '/**/', '', ';;;', 'const a /* in between */ = 1; // no newline']),
  ...list('names', ['const café = 1; const Δt = café;', 'const _a = 1; const a_ = _a; const a1b = a_;', 'fn vec() {} fn main() {}', 'const f16_ = 1; struct color { r: f32 }']),
  ...list('types', [
    'alias F = f32; alias V = vec3<F>; const a: V = V(1, 2, 3);',
    'struct A { a: f32, b: vec3f } struct B { a: A, c: array<A, 3>, } const b = B();',
    'alias T = array<array<vec2u, 2>, 3>; var<private> t: T;',
    'var<private> a: mat2x3<f32>; var<private> b: mat4x2f; const c = mat2x2(1, 2, 3, 4) * vec2(1, 2);',
    'const N = 3; var<private> a: array<f32, N + 1>; const c = array<i32, N>(1, 2, 3);',
    'struct S { @size(32) a: f32, @align(16) b: f32 } @group(0) @binding(0) var<uniform> s: S;',
    'struct S { n: u32, list: array<vec3f> } @group(0) @binding(0) var<storage, read> s: S;',
    '@group(0) @binding(0) var<uniform> a: array<f32, 4>;',
    '@group(0) @binding(0) var<uniform> a: array<vec4f, 4>; @group(0) @binding(1) var<storage> b: array<f32>;',
    'struct S { a: atomic<u32>, b: array<atomic<i32>, 4> } @group(0) @binding(0) var<storage, read_write> s: S;',
    'var<workgroup> w: array<atomic<u32>, 8>; var<workgroup> x: mat4x4f;',
    'fn f(p: ptr<function, f32>, q: ptr<private, array<i32, 2>>) {}',
    'fn f(t: texture_2d<f32>, s: sampler, d: texture_depth_cube, c: sampler_comparison) {}',
    '@group(0) @binding(0) var a: texture_2d_array<u32>; @group(0) @binding(1) var b: texture_cube_array<f32>; @group(1) @binding(0) var c: texture_external;',
    '@group(0) @binding(0) var a: texture_storage_2d<rgba8unorm, write>; @group(0) @binding(1) var b: texture_storage_3d<r32float, read>; @group(0) @binding(2) var c: texture_storage_1d<r32uint, read_write>;',
    'alias vec3f = f32; const a: vec3f = 1;',
    'struct Node { next: u32 } alias Nodes = array<Node, 4>; fn f() -> Nodes { return Nodes(); }',
  ]),
  ...list('order', [
    'const a = b + 1; const b = 2;',
    'fn f() -> S { return S(g()); } fn g() -> f32 { return K; } struct S { a: f32 } const K = 1.5;',
    'var<private> p: T = T(); alias T = array<f32, N>; const N = 2;',
  ]),
  ...list('overrides', [
    'override a: f32; override b = 2; @id(7) override c: bool = true; override d: u32 = 3;',
    'override n = 4; @compute @workgroup_size(n, 2) fn f() {}',
    'override n: i32 = 4; override k = n * 2; var<workgroup> w: array<f32, k>; @compute @workgroup_size(1) fn f() { w[0] = 1; }',
  ]),
  ...list('enable', ['requires packed_4x8_integer_dot_product; const a = dot4U8Packed(1, 2);', 'diagnostic(off, derivative_uniformity); fn f() {}', '@diagnostic(warning, derivative_uniformity) fn f() { @diagnostic(off, derivative_uniformity) if true {} }']),
  ...running('operators', [
    'let r = i + 1; let s = 2.0 * x; let t = u - 3; let q = -x; let n = ~u; let o = !b;',
    'let r = v + 1; let s = 2 * v; let t = v * v; let p = vi % 3; let q = vu / vu;',
    'let r = m * v; let s = v * m; let t = m * m; let p = m + m; let q = 2 * m; let n = m * 0.5;',
    'let r = i << 2; let s = u >> u; let t = vi << vu; let p = 1 << u;',
    'let r = i & 3; let s = (u | 1) ^ 7; let t = vi & vi; let p = b & true; let q = vb | vb;',
    'let r = i == 1 && x < 2 || b;'.replace('i == 1 && x < 2 || b', '(i == 1 && x < 2) || b'),
    'let r = v < vec3f(1); let s = vi != vi; let t = vb == vb; let p = all(v >= v);',
    'i += 1; u *= 2; x -= 1.5; v /= 2; m *= m; vi <<= vu; b = !b; i %= 3; u ^= 1;',
    'i++; u--; vi.x++; a[1] += 2; v.y *= 3; m[0][1] = 4; m[1] = v;',
    'v.xy = vec2f(1); w.rgb = v; v.zx += vec2f(1, 2);',
    'let r = -(-x); let s = - -i; let t = x - -x;',
    'let r = a[i] + a[u] + v[i] + m[i][u]; let s = w.xyzw.wz.y;',
    'let r = (i + 1) * 2 - 3 / i % 4;',
    'let r = vec3(x, x, 1) + vec3(1, 2, 3); let s = array(x, 1, 2)[i];',
    'let r = array(1, 2, 3)[i]; let s = vec3(1, 2, 3)[u]; let t: f32 = mat2x2(1, 2, 3, 4)[i][u];',
  ]),
  ...running('constructors', [
    'let r = vec3f(); let s = vec3f(1); let t = vec3(x, 2, 3); let p = vec4(v, 1); let q = vec4(v.xy, v.xy);',
    'let r = vec3i(v); let s = vec3<bool>(vi); let t = vec3f(vb); let p = f32(i); let q = u32(x); let n = bool(u); let o = i32(b);',
    'let r = mat2x2f(1, 2, 3, 4); let s = mat3x3f(v, v, v); let t = mat3x3(v, v, vec3(1, 2, 3)); let p = mat3x3f(m);',
    'let r = array<f32, 2>(1, x); let s = array(v, v); let t = array<vec2f, 2>();',
    'let r = vec2(1, 2); let s: vec2f = r.xy == r.yx == vec2(true)'.slice(0, 18) + ';',
    'let r: vec3f = vec3(1); let s: u32 = 1; let t: array<f32, 3> = array(1, 2, 3);',
  ]),
  ...running('statements', [
    'if b { } else if i > 1 { return; } else { x = 1; }',
    'for (var k = 0; k < 4; k++) { if k == 2 { continue; } x += 1; }',
    'for (;;) { break; } for (i = 0; i < 3;) { i += 1; }',
    'while i < 10 { i += 1; if b { break; } }',
    'loop { if b { break; } continuing { i += 1; } }',
    'loop { let k = i; continuing { i = k + 1; break if i > 3; } }',
    'switch i { case 1: { x = 1; } case 2, 3 { x = 2; } default { } }',
    'switch u { default: {} } switch i { case 1, default { } } switch (i + 1) { case -1: { break; } default: { return; } }',
    'const k = 2; switch i { case k + 1: { } case k: { } default: { } }',
    '{ let x = 1; { let x = 2.0; } } var i = 3; i = i + 1;',
    '_ = i; _ = a; _ = v.x; _ = &a;',
    'let p = &a; (*p)[1] = 2; p[2] = 3; let q = &a[i]; *q = 4; let r = p[0];',
    'let i2 = i; var k: i32; k = i2; const c = 3; const_assert c == 3;',
    'loop { break; } loop { return; }',
    'if b { return; } else { return; }',
    'var arr = a; arr[0] = 1; let c = arr; a = c;',
    ';;; { ; }',
  ]),
  ...list('functions', [
    'fn f() -> i32 { return g(1) + g(2); } fn g(a: i32) -> i32 { return a; }',
    'fn f(a: f32, b: vec3f,) -> vec3f { if a > 1 { return b; } return b * a; }',
    'fn f() -> i32 { loop { return 1; } }',
    'fn f(a: i32) -> i32 { switch a { case 1: { return 1; } default: { return 2; } } }',
    'fn inc(p: ptr<function, i32>) { *p += 1; } fn f() { var a = 1; inc(&a); let q = &a; inc(q); }',
    '@must_use fn f() -> f32 { return 1; } fn g() { let a = f(); _ = f(); }',
    'fn f() -> f32 { return 1; } fn g() { f(); }',
    'fn swap(a: ptr<function, f32>, b: ptr<function, f32>) { let t = *a; *a = *b; *b = t; } fn f() { var x = 1.0; var y = 2.0; swap(&x, &y); }',
    'struct S { a: f32, b: array<i32, 2> } fn f(p: ptr<function, S>) -> i32 { (*p).a = 1; p.b[0] = 2; return p.b[1]; }',
    'var<private> g: f32; fn f(p: ptr<private, f32>) { *p = 1; } fn h() { f(&g); }',
    'fn min(a: f32) -> f32 { return a; } fn f() -> f32 { return min(2); }',
    'fn f() -> i32 { while true { return 1; } return 2; }',
  ]),
  ...list('entry points', [
    '@vertex fn f() -> @builtin(position) vec4f { return vec4f(); }',
    '@vertex fn f(@location(0) p: vec3f, @location(1) n: vec2u, @builtin(vertex_index) i: u32, @builtin(instance_index) j: u32) -> @builtin(position) vec4f { return vec4f(p, f32(i + j + n.x)); }',
    'struct Out { @builtin(position) p: vec4f, @location(0) a: vec2f, @location(1) @interpolate(flat) b: u32 } @vertex fn f() -> Out { return Out(); }',
    '@fragment fn f(@builtin(position) p: vec4f, @builtin(front_facing) ff: bool) -> @location(0) vec4f { return p; }',
    '@fragment fn f(@location(0) @interpolate(linear, centroid) a: f32, @location(1) @interpolate(flat, either) b: i32) {}',
    'struct Out { @location(0) a: vec4f, @location(1) b: vec4u, @builtin(frag_depth) d: f32 } @fragment fn f() -> Out { return Out(); }',
    '@fragment fn f(@builtin(sample_index) i: u32, @builtin(sample_mask) m: u32) -> @builtin(sample_mask) u32 { return i | m; }',
    '@fragment fn f() { discard; }',
    '@compute @workgroup_size(8, 8) fn f(@builtin(global_invocation_id) g: vec3u, @builtin(local_invocation_index) l: u32, @builtin(workgroup_id) w: vec3u, @builtin(num_workgroups) n: vec3u) {}',
    '@compute @workgroup_size(64) fn f() { workgroupBarrier(); storageBarrier(); }',
    '@vertex fn f() -> @invariant @builtin(position) vec4f { return vec4f(1); }',
    '@vertex fn v() -> @builtin(position) vec4f { return vec4f(); } @fragment fn f() -> @location(0) vec4f { return vec4f(); } @compute @workgroup_size(1) fn c() {}',
    '@group(0) @binding(0) var<storage, read_write> o: array<f32>; @compute @workgroup_size(1) fn f() { o[0] = f32(arrayLength(&o)); }',
    '@group(0) @binding(0) var<storage, read_write> c: atomic<u32>; @compute @workgroup_size(1) fn f() { let old = atomicAdd(&c, 1); atomicStore(&c, old); let r = atomicCompareExchangeWeak(&c, 1, 2); if r.exchanged { atomicMax(&c, r.old_value); } }',
    'var<workgroup> w: u32; @compute @workgroup_size(1) fn f() { let a = workgroupUniformLoad(&w); }',
    '@group(0) @binding(0) var<uniform> a: vec4f; @group(0) @binding(0) var<uniform> b: vec4f; @fragment fn f() { _ = a; } @fragment fn g() { _ = b; }',
  ]),
  ...FLOAT_1.flatMap((name) => running(name, [`let r: f32 = ${name}(x); let s: vec3f = ${name}(v); const c = ${name}(${name === 'acosh' ? '2' : '0.5'}); let t = ${name}(${name === 'acosh' ? '1.5f' : '0.25f'});`])),
  ...INT_1.flatMap((name) => running(name, [`let r: i32 = ${name}(i); let s: vec3u = ${name}(vu); const c: u32 = ${name}(5u); let t = ${name}(7);`])),
  ...running('built-in functions', [
    'let r = abs(i); let s = abs(v); let t = abs(u); const c: i32 = abs(-3);',
    'let r = min(i, 2); let s = max(v, v); let t = clamp(x, 0, 1); let p = clamp(vi, vi, vi); const c = max(1, 2.5);',
    'let r = sign(x); let s = sign(vi); const c = sign(-2);',
    'let r = mix(x, 1, 0.5); let s = mix(v, v, 0.5); let t = mix(v, v, v); const c = mix(1, 2, 0.25);',
    'let r = pow(x, 2); let s = atan2(v, v); let t = step(0.5, x); let p = smoothstep(0, 1, x); let q = fma(x, x, x);',
    'let r = dot(v, v); let s = dot(vi, vi); let t = cross(v, v); let p = length(v); let q = length(x); let n = distance(v, v); let o = normalize(v);',
    'let r = reflect(v, v); let s = refract(v, v, 0.5); let t = faceForward(v, v, v);',
    'let r = determinant(m); let s = transpose(m); let t: mat3x2f = transpose(mat2x3f());',
    'let r = select(1, 2, b); let s = select(v, v, vb); let t = select(x, 1, i > 1); let p: vec3f = select(v, v, b);',
    'let r = all(vb); let s = any(vb); let t = all(b);',
    'let r = frexp(x); let s = r.fract + f32(r.exp); let t = modf(v); let p = t.whole + t.fract; const c = modf(1.5).fract;',
    'let r = ldexp(x, 3); let s = ldexp(v, vi); let t = quantizeToF16(x); let p = quantizeToF16(v);',
    'let r = extractBits(i, 1, 3); let s = insertBits(vu, vu, 1u, u); let t = reverseBits(u);',
    'let r = pack4x8snorm(w); let s = unpack4x8unorm(u); let t = pack2x16float(v.xy); let p = unpack2x16snorm(u); let q = unpack2x16float(u);',
    'let r = pack4xI8(vec4i(1)); let s = unpack4xU8(u); let t = dot4I8Packed(u, u); let p = pack4xU8Clamp(vec4u(1)); let q = pack2x16unorm(v.xy);',
    'let r = bitcast<u32>(x); let s = bitcast<vec3f>(vi); let t = bitcast<i32>(u); const c = bitcast<f32>(0x3f800000u);',
    'let r = degrees(x) + radians(180); let s = inverseSqrt(v); let t = saturate(x); let p = fract(v);',
  ]),
  ...fragment('textures', [
    'return textureSample(t, s, uv);',
    'return textureSample(t, s, uv, vec2i(1, -2));',
    'return textureSampleBias(t, s, uv, 0.5) + textureSampleLevel(t, s, uv, 1) + textureSampleGrad(t, s, uv, uv, uv);',
    'return vec4f(textureSample(td, s, uv) + textureSampleCompare(td, sc, uv, 0.5) + textureSampleCompareLevel(td, sc, uv, 0.5));',
    'return textureSample(ta, s, uv, 1) + textureSample(t3, s, uv.xyx) + textureSample(tc, s, uv.xyx);',
    'return textureLoad(t, vec2i(uv), 0) + vec4f(textureLoad(ti, vec2u(uv), 0)) + textureLoad(tm, vec2i(uv), 0) + textureLoad(t3, vec3i(0), 1);',
    'return textureGather(0, t, s, uv) + textureGather(td, s, uv) + textureGatherCompare(td, sc, uv, 0.5);',
    'textureStore(ts, vec2i(uv), vec4f(1)); return vec4f();',
    'return vec4f(f32(textureDimensions(t).x + textureDimensions(t, 1).y + textureNumLevels(t) + textureNumLayers(ta) + textureNumSamples(tm)));',
    'return textureSampleBaseClampToEdge(t, s, uv);',
    'return vec4f(dpdx(uv), dpdyFine(uv)) + vec4f(fwidth(uv.x));',
    'let tt = t; let ss = s; return textureSample(tt, ss, uv);',
    'return textureSample(t1, s, uv.x) + textureLoad(t1, 3, 0);',
    'return vec4f(textureLoad(td, vec2i(0), 0)) + textureLoad(ta, vec2i(0), 1, 0);',
  ]),
  ...['f32', 'i32', 'u32'].flatMap((of) =>
    list(`storage of ${of}`, [
      `@group(0) @binding(0) var<storage, read_write> a: array<vec2<${of}>>; @compute @workgroup_size(1) fn f() { a[1] = a[0] + vec2(1); a[2].y = ${of}(a[1].x); }`,
      `struct S { n: ${of}, v: vec3<${of}>, l: array<${of}, 5> } @group(0) @binding(0) var<storage, read> s: S; fn f(i: u32) -> ${of} { return s.n + s.v[i] + s.l[i]; }`,
    ]),
  ),
  ...[2, 3, 4].flatMap((c) => [2, 3, 4].flatMap((r) => list(`mat${c}x${r}`, [
    `var<private> a: mat${c}x${r}f; fn f() -> vec${r}f { return a * vec${c}f(1) + a[1]; }`,
    `@group(0) @binding(0) var<uniform> u: mat${c}x${r}f; fn f() -> mat${r}x${c}f { return transpose(u); }`,
  ]))),
  ...['+', '-', '*', '/', '%'].flatMap((op) => running(`operator ${op}`, [`let r = i ${op} 2; let s = x ${op} 2; let t = v ${op} v; let p = vu ${op} 3; const c = 7 ${op} 2; const d = 7.5 ${op} 2.5;`])),
  ...['==', '!=', '<', '<=', '>', '>='].flatMap((op) => running(`operator ${op}`, [`let r: bool = i ${op} 2; let s: vec3<bool> = v ${op} v; const c = 7 ${op} 2.5;`])),
  ...['=', '+=', '-=', '*=', '/=', '%=', '&=', '|=', '^=', '<<=', '>>='].flatMap((op) => running(`assignment ${op}`, [`u ${op} 3; vu.x ${op} 2u; var k = u; k ${op} u;`.replace('k >>= u', 'k >>= u')])),
  ...['bool', 'i32', 'u32', 'f32'].flatMap((to) => ['b', 'i', 'u', 'x'].flatMap((from) => running(`${to} of ${from}`, [`let r: ${to} = ${to}(${from}); let s: vec3<${to}> = vec3<${to}>(${to}(${from}));`]))),
  ...['atomicAdd', 'atomicSub', 'atomicMax', 'atomicMin', 'atomicAnd', 'atomicOr', 'atomicXor', 'atomicExchange'].flatMap((name) =>
    ['i32', 'u32'].flatMap((of) =>
      list(`${name} of ${of}`, [
        `@group(0) @binding(0) var<storage, read_write> c: array<atomic<${of}>, 2>; @compute @workgroup_size(1) fn f() { let old: ${of} = ${name}(&c[1], 3); }`,
      ]),
    ),
  ),
  ...['rgba8unorm', 'rgba8snorm', 'rgba8uint', 'rgba8sint', 'rgba16uint', 'rgba16sint', 'rgba16float', 'r32uint', 'r32sint', 'r32float', 'rg32uint', 'rg32sint', 'rg32float', 'rgba32uint', 'rgba32sint', 'rgba32float'].flatMap((format) =>
    list(`storage texture of ${format}`, [
      `@group(0) @binding(0) var t: texture_storage_2d<${format}, write>; @compute @workgroup_size(1) fn f() { textureStore(t, vec2u(1), vec4<${/uint/.test(format) ? 'u32' : /sint/.test(format) ? 'i32' : 'f32'}>(1)); }`,
    ]),
  ),
  ...['2d', '2d_array', '3d', 'cube', 'cube_array'].flatMap((dimension) =>
    ['f32', 'i32', 'u32'].flatMap((of) =>
      list(`texture_${dimension} of ${of}`, [`@group(0) @binding(0) var t: texture_${dimension}<${of}>; @fragment fn f() { _ = textureDimensions(t).x; }`]),
    ),
  ),
  ...list('templates against comparisons', [
    'const a = 1; const b = 2; const c = 3; fn f(a: i32, b: i32) -> bool { return a < b; } const d = array<bool, 2>(a < b, (b > c));',
    'fn f(a: i32, b: i32, c: i32) -> bool { return (a < b) == (b > c); }',
    'var<private> a: array<vec2<f32>, 1>; fn f() { let x = 8 >> 1u; let y = vec2<f32>(1) ; }',
    'const A = array<array<f32, 2>, (1 + 1)>(array(1, 2), array(3, 4)); const_assert A[1][0] == 3;',
    'fn f(a: u32) -> bool { return a<a&&a>a; }'.replace('a<a&&a>a', 'a < a && a > a'),
  ]),
];

export const INVALID: Sample[] = [
  ...list('form', [
    'const a = 1', 'fn f( {}', 'fn f() {', 'struct S { a f32 }', 'const = 1;', 'var<private a: f32;', 'fn f() -> { }', 'let a = 1;', 'const a = ;', 'const a = (1;', 'const a = 1 +;', '}', 'fn f() { if }', 'fn f() { for (;;;) {} }', 'fn f() { return 1 2; }', 'const a = 5 $ 3;', 'const a = "text";', "const a = 'c';", 'fn f() { x }', 'fn f() { 1; }', 'fn f() { a + b; }', 'struct S { a: f32; b: f32 }', '@@vertex fn f() {}', 'fn f() { else {} }', 'fn f() { case 1: {} }', 'fn f() { continuing {} }', 'alias A f32;', 'import x;', 'fn f() { if true return; }', 'const a = [1, 2];', 'const a: = 1;', 'fn f(a) {}', 'fn f() { var a b; }',
  ]),
  ...list('comments', ['/* open', '/* /* inner closed */', '*/ const a = 1;']),
  ...list('numbers', ['const a = 01;', 'const a = 1x;', 'const a = 0x;', 'const a = 1.5u;', 'const a = 1e;', 'const a = 99999999999999999999;', 'const a = 4294967296u;', 'const a = 2147483648i;', 'const a = 1e400;', 'const a = 1e39f;', 'const a = 0x1.00000001p0f;', 'const a = 1.0.0;', 'const a = 0b11;', 'const a = 1_000;', 'const a = 3.f32;']),
  ...list('names', ['const __a = 1;', 'const _ = 1;', 'const fn = 1;', 'const while = 1;', 'const class = 1;', 'const a = 1; const a = 2;', 'fn f() {} fn f() {}', 'struct S { a: f32, a: f32 }', 'fn f(a: i32, a: i32) {}', 'fn f() { let a = 1; let a = 2; }', 'fn f(a: i32) { let a = 1; }', 'fn f() { b = 1; }', 'const a = b;', 'fn f() { g(); }', 'fn f() -> T { }', 'fn f() { { let a = 1; } let b = a; }', 'fn f() { let a = a; }', 'fn f() { for (var i = 0; i < 2; i++) {} i = 1; }', 'const enum = 1;', 'fn null() {}']),
  ...list('types', [
    'const a: f32 = true;', 'const a: i32 = 1.5;', 'const a: u32 = -1;', 'const a: vec2f = vec3f();', 'const a: bool = 1;', 'var<private> a: vec5f;', 'var<private> a: vec3;', 'var<private> a: vec3<vec2f>;', 'var<private> a: mat3x3<i32>;', 'var<private> a: mat5x5f;', 'var<private> a: array<f32>;', 'var<private> a: array<f32, 0>;', 'var<private> a: array<f32, -1>;', 'var<private> a: array<f32, 1.5>;', 'var<private> a: array;', 'var<private> a: atomic<f32>;', 'var<private> a: atomic<u32>;', 'var<private> a: texture_2d<f32>;', 'var<private> a: ptr<function, f32>;', 'fn f() -> array<f32> { }', 'fn f(a: atomic<u32>) {}', 'struct S { a: texture_2d<f32> }', 'struct S { a: array<f32>, b: f32 }', 'struct S {}', 'struct S { a: S }', 'struct A { b: B } struct B { a: A }', 'alias A = B; alias B = A;', 'const a = b; const b = a;', 'var<private> a: f64;', 'var<private> a: f32<i32>;', 'var<private> a: array<texture_2d<f32>, 2>;', 'struct S { n: array<f32> } struct T { s: S }', 'var<private> a: texture_2d<bool>;', 'var<private> a: sampler<f32>;', '@group(0) @binding(0) var a: texture_storage_2d<rgba8, write>;', '@group(0) @binding(0) var a: texture_storage_2d<rgba8unorm>;', '@group(0) @binding(0) var a: texture_2d;', 'alias A = 1;', 'const c = f32;', 'var<private> a: 3;',
  ]),
  ...list('layout', ['struct S { @align(3) a: f32 }', 'struct S { @align(2) a: f32 }', 'struct S { @size(2) a: f32 }', 'struct S { @align(0) a: f32 }', 'struct S { @size(-4) a: f32 }', 'struct S { @size(16) a: array<f32> }']),
  ...list('variables', [
    'var a: f32;', 'var<function> a: f32;', 'var<uniform> a: bool;', '@group(0) @binding(0) var<uniform> a: bool;', '@group(0) @binding(0) var<uniform> a: array<f32>;', '@group(0) @binding(0) var<storage, write> a: f32;', '@group(0) @binding(0) var<storage> a: bool;', '@group(0) @binding(0) var<storage, read> a: atomic<u32>;', '@group(0) @binding(0) var<uniform> a: atomic<u32>;', '@group(0) @binding(0) var<uniform> a: f32 = 1;', 'var<workgroup> a: f32 = 1;', 'var<private> a;', 'var<private, read> a: f32;', '@group(0) var<uniform> a: f32;', '@binding(0) var<uniform> a: f32;', '@group(0) @binding(0) var<private> a: f32;', '@group(-1) @binding(0) var<uniform> a: f32;', '@group(0) @group(1) @binding(0) var<uniform> a: f32;', 'var<private> a: f32 = b; var<private> b: f32 = 1;', 'const a = f(); fn f() -> i32 { return 1; }', 'var<other> a: f32;', '@location(0) var<private> a: f32;', 'var<workgroup> a: array<f32>;', 'const a: array<f32, 2>;',
  ]),
  ...list('overrides', ['override a: vec2f;', 'override a;', '@id(1) override a = 1; @id(1) override b = 2;', '@id(70000) override a = 1;', '@id(-1) override a = 1;', 'override a = b; var<private> b: i32;', 'override n = 2; const c = n;', 'override n = 2; var<private> a: array<f32, n>;', 'override a: array<f32, 2>;']),
  ...list('directives', ['enable nothing;', 'requires nothing_at_all;', 'const a = 1; enable f16;', 'diagnostic(loud, derivative_uniformity);', 'enable;', 'var<private> a: f16;', 'const a = 1h;']),
  ...running('operators', [
    'let r = i + 1.5;', 'let r = i + u;', 'let r = x + i;', 'let r = b + b;', 'let r = v + vi;', 'let r = v + w;', 'let r = !i;', 'let r = ~x;', 'let r = -u;', 'let r = -b;', 'let r = i && b;', 'let r = b && 1;', 'let r = vb && vb;', 'let r = x & 1;', 'let r = x << 1;', 'let r = i << i;', 'let r = vi << u;', 'let r = i == u;', 'let r = m == m;', 'let r = b < b;', 'let r = m / m;', 'let r = m * w;', 'let r = m + 1;', 'let r = i < u;', 'let r = a + a;', 'let r = a == a;', 'let r = b ^ b;', 'let r = i % 1.5;', 'let r = 1 < 2 < 3;', 'let r = i & 1 == 0;', 'let r = b && b || b;', 'let r = i << 1 << 2;', 'let r = i + 1 << 2;', 'let r = i | 1 & 2;', 'let r = ++i;', 'let r = i++;', 'let r = b ? 1 : 2;', 'let r = a[1.5];', 'let r = a[b];', 'let r = a[4];', 'let r = a[-1];', 'let r = v[3];', 'let r = x[0];', 'let r = v.w;', 'let r = v.xr;', 'let r = v.xyzxy;', 'let r = v.q;', 'let r = x.x;', 'let r = w.rgbx;', 'let r = i / 0;', 'let r = u % 0;', 'let r = i << 32u;', 'let r = &1;', 'let r = &v.x;', 'let r = &v[0];', 'let r = *x;', 'let r = &(i + 1);', 'let r = m[3];', 'let r = m[0][3];', 'let r = -(b);',
  ]),
  ...body('constants', [
    'const a = 1 / 0;', 'const a = 1.0 / 0.0;', 'const a = -2147483648i - 1i;', 'const a = 5 % 0;', 'const a = 1e38f * 10f;', 'const a = 1u << 32u;', 'const a = 9223372036854775807 + 1;', 'const a = sqrt(-1);', 'const a = log(0);', 'const a = acos(2);', 'const a = array(1, 2)[2];', 'const a = vec2(1, 2)[-1];', 'const a = clamp(1, 3, 2);', 'const a = smoothstep(1, 1, 0);', 'const a = 1i << 31u;', 'const a: i32 = 3000000000;', 'const a = u32(-1);', 'const a = extractBits(1, 30, 5);', 'const a = inverseSqrt(0);', 'const a = normalize(vec2f(0));', 'const a = exp(1000f);', 'const a = quantizeToF16(1e6);', 'const a = pack2x16float(vec2f(1e6, 0));', 'const a = ldexp(1f, 200);', 'const_assert false;', 'const_assert 1;', 'let x = 1; const_assert x == 1;', 'let x = 1; const a = x;', 'const a = bitcast<f32>(0x7f800000u);', 'const a = atanh(1);', 'const a = asin(1.5);', 'const a = pow(-1, 0.5);', 'const a = acosh(0.5);',
  ]),
  ...running('constructors', ['let r = vec3f(1, 2);', 'let r = vec3f(v, 1);', 'let r = vec2f(v);', 'let r = vec3(1, x, i);', 'let r = vec3(true, 1, 2);', 'let r = f32(v);', 'let r = f32(1, 2);', 'let r = mat2x2f(1, 2, 3);', 'let r = mat2x2f(v, v);', 'let r = array<f32, 2>(1);', 'let r = array<f32, 2>(1, i);', 'let r = array(1, true);', 'let r = array();', 'let r = f32(&x);', 'let r = sampler();', 'let r = vec3f(b, 1, 2);', 'let r = mat3x3f(i, 0, 0, 0, 0, 0, 0, 0, 0);', 'let r = i32(a);', 'let r = vec3<f32, i32>(1);', 'let r = array<f32>(1, 2);', 'let r = atomic<u32>(1);']),
  ...running('statements', [
    'if i {}', 'if 1 {}', 'while x {}', 'for (; i;) {}', 'break;', 'continue;', 'if b { break; }', 'switch i { case 1: {} }', 'switch x { default: {} }', 'switch i { case 1: {} case 1: {} default: {} }', 'switch i { default: {} default: {} }', 'switch i { case 1u: {} default: {} }', 'switch i { case i: {} default: {} }', 'switch b { default: {} }', 'loop {}', 'for (;;) {}', 'loop { continuing { break; } }', 'loop { continuing { continue; } }', 'loop { continuing { return; } }', 'loop { continuing { i++; } i++; }', 'break if b;', 'let k = 1; k = 2;', 'const k = 1; k = 2;', 'x = i;', 'v.xx = vec2f();', 'v = w;', '1 = i;', 'i + 1 = 2;', 'f = 1;', 'i += 1.5;', 'v += vi;', 'b += 1;', 'b++;', 'x++;', 'v++;', 'var k;', 'let k;', 'let k: f32;', 'let k: f32 = i;', 'var k: i32 = 1.5;', 'return 1;', 'sin(x);', 'vec3f(1);', 'i;', 'abs(i) = 1;', 'var<private> k: f32;', 'loop { if b { continue; } let k = 1; if b { break; } continuing { i = k; } }', 'const_assert b;', 'switch i { case 1 { continue; } default {} }', 'discard 1;', '_ = f;', 'let k = f();',
  ]),
  ...list('functions', [
    'fn f() -> i32 {}', 'fn f() -> i32 { if true { return 1; } }', 'fn f() -> i32 { return 1.5; }', 'fn f() -> i32 { return; }', 'fn f() { f(); }', 'fn f() { g(); } fn g() { f(); }', 'fn f(a: i32) {} fn g() { f(1.5); }', 'fn f(a: i32) {} fn g() { f(); }', 'fn f(a: i32) {} fn g() { f(1, 2); }', 'fn f() {} const a = f;', 'fn f(a: ptr<function, i32>) {} fn g() { var x = 1; f(x); }', 'fn f(a: ptr<function, i32>) {} fn g() { var x = 1u; f(&x); }', '@must_use fn f() {}', '@must_use fn f() -> i32 { return 1; } fn g() { f(); }', 'fn f(a: i32) { a = 2; }', 'fn f() -> ptr<function, i32> { }', 'fn f() -> sampler { }', 'fn f<T>() {}', 'fn f(a: i32 = 1) {}', 'fn f() { fn g() {} }', 'fn f() -> i32 { switch 1 { case 1: { return 1; } default: {} } }', 'fn f(a: array<f32>) {}', 'fn f() -> i32 { loop { if true { break; } return 1; } }', 'const f = 1; fn g() { f(); }',
  ]),
  ...list('entry points', [
    '@vertex fn f() {}', '@vertex fn f() -> vec4f { return vec4f(); }', '@vertex fn f() -> @location(0) vec4f { return vec4f(); }', '@vertex fn f() -> @builtin(position) vec3f { return vec3f(); }', '@fragment fn f() -> vec4f { return vec4f(); }', '@fragment fn f(a: f32) {}', '@fragment fn f(@location(0) a: i32) {}', '@fragment fn f(@location(0) a: bool) {}', '@fragment fn f(@location(0) a: f32, @location(0) b: f32) {}', '@fragment fn f(@builtin(vertex_index) i: u32) {}', '@vertex fn f(@builtin(position) p: vec4f) -> @builtin(position) vec4f { return p; }', '@fragment fn f(@builtin(position) p: vec3f) {}', '@fragment fn f(@builtin(nothing) p: f32) {}', '@compute fn f() {}', '@compute @workgroup_size(0) fn f() {}', '@compute @workgroup_size(1) fn f() -> @location(0) f32 { return 1; }', '@compute @workgroup_size(1) fn f(@location(0) a: f32) {}', '@fragment @vertex fn f() {}', '@workgroup_size(1) fn f() {}', '@vertex fn v() -> @builtin(position) vec4f { return vec4f(); } fn g() { _ = v(); }', '@fragment fn f(@location(0) @builtin(position) p: vec4f) {}', '@fragment fn f(@location(-1) a: f32) {}', '@fragment fn f(@location(0) a: array<f32, 2>) {}', '@fragment fn f(@location(0) a: mat2x2f) {}', 'struct A { @location(0) a: f32 } struct B { a: A } @fragment fn f(b: B) {}', '@fragment fn f(@builtin(position) a: vec4f, @builtin(position) b: vec4f) {}', 'fn f(@location(0) a: f32) {}', '@fragment fn f(@interpolate(flat) @builtin(position) p: vec4f) {}', '@fragment fn f(@location(0) @interpolate(smooth) a: f32) {}', '@fragment fn f() -> @builtin(frag_depth) vec2f { return vec2f(); }', '@group(0) @binding(0) var<uniform> a: vec4f; @group(0) @binding(0) var<uniform> b: vec4f; @fragment fn f() { _ = a; _ = b; }', 'var<workgroup> w: f32; @fragment fn f() { w = 1; }', '@vertex fn f() -> @builtin(position) vec4f { return vec4f(dpdx(1.0)); }', '@compute @workgroup_size(1) fn f() { let a = fwidth(1.0); }', '@fragment fn f() { workgroupBarrier(); }', '@group(0) @binding(0) var<storage, read_write> o: f32; @vertex fn f() -> @builtin(position) vec4f { o = 1; return vec4f(); }', 'fn g() { discard; } @vertex fn f() -> @builtin(position) vec4f { g(); return vec4f(); }', '@vertex fn f() -> @location(0) @builtin(position) vec4f { return vec4f(); }', '@fragment fn f(p: ptr<function, f32>) {}', '@compute @workgroup_size(1.5) fn f() {}', '@compute @workgroup_size(1, 2, 3, 4) fn f() {}', '@nothing fn f() {}',
  ]),
  ...FLOAT_1.flatMap((name) => running(name, [`let r = ${name}(i);`, `let r = ${name}(m);`])),
  ...INT_1.flatMap((name) => running(name, [`let r = ${name}(x);`])),
  ...running('built-in functions', ['let r = abs(b);', 'let r = abs();', 'let r = abs(1, 2);', 'let r = min(i, u);', 'let r = min(i);', 'let r = max(v, x);', 'let r = clamp(x, 0, i);', 'let r = dot(v, vi);', 'let r = dot(x, x);', 'let r = cross(w, w);', 'let r = length(i);', 'let r = normalize(x);', 'let r = mix(x, v, 1);', 'let r = pow(i, 2);', 'let r = determinant(mat2x3f());', 'let r = transpose(v);', 'let r = select(1, true, b);', 'let r = select(x, x, vb);', 'let r = all(i);', 'let r = frexp(i);', 'let r = ldexp(x, x);', 'let r = extractBits(x, 0, 1);', 'let r = extractBits(u, i, 1);', 'let r = pack4x8snorm(v);', 'let r = unpack4x8snorm(i);', 'let r = bitcast<vec2f>(x);', 'let r = bitcast<bool>(u);', 'let r = bitcast(u);', 'let r = sign(u);', 'let r = refract(v, v, v);', 'let r = arrayLength(&a);', 'let r = arrayLength(a);', 'let r = step(1, i);', 'let r = atan2(x);', 'let r = sin;', 'let r = sin<f32>(x);', 'let r = smoothstep(x, x, v);', 'let r = fma(x, x);', 'let r = reverseBits(b);', 'let r = quantizeToF16(i);', 'let r = distance(v, w);', 'let r = reflect(x, x);', 'let r = atomicAdd(&i, 1);', 'let r = modf(b);', 'let r = modf(x).exp;', 'let r = any(x);']),
  ...fragment('textures', ['return textureSample(t, sc, uv);', 'return textureSample(t, s, uv.x);', 'return textureSample(t, s, vec2i(uv));', 'return textureSample(ti, s, uv);', 'return textureSample(t, uv);', 'return textureSample(ta, s, uv);', 'return textureSample(tm, s, uv);', 'return textureSample(t, s, uv, vec2i(9, 0));', 'return textureSample(t, s, uv, vec2i(uv));', 'return textureLoad(t, uv, 0);', 'return textureLoad(t, vec2i(uv));', 'return textureLoad(ts, vec2i(uv));', 'return textureLoad(tc, vec3i(0), 0);', 'return vec4f(textureSampleCompare(t, sc, uv, 0.5));', 'return vec4f(textureSampleCompare(td, s, uv, 0.5));', 'return textureGather(4, t, s, uv);', 'return textureGather(t, s, uv);', 'textureStore(t, vec2i(uv), vec4f()); return vec4f();', 'textureStore(ts, vec2i(uv), vec4i()); return vec4f();', 'return textureSampleLevel(t, s, uv);', 'textureSample(t, s, uv); return vec4f();', 'return textureDimensions(t);', 'return vec4f(f32(textureNumLayers(t)));', 'return vec4f(f32(textureNumSamples(t)));', 'return t;', 'return textureSample(s, t, uv);', 'return textureSampleBias(td, s, uv, 1);', 'let q = &t; return vec4f();', 'return textureSample(tc, s, uv.xyx, vec3i(1));']),
];
