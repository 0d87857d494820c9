import { fixLayoutSize } from '../view/canvas-size.js';
import { type CanvasShape, type EventKind, EVENTS, FIELDS, type ToPage, type ToWorker } from './messages.js';

/** Keys that scroll pages. */
const SCROLLS = /^(Arrow|Page|Home|End|Space| $)/;

/**
 * Hands a canvas to a worker, which draws into it with the same calls as a page would: `receiveCanvas` there gives what
 * `openLens`, rigs and `pointerEvents` take. Sizes, pointers, the wheel and keys are forwarded; cursors come back.
 *
 *     const worker = new Worker(new URL('./draw.ts', import.meta.url), { type: 'module' });
 *     forwardCanvas(canvas, worker);
 *
 * @returns a function that stops forwarding; the canvas stays the worker's
 */
export function forwardCanvas(canvas: HTMLCanvasElement, worker: Worker): () => void {
  const stopped = new AbortController();
  const { signal } = stopped;
  const tell = (message: ToWorker, transfer: Transferable[] = []): void =>
    worker.postMessage(message, transfer);
  const motion = matchMedia('(prefers-reduced-motion: reduce)');
  const shape = (): CanvasShape => ({
    width: canvas.clientWidth,
    height: canvas.clientHeight,
    pixelRatio: devicePixelRatio,
    lessMotion: motion.matches,
  });
  fixLayoutSize(canvas);
  const offscreen = canvas.transferControlToOffscreen();
  tell({ umberLens: 'canvas', canvas: offscreen, size: shape() }, [offscreen]);
  const resized = new ResizeObserver(() => tell({ umberLens: 'size', size: shape() }));
  resized.observe(canvas);
  signal.addEventListener('abort', () => resized.disconnect());
  motion.addEventListener('change', () => tell({ umberLens: 'size', size: shape() }), { signal });
  canvas.style.touchAction = 'none';
  for (const [type, kind] of Object.entries(EVENTS))
    canvas.addEventListener(
      type,
      (event) => {
        // The worker cannot answer in time: what would scroll the page or open a menu is held back here.
        if (type === 'wheel' || type === 'contextmenu') event.preventDefault();
        if (type === 'keydown' && SCROLLS.test((event as KeyboardEvent).key)) event.preventDefault();
        if (type === 'pointerdown') canvas.focus({ preventScroll: true });
        tell({ umberLens: 'event', type, kind, fields: fieldsOf(event, kind, canvas) });
      },
      { signal, passive: false },
    );
  worker.addEventListener('message', ({ data }: MessageEvent<ToPage | undefined>) => answer(canvas, data), {
    signal,
  });
  return () => stopped.abort();
}

/** What is told of an event; places count from the canvas's own corner, where the worker's canvas has its. */
function fieldsOf(event: Event, kind: EventKind, canvas: HTMLCanvasElement): Record<string, unknown> {
  const fields = Object.fromEntries(
    FIELDS[kind].map((name) => [name, (event as unknown as Record<string, unknown>)[name]]),
  );
  if (kind === 'pointer' || kind === 'wheel') {
    const { left, top } = canvas.getBoundingClientRect();
    fields['clientX'] = (event as MouseEvent).clientX - left - canvas.clientLeft;
    fields['clientY'] = (event as MouseEvent).clientY - top - canvas.clientTop;
  }
  return fields;
}

function answer(canvas: HTMLCanvasElement, message: ToPage | undefined): void {
  switch (message?.umberLens) {
    case 'style':
      (canvas.style as unknown as Record<string, string>)[message.name] = message.value;
      break;
    case 'attribute':
      if (message.value === null) canvas.removeAttribute(message.name);
      else if (!canvas.hasAttribute(message.name)) canvas.setAttribute(message.name, message.value);
      break;
    case 'capture':
      try {
        if (message.on) canvas.setPointerCapture(message.pointerId);
        else canvas.releasePointerCapture(message.pointerId);
      } catch {
        // The pointer is gone meanwhile.
      }
      break;
    case 'focus':
      canvas.focus({ preventScroll: true });
      break;
    default:
    // Somebody else's.
  }
}
