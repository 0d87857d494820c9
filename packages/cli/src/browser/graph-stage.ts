import type { SheetImport } from 'umber-lens';

/**
 * Things that a graph's material is seen on, under a sun and a sky, or that an effect is seen over, as a sheet beside the graph.
 *
 * @param address of the graph
 */
export function graphStage(address: string, isEffect: boolean): SheetImport {
  const shader = decodeURIComponent(address.split('/').at(-1)!); // split gives one part at least
  const material = 'shown';
  return {
    file: address,
    addresses: { [shader]: address },
    shaders: {},
    sheets: {},
    onChange: () => () => undefined,
    sheet: {
      sheet: 1,
      materials: {
        [material]: {
          ...(isEffect ? { baseColorFactor: [0.62, 0.2, 0.1, 1] } : { shader }),
          roughnessFactor: 0.6,
          metallicFactor: 0,
        },
        ground: { baseColorFactor: [0.16, 0.15, 0.14, 1], roughnessFactor: 0.9, metallicFactor: 0 },
      },
      nodes: [
        { name: 'ball', translation: [0, 1, 0], mesh: { shape: 'sphere', radius: 1, material } },
        {
          name: 'box',
          translation: [-2.1, 0.6, -0.9],
          degrees: [0, 32, 0],
          mesh: { shape: 'box', width: 1.2, height: 1.2, depth: 1.2, material },
        },
        {
          name: 'ring',
          translation: [2.1, 0.75, -0.8],
          degrees: [68, -24, 0],
          mesh: { shape: 'torus', radius: 0.62, tubeRadius: 0.24, material },
        },
        { name: 'ground', mesh: { shape: 'plane', width: 14, depth: 14, material: 'ground' } },
        {
          name: 'sun',
          degrees: [-42, 38, 0],
          light: { type: 'directional', intensity: 2.6, shadow: {} },
        },
        {
          name: 'camera',
          // The ball stands above the graph, which lies over the lower half of the picture.
          translation: [0.9, 2.3, 9.5],
          degrees: [-18, 0, 0],
          camera: { type: 'perspective', yfov: 0.6, znear: 0.1 },
        },
      ],
      camera: 'camera',
      ...(isEffect ? { finish: [{ type: 'shader', shader }] } : {}),
      imageLight: { sky: { turbidity: 3, height: 32 }, intensity: 0.6 },
      clearColor: [0.05, 0.05, 0.06, 1],
    } as SheetImport['sheet'],
  };
}
