// Light out of colours that are shown, and back: the soft curve of color.wgsl, undone. Whatever curve a picture was shown by, what
// is near white stands for light that is brighter, and what is not changed comes back as it was.
import { toneMap } from './color.wgsl';

fn lightOf(shown: vec3f) -> vec3f {
  let bent = 0.52 + 0.0576 / (1 - min(shown, vec3f(0.9996)));
  return mix(shown, bent, step(vec3f(0.76), shown));
}

fn shownOf(light: vec3f) -> vec3f {
  return toneMap(light);
}
