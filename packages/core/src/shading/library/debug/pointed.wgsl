// What is drawn at a place of the picture, in numbers instead of colours.
import { air } from './air.wgsl';
import { frame } from './frame.wgsl';

override isPointed = false;

/// What is asked for is told by `air.show`, in the order of `ANSWERS` in light/pointing.ts.
fn pointed(position: vec3f, normal: vec3f, texcoord: vec2f, isFront: bool, slot: f32, copy: f32) -> vec4f {
  switch air.show {
    case 0: { return vec4f(f32(frame.draw), slot, copy, 1); }
    case 1: { return vec4f(position, 1); }
    case 2: { return vec4f(normal, 1); }
    default: { return vec4f(texcoord, 0, 1); }
  }
}
