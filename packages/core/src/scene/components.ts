import type { Numbers } from '../math/vectors.js';
import type { Geometry } from '../geometry/geometry.js';
import type { Material } from '../material/material.js';

/** What a node draws: one or more primitives, each a geometry with its material. */
export interface Mesh {
  name?: string;
  primitives: Primitive[];
  /** Weights of the morph targets, for nodes that give none. */
  weights?: number[];
  /**
   * Metres, in its own space, by which shaders move its vertices at most: things are looked for, and left out, by their bounds with
   * that much around them. Left out: what the compiler found for the material's shader.
   */
  boundsMargin?: number;
  extras?: unknown;
}

export interface Primitive {
  geometry: Geometry;
  /** Left out: glTF's default material. */
  material?: Material;
  /**
   * Materials that it is drawn with once more, over the first, in order and at the same depth: a rim over glass, dirt over paint. A shader of theirs that
   * moves vertices has to move them as the first one's does. Files of models do not have them.
   */
  overlays?: Material[];
  /** Materials by the name of a variant; see `setVariant`. */
  variants?: Record<string, Material>;
  /** The material without a variant, where a variant is shown. */
  standard?: Material;
  /** Extensions that are kept for others: see `ModelAsset.kept`. */
  kept?: Record<string, unknown>;
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
  /** Bits of what it sees: nodes whose `visibleTo` has one of them. Default all. */
  sees?: number;
  /**
   * A plane in the world that stands for the near one: its normal, towards what is seen, and its distance, so that a place p is seen
   * where dot(normal, p) + distance >= 0. For mirrors and portals: what lies behind their plane is not in their picture.
   */
  nearPlane?: readonly [x: number, y: number, z: number, distance: number];
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
  /** Bits of what it sees: nodes whose `visibleTo` has one of them. Default all. */
  sees?: number;
  /**
   * A plane in the world that stands for the near one: its normal, towards what is seen, and its distance, so that a place p is seen
   * where dot(normal, p) + distance >= 0. For mirrors and portals: what lies behind their plane is not in their picture.
   */
  nearPlane?: readonly [x: number, y: number, z: number, distance: number];
  extras?: unknown;
}

/** How a light throws shadows. */
export interface ShadowOptions {
  /** Directional: metres from the camera up to which there are shadows. Left out: as far as the scene reaches. */
  distance?: number;
  /** Directional: how many maps share that distance, 1 to 4. Default 3. */
  cascades?: number;
  /** Point and spot: metres from the light within which nothing throws shadows. Default 0.05. */
  near?: number;
  /** Factor on the distance by which surfaces are lifted out of their own shadow. Default 1. */
  bias?: number;
}

/**
 * Light of a node. `directional`, `point` and `spot` are those of KHR_lights_punctual and shine along -Z of their node.
 * `area` is a rectangle or a disc around the node, across X and Y, that shines towards -Z. `ambient` comes from all
 * around, `hemisphere` from above (`color`) and from below (`groundColor`), wherever the node is and however it is turned.
 */
export interface Light {
  type: 'directional' | 'point' | 'spot' | 'area' | 'ambient' | 'hemisphere';
  name?: string;
  /** Linear colour, default [1, 1, 1]. */
  color?: Numbers;
  /**
   * Lux for directional; for ambient and hemisphere lux on a surface that meets nothing else; candela for point and
   * spot; candela a square metre for area. Default 1.
   */
  intensity?: number;
  /** Point and spot: metres beyond which there is no light. Left out: no limit. */
  range?: number;
  /** Whether it throws shadows. Default false. */
  shadow?: boolean | ShadowOptions;
  /**
   * Point and spot: metres from its middle to its rim. The edges of its shadows are the softer, the farther what casts them is
   * from where they fall. Default 0: hard edges.
   */
  radius?: number;
  /** Directional: radians across that it looks wide, for the same. The sun's are 0.0093. Default 0. */
  angle?: number;
  /** Spot: radians from the axis where the fall-off starts, default 0. */
  innerConeAngle?: number;
  /** Spot: radians from the axis where the light ends, default pi / 4, at most pi / 2. */
  outerConeAngle?: number;
  /** Hemisphere: linear colour of light from below, default black. */
  groundColor?: Numbers;
  /** Area: default a rectangle. */
  shape?: 'rectangle' | 'disc';
  /** Area: metres along the node's X and Y, scaled as the node is. Default [1, 1]. */
  size?: Numbers;
  /**
   * Bits of what it lights: nodes whose `visibleTo` has none of them stay without. Default all. Not of ambient and hemisphere light, and
   * shadows are thrown whatever it lights.
   */
  sees?: number;
  extras?: unknown;
}
