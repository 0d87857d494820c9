// A textured, lit, turning shape, for a page that builds its renderer by hand.
struct Scene { turn: mat4x4f, toLight: vec3f, aspect: f32 }
@group(0) @binding(0) var<uniform> scene: Scene;
@group(0) @binding(1) var picture: texture_2d<f32>;
@group(0) @binding(2) var pictureSampler: sampler;

struct Varying { @builtin(position) clip: vec4f, @location(0) normal: vec3f, @location(1) uv: vec2f }

@vertex fn place(@location(0) position: vec3f, @location(1) normal: vec3f, @location(2) uv: vec2f) -> Varying {
  let p = (scene.turn * vec4f(position, 1)).xyz + vec3f(0, 0, -2.6);
  // Reversed depth: the near plane at 0.1 is 1, infinity is 0.
  return Varying(vec4f(p.x * 1.8 / scene.aspect, p.y * 1.8, 0.1, -p.z), (scene.turn * vec4f(normal, 0)).xyz, uv);
}

@fragment fn shade(v: Varying) -> @location(0) vec4f {
  let base = textureSample(picture, pictureSampler, v.uv).rgb;
  let lit = base * (0.18 + 0.95 * saturate(dot(normalize(v.normal), scene.toLight)));
  return vec4f(pow(lit, vec3f(1 / 2.2)), 1);
}
