import { hashFloat, type Material, placeDecal, type Scene, type SceneNode } from 'umber-lens';

const SIZE = 64;

/** Arrows on the apron before the yard, worn by wheels: decals, cut out of the quay that they lie on. */
export function paintMarks(scene: Scene, quay: SceneNode): void {
  const material = markMaterial();
  for (let i = 0; i < 14; i++)
    placeDecal(scene, {
      name: `mark ${i + 1}`,
      position: [(i - 6.5) * 3.6, 0, 159.5],
      size: [1.6, 3.2],
      depth: 1,
      targets: [quay],
      offset: 0.01,
      material,
    });
}

function markMaterial(): Material {
  const data = new Uint8Array(SIZE * SIZE * 4);
  for (let y = 0; y < SIZE; y++) {
    for (let x = 0; x < SIZE; x++) {
      const across = Math.abs(x + 0.5 - SIZE / 2) / (SIZE / 2);
      const along = (y + 0.5) / SIZE;
      // A head that widens downwards from the tip, and a shaft below it.
      const isPaint = along < 0.5 ? across < along * 1.5 : across < 0.28;
      const wear = 0.35 + 0.65 * hashFloat(x >> 1, y >> 1, 5);
      data.set([226, 208, 150, isPaint ? 235 * Math.min(1, wear * 1.3) : 0], (y * SIZE + x) * 4);
    }
  }
  return {
    name: 'lane paint',
    alphaMode: 'blend',
    metallicFactor: 0,
    roughnessFactor: 0.7,
    baseColorTexture: {
      texture: { image: { content: { kind: 'pixels', width: SIZE, height: SIZE, data } } },
    },
  };
}
