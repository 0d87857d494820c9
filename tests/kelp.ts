/** Hooks that take settings of all kinds, by material, by vertex and by instance. */
export const KELP = `// Kelp in the swell.
struct Settings {
  sway: f32,       // 0..1 = 0.25   how far the top moves
  leaf: vec3f,     // color = #336600
  turn: mat3x3f,
  rows: u32,       // = 4
}
struct InstanceSettings { tint: vec3f, phase: f32 } // color = #fff
struct Attributes { stiffness: f32 }
var veins: texture_2d<f32>;   // data   heights of the veins
var veinsSampler: sampler;

fn displace(v: Vertex, s: Settings, a: Attributes, i: InstanceSettings) -> Vertex {
  var out = v;
  out.position.x += s.sway * (1 - a.stiffness) * sin(frame.time + i.phase);
  return out;
}

fn surface(p: Fragment, s: Settings, i: InstanceSettings) -> Surface {
  var out = surfaceDefaults(p);
  out.baseColor = s.leaf * i.tint * textureSample(veins, veinsSampler, p.texcoord0).r;
  return out;
}
`;
