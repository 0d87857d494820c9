/** What travels between a page and the worker that draws for it, beside whatever else they say. */
export type ToWorker =
  | { umberLens: 'canvas'; canvas: OffscreenCanvas; size: CanvasShape }
  | { umberLens: 'size'; size: CanvasShape }
  | { umberLens: 'event'; type: string; kind: EventKind; fields: Record<string, unknown> };

export type ToPage =
  | { umberLens: 'style'; name: string; value: string }
  | { umberLens: 'attribute'; name: string; value: string | null }
  | { umberLens: 'capture'; pointerId: number; on: boolean }
  | { umberLens: 'focus' };

/** CSS pixels, and pixels of the screen for each. */
export interface CanvasShape {
  width: number;
  height: number;
  pixelRatio: number;
  /** Whether the page asks for less motion. */
  lessMotion: boolean;
}

export type EventKind = 'pointer' | 'wheel' | 'key' | 'plain';

/** What is told of each kind of event. */
export const FIELDS: Record<EventKind, readonly string[]> = {
  pointer: [
    ...['clientX', 'clientY', 'offsetX', 'offsetY', 'movementX', 'movementY', 'button', 'buttons', 'detail'],
    ...['pointerId', 'pointerType', 'isPrimary', 'pressure', 'width', 'height'],
    ...['shiftKey', 'ctrlKey', 'altKey', 'metaKey', 'timeStamp'],
  ],
  wheel: [
    ...['clientX', 'clientY', 'offsetX', 'offsetY', 'deltaX', 'deltaY', 'deltaZ', 'deltaMode', 'buttons'],
    ...['shiftKey', 'ctrlKey', 'altKey', 'metaKey', 'timeStamp'],
  ],
  key: ['key', 'code', 'repeat', 'location', 'shiftKey', 'ctrlKey', 'altKey', 'metaKey', 'timeStamp'],
  plain: ['timeStamp'],
};

/** Events of a canvas that are forwarded. */
export const EVENTS: Record<string, EventKind> = {
  ...of(
    'pointer',
    'pointerdown',
    'pointermove',
    'pointerup',
    'pointercancel',
    'pointerleave',
    'pointerenter',
  ),
  ...of('pointer', 'click', 'dblclick', 'contextmenu', 'lostpointercapture'),
  wheel: 'wheel',
  ...of('key', 'keydown', 'keyup'),
  ...of('plain', 'focus', 'blur'),
};

function of(kind: EventKind, ...types: string[]): Record<string, EventKind> {
  return Object.fromEntries(types.map((type) => [type, kind]));
}
