import { type Geometry, geometryFrom } from 'umber-lens';

/** A blade a metre tall, of so many cells, with a tip; texcoord: -1 to 1 across, 0 to 1 up. One cell is a single quad. */
export function blade(cells: number): Geometry {
  const [position, normal, texcoord0, indices]: number[][] = [[], [], [], []];
  const add = (x: number, y: number, across: number): void => {
    position!.push(x, y, 0);
    normal!.push(0, 0, 1);
    texcoord0!.push(across, y);
  };
  for (let row = 0; row <= cells; row++) {
    const y = row / cells;
    const half =
      cells === 1 ? (row === 0 ? 0.022 : 0.012) : 0.026 * Math.sqrt(Math.sin(Math.PI * (0.12 + 0.86 * y)));
    add(-half, y, -1);
    add(half, y, 1);
    if (row === cells) continue;
    const at = row * 2;
    indices!.push(at, at + 1, at + 3, at, at + 3, at + 2);
  }
  return geometryFrom({ position: position!, normal: normal!, texcoord0: texcoord0! }, indices!, {
    name: `blade of ${cells}`,
  });
}

/** A fish a metre long that looks along -Z: five rings of six corners, a tail and a fin. */
export function fishShape(): Geometry {
  const [position, normal, indices]: number[][] = [[], [], []];
  const rings: [z: number, wide: number, high: number][] = [
    [-0.5, 0.005, 0.01],
    [-0.34, 0.06, 0.1],
    [-0.08, 0.085, 0.16],
    [0.18, 0.05, 0.1],
    [0.36, 0.015, 0.03],
  ];
  for (const [z, wide, high] of rings)
    for (let k = 0; k < 6; k++) {
      const [x, y] = [Math.cos((k * Math.PI) / 3), Math.sin((k * Math.PI) / 3)];
      position!.push(x * wide, y * high, z);
      const length = Math.hypot(x / wide, y / high);
      normal!.push(x / wide / length, y / high / length, 0);
    }
  for (let ring = 0; ring < 4; ring++)
    for (let k = 0; k < 6; k++) {
      const [a, b] = [ring * 6 + k, ring * 6 + ((k + 1) % 6)];
      indices!.push(a, a + 6, b, b, a + 6, b + 6);
    }
  // Thin parts are seen from both sides.
  const fin = (corners: number[]): void => {
    for (const side of [1, -1]) {
      const at = position!.length / 3;
      position!.push(...corners);
      for (let k = 0; k < 3; k++) normal!.push(side, 0, 0);
      indices!.push(at, at + (side > 0 ? 1 : 2), at + (side > 0 ? 2 : 1));
    }
  };
  fin([0, 0, 0.34, 0, 0.14, 0.52, 0, 0, 0.44]);
  fin([0, 0, 0.34, 0, 0, 0.44, 0, -0.14, 0.52]);
  fin([0, 0.15, -0.1, 0, 0.22, 0.1, 0, 0.12, 0.14]);
  return geometryFrom({ position: position!, normal: normal! }, indices!, { name: 'fish' });
}
