import type { Geometry } from '../geometry/geometry.js';
import type { Material } from '../material/material.js';

/** What a node draws: one or more primitives, each a geometry with its material. */
export interface Mesh {
  name?: string;
  primitives: Primitive[];
  /** Weights of the morph targets, for nodes that give none. */
  weights?: number[];
  extras?: unknown;
}

export interface Primitive {
  geometry: Geometry;
  /** Left out: glTF's default material. */
  material?: Material;
  /** Materials by the name of a variant; see `setVariant`. */
  variants?: Record<string, Material>;
  /** The material without a variant, where a variant is shown. */
  standard?: Material;
  extras?: unknown;
}

export type Camera = Perspective | Orthographic;

/** Looks along -Z of its node, +Y up. */
export interface Perspective {
  type: 'perspective';
  name?: string;
  /** Vertical field of view in radians, above 0 and below pi. */
  yfov: number;
  /** Distance of the near plane, above 0, metres. */
  znear: number;
  /** Distance of the far plane; left out: at infinity. */
  zfar?: number;
  /** Width over height the author had in mind; what is drawn follows the target's own shape. */
  aspectRatio?: number;
  extras?: unknown;
}

export interface Orthographic {
  type: 'orthographic';
  name?: string;
  /** Half the width in metres; widened when the target is wider than xmag / ymag. */
  xmag: number;
  /** Half the height in metres; grown when the target is taller than xmag / ymag. */
  ymag: number;
  znear: number;
  zfar: number;
  extras?: unknown;
}

/** How a light throws shadows. */
export interface ShadowOptions {
  /** Directional: metres from the eye up to which there are shadows. Left out: as far as the scene reaches. */
  distance?: number;
  /** Directional: how many maps share that distance, 1 to 4. Default 3. */
  cascades?: number;
  /** Point and spot: metres from the light within which nothing throws shadows. Default 0.05. */
  near?: number;
  /** Factor on the distance by which surfaces are lifted out of their own shadow. Default 1. */
  bias?: number;
}

/** KHR_lights_punctual. Shines along -Z of its node. */
export interface Light {
  type: 'directional' | 'point' | 'spot';
  name?: string;
  /** Linear colour, default [1, 1, 1]. */
  color?: [number, number, number];
  /** Lux for directional, candela for point and spot. Default 1. */
  intensity?: number;
  /** Point and spot: metres beyond which there is no light. Left out: no limit. */
  range?: number;
  /** Whether it throws shadows. Default false. */
  shadow?: boolean | ShadowOptions;
  /** Spot: radians from the axis where the fall-off starts, default 0. */
  innerConeAngle?: number;
  /** Spot: radians from the axis where the light ends, default pi / 4, at most pi / 2. */
  outerConeAngle?: number;
  extras?: unknown;
}
