// Air between the camera and a place.
import { air, radianceFrom } from './air.wgsl';
import { frame } from './frame.wgsl';
import { shown } from './tone.wgsl';

/// Whether the scene has fog.
override useFog = false;

/// Share of the light that the air takes between the camera and a place, 0..1.
fn fogBefore(position: vec3f) -> f32 {
  let way = position - frame.cameraPosition;
  let distance = mix(length(way), dot(way, frame.forward), frame.isParallel);
  if air.fogKind == 1 {
    return saturate((distance - air.fogReach.x) / max(air.fogReach.y - air.fogReach.x, 1e-6));
  }
  var depth = distance * air.fogReach.x;
  if air.fogKind == 3 { return 1 - exp(-depth * depth); }
  if air.fogHeight.y > 0 {
    // The mean of exp(-height / falloff) along the way, in closed form.
    let start = (frame.cameraPosition.y - air.fogHeight.x) * air.fogHeight.y;
    let rise = way.y * air.fogHeight.y;
    let mean = select((1 - exp(-rise)) / rise, 1 - 0.5 * rise, abs(rise) < 1e-3);
    depth *= exp(clamp(-start, -60, 60)) * mean;
  }
  return 1 - exp(-depth);
}

/// Radiance of the air itself, looking along a direction.
fn fogRadiance(way: vec3f) -> vec3f {
  if air.fogOfSky > 0.5 { return radianceFrom(way, 0.7); }
  return air.fogColor;
}

/// A colour that is shown as it was given, with the air before it.
fn fogOverGiven(color: vec3f, position: vec3f, toCamera: vec3f) -> vec3f {
  if useFog { return mix(color, shown(fogRadiance(-toCamera)), fogBefore(position)); }
  return color;
}

/// A surface's radiance as it arrives at the camera.
fn throughFog(color: vec3f, position: vec3f, toCamera: vec3f) -> vec3f {
  if useFog { return mix(color, fogRadiance(-toCamera), fogBefore(position)); }
  return color;
}
