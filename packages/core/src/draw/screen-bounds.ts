import type { CameraView } from './camera-view.js';

/** The rectangle of a picture that spheres cover, and how far from the camera they are. */
export class ScreenBounds {
  /** In the picture's own units: -1 at the left and at the bottom, 1 at the right and at the top; left is above right where there is nothing. */
  left = Infinity;
  right = -Infinity;
  bottom = Infinity;
  top = -Infinity;
  /** Metres along the camera's way of looking. */
  nearest = Infinity;
  farthest = -Infinity;

  reset(): void {
    this.left = this.bottom = this.nearest = Infinity;
    this.right = this.top = this.farthest = -Infinity;
  }

  get isEmpty(): boolean {
    return this.left > this.right;
  }

  /**
   * Grows by a sphere: in a perspective by the tangents to it from the camera (Mara and McGuire, "2D Polyhedral Bounds of a
   * Clipped, Perspective-Projected 3D Sphere", 2013). One that reaches the near plane covers everything.
   *
   * @param spheres center and radius, four numbers each, in the world
   * @param at where its numbers begin
   * @param near metres before the camera, or below 0 where it is orthographic
   */
  grow({ view, projection }: CameraView, near: number, spheres: Float32Array, at: number): void {
    const [wx, wy, wz, radius] = [spheres[at]!, spheres[at + 1]!, spheres[at + 2]!, spheres[at + 3]!]; // four each
    // Sixteen numbers each.
    const x = view[0]! * wx + view[4]! * wy + view[8]! * wz + view[12]!;
    const y = view[1]! * wx + view[5]! * wy + view[9]! * wz + view[13]!;
    const away = -(view[2]! * wx + view[6]! * wy + view[10]! * wz + view[14]!);
    const isParallel = near < 0;
    if (away + radius < near) return;
    if (!Number.isFinite(x + y + away + radius)) {
      this.growBy(-Infinity, Infinity, -Infinity, Infinity, near, Infinity);
      return;
    }
    this.nearest = Math.min(this.nearest, Math.max(near, away - radius));
    this.farthest = Math.max(this.farthest, away + radius);
    const [sx, sy] = [projection[0]!, projection[5]!];
    // Where it is a part of a larger picture.
    const [dx, dy] = [projection[12]! - projection[8]!, projection[13]! - projection[9]!];
    if (isParallel)
      this.growBy(
        (x - radius) * sx + dx,
        (x + radius) * sx + dx,
        (y - radius) * sy + dy,
        (y + radius) * sy + dy,
        Infinity,
        -Infinity,
      );
    else if (away - radius <= near)
      this.growBy(-Infinity, Infinity, -Infinity, Infinity, Infinity, -Infinity);
    else
      this.growBy(
        tangent(x, away, -radius) * sx + dx,
        tangent(x, away, radius) * sx + dx,
        tangent(y, away, -radius) * sy + dy,
        tangent(y, away, radius) * sy + dy,
        Infinity,
        -Infinity,
      );
  }

  private growBy(
    left: number,
    right: number,
    bottom: number,
    top: number,
    nearest: number,
    farthest: number,
  ): void {
    this.left = Math.min(this.left, left);
    this.right = Math.max(this.right, right);
    this.bottom = Math.min(this.bottom, bottom);
    this.top = Math.max(this.top, top);
    this.nearest = Math.min(this.nearest, nearest);
    this.farthest = Math.max(this.farthest, farthest);
  }
}

/** The slope of the line from the camera that touches a circle, which lies wholly before it, on one of its sides. */
function tangent(aside: number, away: number, radius: number): number {
  const length = Math.sqrt(aside * aside + away * away - radius * radius);
  return (aside * length + radius * away) / (away * length - radius * aside);
}
