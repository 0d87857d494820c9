/**
 * Lets an element be reached by keys and told of by screen readers: it takes part in the order of tabs, has a name, and a
 * ring while keys lead to it. What the page says itself stays; all is taken back when the signal comes.
 */
export function makeReachable(element: HTMLElement, label: string, keys: string, signal: AbortSignal): void {
  const own: Record<string, string> = {};
  // Keys go to the page, and not to a reader's own commands.
  if (!element.hasAttribute('role')) own['role'] = 'application';
  if (!element.hasAttribute('aria-label') && !element.hasAttribute('aria-labelledby'))
    own['aria-label'] = label;
  if (!element.hasAttribute('aria-description')) own['aria-description'] = keys;
  if (element.tabIndex < 0) own['tabindex'] = '0';
  for (const [name, value] of Object.entries(own)) element.setAttribute(name, value);
  // Canvases often fill the page: beside them the ring could not be seen.
  const { outlineOffset } = element.style;
  element.style.outlineOffset ||= '-3px';
  signal.addEventListener('abort', () => {
    for (const name of Object.keys(own)) element.removeAttribute(name);
    element.style.outlineOffset = outlineOffset;
  });
}

/** Whether whoever looks asked for less motion. */
export const wantsLessMotion = (): boolean =>
  (query ??= matchMedia('(prefers-reduced-motion: reduce)')).matches;

let query: MediaQueryList | undefined;
