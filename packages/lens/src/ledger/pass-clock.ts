import type { Device, DeviceTimer } from '../gpu/device.js';

/** Times passes on the GPU. Each has timers of its own; one that still waits for an answer is left alone. */
export class PassClock {
  /** Milliseconds that passes took when an answer last came. */
  readonly milliseconds = new Map<string, number>();
  private readonly idle = new Map<string, DeviceTimer[]>();
  private readonly used: { name: string; timer: DeviceTimer }[] = [];
  private readonly waiting = new Set<Promise<void>>();
  private isDisposed = false;

  private constructor(private readonly device: Device) {}

  /** Undefined where the GPU cannot tell. */
  static async begin(device: Device): Promise<PassClock | undefined> {
    const first = await device.createTimer();
    if (!first) return undefined;
    first.dispose();
    return new PassClock(device);
  }

  /** A timer for a pass that begins now; undefined while all of them are busy. */
  timerFor(name: string): DeviceTimer | undefined {
    let idle = this.idle.get(name);
    if (!idle) {
      this.idle.set(name, (idle = []));
      for (let i = 0; i < 2; i++)
        void this.device.createTimer(name).then((timer) => timer && this.giveBack(name, timer));
    }
    const timer = idle.pop();
    if (timer) this.used.push({ name, timer });
    return timer;
  }

  /** To be called after each frame's submit. */
  endFrame(): void {
    for (const { name, timer } of this.used) {
      const waiting = timer
        .milliseconds()
        .then((milliseconds) => {
          if (milliseconds !== undefined) this.milliseconds.set(name, milliseconds);
        })
        .catch(() => undefined)
        .then(() => {
          this.waiting.delete(waiting);
          this.giveBack(name, timer);
        });
      this.waiting.add(waiting);
    }
    this.used.length = 0;
  }

  /** Waits for all answers. @returns the milliseconds of all passes of the last frame together */
  async settled(): Promise<number> {
    await Promise.all(this.waiting);
    let sum = 0;
    for (const milliseconds of this.milliseconds.values()) sum += milliseconds;
    return sum;
  }

  dispose(): void {
    this.isDisposed = true;
    for (const timers of this.idle.values()) for (const timer of timers) timer.dispose();
    this.idle.clear();
  }

  private giveBack(name: string, timer: DeviceTimer): void {
    if (this.isDisposed) timer.dispose();
    else this.idle.get(name)?.push(timer);
  }
}
