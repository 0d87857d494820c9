// All lights that reach a place, each with its shadow.
import { Fragment, Surface } from 'umber/surface.wgsl';
import { Light, lightFrom } from 'umber/lights.wgsl';
import { Layered, layeredShine } from 'umber/layered.wgsl';
import { cellAt, lightCountAt, lightNumber, sourceOf } from 'umber/clusters.wgsl';
import { areaAsPoint, areaShine, isArea, useAreas } from 'umber/area.wgsl';
import { shadowAt } from 'umber/shadows.wgsl';
import { ownBits, useThingBits } from 'umber/things.wgsl';
#if hookLight
import { lightAnswer } from 'umber/hooks.wgsl';
#endif

override useShadows = false;

/// @param receives 1 when shadows fall on the node
fn withLights(before: vec3f, layered: Layered, s: Surface, p: Fragment, receives: f32) -> vec3f {
  var color = before;
  let cell = cellAt(p.position);
  for (var k = 0u; k < lightCountAt(cell); k++) {
    let number = lightNumber(cell, k);
    let source = sourceOf(number);
    if useThingBits && (source.sees & ownBits) == 0 { continue; }
    var l = lightFrom(source, number, p.position);
    // Here and below by itself: compilers leave out what a constant alone keeps from being reached.
    if useAreas {
      if isArea(source) {
#if hookLight
        l = areaAsPoint(source, number, p);
#else
        l = Light(normalize(source.position - p.position), vec3f(), number);
#endif
      }
    }
    var reaches = 1.0;
    if useShadows && receives > 0.5 { reaches = shadowAt(source, p.position, p.normal, l.direction); }
    l.color *= reaches;
#if hookLight
    color += lightAnswer(s, l, p);
#else
    if useAreas {
      if isArea(source) { color += areaShine(layered, s, p, source) * reaches; continue; }
    }
    color += layeredShine(layered, s, l);
#endif
  }
  return color;
}
