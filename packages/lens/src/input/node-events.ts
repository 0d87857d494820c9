import { type Hit, LensError, nearHint, type SceneNode, type Vec3 } from '@umber-lens/core';

/** What is told to nodes of all that pointers do. */
export interface NodeEvent {
  readonly type: NodeEventType;
  /** Whose handler is called. */
  readonly node: SceneNode;
  /** Whose surface the pointer is on, or was when it left; `node` or something below it. */
  readonly target: SceneNode;
  /** What the pointer meets; undefined where it left, and where a held one is beside everything. */
  readonly hit: Hit | undefined;
  /** Fingers have one each. */
  readonly pointer: number;
  readonly pointerType: 'mouse' | 'pen' | 'touch';
  /** 0 the first, 1 the middle, 2 the second one; -1 where none changed. */
  readonly button: number;
  /** CSS pixels from the canvas's left and top. */
  readonly x: number;
  readonly y: number;
  readonly shift: boolean;
  readonly control: boolean;
  readonly alt: boolean;
  /** What the browser told. */
  readonly original: PointerEvent | WheelEvent;
  /** Nodes above hear nothing of it. */
  stop(): void;
  /**
   * In `down`: all that this pointer does until it is lifted goes to where it was pressed, wherever it is, and rigs on the
   * canvas do not hear of it. In `wheel`: rigs do not hear of it.
   */
  hold(): void;
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
  /** A pointer comes upon the node or something below it. Not told to nodes above by way of this one: each has its own. */
  enter: NodeEvent;
  leave: NodeEvent;
  move: NodeEvent;
  down: NodeEvent;
  up: NodeEvent;
  /** Pressed and lifted on the same thing, hardly moved. */
  click: NodeEvent;
  'double-click': NodeEvent;
  drag: NodeDragEvent;
  wheel: NodeWheelEvent;
}

export type NodeEventType = keyof NodeEvents;

const TYPES: readonly NodeEventType[] = [
  'enter',
  'leave',
  'move',
  'down',
  'up',
  'click',
  'double-click',
  'drag',
  'wheel',
];

/** What such things are called elsewhere. */
const KNOWN_ELSEWHERE: Record<string, NodeEventType> = {
  dblclick: 'double-click',
  tap: 'click',
  press: 'down',
  release: 'up',
  over: 'enter',
  out: 'leave',
  start: 'down',
  end: 'up',
  hover: 'enter',
  scroll: 'wheel',
};

/** @throws LensError `input/event` for a name that is no event, with the one that may be meant */
export function checkEvent(name: string): void {
  if (!(TYPES as readonly string[]).includes(name)) throw noEvent(name);
}

function noEvent(name: string): LensError {
  const plain = name
    .toLowerCase()
    .replace(/^on/, '')
    .replace(/^(pointer|mouse|touch|drag)(?=.)/, '');
  const known =
    KNOWN_ELSEWHERE[plain] ?? TYPES.find((type) => type.replace('-', '') === plain.replace('-', ''));
  return new LensError('input/event', `nodes know no event "${name}"`, {
    hint: known ? `Did you mean "${known}"? There are ${TYPES.join(', ')}.` : nearHint(name, TYPES),
  });
}
