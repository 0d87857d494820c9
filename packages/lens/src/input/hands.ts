import { Gestures } from './gestures.js';
import { HeldKeys, type KeysOf } from './held-keys.js';
import { makeReachable } from './reachable.js';
import type { Rig, RigOptions } from './rig.js';

/** What a rig has by itself, where its user gives nothing else. */
export interface HandDefaults<A extends string> {
  /** What screen readers call the canvas, and what they are told of its keys. */
  label: string;
  told: string;
  keys: KeysOf<A>;
}

/** What moves a rig: drags, zooms and held keys on an element, as long as the rig is active. */
export class Hands<A extends string> {
  private readonly gestures: Gestures;
  private readonly keys: HeldKeys<A> | undefined;
  private readonly keySpeed: number;

  /**
   * @param drag see `GestureHandlers`, as `zoom`
   * @param signal lets go of the element
   * @throws LensError `input/keys`
   */
  constructor(
    rig: Pick<Rig, 'isActive'>,
    element: HTMLElement,
    signal: AbortSignal,
    { keyboard = true, keys, keySpeed = 1, label }: RigOptions & { keys?: Partial<KeysOf<A>> },
    defaults: HandDefaults<A>,
    drag: (dx: number, dy: number, isSecond: boolean) => void,
    zoom: (by: number, x: number, y: number) => void,
  ) {
    const isActive = (): boolean => rig.isActive;
    this.keySpeed = keySpeed;
    this.gestures = new Gestures(element, { isActive, drag, zoom }, signal, keyboard);
    if (!keyboard) return;
    makeReachable(element, label ?? defaults.label, defaults.told, signal);
    this.keys = new HeldKeys(element, defaults.keys, keys ?? {}, isActive, signal);
  }

  /** Whether a pointer is pressed. */
  get isHeld(): boolean {
    return this.gestures.isHeld;
  }

  /** Whether shift is down. */
  get shift(): boolean {
    return this.keys?.shift ?? false;
  }

  isDown(action: A): boolean {
    return this.keys?.isDown(action) ?? false;
  }

  /** 1 while the one is held, -1 for the other, 0 for both or neither. */
  between(less: A, more: A): number {
    return this.keys?.between(less, more) ?? 0;
  }

  /** The same as a way: times seconds, and how fast keys are to move. */
  way(less: A, more: A, delta: number): number {
    return this.between(less, more) * delta * this.keySpeed;
  }

  /** Forgets what is pressed. */
  letGo(): void {
    this.gestures.letGo();
    this.keys?.letGo();
  }
}
