import { drawCount, type Geometry } from './geometry.js';

/** Triangles that one drawing of the geometry makes; 0 for points and lines. */
export function triangleCount(geometry: Geometry): number {
  const n = drawCount(geometry);
  switch (geometry.mode ?? 'triangles') {
    case 'triangles':
      return Math.floor(n / 3);
    case 'triangle-strip':
    case 'triangle-fan':
      return Math.max(0, n - 2);
    default:
      return 0;
  }
}

/** Calls `visit` with the three vertex numbers of each triangle; strips and fans are unrolled. */
export function eachTriangle(geometry: Geometry, visit: (a: number, b: number, c: number) => void): void {
  const { indices } = geometry;
  const n = drawCount(geometry);
  const at = (i: number): number => (indices ? indices[i]! : i);
  switch (geometry.mode ?? 'triangles') {
    case 'triangles':
      for (let i = 0; i + 2 < n; i += 3) visit(at(i), at(i + 1), at(i + 2));
      break;
    case 'triangle-strip':
      // Odd triangles swap two vertices, so that all wind alike (glTF 2.0, 3.7.2.1).
      for (let i = 0; i + 2 < n; i++) visit(at(i), at(i + 1 + (i % 2)), at(i + 2 - (i % 2)));
      break;
    case 'triangle-fan':
      for (let i = 1; i + 1 < n; i++) visit(at(i), at(i + 1), at(0));
      break;
    default:
  }
}
