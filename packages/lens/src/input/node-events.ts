import { type RayHit, LensError, nearHint, type SceneNode, type Vec3 } from '@umber-lens/core/engine';

/** What nodes hear of pointers. Names and members are those of the browser's own events. */
export interface NodeEvent {
  readonly type: NodeEventType;
  /** Whose handler is called. */
  readonly currentTarget: SceneNode;
  /** Whose surface the pointer is on, or was when it left; `currentTarget` or something below it. */
  readonly target: SceneNode;
  /** What the pointer meets; undefined where it left, and where a captured one is beside everything. */
  readonly hit: RayHit | undefined;
  /** Fingers have one each. */
  readonly pointerId: number;
  readonly pointerType: 'mouse' | 'pen' | 'touch';
  /** 0 the first, 1 the middle, 2 the second one; -1 where none changed. */
  readonly button: number;
  /** CSS pixels from the canvas's left and top. */
  readonly offsetX: number;
  readonly offsetY: number;
  readonly shiftKey: boolean;
  readonly ctrlKey: boolean;
  readonly altKey: boolean;
  readonly metaKey: boolean;
  /** The browser's event. */
  readonly original: PointerEvent | WheelEvent | MouseEvent;
  /** Nodes above do not hear of it. */
  stopPropagation(): void;
  /** Neither the browser nor rigs on the canvas act on it: no scrolling, no zoom, no menu. */
  preventDefault(): void;
  /**
   * In `pointerdown`: all that this pointer does until it is lifted goes to where it was pressed, wherever it is, and rigs on
   * the canvas do not hear of it.
   */
  setPointerCapture(): void;
}

/** A pointer that was pressed on a node moves; until it is lifted, rigs on the canvas do not hear of it. */
export interface NodeDragEvent extends NodeEvent {
  readonly type: 'drag';
  readonly phase: 'start' | 'move' | 'end';
  /** Where the surface was taken, in the world. */
  readonly from: Readonly<Vec3>;
  /** Where the pointer is in the plane through `from` that faces the camera, in the world. */
  readonly point: Readonly<Vec3>;
  /** Metres since the call before. */
  readonly moved: Readonly<Vec3>;
}

export interface NodeWheelEvent extends NodeEvent {
  readonly type: 'wheel';
  /** CSS pixels. */
  readonly deltaX: number;
  readonly deltaY: number;
}

export interface NodeEvents {
  /** A pointer comes upon the node or something below it. It does not go up the tree: each node hears its own. */
  pointerenter: NodeEvent;
  pointerleave: NodeEvent;
  pointermove: NodeEvent;
  pointerdown: NodeEvent;
  pointerup: NodeEvent;
  /** The browser took the pointer away, as for scrolling. */
  pointercancel: NodeEvent;
  /** Pressed and lifted on the same thing, hardly moved. */
  click: NodeEvent;
  dblclick: NodeEvent;
  contextmenu: NodeEvent;
  drag: NodeDragEvent;
  wheel: NodeWheelEvent;
}

export type NodeEventType = keyof NodeEvents;

const TYPES: readonly NodeEventType[] = [
  'pointerenter',
  'pointerleave',
  'pointermove',
  'pointerdown',
  'pointerup',
  'pointercancel',
  'click',
  'dblclick',
  'contextmenu',
  'drag',
  'wheel',
];

/** What such things are called elsewhere. */
const KNOWN_ELSEWHERE: Record<string, NodeEventType> = {
  doubleclick: 'dblclick',
  tap: 'click',
  press: 'pointerdown',
  release: 'pointerup',
  over: 'pointerenter',
  out: 'pointerleave',
  start: 'pointerdown',
  end: 'pointerup',
  cancel: 'pointercancel',
  hover: 'pointerenter',
  scroll: 'wheel',
  menu: 'contextmenu',
};

/** @throws LensError `input/event` for a name that is no event, with the one that may be meant */
export function checkEvent(name: string): void {
  if (!(TYPES as readonly string[]).includes(name)) throw noEvent(name);
}

function noEvent(name: string): LensError {
  const plain = name
    .toLowerCase()
    .replace(/[-_ ]/g, '')
    .replace(/^on/, '')
    .replace(/^(pointer|mouse|touch|drag)(?=.)/, '');
  const known = KNOWN_ELSEWHERE[plain] ?? TYPES.find((type) => type === plain || type === `pointer${plain}`);
  return new LensError('input/event', `nodes know no event "${name}"`, {
    hint: known ? `Did you mean "${known}"? There are ${TYPES.join(', ')}.` : nearHint(name, TYPES),
  });
}
