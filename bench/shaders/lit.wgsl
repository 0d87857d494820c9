// Metallic-roughness lighting with several lights: what the scene's lit shader computes.
struct Light { position: vec4f, color: vec4f }
struct Scene { count: u32, roughness: f32, metallic: f32, time: f32, lights: array<Light, 8> }
@group(0) @binding(0) var<uniform> scene: Scene;

const PI = 3.14159265358979;

struct Surface { position: vec3f, normal: vec3f, toCamera: vec3f, diffuse: vec3f, f0: vec3f, roughness: f32 }

fn distribution(nh: f32, a2: f32) -> f32 {
  let f = nh * nh * (a2 - 1) + 1;
  return a2 / (PI * f * f);
}

fn visibility(nl: f32, nv: f32, a2: f32) -> f32 {
  let v = nl * sqrt(nv * nv * (1 - a2) + a2);
  let l = nv * sqrt(nl * nl * (1 - a2) + a2);
  return 0.5 / max(v + l, 1e-6);
}

fn schlick(f0: vec3f, vh: f32) -> vec3f {
  let f = 1 - vh;
  let f2 = f * f;
  return f0 + (1 - f0) * (f2 * f2 * f);
}

fn shine(s: Surface, light: Light) -> vec3f {
  let way = light.position.xyz - s.position;
  let squared = max(dot(way, way), 1e-6);
  let toLight = way * inverseSqrt(squared);
  let nl = dot(s.normal, toLight);
  if nl <= 0 { return vec3f(); }
  let halfway = normalize(toLight + s.toCamera);
  let nv = max(dot(s.normal, s.toCamera), 1e-4);
  let nh = saturate(dot(s.normal, halfway));
  let vh = saturate(dot(s.toCamera, halfway));
  let a = s.roughness * s.roughness;
  let f = schlick(s.f0, vh);
  let specular = f * (distribution(nh, a * a) * visibility(nl, nv, a * a));
  return ((1 - f) * s.diffuse / PI + specular) * light.color.rgb * (nl / squared);
}

@fragment fn main(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let p = (at.xy - vec2f(160, 100)) / 90;
  let r2 = dot(p, p);
  if r2 > 1 { return vec4f(0.02, 0.03, 0.05, 1); }
  var s: Surface;
  s.normal = vec3f(p, sqrt(1 - r2));
  s.position = s.normal;
  s.toCamera = vec3f(0, 0, 1);
  let base = vec3f(0.8, 0.5, 0.3);
  s.diffuse = base * (1 - scene.metallic);
  s.f0 = mix(vec3f(0.04), base, scene.metallic);
  s.roughness = scene.roughness;
  var color = vec3f();
  for (var i = 0u; i < scene.count; i++) {
    color += shine(s, scene.lights[i]);
  }
  return vec4f(sqrt(color / (1 + color)), 1);
}
