// A panorama where nothing is drawn.
import { air, radianceFrom } from './air.wgsl';
import { fogRadiance, useFog } from './fog.wgsl';
import { asideAt, frame } from './frame.wgsl';
import { present } from './tone.wgsl';
import { placeInPanorama } from './panorama.wgsl';

struct Backdrop {
  /// Cosine and sine of its turn about +Y.
  turn: vec2f,
  intensity: f32,
  /// Level of detail that has about as many pixels as the picture, and levels more for the blur.
  level: f32,
}

@group(1) @binding(0) var<uniform> backdrop: Backdrop;
@group(1) @binding(1) var panorama: texture_2d<f32>;
@group(1) @binding(2) var panoramaSampler: sampler;

struct BackdropVarying {
  @builtin(position) clip: vec4f,
  @location(0) way: vec3f,
}

@vertex fn backdropVertex(@builtin(vertex_index) i: u32) -> BackdropVarying {
  let at = vec2f(vec2u(i & 1, i >> 1) * 4) - 1;
  // A parallel view looks one way alone.
  let aside = asideAt(at) * (1 - frame.isParallel);
  return BackdropVarying(vec4f(at, 0, 1), frame.forward + aside);
}

@fragment fn backdropFragment(seen: BackdropVarying) -> @location(0) vec4f {
  let way = normalize(seen.way);
  let own = vec3f(way.x * backdrop.turn.x - way.z * backdrop.turn.y, way.y, way.x * backdrop.turn.y + way.z * backdrop.turn.x);
  var color = textureSampleLevel(panorama, panoramaSampler, placeInPanorama(own), backdrop.level).rgb * backdrop.intensity;
  if useFog { color = mix(color, fogRadiance(way), air.fogOverBackdrop); }
  return present(color, 1);
}
