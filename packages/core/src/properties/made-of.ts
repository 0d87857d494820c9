/** What a shape is made of: the function that makes it, and what that was given. */
export interface MadeOf {
  shape: string;
  options: object;
}

const made = new WeakMap<object, MadeOf>();

/** Notes what a geometry is made of. Options are copied: callers may go on with them. */
export function noteMade(geometry: object, shape: string, options: object): void {
  made.set(geometry, { shape, options: { ...options } });
}

/**
 * What a geometry is made of. Undefined for one that was put together by hand, and in builds for production, where sheets alone note it.
 */
export const madeOf = (geometry: object): MadeOf | undefined => made.get(geometry);
