// One quantity of a surface as a colour, to be looked at by itself.
import { Fragment, Surface } from './surface.wgsl';
import { air } from './air.wgsl';
import { decodeSrgb } from './color.wgsl';
import { frame } from './frame.wgsl';
import { cellAt, lightCountAt, lightNumber, sourceOf } from './clusters.wgsl';
import { lightFrom } from './lights.wgsl';
import { areaAsPoint, isArea } from './area.wgsl';

override isInspected = false;
/// Edges: they lie a little before the surfaces that they belong to.
override isWire = false;

// Grey, lit from the camera.
fn clay(p: Fragment) -> vec3f {
  return vec3f(0.04 + 0.5 * saturate(dot(p.normal, p.toCamera)));
}

/// In the order of `SHOWS` in debug-views/show.ts. What a screen shows of a number 0..1 is to be that number: the colour is
/// encoded afterwards.
fn inspected(s: Surface, p: Fragment) -> vec3f {
  switch air.show {
    case 1: { return s.baseColor; }
    case 2: { return decodeSrgb(s.normal * 0.5 + 0.5); }
    case 3: { return decodeSrgb((frame.view * vec4f(s.normal, 0)).xyz * 0.5 + 0.5); }
    case 4: { return decodeSrgb(saturate(p.tangent.xyz * 0.5 + 0.5)); }
    case 5: {
      // Eight squares a unit, coloured by where they are; outside 0..1 they are darker.
      let square = floor(p.texcoord0 * 8);
      let isOdd = fract((square.x + square.y) / 2) * 2;
      let inside = select(0.4, 1.0, all(p.texcoord0 >= vec2f()) && all(p.texcoord0 <= vec2f(1)));
      return decodeSrgb(vec3f(fract(p.texcoord0), 0.25) * mix(0.6, 1, isOdd) * inside);
    }
    case 6: { return p.color.rgb; }
    case 7: { return decodeSrgb(vec3f(s.roughness)); }
    case 8: { return decodeSrgb(vec3f(s.metallic)); }
    case 9: { return decodeSrgb(vec3f(s.occlusion)); }
    case 10: { return saturate(s.emissive); }
    case 11: { return decodeSrgb(vec3f(s.alpha)); }
    case 12: {
      // White at the camera, half at ten metres.
      return decodeSrgb(vec3f(1 / (1 + distance(p.position, frame.cameraPosition) / 10)));
    }
    case 13: {
      // How many lights arrive: black for none, then blue, green, yellow and red for eight and more.
      var count = 0.0;
      let cell = cellAt(p.position);
      for (var k = 0u; k < lightCountAt(cell); k++) {
        let number = lightNumber(cell, k);
        let source = sourceOf(number);
        var l = lightFrom(source, number, p.position);
        if isArea(source) { l = areaAsPoint(source, number, p); }
        if dot(l.direction, p.normal) > 0 && max(l.color.r, max(l.color.g, l.color.b)) > 1e-4 { count += 1; }
      }
      let t = saturate(count / 8);
      return saturate(vec3f(t * 3 - 1, min(t * 3, 3 - t * 2.4), 1.4 - t * 3) * step(0.01, t));
    }
    case 14: {
      if p.isFront { return clay(p); }
      // Amber with stripes, which are seen without telling colours apart.
      let clip = frame.viewProjection * vec4f(p.position, 1);
      let pixel = clip.xy / clip.w * frame.size / 2;
      return mix(vec3f(0.9, 0.42, 0.02), vec3f(0.25, 0.1, 0), step(0.5, fract((pixel.x + pixel.y) / 12)));
    }
    case 16, 17: { return s.baseColor; }
    case 18: { return clay(p); }
    case 19: {
      if isWire { return vec3f(0.01); }
      return clay(p);
    }
    // The pipeline gives it the colour of its draw.
    case 20: { return vec3f(0.35 + 0.65 * saturate(dot(p.normal, p.toCamera))); }
    default: { return vec3f(0.06); }
  }
}

/// Of `SHOWS`: the colour is computed, and what of it is no number is marked.
const NOT_FINITE = 21u;

fn showsQuantity() -> bool {
  return air.show != NOT_FINITE;
}

/// Amber where a colour or its alpha is infinite or no number, which comparing and clamping hide; grey elsewhere.
fn marked(color: vec3f, alpha: f32) -> vec4f {
  let bits = bitcast<vec4u>(vec4f(color, alpha)) & vec4u(0x7f800000);
  let isBad = any(bits == vec4u(0x7f800000));
  return vec4f(decodeSrgb(select(vec3f(0.3), vec3f(1, 0.6, 0), isBad)), 1);
}
