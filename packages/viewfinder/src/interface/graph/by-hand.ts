import type { RefObject } from 'preact';
import { useLayoutEffect } from 'preact/hooks';

/** Colors of the interface, as it is shown now, for what is drawn by hand. */
export type Colors = Record<'brass' | 'field' | 'line' | 'quiet' | 'raised' | 'wrong', string>;

export function colorsOf(element: Element): Colors {
  const style = getComputedStyle(element);
  const colorOf = (name: keyof Colors): string => style.getPropertyValue(`--${name}`);
  return {
    brass: colorOf('brass'),
    field: colorOf('field'),
    line: colorOf('line'),
    quiet: colorOf('quiet'),
    raised: colorOf('raised'),
    wrong: colorOf('wrong'),
  };
}

/**
 * A canvas to draw on by hand, cleared, of this size in its own pixels. Not by the GPU: many small paths take it longer, each canvas would be a layer of the
 * page, and a machine may have none.
 */
export function clearedCanvas(
  element: HTMLCanvasElement,
  width: number,
  height: number,
): CanvasRenderingContext2D {
  const context = element.getContext('2d', { willReadFrequently: true })!; // there is one
  if (element.width !== width || element.height !== height) Object.assign(element, { width, height });
  context.setTransform(1, 0, 0, 1, 0, 0);
  context.clearRect(0, 0, width, height);
  return context;
}

/** Draws again in other colors, when the interface has others. */
export function useTheme(
  canvas: RefObject<HTMLCanvasElement | null>,
  draw: { readonly current: () => void },
): void {
  useLayoutEffect(() => {
    const root = canvas.current!.closest('.root'); // it is drawn
    if (!root) return undefined;
    const watch = new MutationObserver(() => draw.current());
    watch.observe(root, { attributeFilter: ['class'] });
    return () => watch.disconnect();
  }, [canvas, draw]);
}
