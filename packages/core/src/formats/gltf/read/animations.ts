import type { Animation, AnimationChannel, AnimationSampler } from '../../../animation/animation.js';
import { accessorFloats, type Accessors } from './accessors.js';
import type { AssetNode } from '../../asset/asset.js';
import type { Cursor } from './cursor.js';
import type { Owners, Pointed, resolvePointer } from '../extensions/pointers.js';

/** What finds what a pointer names; loaded for files that have pointers. */
export type PointerResolver = typeof resolvePointer;

const PATHS = ['translation', 'rotation', 'scale', 'weights', 'pointer'] as const;
const COMPONENTS = { translation: 3, rotation: 4, scale: 3 } as const;

/**
 * Animations with their samplers as flat arrays, checked to be playable.
 *
 * @param resolve where the file uses KHR_animation_pointer
 */
export function readAnimations(
  root: Cursor,
  owners: Owners,
  accessors: Accessors,
  resolve: PointerResolver | undefined,
): Animation<AssetNode>[] {
  return root.list('animations').map((at) => {
    at.object().need('channels');
    const samplers = at.list('samplers');
    const channels = at
      .list('channels')
      .flatMap((place) => readChannel(place.object(), samplers, owners, accessors, resolve) ?? []);
    refuseTwins(at, channels);
    const duration = channels.reduce((most, { sampler }) => Math.max(most, sampler.input.at(-1) ?? 0), 0);
    return { ...at.common(), duration, channels };
  });
}

function readChannel(
  at: Cursor,
  samplers: Cursor[],
  owners: Owners,
  accessors: Accessors,
  resolve: PointerResolver | undefined,
): AnimationChannel<AssetNode> | undefined {
  const targetAt = at.need('target').object();
  targetAt.need('path');
  let path = targetAt.choice('path', PATHS)!; // needed just above
  let target = targetAt.get('node')?.pick([...owners.nodes], 'node');
  const samplerAt = at.need('sampler').pick(samplers, 'animation sampler').object();
  if (path === 'pointer') {
    const pointed = readPointer(targetAt, owners, resolve);
    if (!pointed) return undefined;
    if ('property' in pointed) {
      const { property, components } = pointed;
      return { path: 'property', property, sampler: readSampler(samplerAt, components, accessors) };
    }
    ({ path, node: target } = pointed);
  }
  const components = path === 'weights' ? (target?.mesh?.weights?.length ?? 0) : COMPONENTS[path];
  if (path === 'weights' && target && components === 0) {
    targetAt.fail('animation', 'weights are animated on a node whose mesh has no morph targets');
  }
  return { ...(target ? { target } : {}), path, sampler: readSampler(samplerAt, components, accessors) };
}

/** KHR_animation_pointer; what it moves that we do not is passed over with a warning. */
function readPointer(at: Cursor, owners: Owners, resolve: PointerResolver | undefined): Pointed | undefined {
  const place = at.extension('KHR_animation_pointer');
  if (!place) return at.fail('missing', 'a channel with the path "pointer" needs KHR_animation_pointer');
  place.need('pointer');
  const pointer = place.text('pointer')!; // needed just above
  const pointed = resolve?.(pointer, owners);
  if (!pointed) place.need('pointer').warn('animation-pointer', `"${pointer}" is not animated`);
  return pointed;
}

function readSampler(at: Cursor, components: number, accessors: Accessors): AnimationSampler {
  const interpolation = (at.choice('interpolation', ['LINEAR', 'STEP', 'CUBICSPLINE'])?.toLowerCase() ??
    'linear') as AnimationSampler['interpolation'];
  const inputAt = at.need('input');
  const inputData = accessors.read(inputAt);
  if (inputData.type !== 'SCALAR' || inputData.componentType !== 'f32') {
    inputAt.fail(
      'animation',
      `key times are SCALAR of f32, not ${inputData.type} of ${inputData.componentType}`,
    );
  }
  const input = accessorFloats(inputData);
  let last = -Infinity;
  for (let i = 0; i < input.length; i++) {
    const time = input[i]!; // i < length
    if (!(time > last) || time < 0 || time === Infinity) {
      inputAt.fail(
        'animation',
        `key time ${i} is ${time}`,
        'Times are finite, start at 0 or later and grow.',
      );
    }
    last = time;
  }
  const outputAt = at.need('output');
  const outputData = accessors.read(outputAt);
  const output = accessorFloats(outputData);
  const bad = output.findIndex((value) => !Number.isFinite(value));
  if (bad >= 0) outputAt.fail('not-finite', `value ${bad} of the animation is ${output[bad]}`);
  const keys = interpolation === 'cubicspline' ? 3 : 1;
  const width = components || output.length / (input.length * keys);
  if (output.length !== input.length * keys * width) {
    outputAt.fail(
      'animation',
      `${output.length} numbers do not fit ${input.length} keys of ${keys * width}`,
      interpolation === 'cubicspline' ? 'A cubic spline has three values a key.' : '',
    );
  }
  return { interpolation, input, output, components: width };
}

/** Two channels for one path of one node, or for one property, would fight. */
function refuseTwins(at: Cursor, channels: AnimationChannel<AssetNode>[]): void {
  const seen = new Map<object, Set<string>>();
  channels.forEach(({ target, path, property }, i) => {
    const owner = target ?? property?.owner;
    if (!owner) return;
    const what = property?.names.join('.') ?? path;
    const paths = seen.get(owner) ?? new Set();
    if (paths.has(what))
      at.fail('animation', `channel ${i} moves ${what} of a node that another channel moves already`);
    seen.set(owner, paths.add(what));
  });
}
