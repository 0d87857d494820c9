/**
 * The viewfinder: a visual editor over a running scene. It looks into it, changes it by eye, and saves what was changed into the source.
 *
 * @module @umber-lens/viewfinder
 */
import { type Lens, pageLenses, type Scene } from 'umber-lens';
import type { Viewfinder, ViewfinderOptions } from './options.js';

export { linkedSheet } from './linked-sheet.js';
export type { Viewfinder, ViewfinderOptions } from './options.js';

/** Those that stand over a lens. */
const open = new WeakMap<Lens, Promise<Viewfinder>>();

/**
 * Opens the viewfinder over a scene that a page draws. The page goes on running underneath. Its interface is loaded by the first call.
 *
 *     const viewfinder = await openViewfinder(lens, scene);
 *
 * @param lens one with a canvas
 * @returns the one that is open already, where there is one
 */
export async function openViewfinder(
  lens: Lens,
  scene: Scene,
  options: ViewfinderOptions = {},
): Promise<Viewfinder> {
  const known = open.get(lens);
  if (known) return known;
  const onClose = (): void => {
    open.delete(lens);
    options.onClose?.();
  };
  const opening = import('./viewfinder.js').then(
    ({ OpenViewfinder }) => new OpenViewfinder(lens, scene, { ...options, onClose }),
  );
  open.set(lens, opening);
  return opening;
}

/**
 * The same over whatever lens of the page draws onto a canvas: what the plugin `viewfinder` of `@umber-lens/vite` adds to pages.
 *
 * @returns stops it
 */
export function watchPage(options: WatchOptions = {}): () => void {
  return watch(async () => {
    for (;;) {
      for (const held of pageLenses) {
        const lens = held.deref();
        const scene = lens?.drawnScene;
        if (lens && scene) return [lens, scene];
      }
      await new Promise((again) => setTimeout(again, 50));
    }
  }, options);
}

/** When the viewfinder opens. */
export interface WatchOptions extends ViewfinderOptions {
  /** A key that opens and closes it: modifiers and `KeyboardEvent.code`. Default `Alt+KeyV`. */
  key?: string;
}

/**
 * Opens the viewfinder by a key, and at once where the address has `?viewfinder`. Until then nothing of it is loaded.
 *
 *     const stop = watchViewfinder(lens, scene);
 *
 * @returns stops that
 */
export function watchViewfinder(lens: Lens, scene: Scene, options: WatchOptions = {}): () => void {
  return watch(() => Promise.resolve([lens, scene]), options);
}

/** @param over over what it opens */
function watch(
  over: () => Promise<[lens: Lens, scene: Scene]>,
  { key = 'Alt+KeyV', ...options }: WatchOptions,
): () => void {
  const parts = key.split('+');
  const code = parts.at(-1);
  const has = (name: string): boolean => parts.includes(name);
  const toggle = async (): Promise<void> => {
    const [lens, scene] = await over();
    const known = open.get(lens);
    if (known) (await known).close();
    else await openViewfinder(lens, scene, options);
  };
  const hear = (event: KeyboardEvent): void => {
    const isIt =
      event.code === code &&
      event.altKey === has('Alt') &&
      event.shiftKey === has('Shift') &&
      (event.ctrlKey || event.metaKey) === has('Ctrl');
    if (!isIt) return;
    event.preventDefault();
    void toggle();
  };
  window.addEventListener('keydown', hear);
  if (new URLSearchParams(location.search).has('viewfinder')) void toggle();
  return () => window.removeEventListener('keydown', hear);
}
