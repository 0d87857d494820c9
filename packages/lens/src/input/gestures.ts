import { capturePointer } from './capture-pointer.js';
import { pixelsOfWheel } from './wheel.js';

/** What hands on an element ask of whoever moves the view. */
export interface GestureHandlers {
  /** Whether somebody listens now. */
  isActive(): boolean;
  /**
   * One pointer moved, or two did together.
   *
   * @param dx shares of the element's height, to the right
   * @param dy downwards
   * @param isSecond by another button than the first, with shift, or by two fingers
   */
  drag(dx: number, dy: number, isSecond: boolean): void;
  /**
   * Two fingers came together or apart, or a wheel was turned.
   *
   * @param by logarithm of how much farther things are to be
   * @param x where, in shares of the element's height from its middle, to the right
   * @param y upwards
   */
  zoom(by: number, x: number, y: number): void;
}

/** Drags, pinches and the wheel on an element. */
export class Gestures {
  private readonly pointers = new Map<number, { x: number; y: number }>();

  constructor(
    private readonly element: HTMLElement,
    private readonly handlers: GestureHandlers,
    signal: AbortSignal,
    takesFocus: boolean,
  ) {
    const touchAction = element.style.touchAction;
    element.style.touchAction = 'none';
    signal.addEventListener('abort', () => {
      element.style.touchAction = touchAction;
      this.pointers.clear();
    });
    const on = <K extends keyof HTMLElementEventMap>(
      type: K,
      act: (event: HTMLElementEventMap[K]) => void,
    ): void =>
      element.addEventListener(type, (event) => handlers.isActive() && act(event), {
        signal,
        passive: false,
      });
    on('pointerdown', (event) => {
      capturePointer(element, event.pointerId);
      this.pointers.set(event.pointerId, { x: event.clientX, y: event.clientY });
      if (takesFocus) element.focus({ preventScroll: true, focusVisible: false } as FocusOptions);
    });
    on('pointermove', (event) => this.move(event));
    on('pointerup', (event) => this.pointers.delete(event.pointerId));
    on('pointercancel', (event) => this.pointers.delete(event.pointerId));
    on('contextmenu', (event) => event.preventDefault());
    on('wheel', (event) => {
      event.preventDefault();
      const [, pixels] = pixelsOfWheel(event);
      const { left, top, width, height } = element.getBoundingClientRect();
      const [x, y] = [event.clientX - left - width / 2, height / 2 - (event.clientY - top)];
      const by = Math.max(-0.5, Math.min(0.5, pixels * 0.0012));
      handlers.zoom(by, x / (height || 1), y / (height || 1));
    });
  }

  /** Whether a pointer is pressed. */
  get isHeld(): boolean {
    return this.pointers.size > 0;
  }

  /** Forgets pressed pointers. */
  letGo(): void {
    this.pointers.clear();
  }

  private move(event: PointerEvent): void {
    const from = this.pointers.get(event.pointerId);
    if (!from) return;
    const height = this.element.clientHeight || 1;
    const [dx, dy] = [(event.clientX - from.x) / height, (event.clientY - from.y) / height];
    if (this.pointers.size === 1) this.handlers.drag(dx, dy, event.shiftKey || (event.buttons & 6) !== 0);
    else if (this.pointers.size === 2) {
      const other = [...this.pointers].find(([id]) => id !== event.pointerId)![1]; // there are two
      // Each finger gives half of the movement, and the change of their distance is the pinch.
      this.handlers.drag(dx / 2, dy / 2, true);
      const before = Math.hypot(from.x - other.x, from.y - other.y);
      const after = Math.hypot(event.clientX - other.x, event.clientY - other.y);
      const { left, top, width } = this.element.getBoundingClientRect();
      const [x, y] = [(event.clientX + other.x) / 2 - left, (event.clientY + other.y) / 2 - top];
      if (before > 0 && after > 0)
        this.handlers.zoom(Math.log(before / after), (x - width / 2) / height, 0.5 - y / height);
    }
    from.x = event.clientX;
    from.y = event.clientY;
  }
}
