import {
  type Bounds,
  castRay,
  castRayAll,
  findInRegion,
  cameraFrustum,
  type SceneNode,
} from '@umber-lens/core/engine';
import type { Editor } from '../logic/editor.js';
import {
  draggedAlong,
  draggedAround,
  draggedOver,
  type Hold,
  type ScreenFrame,
  snapped,
} from '../logic/handles/drag.js';
import { directionOf, gripAt, type GripName, handleReach } from '../logic/handles/grips.js';
import { dragName, factorsOf, frameOf, HeldNodes } from '../logic/handles/move-nodes.js';
import { add, dot, minus, times, unit, type Vec } from '../logic/handles/vectors.js';
import { type Neighbour, snapToBounds } from '../logic/handles/snap-bounds.js';
import { nextAt } from '../logic/selection/selection.js';
import { readAmount } from '../logic/values/amount.js';
import type { Stage } from './stage.js';

/** CSS pixels that a press may move and still be a click. */
const CLICK = 4;
/** CSS pixels that a side may be off and is still put against another. */
const BOUNDS_REACH = 9;
/** CSS pixels around the sign of a lamp or a camera that are hit. */
const SIGN = 11;

type Gesture =
  | {
      type: 'handles';
      grip: GripName;
      start: Hold;
      nodes: HeldNodes;
      tops: SceneNode[];
      typed: string;
      last: Hold;
      /** Where it stood, and what stands around: looked up where sides snap. */
      around?: { moving: Bounds; neighbours: Neighbour[] };
    }
  | { type: 'orbit' | 'pan' | 'look'; x: number; y: number }
  | { type: 'choose'; x: number; y: number; isMoved: boolean; mode: 'set' | 'toggle' };

/** What hands do in the picture: choosing, dragging handles, moving the view. */
export class PictureInput {
  activeGrip: GripName | undefined;
  /** The drag in numbers. */
  readout: string | undefined;
  landing: { at: Vec; normal: Vec } | undefined;
  rectangle: { x: number; y: number; width: number; height: number } | undefined;
  private gesture: Gesture | undefined;
  private readonly pressed = new Set<string>();
  private readonly release = new AbortController();

  constructor(
    private readonly stage: Stage,
    private readonly editor: Editor,
    private readonly glass: HTMLElement,
  ) {
    const options = { signal: this.release.signal };
    glass.addEventListener('pointerdown', (event) => this.down(event), options);
    glass.addEventListener('pointermove', (event) => this.move(event), options);
    glass.addEventListener('pointerup', (event) => this.up(event), options);
    glass.addEventListener('pointercancel', () => this.cancel(), options);
    glass.addEventListener('contextmenu', (event) => event.preventDefault(), options);
    glass.addEventListener('keydown', (event) => this.key(event), options);
    glass.addEventListener('keyup', (event) => this.pressed.delete(event.code), options);
    glass.addEventListener('blur', () => this.pressed.clear(), options);
    glass.addEventListener(
      'wheel',
      (event) => {
        event.preventDefault();
        this.leave();
        this.editor.own.zoom(-event.deltaY * (event.deltaMode === 1 ? 0.04 : 0.0012));
        this.stage.touch();
      },
      { ...options, passive: false },
    );
  }

  /** Nodes that handles hold now. */
  get held(): { tops: readonly SceneNode[] } | undefined {
    return this.gesture?.type === 'handles' ? this.gesture : undefined;
  }

  private at(event: PointerEvent): { x: number; y: number } {
    const { left, top } = this.stage.place;
    return { x: event.clientX - left, y: event.clientY - top };
  }

  private hold(event: PointerEvent): Hold {
    const { x, y } = this.at(event);
    return { x, y, sight: this.stage.eye.ray(x, y) };
  }

  /** Moving the view leaves the cameras of the scene where they are. */
  private leave(): void {
    if (this.stage.through !== 'own') this.stage.look('own');
  }

  private down(event: PointerEvent): void {
    const { glass, stage } = this;
    glass.focus({ preventScroll: true });
    glass.setPointerCapture(event.pointerId);
    event.preventDefault();
    const { x, y } = this.at(event);
    if (event.button === 1 || (event.button === 2 && event.shiftKey)) {
      this.leave();
      this.gesture = { type: 'pan', x, y };
      return;
    }
    if (event.button === 2) {
      this.leave();
      this.gesture = { type: event.altKey ? 'look' : 'orbit', x, y };
      return;
    }
    if (event.altKey) {
      this.leave();
      this.gesture = { type: event.shiftKey ? 'pan' : 'orbit', x, y };
      return;
    }
    const grip = gripAt(stage.grips, x, y);
    if (grip) return this.take(grip, this.hold(event));
    this.gesture = { type: 'choose', x, y, isMoved: false, mode: event.shiftKey ? 'toggle' : 'set' };
  }

  private take(grip: GripName, start: Hold): void {
    const { editor } = this;
    const tops = editor.selection.tops.filter((node) => node.parent);
    const frame = frameOf(tops, editor.space, editor.pivot);
    if (!frame) return;
    const nodes = new HeldNodes(tops, frame, editor.pivot);
    this.activeGrip = grip;
    this.gesture = { type: 'handles', grip, start, last: start, nodes, tops, typed: '' };
  }

  private move(event: PointerEvent): void {
    const { editor, gesture, stage } = this;
    const { x, y } = this.at(event);
    if (!gesture) {
      const over = gripAt(stage.grips, x, y);
      if (over !== this.activeGrip) {
        this.activeGrip = over;
        this.glass.style.cursor = over ? 'grab' : stage.probing ? 'crosshair' : '';
      }
      return;
    }
    stage.touch();
    const { height } = stage.place;
    if (gesture.type === 'handles') {
      gesture.last = this.hold(event);
      if (gesture.typed === '') this.drag(gesture, gesture.last, event.ctrlKey || event.metaKey);
      return;
    }
    const [dx, dy] = [(x - gesture.x) / height, (y - gesture.y) / height];
    if (gesture.type === 'choose') {
      if (Math.hypot(x - gesture.x, y - gesture.y) > CLICK) gesture.isMoved = true;
      if (gesture.isMoved) this.rectangle = upright(gesture.x, gesture.y, x, y);
      return;
    }
    if (gesture.type === 'orbit') editor.own.orbit(dx, dy);
    else if (gesture.type === 'pan') editor.own.pan(dx, dy);
    else editor.own.lookAround(dx, dy);
    [gesture.x, gesture.y] = [x, y];
  }

  /** @param isOther whether snapping is the other way round, for now */
  private drag(gesture: Gesture & { type: 'handles' }, now: Hold, isOther: boolean): void {
    const { editor, stage } = this;
    const { snapping, tool } = editor;
    const { grip, nodes, start } = gesture;
    const { frame } = nodes;
    const { eye } = stage;
    const isOn = snapping.isOn !== isOther;
    const screen: ScreenFrame = { right: eye.right, up: eye.up, pixel: eye.pixelAt(frame.at) };
    const axis = directionOf(grip, frame, eye);
    const isAxis = 'xyz'.includes(grip);
    if (tool === 'rotate') {
      const turn = snapped(
        draggedAround(axis, frame.at, handleReach(frame.at, eye), start, now, screen),
        isOn ? snapping.turn : 0,
      );
      nodes.rotate(axis, turn);
      this.readout = `${((turn * 180) / Math.PI).toFixed(1)}°`;
    } else if (tool === 'move') {
      if (grip === 'view' && snapping.toSurface) return this.land(gesture, now);
      let by = isAxis
        ? times(axis, draggedAlong(axis, frame.at, start, now, screen))
        : draggedOver(axis, frame.at, start, now, screen);
      if (isOn) by = this.snappedMove(by, frame.axes, snapping.move);
      let words: string | undefined;
      if (snapping.toBounds !== isOther) {
        gesture.around ??= this.around(gesture.tops);
        const { moving, neighbours } = gesture.around;
        ({ by, words } = snapToBounds(moving, by, grip, axis, neighbours, BOUNDS_REACH * screen.pixel));
      }
      nodes.move(by);
      this.readout = [frame.axes.map((one) => dot(by, one).toFixed(3)).join('  '), words]
        .filter(Boolean)
        .join('   ');
    } else {
      const reach = handleReach(frame.at, eye);
      const way = isAxis
        ? draggedAlong(axis, frame.at, start, now, screen)
        : ((now.x - start.x - (now.y - start.y)) * screen.pixel) / 1.4;
      const factor = snapped(Math.max(0.01, 1 + way / reach), isOn ? snapping.scale : 0);
      nodes.scale(factorsOf(grip, factor || snapping.scale));
      this.readout = `× ${factor.toFixed(3)}`;
    }
    editor.tell();
  }

  /** Along each axis by itself, so that a grid of the world is kept where the axes are its own. */
  private snappedMove(by: Vec, axes: readonly [Vec, Vec, Vec], step: number): Vec {
    let whole: Vec = [0, 0, 0];
    for (const axis of axes) whole = add(whole, axis, snapped(dot(by, axis), step));
    return whole;
  }

  /** Bounds of what is held, and of all else that draws something. */
  private around(tops: readonly SceneNode[]): { moving: Bounds; neighbours: Neighbour[] } {
    const { editor, gesture } = this;
    const own = new Set<SceneNode>(tops.flatMap((node) => [node, ...node.descendants()]));
    const held = gesture?.type === 'handles' ? gesture.nodes : undefined;
    held?.letGo();
    editor.scene.update();
    const moving = editor.boundsOf(tops);
    const neighbours: Neighbour[] = [];
    for (const node of editor.scene.meshes.keys())
      if (!own.has(node) && node.isShown)
        neighbours.push({ name: node.name || 'a node', bounds: node.worldBounds() });
    return { moving, neighbours };
  }

  /** Onto the surface under the pointer. */
  private land(gesture: Gesture & { type: 'handles' }, now: Hold): void {
    const { editor } = this;
    const own = new Set<SceneNode>(gesture.tops.flatMap((node) => [node, ...node.descendants()]));
    const ray = { origin: [...now.sight.origin], direction: [...now.sight.direction] } as never;
    const hit = castRay(editor.scene, ray, { filter: (node) => !own.has(node) });
    if (!hit) return;
    const at = hit.point as unknown as Vec;
    this.landing = { at, normal: hit.normal as unknown as Vec };
    gesture.nodes.move(minus(at, gesture.nodes.frame.at));
    this.readout = at.map((part) => part.toFixed(2)).join('  ');
    editor.tell();
  }

  /** A number that is typed while handles are held takes the place of the hand. */
  private typedDrag(gesture: Gesture & { type: 'handles' }): void {
    const { editor, stage } = this;
    const { grip, nodes, typed } = gesture;
    const { tool } = editor;
    let amount: number;
    try {
      amount = readAmount(typed, tool === 'rotate' ? 'radians' : tool === 'move' ? 'metres' : undefined);
    } catch {
      this.readout = `${typed} …`;
      return;
    }
    const axis = directionOf(grip, nodes.frame, stage.eye);
    if (tool === 'rotate') nodes.rotate(axis, amount);
    else if (tool === 'scale') nodes.scale(factorsOf(grip, amount));
    else nodes.move(times('xyz'.includes(grip) ? axis : unit(axis), amount));
    this.readout = typed;
    stage.touch();
    editor.tell();
  }

  private up(event: PointerEvent): void {
    const { editor, gesture } = this;
    this.gesture = undefined;
    if (!gesture) return;
    if (gesture.type === 'handles') return this.letGo(gesture);
    if (gesture.type !== 'choose') return;
    const { x, y } = this.at(event);
    const { rectangle } = this;
    this.rectangle = undefined;
    if (gesture.isMoved && rectangle) this.chooseIn(rectangle, gesture.mode);
    else if (this.stage.probing) this.stage.probing(x, y);
    else this.chooseAt(x, y, gesture.mode);
    editor.tell();
  }

  private letGo(gesture: Gesture & { type: 'handles' }): void {
    const { editor } = this;
    this.activeGrip = this.readout = this.landing = undefined;
    const edits = gesture.nodes.edits(editor.editing.refOf);
    const { length } = gesture.tops;
    const what = length === 1 ? ` ${gesture.tops[0]!.name}` : ''; // there is one
    editor.history.note({ name: `${dragName(editor.tool, gesture.grip, length)}${what}`, edits });
    if (edits.length > 0) editor.say(editor.history.undoes ?? '');
  }

  /** Puts back what is held. @returns whether something was */
  cancel(): boolean {
    const { gesture } = this;
    this.gesture = this.rectangle = this.readout = this.landing = this.activeGrip = undefined;
    if (gesture?.type === 'handles') gesture.nodes.letGo();
    this.stage.touch();
    this.editor.tell();
    return gesture !== undefined;
  }

  private canChoose = (node: SceneNode): boolean => !this.editor.selection.isLocked(node);

  private chooseAt(x: number, y: number, mode: 'set' | 'toggle'): void {
    const { editor, stage } = this;
    const { selection } = editor;
    const signs = this.signsAt(x, y);
    const { direction, origin } = stage.eye.ray(x, y);
    const hits = castRayAll(editor.scene, { origin: [...origin], direction: [...direction] } as never, {
      filter: this.canChoose,
    });
    const found = nextAt([...signs, ...hits.map(({ node }) => node)], selection.primary);
    if (!found) {
      if (mode === 'set') selection.clear();
      return;
    }
    selection.choose([found], mode);
    editor.tree.reveal(found);
    editor.say(found.path);
  }

  /** Lamps and cameras whose signs are there. */
  private signsAt(x: number, y: number): SceneNode[] {
    const { editor, stage } = this;
    const { cameras, lights } = editor.scene;
    const holders = [
      ...(stage.aids.has('lights') ? lights.keys() : []),
      ...(stage.aids.has('cameras') ? cameras.keys() : []),
    ];
    return holders.filter((node) => {
      if (!node.isShown || !this.canChoose(node)) return false;
      const place = stage.eye.project(node.readWorldPosition([0, 0, 0]) as unknown as Vec);
      return place.w > 0 && Math.hypot(place.x - x, place.y - y) < SIGN;
    });
  }

  private chooseIn(
    region: { x: number; y: number; width: number; height: number },
    mode: 'set' | 'toggle',
  ): void {
    const { editor, stage } = this;
    const { height, width } = stage.eye;
    if (region.width < 1 || region.height < 1) return;
    const planes = cameraFrustum(stage.camera, region, width, height);
    const found = new Set(findInRegion(editor.scene, planes, { filter: this.canChoose }));
    for (const node of [...editor.scene.lights.keys(), ...editor.scene.cameras.keys()]) {
      const { w, x, y } = stage.eye.project(node.readWorldPosition([0, 0, 0]) as unknown as Vec);
      const isIn =
        x >= region.x && y >= region.y && x <= region.x + region.width && y <= region.y + region.height;
      if (w > 0 && isIn && node.isShown && this.canChoose(node)) found.add(node);
    }
    editor.selection.choose(found, mode === 'set' ? 'set' : 'add');
    editor.say(`${found.size} chosen`);
  }

  /** Keys that move, while handles are held, and those that fly. */
  private key(event: KeyboardEvent): void {
    const { gesture } = this;
    if (gesture?.type === 'handles') {
      if (/^[0-9.,*/()+ \-a-z°]$/i.test(event.key) && !event.ctrlKey && !event.metaKey) {
        gesture.typed += event.key;
        this.typedDrag(gesture);
      } else if (event.key === 'Backspace') {
        gesture.typed = gesture.typed.slice(0, -1);
        if (gesture.typed === '') this.drag(gesture, gesture.last, false);
        else this.typedDrag(gesture);
      } else if (event.key === 'Enter') {
        this.gesture = undefined;
        this.letGo(gesture);
      } else if (event.key === 'Escape') this.cancel();
      else return;
      event.preventDefault();
      event.stopPropagation();
      return;
    }
    if (event.key === 'Escape' && this.gesture && this.cancel()) {
      event.stopPropagation();
      return;
    }
    if (FLIES.has(event.code) && !event.ctrlKey && !event.metaKey && !event.altKey) {
      this.pressed.add(event.code);
      event.preventDefault();
    }
  }

  /** Goes where keys are held. @returns whether the view moved */
  fly(delta: number): boolean {
    const { pressed } = this;
    if (pressed.size === 0) return false;
    this.leave();
    const { own } = this.editor;
    const way = (plus: string, less: string): number => Number(pressed.has(plus)) - Number(pressed.has(less));
    const speed = own.distance * delta;
    own.fly([
      way('ArrowRight', 'ArrowLeft') * speed,
      way('PageUp', 'PageDown') * speed,
      way('ArrowUp', 'ArrowDown') * speed,
    ]);
    return true;
  }

  /** By keyboard: nudges what is chosen along an axis, by a step. */
  nudge(axis: 0 | 1 | 2, by: number): void {
    const { editor } = this;
    const tops = editor.selection.tops.filter((node) => node.parent);
    const frame = frameOf(tops, editor.space, editor.pivot);
    if (!frame) return;
    const nodes = new HeldNodes(tops, frame, editor.pivot);
    const { snapping, tool } = editor;
    const way = frame.axes[axis];
    if (tool === 'rotate') nodes.rotate(way, by * (snapping.isOn ? snapping.turn : Math.PI / 180));
    else if (tool === 'move') nodes.move(times(way, by * (snapping.isOn ? snapping.move : 0.1)));
    else nodes.scale(factorsOf((['x', 'y', 'z'] as const)[axis], 1 + by * 0.1));
    const grip = (['x', 'y', 'z'] as const)[axis];
    editor.history.note(
      { name: dragName(tool, grip, tops.length), edits: nodes.edits(editor.editing.refOf) },
      `nudge ${tool} ${grip} ${tops.map(({ row }) => row).join()}`,
    );
    editor.say(editor.history.undoes ?? '');
  }

  dispose(): void {
    this.release.abort();
  }
}

const FLIES = new Set(['ArrowUp', 'ArrowDown', 'ArrowLeft', 'ArrowRight', 'PageUp', 'PageDown']);

const upright = (x0: number, y0: number, x1: number, y1: number): PictureInput['rectangle'] => ({
  x: Math.min(x0, x1),
  y: Math.min(y0, y1),
  width: Math.abs(x1 - x0),
  height: Math.abs(y1 - y0),
});
