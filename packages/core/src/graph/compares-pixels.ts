/** What compares a pixel with the next: WGSL's own, and what the library has made of it. */
const COMPARES = /\b(?:(?:dpdx|dpdy|fwidth)(?:Coarse|Fine)?|normalFromHeight)\s*\(/;

/**
 * Whether something in a module compares a pixel with the next, and so cannot be computed for one alone.
 *
 * @param sources texts of what it imports, by path
 */
export const comparesPixels = (wgsl: string, sources: Readonly<Record<string, string>> = {}): boolean =>
  COMPARES.test(wgsl) || Object.values(sources).some((text) => COMPARES.test(text));
