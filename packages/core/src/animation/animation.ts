/**
 * What an animation file says, node references included; playing it back is a matter of its own.
 * `Target` is whatever stands for a node: an asset's node, later a scene's.
 */
export interface Animation<Target> {
  name?: string;
  /** Seconds: the latest key of any channel. */
  duration: number;
  channels: AnimationChannel<Target>[];
  extras?: unknown;
}

export type AnimationPath = 'translation' | 'rotation' | 'scale' | 'weights';

export interface AnimationChannel<Target> {
  /** Left out in files whose channels are driven by extensions. */
  target?: Target;
  path: AnimationPath;
  sampler: AnimationSampler;
}

export interface AnimationSampler {
  interpolation: 'linear' | 'step' | 'cubicspline';
  /** Seconds, strictly growing. */
  input: Float32Array;
  /**
   * Values, `components` a key: 3, 4 (quaternion xyzw) or the number of morph targets. With
   * `cubicspline` each key has three such values: in-tangent, value, out-tangent.
   */
  output: Float32Array;
  components: number;
}

/** Joints of a skinned mesh. */
export interface Skin<Target> {
  name?: string;
  joints: Target[];
  /** Column-major 4x4, 16 numbers a joint; left out: identity. */
  inverseBindMatrices?: Float32Array;
  skeleton?: Target;
  extras?: unknown;
}
