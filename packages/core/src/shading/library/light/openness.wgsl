// How much of what is around a place on a surface is seen from there, as the picture tells: see ambient-occlusion.wgsl.
import { frame } from './frame.wgsl';
import { Fragment } from './surface.wgsl';

override useAmbientOcclusion = false;

/// The mean direction that is open, as long as its share; and metres from the camera of the surface that it is of.
@group(0) @binding(30) var openDirections: texture_2d<f32>;

/// The pixel at hand of the whole picture.
var<private> shownPixel: vec2f;

struct Openness {
  /// Of length 1.
  way: vec3f,
  /// 0 to 1.
  share: f32,
}

fn opennessAt(p: Fragment, normal: vec3f) -> Openness {
  let away = dot(p.position - frame.cameraPosition, frame.forward);
  let last = vec2i(textureDimensions(openDirections)) - 1;
  // At edges a pixel beside it may be the one of this surface.
  for (var k = 0; k < 5; k++) {
    let aside = vec2i(select(0, 2 * (k & 1) - 1, k > 0 && k < 3), select(0, 2 * (k & 1) - 1, k > 2));
    let found = textureLoad(openDirections, clamp(vec2i(shownPixel) + aside, vec2i(), last), 0);
    let share = length(found.xyz);
    if share > 1e-3 && abs(away - found.w) < 0.01 * away && dot(found.xyz, normal) > -0.1 * share {
      return Openness(found.xyz / share, min(share, 1));
    }
  }
  // What is blended, and what is drawn by itself, is not in it.
  return Openness(normal, 1);
}

/// How much of a mirrored picture is open: of the cone that is seen and the cone that is mirrored, what both share (Jimenez et al.,
/// "Practical Realtime Strategies for Accurate Indirect Occlusion", 2016).
fn mirrorOpenness(open: Openness, mirrored: vec3f, roughness: f32) -> f32 {
  let seen = acos(sqrt(saturate(1 - open.share)));
  let cosine = exp2(-3.32193 * roughness * roughness);
  let spread = acos(min(cosine, 0.9999));
  let apart = acos(clamp(dot(open.way, mirrored), -1, 1));
  let inner = abs(seen - spread);
  let both = 1 - smoothstep(0, 1, saturate((apart - inner) / max(seen + spread - inner, 1e-4)));
  return both * min(1, (1 - cos(seen)) / max(1 - cos(spread), 1e-5));
}
