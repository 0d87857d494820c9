import type { CanvasShape, ToPage, ToWorker } from './messages.js';

/** What the global scope of a worker has of what is needed here. */
const scope = globalThis as unknown as {
  postMessage(message: ToPage): void;
  addEventListener(type: 'message', act: (event: { data: ToWorker | undefined }) => void): void;
  matchMedia?: (query: string) => { matches: boolean };
};

/**
 * In a worker: waits for the canvas that a page hands over by `forwardCanvas`. What comes is an OffscreenCanvas that tells of
 * its size on the page and of events, and takes a cursor, as the page's own canvas does: `openLens`, rigs and `pointerEvents`
 * are used as in a page. Locking the pointer is the one thing that stays with the page.
 */
export function receiveCanvas(): Promise<HTMLCanvasElement> {
  return new Promise((resolve) => {
    let canvas: OffscreenCanvas | undefined;
    const shape: CanvasShape = { width: 1, height: 1, pixelRatio: 1, lessMotion: false };
    scope.matchMedia ??= (query) => ({ matches: /reduced-motion/.test(query) && shape.lessMotion });
    scope.addEventListener('message', ({ data }) => {
      switch (data?.umberLens) {
        case 'canvas':
          Object.assign(shape, data.size);
          canvas = data.canvas;
          resolve(asElement(canvas, shape));
          break;
        case 'size':
          Object.assign(shape, data.size);
          break;
        case 'event':
          canvas?.dispatchEvent(eventOf(data.type, data.fields));
          break;
        default:
        // Somebody else's.
      }
    });
  });
}

function eventOf(type: string, fields: Record<string, unknown>): Event {
  const event = new Event(type, { bubbles: true, cancelable: true });
  // Workers have no classes for these; some fields are an event's own and cannot be written to.
  for (const [name, value] of Object.entries(fields))
    Object.defineProperty(event, name, { value, configurable: true });
  return event;
}

/** Gives a canvas what those who draw and listen ask of an element. */
function asElement(canvas: OffscreenCanvas, shape: CanvasShape): HTMLCanvasElement {
  const attributes = new Map<string, string>();
  const style = new Proxy({} as Record<string, string>, {
    get: (kept, name) => kept[String(name)] ?? '',
    set: (kept, name, value) => {
      kept[String(name)] = String(value);
      scope.postMessage({ umberLens: 'style', name: String(name), value: String(value) });
      return true;
    },
  });
  const capture =
    (on: boolean) =>
    (pointerId: number): void =>
      scope.postMessage({ umberLens: 'capture', pointerId, on });
  const getters: Record<string, () => unknown> = {
    clientWidth: () => shape.width,
    clientHeight: () => shape.height,
    pixelRatio: () => shape.pixelRatio,
    style: () => style,
  };
  for (const [name, get] of Object.entries(getters)) Object.defineProperty(canvas, name, { get });
  return Object.assign(canvas, {
    clientLeft: 0,
    clientTop: 0,
    tabIndex: -1,
    getBoundingClientRect: () => ({
      left: 0,
      top: 0,
      right: shape.width,
      bottom: shape.height,
      width: shape.width,
      height: shape.height,
    }),
    setPointerCapture: capture(true),
    releasePointerCapture: capture(false),
    hasPointerCapture: () => false,
    focus: () => scope.postMessage({ umberLens: 'focus' }),
    hasAttribute: (name: string) => attributes.has(name),
    getAttribute: (name: string) => attributes.get(name) ?? null,
    setAttribute: (name: string, value: string) => {
      attributes.set(name, value);
      scope.postMessage({ umberLens: 'attribute', name, value });
    },
    removeAttribute: (name: string) => {
      attributes.delete(name);
      scope.postMessage({ umberLens: 'attribute', name, value: null });
    },
  }) as unknown as HTMLCanvasElement;
}
