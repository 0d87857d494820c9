import { LensError } from '../errors/lens-error.js';
import { pause } from '../pauses/pause.js';
import { compileWgsl, type CompileOptions } from '../wgsl/compile.js';
import { runWgsl } from '../wgsl/run/run.js';

/** What functions that place copies give; they need not define it themselves. */
const PLACING = `struct Placing {
  position: vec3f,
  /// Unit quaternion xyzw; all zeros: not turned.
  rotation: vec4f,
  /// 0: 1.
  scale: f32,
  /// All zeros: white.
  color: vec4f,
}
`;

export interface TransformsByOptions extends Pick<CompileOptions, 'file' | 'sources' | 'features'> {
  /** How many copies there are: the function is called with 0 to this many less 1. */
  count: number;
  /** What it takes besides, in the order in which it takes it. */
  args?: readonly unknown[];
}

/** Copies between which the page has its turn. */
const AT_ONCE = 4096;

/**
 * InstanceTransforms, for a swarm, by a function in WGSL: `fn place(i: u32, ...) -> Placing`. It runs on the CPU, so that script and
 * GPU know the same places whatever the interface, in pieces between which the page has its turn.
 *
 * @throws LensError what the compiler says, with the place; `swarm/count`
 */
export async function transformsBy(
  wgsl: string,
  { count, args = [], ...options }: TransformsByOptions,
): Promise<{
  translations: Float32Array;
  rotations: Float32Array;
  scales: Float32Array;
  colors: Float32Array;
}> {
  if (!(count >= 0 && Number.isInteger(count)))
    throw new LensError('swarm/count', `there cannot be ${count} instances`, {
      hint: 'Give a whole number, 0 or more.',
    });
  // On one line, so that places in messages stay the author's.
  const own = /\bstruct\s+Placing\b/.test(wgsl) ? '' : PLACING.replace(/\/\/\/.*|\s+/g, ' ');
  const shader = compileWgsl(own + wgsl, { file: 'place.wgsl', ...options });
  const translations = new Float32Array(count * 3);
  const rotations = new Float32Array(count * 4);
  const scales = new Float32Array(count);
  const colors = new Float32Array(count * 4);
  for (let i = 0; i < count; i++) {
    const placing = runWgsl(shader, 'place', [i, ...args]) as {
      position: number[];
      rotation: number[];
      scale: number;
      color: number[];
    };
    translations.set(placing.position, i * 3);
    rotations.set(placing.rotation.every((part) => part === 0) ? [0, 0, 0, 1] : placing.rotation, i * 4);
    scales[i] = placing.scale === 0 ? 1 : placing.scale;
    colors.set(placing.color.every((part) => part === 0) ? [1, 1, 1, 1] : placing.color, i * 4);
    if (i % AT_ONCE === AT_ONCE - 1) await pause();
  }
  return { translations, rotations, scales, colors };
}
