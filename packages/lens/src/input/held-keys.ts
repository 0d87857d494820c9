import { LensError, nearHint } from '@umber-lens/core/engine';

/** Keys by what they do: `code` of a keyboard event, which says where a key is, or `key`, which says what is on it. */
export type KeysOf<A extends string> = Record<A, readonly string[]>;

/** Which keys are down while an element has the focus. */
export class HeldKeys<A extends string> {
  /** Whether shift is down. */
  shift = false;
  private readonly down = new Set<string>();
  private readonly all: ReadonlySet<string>;

  /**
   * @param given those that take the place of the usual ones
   * @param isActive whether somebody listens now
   * @throws LensError `input/keys` for what no key can do
   */
  constructor(
    element: HTMLElement,
    private readonly keys: KeysOf<A>,
    given: Partial<KeysOf<A>>,
    isActive: () => boolean,
    signal: AbortSignal,
  ) {
    for (const name of Object.keys(given))
      if (!(name in keys))
        throw new LensError('input/keys', `no key of this rig does "${name}"`, {
          hint: nearHint(name, Object.keys(keys)),
        });
    this.keys = { ...keys, ...given };
    this.all = new Set(Object.values<readonly string[]>(this.keys).flat());
    const on = (type: 'keydown' | 'keyup', act: (name: string, event: KeyboardEvent) => void): void =>
      element.addEventListener(
        type,
        (event) => {
          this.shift = event.shiftKey;
          const name = [event.code, event.key].find((known) => this.all.has(known));
          if (name !== undefined) act(name, event);
        },
        { signal },
      );
    on('keydown', (name, event) => {
      if (!isActive() || event.ctrlKey || event.metaKey || event.altKey) return;
      event.preventDefault();
      this.down.add(name);
    });
    on('keyup', (name) => this.down.delete(name));
    element.addEventListener('blur', () => this.letGo(), { signal });
  }

  isDown(action: A): boolean {
    return this.keys[action].some((name) => this.down.has(name));
  }

  /** 1 for the one, -1 for the other, 0 for both or neither. */
  between(less: A, more: A): number {
    return Number(this.isDown(more)) - Number(this.isDown(less));
  }

  letGo(): void {
    this.down.clear();
  }
}
