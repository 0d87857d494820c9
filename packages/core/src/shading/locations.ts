/** Attribute locations by name. An instance takes the slot of its world transform. */
export const LOCATION = {
  position: 0,
  normal: 1,
  tangent: 2,
  texcoord0: 3,
  texcoord1: 4,
  color0: 5,
  instance: 6,
  /** Where it is written how the vertex is bent. */
  bend: 15,
} as const;

/** Where a shader material's own attributes begin: first those of a vertex, then those of an instance. */
export const FIRST_CUSTOM_LOCATION = 7;
export const LOCATIONS = 15;
