import type { GraphLook } from './sight.js';

/** How a board is looked at. What stands about the board need not hear of it: it changes with each frame of a hand that moves or zooms it. */
export class BoardLook {
  private readonly listeners = new Set<() => void>();

  /** Another object where it is another look. */
  constructor(private look: GraphLook) {}

  get now(): GraphLook {
    return this.look;
  }

  set now(look: GraphLook) {
    if (look === this.look) return;
    this.look = look;
    for (const listener of this.listeners) listener();
  }

  /** @returns ends it */
  onChange(listener: () => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }
}
