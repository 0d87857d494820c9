import { LensError } from '../../errors/lens-error.js';
import {
  type CpuSampler,
  type CpuTexture,
  gatherTexels,
  loadTexel,
  sampleTexture,
  storeTexel,
  textureSize,
} from './cpu-texture.js';
import { I32, type Type } from '../types/types.js';
import { copyValue, type Value } from '../types/values.js';
import { type Lane, type Read } from './lane.js';

export function textureCall(name: string, args: Read[], types: Type[]): Read {
  const at = types.findIndex((t) => t.kind === 'texture');
  const type = types[at] as Type & { kind: 'texture' };
  const isArrayed = type.dimension.endsWith('array');
  const isDepth = type.form === 'depth';
  return (frame) => {
    const values = args.map((arg) => arg(frame));
    const texture = values[at] as unknown as CpuTexture;
    if (name === 'textureDimensions') {
      const size = textureSize(texture, (values[1] as number | undefined) ?? 0);
      return type.dimension === '1d' ? size[0]! : size.slice(0, type.dimension === '3d' ? 3 : 2);
    }
    if (name === 'textureNumLevels') return 1 + (texture.levels?.length ?? 0);
    if (name === 'textureNumLayers') return texture.layers ?? 1;
    if (name === 'textureLoad') {
      const [, coordinate, third, fourth] = values;
      const level = isArrayed ? fourth : third;
      const texel = loadTexel(
        texture,
        coordinate!,
        isArrayed ? (third as number) : 0,
        (level as number | undefined) ?? 0,
      );
      return isDepth ? texel[0]! : texel;
    }
    if (name === 'textureStore') {
      const texel = values[values.length - 1] as number[];
      if (!frame.lane.isDiscarded)
        storeTexel(texture, type.format!, values[1]!, isArrayed ? (values[2] as number) : 0, texel);
      return 0;
    }
    if (!/^texture(Sample|Gather)/.test(name))
      throw new LensError('wgsl/not-on-cpu', `${name} cannot be evaluated without a GPU`);
    const sampler = values[at + 1] as unknown as CpuSampler;
    const coordinate = values[at + 2] as Value;
    let next = at + 3;
    const layer = isArrayed ? (values[next++] as number) : 0;
    const lastType = types[types.length - 1]!; // a texture function has arguments
    const offset =
      lastType.kind === 'vec' && lastType.of === I32 ? (values[values.length - 1] as number[]) : undefined;
    let level = 0;
    let reference: number | undefined;
    if (name.includes('Compare')) reference = values[next++] as number;
    if (name === 'textureSampleLevel') level = values[next] as number;
    else if (name === 'textureSample' || name === 'textureSampleBias') {
      const { dx, dy } = differences(frame.lane, coordinate);
      level = levelOf(texture, dx, dy) + (name === 'textureSampleBias' ? (values[next] as number) : 0);
    } else if (name === 'textureSampleGrad') level = levelOf(texture, values[next]!, values[next + 1]!);
    if (name.startsWith('textureGather')) {
      const component = at === 1 ? (values[0] as number) : 0;
      return gatherTexels(texture, sampler, coordinate, layer, component, reference, offset);
    }
    const texel = sampleTexture(texture, sampler, coordinate, layer, level, reference, offset);
    return isDepth ? texel[0]! : texel;
  };
}

/** Level of detail by the longer of the two footprints (Vulkan 16.5.7, without anisotropy). */
function levelOf(texture: CpuTexture, dx: Value, dy: Value): number {
  const size = textureSize(texture, 0);
  const span = (d: Value): number =>
    Math.hypot(...(Array.isArray(d) ? d : [d]).map((x, i) => (x as number) * size[i]!));
  const longest = Math.max(span(dx), span(dy));
  return longest > 0 ? Math.log2(longest) : 0;
}

export function derivative(name: string, arg: Read): Read {
  const sum = (a: Value, b: Value): Value =>
    Array.isArray(a)
      ? a.map((x, i) => Math.fround(Math.abs(x as number) + Math.abs((b as number[])[i]!)))
      : Math.fround(Math.abs(a as number) + Math.abs(b as number));
  return (frame) => {
    const { dx, dy } = differences(frame.lane, arg(frame));
    return name.startsWith('dpdx') ? dx : name.startsWith('dpdy') ? dy : sum(dx, dy);
  };
}

/** Asks for the differences to the neighbours; the answer is that of the round before. */
function differences(lane: Lane, value: Value): { dx: Value; dy: Value } {
  const answer = lane.answers[lane.asked.length];
  lane.asked.push(copyValue(value));
  const zero = Array.isArray(value) ? value.map(() => 0) : 0;
  return answer ?? { dx: zero, dy: zero };
}
