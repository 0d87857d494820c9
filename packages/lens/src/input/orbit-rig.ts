import {
  type Bounds,
  facing,
  frameBounds,
  frameNode,
  isEmptyBounds,
  LensError,
  type SceneNode,
} from '@umber-lens/core';

export interface OrbitRigOptions {
  /** Point to look at, in the world. Default the origin. */
  target?: [number, number, number];
  /** Nearest and farthest distance, metres. */
  minDistance?: number;
  maxDistance?: number;
  /** Lowest and highest elevation above the horizon, radians. Default just short of straight up and down. */
  minElevation?: number;
  maxElevation?: number;
  /** Seconds after which a let-go movement has lost two thirds of its speed; 0 stops at once. Default 0.12. */
  inertia?: number;
  /** Radians for a drag across the whole height. Default pi. */
  turnSpeed?: number;
  /** Whether keys work while the canvas has the focus. Default true. */
  keyboard?: boolean;
}

export interface OrbitRig {
  /** Point looked at; write to it freely. */
  readonly target: [number, number, number];
  distance: number;
  /** Radians around +Y; 0 looks along -Z. */
  azimuth: number;
  /** Radians above the horizon. */
  elevation: number;
  /** Moves the node; call it once a frame. @param delta seconds */
  update(delta: number): void;
  /** Moves so that a node's subtree, or a box, fills the view; the way of looking stays. */
  frame(what: SceneNode | Bounds): void;
  /** Lets go of the canvas. */
  dispose(): void;
}

const STRAIGHT = Math.PI / 2 - 0.001;

/**
 * Orbits a camera node around a target: drag to turn; secondary drag, shift-drag or two fingers to
 * pan; wheel or pinch to move; arrow keys to turn, with shift to pan, `+` and `-` to move.
 */
export function orbitRig(eye: SceneNode, element: HTMLElement, options: OrbitRigOptions = {}): OrbitRig {
  return new Orbit(eye, element, options);
}

class Orbit implements OrbitRig {
  readonly target: [number, number, number];
  distance = 1;
  azimuth = 0;
  elevation = 0;
  private readonly limits: Required<Omit<OrbitRigOptions, 'target' | 'keyboard'>>;
  private readonly pointers = new Map<number, { x: number; y: number }>();
  private readonly release = new AbortController();
  private readonly keys = new Set<string>();
  private shift = false;
  /** Speeds a second: radians, radians, share of the distance, and pan in distances. */
  private readonly speed = { azimuth: 0, elevation: 0, zoom: 0, x: 0, y: 0 };
  /** What the pointers moved since the last update. */
  private readonly moved = { azimuth: 0, elevation: 0, zoom: 0, x: 0, y: 0 };

  constructor(
    private readonly eye: SceneNode,
    private readonly element: HTMLElement,
    options: OrbitRigOptions,
  ) {
    if (!eye.camera) {
      throw new LensError('camera/missing', `node "${eye.name}" carries no camera to orbit with`);
    }
    this.target = [...(options.target ?? [0, 0, 0])];
    this.limits = {
      minDistance: options.minDistance ?? 1e-3,
      maxDistance: options.maxDistance ?? 1e6,
      minElevation: Math.max(options.minElevation ?? -STRAIGHT, -STRAIGHT),
      maxElevation: Math.min(options.maxElevation ?? STRAIGHT, STRAIGHT),
      inertia: options.inertia ?? 0.12,
      turnSpeed: options.turnSpeed ?? Math.PI,
    };
    const at = eye.readPosition([0, 0, 0]);
    const away = [0, 1, 2].map((k) => at[k]! - this.target[k]!) as [number, number, number];
    this.distance = Math.hypot(...away) || 1;
    this.azimuth = Math.atan2(away[0], away[2]);
    this.elevation = Math.asin(Math.max(-1, Math.min(1, away[1] / this.distance)));
    this.listen(options.keyboard ?? true);
    this.place();
  }

  update(delta: number): void {
    this.pressKeys(delta);
    const { moved, speed } = this;
    const { inertia } = this.limits;
    const fade = inertia > 0 ? Math.exp(-delta / inertia) : 0;
    const isHeld = this.pointers.size > 0;
    for (const key of ['azimuth', 'elevation', 'zoom', 'x', 'y'] as const) {
      let step = moved[key];
      moved[key] = 0;
      if (isHeld || step !== 0) {
        // A hand leads: remember its speed for when it lets go. Weighing by time, not by frames,
        // lets one notch of a wheel glide by at most its own size, however short its frame was.
        if (delta > 0) speed[key] = speed[key] * fade + (step / delta) * (1 - fade);
      } else {
        // The integral of a fading speed, so that a long frame does not run past where it ends.
        step = speed[key] * inertia * (1 - fade);
        speed[key] *= fade;
        if (Math.abs(speed[key]) < 1e-4) speed[key] = 0;
      }
      this.apply(key, step);
    }
    this.place();
  }

  frame(what: SceneNode | Bounds): void {
    const isNode = 'worldBounds' in what;
    if (isEmptyBounds(isNode ? what.worldBounds() : what)) return;
    const camera = this.eye.camera!; // checked at the start; a rig without it cannot place
    const { clientWidth, clientHeight } = this.element;
    const aspect = clientWidth > 0 && clientHeight > 0 ? clientWidth / clientHeight : 1;
    const yfov = camera.type === 'perspective' ? camera.yfov : 0.8;
    const [x, y, z] = this.away();
    const options = { yfov, aspect, direction: [-x, -y, -z] } as const;
    const { target, distance, xmag, ymag } = isNode ? frameNode(what, options) : frameBounds(what, options);
    for (let k = 0; k < 3; k++) this.target[k] = target[k]!;
    this.distance = Math.min(this.limits.maxDistance, Math.max(this.limits.minDistance, distance));
    if (camera.type === 'orthographic') Object.assign(camera, { xmag, ymag });
    Object.assign(this.speed, { azimuth: 0, elevation: 0, zoom: 0, x: 0, y: 0 });
    this.place();
  }

  dispose(): void {
    this.release.abort();
    this.pointers.clear();
  }

  private away(): [number, number, number] {
    const flat = Math.cos(this.elevation);
    return [flat * Math.sin(this.azimuth), Math.sin(this.elevation), flat * Math.cos(this.azimuth)];
  }

  private apply(key: keyof Orbit['moved'], step: number): void {
    if (step === 0) return;
    if (key === 'azimuth') this.azimuth += step;
    else if (key === 'elevation') this.elevation += step;
    else if (key === 'zoom') this.zoom(step);
    else {
      // Right and up of the view, in distances.
      const [sin, cos] = [Math.sin(this.azimuth), Math.cos(this.azimuth)];
      const lift = Math.sin(this.elevation);
      const axis = key === 'x' ? [cos, 0, -sin] : [-lift * sin, Math.cos(this.elevation), -lift * cos];
      for (let k = 0; k < 3; k++) this.target[k]! += axis[k]! * step * this.distance;
    }
  }

  private zoom(step: number): void {
    this.distance *= Math.exp(step);
    const { camera } = this.eye;
    if (camera?.type === 'orthographic') {
      camera.xmag *= Math.exp(step);
      camera.ymag *= Math.exp(step);
    }
  }

  private place(): void {
    const { minDistance, maxDistance, minElevation, maxElevation } = this.limits;
    this.distance = Math.min(maxDistance, Math.max(minDistance, this.distance));
    this.elevation = Math.min(maxElevation, Math.max(minElevation, this.elevation));
    const [x, y, z] = this.away();
    const { target, distance, eye } = this;
    eye.setTranslation(target[0] + x * distance, target[1] + y * distance, target[2] + z * distance);
    const [qx, qy, qz, qw] = facing([-x, -y, -z]);
    eye.setRotation(qx, qy, qz, qw);
  }

  private listen(keyboard: boolean): void {
    const { element } = this;
    const signal = this.release.signal;
    const touchAction = element.style.touchAction;
    element.style.touchAction = 'none';
    signal.addEventListener('abort', () => {
      element.style.touchAction = touchAction;
    });
    const on = <K extends keyof HTMLElementEventMap>(
      type: K,
      act: (event: HTMLElementEventMap[K]) => void,
    ): void => element.addEventListener(type, act, { signal, passive: false });
    on('pointerdown', (event) => {
      element.setPointerCapture(event.pointerId);
      this.pointers.set(event.pointerId, { x: event.clientX, y: event.clientY });
      if (keyboard) element.focus({ preventScroll: true });
    });
    on('pointermove', (event) => this.move(event));
    on('pointerup', (event) => this.pointers.delete(event.pointerId));
    on('pointercancel', (event) => this.pointers.delete(event.pointerId));
    on('contextmenu', (event) => event.preventDefault());
    on('wheel', (event) => {
      event.preventDefault();
      // Lines and pages come from some mice; a line is about 16 pixels.
      const pixels = event.deltaY * (event.deltaMode === 0 ? 1 : event.deltaMode === 1 ? 16 : 400);
      this.moved.zoom += Math.max(-0.5, Math.min(0.5, pixels * 0.0012));
    });
    if (!keyboard) return;
    if (element.tabIndex < 0) element.tabIndex = 0;
    on('keydown', (event) => {
      this.shift = event.shiftKey;
      if (!KEYS.has(event.key) || event.ctrlKey || event.metaKey || event.altKey) return;
      event.preventDefault();
      this.keys.add(event.key);
    });
    on('keyup', (event) => {
      this.shift = event.shiftKey;
      this.keys.delete(event.key);
    });
    on('blur', () => this.keys.clear());
  }

  private move(event: PointerEvent): void {
    const from = this.pointers.get(event.pointerId);
    if (!from) return;
    const height = this.element.clientHeight || 1;
    const [dx, dy] = [(event.clientX - from.x) / height, (event.clientY - from.y) / height];
    if (this.pointers.size === 1) {
      const isPan = event.shiftKey || (event.buttons & 6) !== 0;
      if (isPan) this.pan(dx, dy);
      else {
        this.moved.azimuth -= dx * this.limits.turnSpeed;
        this.moved.elevation += dy * this.limits.turnSpeed;
      }
    } else if (this.pointers.size === 2) {
      const other = [...this.pointers].find(([id]) => id !== event.pointerId)?.[1];
      // Each finger gives half of the pan, and the change of their distance is the pinch.
      this.pan(dx / 2, dy / 2);
      if (other) {
        const before = Math.hypot(from.x - other.x, from.y - other.y);
        const after = Math.hypot(event.clientX - other.x, event.clientY - other.y);
        if (before > 0 && after > 0) this.moved.zoom += Math.log(before / after);
      }
    }
    from.x = event.clientX;
    from.y = event.clientY;
  }

  /** @param dx share of the element's height */
  private pan(dx: number, dy: number): void {
    const { camera } = this.eye;
    const span =
      camera?.type === 'orthographic'
        ? (2 * camera.ymag) / this.distance
        : 2 * Math.tan((camera?.yfov ?? 0.8) / 2);
    this.moved.x -= dx * span;
    this.moved.y += dy * span;
  }

  private pressKeys(delta: number): void {
    for (const key of this.keys) {
      const direction = KEYS.get(key)!; // only known keys are kept
      const [x, y, zoom] = direction;
      if (this.shift) this.pan(-x * delta * 0.6, y * delta * 0.6);
      else {
        this.moved.azimuth += x * delta * 1.5;
        this.moved.elevation += y * delta * 1.5;
      }
      this.moved.zoom += zoom * delta * 1.5;
    }
  }
}

/** Key to turn right, turn up, and move away. */
const KEYS = new Map<string, [number, number, number]>([
  ['ArrowLeft', [-1, 0, 0]],
  ['ArrowRight', [1, 0, 0]],
  ['ArrowUp', [0, 1, 0]],
  ['ArrowDown', [0, -1, 0]],
  ['+', [0, 0, -1]],
  ['=', [0, 0, -1]],
  ['-', [0, 0, 1]],
]);
