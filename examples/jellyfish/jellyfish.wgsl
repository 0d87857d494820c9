// A jellyfish as blended distance functions, found by marching along the ray of each pixel.
struct Settings {
  bell: vec3f,   // color = #e7a0c8   colour of the bell
  glow: vec3f,   // color = #5a7dff   light from within
  blend: f32,    // 0.01..0.2 = 0.07  how softly the parts flow together
}

struct InstanceSettings {
  phase: f32,  // 0..6.3 = 0   where it is in its beat
  tint: vec3f, // color = #ffffff
}

const MOST_STEPS = 72;

// The smaller of two distances, rounded where they are nearly equal (Quilez, "Smooth Minimum").
fn smoothMin(a: f32, b: f32, k: f32) -> f32 {
  let h = max(k - abs(a - b), 0) / k;
  return min(a, b) - h * h * k * 0.25;
}

// How far the bell is drawn together, -1..1.
fn beat(phase: f32) -> f32 {
  return sin(frame.time * 1.8 + phase);
}

fn bellAt(p: vec3f, squeeze: f32) -> f32 {
  let wide = vec3f(1 + 0.14 * squeeze, 1 - 0.12 * squeeze, 1 + 0.14 * squeeze);
  let q = (p - vec3f(0, 0.35, 0)) / wide;
  let ball = length(q * vec3f(1, 1.25, 1)) - 0.42;
  let hollow = length((q + vec3f(0, 0.09, 0)) * vec3f(1, 1.2, 1)) - 0.39;
  let cut = -(q.y + 0.13 + 0.025 * cos(atan2(q.z, q.x) * 12));
  return max(max(ball, -hollow), cut) * 0.72;
}

fn armsAt(p: vec3f, squeeze: f32, phase: f32) -> f32 {
  // Eight arms are one arm, its angle folded.
  let turn = atan2(p.z, p.x);
  let sector = 6.28318 / 8;
  let folded = (fract(turn / sector) - 0.5) * sector;
  let radius = length(p.xz);
  let sway = 0.05 * sin(p.y * 7 + frame.time * 2.2 + phase + floor(turn / sector) * 1.7);
  let out = 0.2 + 0.05 * squeeze + 0.05 * sin(p.y * 3 + frame.time);
  let q = vec2f(radius * cos(folded) - out - sway, radius * sin(folded));
  let thick = mix(0.008, 0.034, saturate((p.y + 0.75) / 1.0));
  let along = max(p.y - 0.3, -0.75 - p.y);
  return max(length(q) - thick, along) * 0.6;
}

fn shapeAt(p: vec3f, s: Settings, phase: f32) -> f32 {
  let squeeze = beat(phase);
  let core = length((p - vec3f(0, 0.3, 0)) * vec3f(1, 0.9, 1)) - 0.13;
  let body = smoothMin(bellAt(p, squeeze), core, s.blend);
  return smoothMin(body, armsAt(p, squeeze, phase), s.blend);
}

fn normalAt(p: vec3f, s: Settings, phase: f32) -> vec3f {
  // Four samples at the corners of a tetrahedron.
  let e = vec2f(1, -1) * 0.002;
  return normalize(
    e.xyy * shapeAt(p + e.xyy, s, phase) + e.yyx * shapeAt(p + e.yyx, s, phase) +
    e.yxy * shapeAt(p + e.yxy, s, phase) + e.xxx * shapeAt(p + e.xxx, s, phase));
}

fn march(ray: Ray, s: Settings, i: InstanceSettings) -> Hit {
  // Only the way through the box counts.
  let inverse = 1 / ray.direction;
  let a = (vec3f(-0.6, -0.8, -0.6) - ray.origin) * inverse;
  let b = (vec3f(0.6, 0.85, 0.6) - ray.origin) * inverse;
  let near = max(max(max(min(a.x, b.x), min(a.y, b.y)), min(a.z, b.z)), 0);
  let far = min(min(max(a.x, b.x), max(a.y, b.y)), max(a.z, b.z));
  var t = near;
  for (var step = 0; step < MOST_STEPS; step++) {
    if t > far { break; }
    let p = ray.origin + ray.direction * t;
    let d = shapeAt(p, s, i.phase);
    if d < 0.0015 { return hitAt(p, normalAt(p, s, i.phase)); }
    t += d;
  }
  return miss();
}

fn surface(p: Fragment, s: Settings, i: InstanceSettings) -> Surface {
  var out = surfaceDefaults(p);
  let rim = pow(1 - saturate(dot(p.normal, p.toCamera)), 2);
  let height = saturate(p.objectPosition.y * 1.2 + 0.3);
  out.baseColor = s.bell * i.tint * mix(0.5, 1, height);
  out.metallic = 0;
  out.roughness = 0.35;
  out.emissive = s.glow * i.tint * (0.14 + 0.7 * rim) * (0.75 + 0.25 * beat(i.phase));
  return out;
}

// Water takes the light with distance.
fn outputColor(color: vec4f, p: Fragment) -> vec4f {
  let away = distance(p.position, frame.cameraPosition);
  return vec4f(mix(vec3f(0.01, 0.06, 0.1), color.rgb, exp(-0.11 * away)), 1);
}
