import { capturePointer } from './capture-pointer.js';
import { Messages } from '#messages';
import {
  castRay,
  cameraRay,
  type RayHit,
  preparePicking,
  type Scene,
  type SceneNode,
  type Vec3,
} from '@umber-lens/core/engine';
import { throughPicture } from '../inspect/through-picture.js';
import {
  checkEvent,
  type NodeDragEvent,
  type NodeEvent,
  type NodeEvents,
  type NodeEventType,
} from './node-events.js';
import { pixelsOfWheel } from './wheel.js';

export interface PointerEventsOptions {
  /** Whether a node counts; others are looked through. Default all that are shown. */
  filter?: (node: SceneNode) => boolean;
  /** CSS pixels that a pointer may move and still click. Default 5; for fingers twice that. */
  tolerance?: number;
}

/** Tells nodes of a scene what pointers do on a canvas. */
export interface PointerEvents {
  /** Through which camera node the canvas is seen; write to it when that changes. */
  camera: SceneNode;
  /**
   * Calls back for what happens on a node or on something below it, from the inmost node up.
   *
   *     pointers.on(crate, 'click', ({ hit }) => console.log(hit?.point));
   *
   * @returns a function that stops it
   * @throws LensError `input/event` for a name that is no event
   */
  on<T extends NodeEventType>(node: SceneNode, type: T, handler: (event: NodeEvents[T]) => void): () => void;
  /** What the mouse looks like upon a node and what is below it: a value of CSS's `cursor`; undefined takes it back. */
  cursor(node: SceneNode, cursor: string | undefined): void;
  /** Looks anew at what is under pointers that stand still; call it once a frame where things move. */
  update(): void;
  /** Lets go of the canvas. */
  dispose(): void;
}

/**
 * Pointer events on nodes. What is asked for is built in the background at first; until that is done, hovering meets what
 * is ready, and pressing waits.
 *
 *     const pointers = pointerEvents(camera, canvas);
 *     pointers.on(door, 'click', () => open());
 *     pointers.cursor(door, 'pointer');
 */
export function pointerEvents(
  camera: SceneNode,
  canvas: HTMLElement,
  options: PointerEventsOptions = {},
): PointerEvents {
  Messages.rig('pointerEvents', options, canvas);
  return new Listening(canvas, camera.scene, camera, options);
}

type Handler = (event: never) => void;

/** One finger, or the mouse. */
interface Pointer {
  id: number;
  type: NodeEvent['pointerType'];
  original: PointerEvent;
  x: number;
  y: number;
  hit: RayHit | undefined;
  /** The node that it is on and those above, the inmost first. */
  chain: readonly SceneNode[];
  /** Of a pressed one. */
  press:
    | {
        target: SceneNode;
        button: number;
        x: number;
        y: number;
        /** Beyond the tolerance it clicks no more. */
        isMoved: boolean;
        holder: SceneNode | undefined;
        drag: Drag | undefined;
      }
    | undefined;
}

interface Drag {
  node: SceneNode;
  from: Vec3;
  last: Vec3;
  isBegun: boolean;
}

class Listening implements PointerEvents {
  private readonly handlers = new WeakMap<SceneNode, Map<NodeEventType, Set<Handler>>>();
  private readonly cursors = new WeakMap<SceneNode, string>();
  private readonly pointers = new Map<number, Pointer>();
  private readonly release = new AbortController();
  private readonly cursorBefore: string;
  private lastClick = { target: undefined as SceneNode | undefined, time: -Infinity, x: 0, y: 0 };

  constructor(
    private readonly canvas: HTMLElement,
    private readonly scene: Scene,
    public camera: SceneNode,
    private readonly options: PointerEventsOptions,
  ) {
    this.cursorBefore = canvas.style.cursor;
    const { signal } = this.release;
    const touchAction = canvas.style.touchAction;
    canvas.style.touchAction = 'none';
    signal.addEventListener('abort', () => {
      canvas.style.touchAction = touchAction;
      canvas.style.cursor = this.cursorBefore;
    });
    // Before rigs on the same canvas hear of it: nodes may keep a pointer to themselves.
    const on = <K extends keyof HTMLElementEventMap>(
      type: K,
      act: (event: HTMLElementEventMap[K]) => void,
    ): void => canvas.addEventListener(type, act, { signal, capture: true, passive: false });
    on('pointerenter', () => this.prepare());
    on('pointerdown', (event) => this.down(event));
    on('pointermove', (event) => this.move(event));
    on('pointerup', (event) => this.up(event, true));
    on('pointercancel', (event) => this.up(event, false));
    on('pointerleave', (event) => this.leave(event));
    on('wheel', (event) => this.wheel(event));
    on('contextmenu', (event) => this.contextMenu(event));
    this.prepare();
  }

  on<T extends NodeEventType>(node: SceneNode, type: T, handler: (event: NodeEvents[T]) => void): () => void {
    checkEvent(String(type));
    let own = this.handlers.get(node);
    if (!own) this.handlers.set(node, (own = new Map<NodeEventType, Set<Handler>>()));
    let all = own.get(type);
    if (!all) own.set(type, (all = new Set()));
    // The same function may be given twice, and each is stopped by itself.
    const entry: Handler = (event) => handler(event);
    all.add(entry);
    return () => void all.delete(entry);
  }

  cursor(node: SceneNode, cursor: string | undefined): void {
    if (cursor === undefined) this.cursors.delete(node);
    else this.cursors.set(node, cursor);
    this.showCursor();
  }

  update(): void {
    for (const pointer of this.pointers.values()) this.look(pointer, true);
  }

  dispose(): void {
    this.release.abort();
    this.pointers.clear();
  }

  private prepare(): void {
    preparePicking(this.scene).catch(reportError);
  }

  private down(event: PointerEvent): void {
    this.prepare();
    const pointer = this.pointerOf(event);
    // A second button of the same mouse.
    if (pointer.press) return this.tell(pointer, 'pointerdown', this.receivers(pointer), event.button);
    this.look(pointer, false);
    const { hit } = pointer;
    if (!hit) return;
    const dragged = pointer.chain.find((node) => this.has(node, 'drag'));
    pointer.press = {
      target: hit.node,
      button: event.button,
      x: pointer.x,
      y: pointer.y,
      isMoved: false,
      holder: undefined,
      drag:
        dragged && event.button === 0
          ? { node: dragged, from: [...hit.point], last: [...hit.point], isBegun: false }
          : undefined,
    };
    this.tell(pointer, 'pointerdown', pointer.chain, event.button, (node) => (pointer.press!.holder = node)); // set above
    const { holder, drag } = pointer.press;
    if (!holder && !drag) return;
    keep(event);
    capturePointer(this.canvas, event.pointerId);
  }

  private move(event: PointerEvent): void {
    const pointer = this.pointerOf(event);
    const { press } = pointer;
    this.look(pointer, true);
    if (press && !press.isMoved) {
      const slack = (this.options.tolerance ?? 5) * (pointer.type === 'touch' ? 2 : 1);
      press.isMoved = Math.hypot(pointer.x - press.x, pointer.y - press.y) > slack;
    }
    if (press && (press.holder || press.drag)) keep(event);
    this.tell(pointer, 'pointermove', this.receivers(pointer));
    if (press?.drag && press.isMoved) this.drag(pointer, press.drag, press.drag.isBegun ? 'move' : 'start');
  }

  private up(event: PointerEvent, isLifted: boolean): void {
    const pointer = this.pointerOf(event);
    const { press } = pointer;
    if (isLifted) this.look(pointer, false);
    // Other buttons of the mouse may still be pressed.
    if (press && event.buttons !== 0 && event.button !== press.button) {
      return this.tell(
        pointer,
        isLifted ? 'pointerup' : 'pointercancel',
        this.receivers(pointer),
        event.button,
      );
    }
    if (press && (press.holder || press.drag)) keep(event);
    const receivers = this.receivers(pointer);
    pointer.press = undefined;
    this.tell(pointer, isLifted ? 'pointerup' : 'pointercancel', receivers, event.button);
    if (press?.drag?.isBegun) this.drag(pointer, press.drag, 'end');
    if (press && isLifted && !press.isMoved && press.button === 0) this.click(pointer, press.target);
    if (pointer.type !== 'mouse' || !isLifted) this.forget(pointer);
  }

  private click(pointer: Pointer, pressed: SceneNode): void {
    // The inmost node that both ends are on.
    const below = new Set(chainOf(pressed));
    const from = pointer.chain.findIndex((node) => below.has(node));
    const chain = from < 0 ? [] : pointer.chain.slice(from);
    const [target] = chain;
    if (!target) return;
    this.tell(pointer, 'click', chain, 0);
    const { lastClick } = this;
    const now = pointer.original.timeStamp;
    const isSecond =
      lastClick.target === target &&
      now - lastClick.time < 400 &&
      Math.hypot(pointer.x - lastClick.x, pointer.y - lastClick.y) < 10;
    this.lastClick = { target: isSecond ? undefined : target, time: now, x: pointer.x, y: pointer.y };
    if (isSecond) this.tell(pointer, 'dblclick', chain, 0);
  }

  private drag(pointer: Pointer, drag: Drag, phase: NodeDragEvent['phase']): void {
    drag.isBegun = true;
    const point = this.onPlane(pointer, drag.from) ?? drag.last;
    const moved = point.map((part, k) => part - drag.last[k]!) as Vec3;
    drag.last = point;
    this.tell(pointer, 'drag', chainOf(drag.node), undefined, undefined, {
      phase,
      from: drag.from,
      point,
      moved,
    });
  }

  private leave(event: PointerEvent): void {
    const pointer = this.pointers.get(event.pointerId);
    if (pointer && !pointer.press) this.forget(pointer);
  }

  private wheel(event: WheelEvent): void {
    const told = this.mouseAt(event);
    if (!told) return;
    const [deltaX, deltaY] = pixelsOfWheel(event);
    this.tell(told, 'wheel', told.chain, undefined, undefined, { deltaX, deltaY });
  }

  private contextMenu(event: MouseEvent): void {
    const told = this.mouseAt(event);
    if (told) this.tell(told, 'contextmenu', told.chain, event.button);
  }

  /** The mouse where an event is; undefined where it meets nothing. */
  private mouseAt(event: MouseEvent): Pointer | undefined {
    const pointer = [...this.pointers.values()].find(({ type }) => type === 'mouse');
    const { x, y } = this.placeOf(event);
    const hit = this.hitAt(x, y, true);
    return (
      hit && {
        id: pointer?.id ?? -1,
        type: 'mouse',
        original: event as never,
        x,
        y,
        hit,
        chain: chainOf(hit.node),
        press: undefined,
      }
    );
  }

  /** Who hears of a pointer: where it was pressed, if a node there holds it; else what it is on. */
  private receivers({ press, chain }: Pointer): readonly SceneNode[] {
    return press && (press.holder ?? press.drag) ? chainOf(press.target) : chain;
  }

  private pointerOf(event: PointerEvent): Pointer {
    let pointer = this.pointers.get(event.pointerId);
    if (!pointer) {
      pointer = {
        id: event.pointerId,
        type: event.pointerType as NodeEvent['pointerType'],
        original: event,
        x: 0,
        y: 0,
        hit: undefined,
        chain: [],
        press: undefined,
      };
      this.pointers.set(event.pointerId, pointer);
    }
    Object.assign(pointer, { original: event }, this.placeOf(event));
    return pointer;
  }

  private placeOf(event: MouseEvent): { x: number; y: number } {
    const { left, top } = this.canvas.getBoundingClientRect();
    return {
      x: event.clientX - left - this.canvas.clientLeft,
      y: event.clientY - top - this.canvas.clientTop,
    };
  }

  /** Finds out what a pointer is on, and tells those that it left and came upon. */
  private look(pointer: Pointer, readyOnly: boolean): void {
    pointer.hit = this.hitAt(pointer.x, pointer.y, readyOnly);
    this.goTo(pointer, pointer.hit ? chainOf(pointer.hit.node) : []);
  }

  private goTo(pointer: Pointer, chain: readonly SceneNode[]): void {
    const before = pointer.chain;
    pointer.chain = chain;
    if (before[0] === chain[0]) return;
    for (const node of before)
      if (!chain.includes(node)) this.tellOne(pointer, 'pointerleave', node, before[0]!); // it has one
    for (const node of [...chain].reverse())
      if (!before.includes(node)) this.tellOne(pointer, 'pointerenter', node, chain[0]!); // as above
    this.showCursor();
  }

  private forget(pointer: Pointer): void {
    pointer.hit = undefined;
    this.goTo(pointer, []);
    this.pointers.delete(pointer.id);
    this.showCursor();
  }

  private showCursor(): void {
    let cursor = this.cursorBefore;
    for (const { type, chain, press } of this.pointers.values()) {
      if (type === 'touch') continue;
      const held = press?.holder ?? press?.drag?.node;
      const found = (held ? chainOf(held) : chain).find((node) => this.cursors.has(node));
      if (found) cursor = this.cursors.get(found)!; // asked just now
    }
    if (this.canvas.style.cursor !== cursor) this.canvas.style.cursor = cursor;
  }

  private hitAt(x: number, y: number, readyOnly: boolean): RayHit | undefined {
    const { canvas, camera, options, scene } = this;
    const [width, height] = [canvas.clientWidth, canvas.clientHeight];
    if (!(x >= 0 && y >= 0 && x < width && y < height)) return undefined;
    const { ray, options: cast } = throughPicture(camera, x, y, { width, height }, options);
    return castRay(scene, ray, { ...cast, readyOnly });
  }

  /** Where a pointer is in the plane through a place that faces the camera; undefined where it is beside it. */
  private onPlane({ x, y }: Pointer, place: Vec3): Vec3 | undefined {
    const { canvas, camera } = this;
    const { origin, direction } = cameraRay(camera, x, y, canvas.clientWidth, canvas.clientHeight);
    const m = camera.readWorld(new Float32Array(12));
    const back = [m[2]!, m[6]!, m[10]!]; // twelve
    let [along, off] = [0, 0];
    for (let k = 0; k < 3; k++) {
      along += back[k]! * direction[k]!;
      off += back[k]! * (place[k]! - origin[k]!);
    }
    const distance = off / along;
    return distance > 0 && distance < Infinity
      ? (origin.map((part, k) => part + direction[k]! * distance) as Vec3)
      : undefined;
  }

  private has(node: SceneNode, type: NodeEventType): boolean {
    return (this.handlers.get(node)?.get(type)?.size ?? 0) > 0;
  }

  /** From the inmost node up, until somebody stops it. */
  private tell(
    pointer: Pointer,
    type: NodeEventType,
    chain: readonly SceneNode[],
    button = -1,
    capture: (node: SceneNode) => void = () => undefined,
    more: object = {},
  ): void {
    let isStopped = false;
    for (const node of chain) {
      if (!this.has(node, type)) continue;
      const stop = (): void => void (isStopped = true);
      this.call(node, {
        ...this.eventOf(pointer, type, node, pointer.hit?.node ?? chain[0]!, button), // it has one
        ...more,
        stopPropagation: stop,
        setPointerCapture: () => capture(node),
      });
      if (isStopped) return;
    }
  }

  private tellOne(pointer: Pointer, type: NodeEventType, node: SceneNode, target: SceneNode): void {
    if (this.has(node, type)) this.call(node, this.eventOf(pointer, type, node, target, -1));
  }

  private call(node: SceneNode, event: NodeEvent): void {
    for (const handler of [...(this.handlers.get(node)?.get(event.type) ?? [])]) handler(event as never);
  }

  private eventOf(
    { id, type: pointerType, original, x, y, hit }: Pointer,
    type: NodeEventType,
    node: SceneNode,
    target: SceneNode,
    button: number,
  ): NodeEvent {
    return {
      type,
      currentTarget: node,
      target,
      hit: type === 'pointerleave' ? undefined : hit,
      pointerId: id,
      pointerType,
      button,
      offsetX: x,
      offsetY: y,
      shiftKey: original.shiftKey,
      ctrlKey: original.ctrlKey,
      altKey: original.altKey,
      metaKey: original.metaKey,
      original,
      stopPropagation: () => undefined,
      preventDefault: () => keep(original),
      setPointerCapture: () => undefined,
    };
  }
}

/** Others on the canvas do not hear of it, nor does the page scroll. */
function keep(event: Event): void {
  event.preventDefault();
  event.stopImmediatePropagation();
}

function chainOf(node: SceneNode): SceneNode[] {
  const chain: SceneNode[] = [];
  for (let at: SceneNode | undefined = node; at; at = at.parent) chain.push(at);
  return chain;
}
