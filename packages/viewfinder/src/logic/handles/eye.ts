import { cameraRay, createCameraView, type SceneNode, updateCameraView } from '@umber-lens/core/engine';
import { dot, minus, type Vec } from './vectors.js';

/** What a camera sees, as places on the screen: CSS pixels from the upper left. */
export class Eye {
  private readonly view = createCameraView();
  width = 1;
  height = 1;
  private camera: SceneNode | undefined;

  look(camera: SceneNode, width: number, height: number): void {
    this.camera = camera;
    this.width = Math.max(1, width);
    this.height = Math.max(1, height);
    updateCameraView(this.view, camera, this.width / this.height);
  }

  get position(): Vec {
    const [x, y, z] = this.view.position;
    return [x!, y!, z!]; // three
  }

  get forward(): Vec {
    const [x, y, z] = this.view.forward;
    return [x!, y!, z!]; // three
  }

  get right(): Vec {
    const { view } = this.view;
    return [view[0]!, view[4]!, view[8]!]; // sixteen
  }

  get up(): Vec {
    const { view } = this.view;
    return [view[1]!, view[5]!, view[9]!]; // sixteen
  }

  get isFlat(): boolean {
    return this.camera?.camera?.type === 'orthographic';
  }

  /** Metres to a CSS pixel at a place. */
  pixelAt(place: Vec): number {
    const { projection } = this.view;
    const away = this.isFlat ? 1 : Math.max(1e-6, dot(minus(place, this.position), this.forward));
    return (2 * away) / (projection[5]! * this.height); // sixteen
  }

  /** Where a place is seen; `w` is at most 0 for what lies behind. */
  project(place: Vec): { x: number; y: number; w: number } {
    const m = this.view.viewProjection;
    const row = (k: number): number =>
      m[k]! * place[0] + m[k + 4]! * place[1] + m[k + 8]! * place[2] + m[k + 12]!; // sixteen
    const w = row(3);
    const by = w || 1e-9;
    return { x: (row(0) / by / 2 + 0.5) * this.width, y: (0.5 - row(1) / by / 2) * this.height, w };
  }

  /**
   * The part of a line that lies before the eye, on the screen; undefined where none does.
   */
  line(from: Vec, to: Vec): [x0: number, y0: number, x1: number, y1: number] | undefined {
    let [a, b] = [from, to];
    let [p, q] = [this.project(a), this.project(b)];
    const least = this.isFlat ? -Infinity : 1e-3;
    if (p.w <= least && q.w <= least) return undefined;
    if (p.w <= least || q.w <= least) {
      const at = (least - p.w) / (q.w - p.w);
      const cut: Vec = [a[0] + (b[0] - a[0]) * at, a[1] + (b[1] - a[1]) * at, a[2] + (b[2] - a[2]) * at];
      if (p.w <= least) a = cut;
      else b = cut;
      [p, q] = [this.project(a), this.project(b)];
    }
    return [p.x, p.y, q.x, q.y];
  }

  ray(x: number, y: number): { origin: Vec; direction: Vec } {
    const ray = cameraRay(this.camera!, x, y, this.width, this.height); // after `look`
    return { origin: ray.origin as unknown as Vec, direction: ray.direction as unknown as Vec };
  }
}
