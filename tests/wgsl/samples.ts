/** Small modules, each about one rule. What we accept the browser accepts, and what we refuse it refuses. */
export interface Sample {
  name: string;
  text: string;
}

export const list = (prefix: string, texts: string[]): Sample[] =>
  texts.map((text, i) => ({ name: `${prefix} ${i + 1}`, text }));
/** Statements inside a function. */
export const body = (prefix: string, texts: string[]): Sample[] =>
  texts.map((text, i) => ({ name: `${prefix} ${i + 1}`, text: `fn f() { ${text} }` }));
/** Statements that may use some values of the running program. */
export const given =
  'var<private> b: bool; var<private> i: i32; var<private> u: u32; var<private> x: f32; var<private> v: vec3f; var<private> w: vec4f; var<private> vi: vec3i; var<private> vu: vec3u; var<private> vb: vec3<bool>; var<private> m: mat3x3f; var<private> a: array<f32, 4>;';
export const running = (prefix: string, texts: string[]): Sample[] =>
  texts.map((text, i) => ({ name: `${prefix} ${i + 1}`, text: `${given} fn f() { ${text} }` }));
export const fragment = (prefix: string, texts: string[]): Sample[] =>
  texts.map((text, i) => ({
    name: `${prefix} ${i + 1}`,
    text: `@group(0) @binding(0) var t: texture_2d<f32>; @group(0) @binding(1) var s: sampler; @group(0) @binding(2) var td: texture_depth_2d; @group(0) @binding(3) var sc: sampler_comparison; @group(0) @binding(4) var ta: texture_2d_array<f32>; @group(0) @binding(5) var t3: texture_3d<f32>; @group(0) @binding(6) var tc: texture_cube<f32>; @group(0) @binding(7) var ti: texture_2d<i32>; @group(0) @binding(8) var tm: texture_multisampled_2d<f32>; @group(0) @binding(9) var ts: texture_storage_2d<rgba8unorm, write>; @group(0) @binding(10) var t1: texture_1d<f32>;
@fragment fn f(@location(0) uv: vec2f) -> @location(0) vec4f { ${text} }`,
  }));

export const FLOAT_1 =
  'acos acosh asin asinh atan atanh ceil cos cosh degrees exp exp2 floor fract inverseSqrt log log2 radians round saturate sin sinh sqrt tan tanh trunc'.split(
    ' ',
  );
export const INT_1 =
  'countLeadingZeros countOneBits countTrailingZeros firstLeadingBit firstTrailingBit reverseBits'.split(' ');
