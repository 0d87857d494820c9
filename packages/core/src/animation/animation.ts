/**
 * What an animation file says, node references included. `Target` is whatever stands for a node: an asset's node,
 * or a scene's. `Motion` plays it.
 */
export interface Animation<Target = AnimationTarget> {
  name?: string;
  /** Seconds: the latest key of any channel. */
  duration: number;
  channels: AnimationChannel<Target>[];
  extras?: unknown;
}

/** What matching a channel to a node needs to know of the node that its file means. */
export interface AnimationTarget {
  name?: string;
  children: readonly AnimationTarget[];
  translation?: readonly number[];
  rotation?: readonly number[];
  scale?: readonly number[];
}

export type AnimationPath = 'translation' | 'rotation' | 'scale' | 'weights';

export interface AnimationChannel<Target = AnimationTarget> {
  /** Left out where a property is animated, and in files whose channels are driven by extensions that are not known. */
  target?: Target;
  /** Of the node; `property` where something else is animated. */
  path: AnimationPath | 'property';
  /** With the path `property`. */
  property?: AnimatedProperty;
  sampler: AnimationSampler;
}

/**
 * A number, or several, of something that is no node's transform (KHR_animation_pointer): of a material, a light, a
 * camera, of how a texture lies, of a shader's settings; or whether a node is visible.
 */
export interface AnimatedProperty {
  /** A `Material`, `Light`, `Camera`, or what stands for a node. */
  owner: object;
  /** Names from the owner down, such as `['baseColorTexture', 'transform', 'offset']` or `['settings', 'edge']`. */
  names: readonly string[];
  /** The file's own words for it, a JSON pointer. */
  pointer?: string;
  /** What stands there when the owner has nothing: the default. */
  default?: number | readonly number[];
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
