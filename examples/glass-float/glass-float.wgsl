// A glass ball: clear in the middle, where what lies behind shows through bent, and glowing at the rim.
struct Settings {
  edge: f32,    // 0.5..6 = 2.4      how fast the rim falls off
  glow: vec3f,  // color = #ffb46a   light of the rim
  bend: f32,    // 0..80 = 34        how far the picture behind is moved, pixels
}

struct InstanceSettings {
  tint: vec3f, // color = #7fd1b9   colour of the glass
}

fn outputColor(color: vec4f, p: Fragment, s: Settings, i: InstanceSettings) -> vec4f {
  let facing = saturate(dot(p.normal, p.toCamera));
  let rim = pow(1 - facing, s.edge);
  // Seen from the front the ball is a lens that turns the picture over, more so towards its edge.
  let away = p.viewNormal.xy * vec2f(1, -1) * s.bend * (1 - facing * facing);
  let behind = sceneColor(p.screenPosition + away).rgb;
  let body = behind * mix(vec3f(1), i.tint, 0.35 + 0.65 * rim);
  return vec4f(body * (1 - 0.5 * rim) + color.rgb * 0.35 + mix(s.glow, vec3f(1), 0.25) * i.tint * rim * 1.7, 1);
}

fn surface(p: Fragment, i: InstanceSettings) -> Surface {
  var out = surfaceDefaults(p);
  // Only the highlight of a smooth body is added to what shines through.
  out.baseColor = i.tint * 0.02;
  out.metallic = 0;
  out.roughness = 0.12;
  return out;
}
