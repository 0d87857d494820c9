import { type Geometry, geometryFrom } from './geometry.js';

/** One vertex as a surface function describes it. */
export interface SurfacePoint {
  position: [number, number, number];
  normal: [number, number, number];
}

/** Vertices and triangles under construction. */
export class Surface {
  readonly position: number[] = [];
  readonly normal: number[] = [];
  readonly texcoord0: number[] = [];
  readonly indices: number[] = [];

  vertex(position: readonly number[], normal: readonly number[], u: number, v: number): number {
    this.position.push(position[0]!, position[1]!, position[2]!); // three each: builders' contract
    this.normal.push(normal[0]!, normal[1]!, normal[2]!);
    this.texcoord0.push(u, v);
    return this.position.length / 3 - 1;
  }

  /** A triangle, left out where two corners coincide (at the poles of a sphere). */
  triangle(a: number, b: number, c: number): void {
    if (this.coincide(a, b) || this.coincide(b, c) || this.coincide(c, a)) return;
    this.indices.push(a, b, c);
  }

  /**
   * A grid of `columns` x `rows` cells. `at` maps u (0 left .. 1 right) and v (0 top .. 1 bottom),
   * as seen from the side the normal points to, which makes the winding counter-clockwise.
   */
  grid(
    columns: number,
    rows: number,
    at: (u: number, v: number) => SurfacePoint,
    texture: (u: number, v: number) => [number, number] = (u, v) => [u, v],
  ): void {
    const first = this.position.length / 3;
    for (let j = 0; j <= rows; j++) {
      for (let i = 0; i <= columns; i++) {
        const point = at(i / columns, j / rows);
        const [s, t] = texture(i / columns, j / rows);
        this.vertex(point.position, point.normal, s, t);
      }
    }
    for (let j = 0; j < rows; j++) {
      for (let i = 0; i < columns; i++) {
        const a = first + j * (columns + 1) + i;
        const b = a + columns + 1;
        this.triangle(a, b, b + 1);
        this.triangle(a, b + 1, a + 1);
      }
    }
  }

  finish(name: string): Geometry {
    return geometryFrom(
      { position: this.position, normal: this.normal, texcoord0: this.texcoord0 },
      this.indices,
      { name },
    );
  }

  private coincide(a: number, b: number): boolean {
    const p = this.position;
    const near = 1e-12;
    return (
      Math.abs(p[a * 3]! - p[b * 3]!) < near &&
      Math.abs(p[a * 3 + 1]! - p[b * 3 + 1]!) < near &&
      Math.abs(p[a * 3 + 2]! - p[b * 3 + 2]!) < near
    );
  }
}

/** A flat disc about the Y axis at height `y`, its normal up or down. */
export function addDisc(
  surface: Surface,
  radius: number,
  y: number,
  segmentCount: number,
  up: boolean,
  innerRadius = 0,
): void {
  const normal = [0, up ? 1 : -1, 0];
  const rim = (r: number, i: number): number => {
    const [sin, cos] = circle(i / segmentCount);
    const x = r * sin;
    const z = r * cos;
    return surface.vertex(
      [x, y, z],
      normal,
      0.5 + x / (2 * radius),
      0.5 + ((up ? 1 : -1) * z) / (2 * radius),
    );
  };
  for (let i = 0; i < segmentCount; i++) {
    // One centre a slice keeps the fan free of a shared vertex without direction.
    const a = rim(innerRadius, i);
    const b = rim(radius, i);
    const c = rim(radius, i + 1);
    const d = rim(innerRadius, i + 1);
    surface.triangle(a, up ? b : c, up ? c : b);
    surface.triangle(a, up ? c : d, up ? d : c);
  }
}

/** Sine and cosine of a full turn's part, exact at the quarters so that seams close. */
export function circle(turn: number): [sin: number, cos: number] {
  const quarter = (turn * 4) % 4;
  if (Number.isInteger(quarter)) {
    return [[0, 1, 0, -1] as const, [1, 0, -1, 0] as const].map((c) => c[((quarter % 4) + 4) % 4]!) as [
      number,
      number,
    ];
  }
  return [Math.sin(turn * 2 * Math.PI), Math.cos(turn * 2 * Math.PI)];
}
