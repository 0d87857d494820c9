import type { Effect, MaterialShader, ShaderEffect } from '@umber-lens/core/engine';
import {
  EFFECT_FRAME_CORNER,
  EFFECT_FRAME_DELTA,
  EFFECT_FRAME_DEPTH_OFFSET,
  EFFECT_FRAME_DEPTH_SCALE,
  EFFECT_FRAME_FLOATS,
  EFFECT_FRAME_FORWARD,
  EFFECT_FRAME_IS_PARALLEL,
  EFFECT_FRAME_RIGHT,
  EFFECT_FRAME_SCALE,
  EFFECT_FRAME_SEES,
  EFFECT_FRAME_SIZE,
  EFFECT_FRAME_TIME,
  EFFECT_FRAME_UP,
} from '../../compiled/layouts.js';
import type { EffectLink } from './effect-links.js';

/** The shader of an effect of one's own; undefined for what is none: that is told while developing. */
export function ownShaderOf(effect: Effect | undefined): MaterialShader | undefined {
  const { shader } = (effect ?? {}) as Partial<ShaderEffect>;
  return shader?.effect ? (shader as unknown as MaterialShader) : undefined;
}

/**
 * The pass of an effect of one's own.
 *
 * @param i its number in the list
 * @param source number of the picture that it treats
 * @param second number of the one that `in2` names
 */
export function ownLink(
  i: number,
  shader: MaterialShader,
  source: number,
  second: number,
): Omit<EffectLink, 'name'> {
  const inputs = shader.effect?.inputs ?? [];
  const isTimed = shader.isTimed;
  return {
    shader,
    floats: EFFECT_FRAME_FLOATS,
    reads: inputs.includes('effectSecond') ? [source, second] : [source],
    constants: {},
    isSampled: true,
    readsDepth: inputs.includes('effectDepth'),
    readsBefore: inputs.includes('effectBefore'),
    readsNormal: inputs.includes('effectNormal'),
    readsVelocity: inputs.includes('effectVelocity'),
    readsThings: inputs.includes('effectThings'),
    settings: (effects) => effects[i]!, // its type was looked at
    write: (values, words, effects, { area, delta, isParallel, projection, scale, sky, time }) => {
      values[EFFECT_FRAME_CORNER] = area.left;
      values[EFFECT_FRAME_CORNER + 1] = area.top;
      values[EFFECT_FRAME_SIZE] = area.width;
      values[EFFECT_FRAME_SIZE + 1] = area.height;
      values[EFFECT_FRAME_SCALE] = scale;
      values[EFFECT_FRAME_TIME] = isTimed ? time : 0;
      values[EFFECT_FRAME_DELTA] = isTimed ? delta : 0;
      values[EFFECT_FRAME_IS_PARALLEL] = isParallel ? 1 : 0;
      values[EFFECT_FRAME_DEPTH_SCALE] = projection[10] ?? 0;
      values[EFFECT_FRAME_DEPTH_OFFSET] = projection[14] ?? 0;
      words[EFFECT_FRAME_SEES] = effects[i]!.sees ?? 0xffffffff; // its type was looked at
      for (let k = 0; k < 3; k++) {
        values[EFFECT_FRAME_RIGHT + k] = sky[k]!; // nine numbers
        values[EFFECT_FRAME_UP + k] = sky[3 + k]!;
        values[EFFECT_FRAME_FORWARD + k] = sky[6 + k]!;
      }
    },
  };
}
