import type { KeysOf } from './held-keys.js';

/** What keys do with a view that is looked at from outside. */
export type ViewKey = 'left' | 'right' | 'up' | 'down' | 'near' | 'far';

export const VIEW_KEYS: KeysOf<ViewKey> = {
  left: ['ArrowLeft'],
  right: ['ArrowRight'],
  up: ['ArrowUp'],
  down: ['ArrowDown'],
  // What is on them, since keyboards have them in different places.
  near: ['+', '='],
  far: ['-'],
};
