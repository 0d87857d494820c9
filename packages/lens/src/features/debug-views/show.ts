/**
 * A single quantity of the surfaces, shown instead of their light. Colours are shown as they are; numbers from 0 to 1 as
 * greys of that value; directions as colours with 0 in the middle. `depth` is white at the camera and half as bright at ten
 * metres; `lights` counts those that arrive; `backfaces` are amber with stripes, and fronts grey; `overdraw` grows brighter with every surface that a
 * pixel was drawn with. `points` and `wireframe` draw vertices and edges in the material's color; `clay` is grey clay lit
 * from the camera, `clay-edges` the same with its edges; `draws` gives each draw call a colour of its own;
 * `not-finite` is amber where a shader's colour is infinite or no number, and grey elsewhere: see `Lens.findFaults`.
 */
export type ShownQuantity = (typeof SHOWS)[number];

/** In the order of inspect.wgsl; `shaded` is what is usually shown. */
export const SHOWS = [
  'shaded',
  'base-color',
  'world-normals',
  'view-normals',
  'tangents',
  'texcoords',
  'vertex-color',
  'roughness',
  'metallic',
  'occlusion',
  'emissive',
  'alpha',
  'depth',
  'lights',
  'backfaces',
  'overdraw',
  'points',
  'wireframe',
  'clay',
  'clay-edges',
  'draws',
  'not-finite',
] as const;
