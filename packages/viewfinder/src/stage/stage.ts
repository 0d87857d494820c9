import {
  type Bounds,
  boundsRadius,
  isEmptyBounds,
  Motion,
  type Scene,
  SceneNode,
} from '@umber-lens/core/engine';
import {
  type BatchBreak,
  type DrawOptions,
  type Lens,
  type LensTool,
  Scene as AidScene,
  type ShownQuantity,
} from 'umber-lens';
import type { Editor } from '../logic/editor.js';
import { Eye } from '../logic/handles/eye.js';
import { type Grip, gripsOf } from '../logic/handles/grips.js';
import { frameOf } from '../logic/handles/move-nodes.js';
import type { Vec } from '../logic/handles/vectors.js';
import { CanvasPlace } from './canvas-place.js';
import { LightBall } from './light-ball.js';
import { Grid } from './grid.js';
import { Marks } from './marks.js';
import { type Aid, AIDS, Overlay, type Shown } from './overlay.js';
import { PictureInput } from './picture-input.js';

/** What the picture is seen through: the editor's own view, the page's camera, or a camera of the scene. */
export type Through = 'own' | 'page' | SceneNode;

/** Where the page's own picture stands in the editor's, CSS pixels; undefined where there is no room. */
export function insetOf(
  width: number,
  height: number,
): { x: number; y: number; width: number; height: number } | undefined {
  const w = Math.round(Math.min(260, width * 0.22));
  const h = Math.round((w * height) / Math.max(1, width));
  return w > 60 && h > 30 && height > h + 160 ? { x: 16, y: 58, width: w, height: h } : undefined;
}

/** Stands between the page and its canvas: shows the scene through the editor's own view, with handles and signs over it. */
export class Stage implements LensTool {
  readonly eye = new Eye();
  readonly aids = new Set<Aid>(AIDS.filter((aid) => aid !== 'bounds'));
  readonly input: PictureInput;
  through: Through = 'own';
  /** A single quantity of the surfaces; undefined: as the page has it. */
  show: ShownQuantity | undefined;
  /** Whether the page's own picture is shown in a corner while something is chosen. */
  hasInset = true;
  isPaused = false;
  /** How fast the page goes: 1 as it is. */
  rate = 1;
  /** Seconds at which time stands still for shaders; undefined: it goes as the page's does. */
  heldTime: number | undefined;
  /** Hears clicks in the picture in place of choosing; CSS pixels. */
  probing: ((x: number, y: number) => void) | undefined;
  /** What was probed: it is marked. */
  probed: { at: Vec; normal: Vec } | undefined;
  /** Milliseconds of the last frames, the newest last. */
  readonly frames: number[] = [];
  grips: readonly Grip[] = [];
  /** What the scene's own picture cost, without what lies over it. */
  readonly cost = { milliseconds: 0, draws: 0, instances: 0, triangles: 0, bytesUploaded: 0 };
  /** Of models that nobody else moves, by their top node. */
  readonly motions = new Map<SceneNode, Motion>();
  private readonly marks = new Marks();
  private readonly grid = new Grid(() => this.touch());
  readonly ball = new LightBall();
  /** While it is asked what the scene's own draws are: nothing else is drawn. */
  private isBare = false;
  private readonly overlay: Overlay;
  private readonly spot: CanvasPlace;
  private readonly ownCamera: SceneNode;
  private page: { scene: Scene; camera: SceneNode; options: DrawOptions | undefined } | undefined;
  private steps = 0;
  private isDrawn = false;
  private isDirty = true;
  private hasPicture = false;
  private request = 0;
  private boxed: SceneNode[] = [];
  private last = 0;

  constructor(
    private readonly lens: Lens,
    private readonly editor: Editor,
    private readonly glass: HTMLElement,
    private readonly ink: HTMLCanvasElement,
  ) {
    this.overlay = new Overlay(ink);
    this.spot = new CanvasPlace(lens.canvas ?? glass);
    this.follow();
    this.ownCamera = new AidScene().createNode({ name: 'own view' });
    editor.own.place(this.ownCamera);
    this.input = new PictureInput(this, editor, glass);
    lens.tool = this;
    this.turned();
  }

  /** Where the page has no loop of the lens, it takes turns of its own. */
  turned(): void {
    cancelAnimationFrame(this.request);
    if (this.lens.isRunning) return;
    const turn = (now: number): void => {
      this.request = requestAnimationFrame(turn);
      this.tick(now);
    };
    this.request = requestAnimationFrame(turn);
  }

  ran(now: number): void {
    // A page may have several loops.
    if (now !== this.last) this.tick(now);
  }

  /** The camera that the picture is seen through now. */
  get camera(): SceneNode {
    const { page, through } = this;
    if (through instanceof SceneNode && through.isAlive && through.camera) return through;
    return through === 'page' && page ? page.camera : this.ownCamera;
  }

  /** The page's own camera; undefined before it drew. */
  get pageCamera(): SceneNode | undefined {
    return this.page?.camera;
  }

  /** What the page draws its picture with, but for where to. */
  get pageOptions(): DrawOptions {
    const {
      clear: _clear,
      scissor: _scissor,
      target: _target,
      viewport: _viewport,
      ...rest
    } = this.page?.options ?? {};
    return rest;
  }

  /** Where the canvas lies on the screen, CSS pixels, as it did when that was last looked at. */
  get place(): DOMRect {
    return this.spot.place;
  }

  /** Whether the page's own picture stands in the corner now. */
  get showsInset(): boolean {
    return this.hasInset && this.through !== 'page' && this.editor.selection.size > 0;
  }

  /** Whether the ball of the image light stands in the corner now. */
  get showsBall(): boolean {
    const { aids, editor, place, through } = this;
    const hasRoom = place.width > 320 && place.height > 260;
    return Boolean(
      hasRoom &&
      aids.has('image light') &&
      through !== 'page' &&
      editor.selection.size === 0 &&
      editor.scene.imageLight,
    );
  }

  /** Why each draw of the scene is not one with the draw before it. */
  async breaks(): Promise<BatchBreak[]> {
    this.isBare = true;
    this.drawPicture();
    try {
      return await this.lens.batchBreaks();
    } finally {
      this.isBare = false;
      this.touch();
    }
  }

  /** Width over height of the picture. */
  get aspect(): number {
    const { height, width } = this.place;
    return height > 0 ? width / height : 1;
  }

  toggleLive(): void {
    this.look(this.through === 'page' ? 'own' : 'page');
  }

  nudge(axis: 0 | 1 | 2, by: number): void {
    this.input.nudge(axis, by);
    this.touch();
  }

  /** What moves a placed model from here. */
  move(top: SceneNode): Motion {
    const known = this.motions.get(top);
    if (known) return known;
    const motion = new Motion(top);
    this.motions.set(top, motion);
    return motion;
  }

  /** Has the picture drawn anew, also where the page does not. */
  touch(): void {
    this.isDirty = true;
  }

  look(through: Through): void {
    const { own } = this.editor;
    // From where one stood: no jump.
    if (through === 'own' && this.through !== 'own') own.takeFrom(this.camera, this.reach(this.camera));
    this.through = through;
    this.glass.classList.toggle('live', through === 'page');
    this.touch();
    this.editor.tell();
  }

  pause(isPaused: boolean): void {
    this.isPaused = isPaused;
    this.editor.say(isPaused ? 'paused' : 'goes on');
  }

  /** One frame of a sixtieth of a second. */
  step(): void {
    this.isPaused = true;
    this.steps++;
    this.editor.say('one step');
  }

  pace(delta: number): number | undefined {
    for (const motion of this.motions.values()) motion.update(this.isPaused ? 0 : delta * this.rate);
    if (!this.isPaused) return delta * this.rate;
    if (this.steps === 0) return undefined;
    this.steps--;
    return 1 / 60;
  }

  draw(scene: Scene, camera: SceneNode, options: DrawOptions | undefined): void {
    const { lens } = this;
    // Pictures over the scene, a chart or a plan, are the page's.
    if (scene !== this.editor.scene) return lens.drawPast(scene, camera, options);
    if (this.isDrawn && this.through !== 'page') return;
    if (!this.page) {
      this.page = { scene, camera, options };
      this.editor.own.takeFrom(camera, this.reach(camera));
      this.editor.own.place(this.ownCamera);
      this.editor.tell();
    }
    if (!this.isDrawn) Object.assign(this.page, { camera, options });
    this.isDrawn = true;
    this.drawPicture();
  }

  /** The scene as the editor shows it, with what lies over it. */
  private drawPicture(): void {
    const { editor, lens, page, show, through } = this;
    if (!page) return;
    this.hasPicture = true;
    if (this.heldTime !== undefined) lens.setTime(this.heldTime);
    const { camera, options } = page;
    if (through === 'page') {
      lens.drawPast(page.scene, camera, options);
      return;
    }
    if (through === 'own') editor.own.place(this.ownCamera);
    // The whole canvas, whatever part of it the page draws into.
    const rest = this.pageOptions;
    const eye = this.camera;
    const { own } = editor;
    const metres = (2 * own.distance * Math.tan(own.yfov / 2)) / Math.max(1, this.place.height);
    const { canvasTexture, isGone } = lens.device;
    const canGrid = this.aids.has('grid') && !this.isBare && canvasTexture && !isGone;
    const grid = canGrid
      ? this.grid.under(lens.device, canvasTexture.format, eye, own.target, metres)
      : undefined;
    lens.drawPast(page.scene, eye, { ...rest, ...(show ? { show } : {}) }, grid);
    const { bytesUploaded, draws, instances, milliseconds, triangles } = lens.ledger;
    Object.assign(this.cost, { bytesUploaded, draws, instances, milliseconds, triangles });
    if (this.isBare) return;
    if (this.aids.has('outlines') && editor.selection.size > 0) this.marks.draw(lens, eye);
    if (this.showsBall) this.ball.follow(lens, page.scene, eye, rest.look);
    // While something is being changed: a second picture of all costs as much as the first.
    if (this.showsInset && eye !== camera) {
      const { height, width } = this.place;
      const inset = insetOf(width, height);
      if (inset) lens.drawPast(page.scene, camera, { ...rest, viewport: inset });
    }
  }

  /** Glass and signs lie where the canvas does, wherever the page puts it. */
  private follow(): void {
    const { glass, ink, spot } = this;
    if (!spot.look()) return;
    const { height, left, top, width } = spot.place;
    for (const one of [glass, ink])
      Object.assign(one.style, {
        left: `${left}px`,
        top: `${top}px`,
        width: `${width}px`,
        height: `${height}px`,
      });
  }

  private tick(now: number): void {
    const { editor, input } = this;
    editor.followSheets();
    this.follow();
    if (this.last > 0) {
      this.frames.push(now - this.last);
      if (this.frames.length > 240) this.frames.shift();
    }
    const delta = Math.min(0.1, (now - this.last) / 1000);
    this.last = now;
    if (input.fly(delta)) this.isDirty = true;
    if (this.aids.has('outlines')) this.boxed = this.marks.mark(editor.selection.nodes);
    if (!this.isDrawn && this.isDirty && this.page && this.through !== 'page') {
      this.drawPicture();
      this.isDirty = false;
    }
    if (this.isDrawn) this.isDirty = false;
    this.isDrawn = false;
    if (this.hasPicture) this.drawOverlay();
  }

  private drawOverlay(): void {
    const { overlay } = this;
    const { height, width } = this.place;
    if (width < 1 || height < 1) return;
    overlay.resize(width, height, Math.min(2, devicePixelRatio));
    this.eye.look(this.camera, width, height);
    const shown = this.shown();
    overlay.draw(this.eye, shown);
  }

  private shown(): Shown {
    const { editor, input, through } = this;
    const { nodes, tops } = editor.selection;
    const isLive = through === 'page';
    const frame = tops.length > 0 ? frameOf(input.held?.tops ?? tops, editor.space, editor.pivot) : undefined;
    const isHandled = frame !== undefined && !isLive && tops.some((node) => node.parent);
    this.grips = isHandled ? gripsOf(editor.tool, frame, this.eye) : [];
    return {
      aids: isLive ? new Set<Aid>() : this.aids,
      lights: editor.scene.lights,
      cameras: editor.scene.cameras,
      selected: isLive ? [] : nodes,
      boxed: this.boxed,
      grips: this.grips,
      active: input.activeGrip,
      readout: input.readout && frame ? { text: input.readout, at: frame.at } : undefined,
      landing: input.landing ?? (isLive ? undefined : this.probed),
      rectangle: input.rectangle,
    };
  }

  /** How far the middle of things lies before a camera, metres. */
  private reach(camera: SceneNode): number {
    const bounds: Bounds = this.editor.scene.root.worldBounds();
    if (isEmptyBounds(bounds)) return 5;
    const m = camera.readWorld(new Float64Array(12));
    let along = 0;
    for (let k = 0; k < 3; k++)
      along -= m[k * 4 + 2]! * ((bounds.min[k]! + bounds.max[k]!) / 2 - m[k * 4 + 3]!); // twelve
    const most = Math.max(1, boundsRadius(bounds) * 2);
    return Math.min(most, Math.max(along, most / 20, 0.5));
  }

  dispose(): void {
    this.lens.tool = undefined;
    cancelAnimationFrame(this.request);
    this.spot.dispose();
    this.input.dispose();
    for (const motion of this.motions.values()) motion.stop();
    this.marks.dispose(this.lens);
    this.grid.dispose();
    this.ball.dispose(this.lens);
    this.lens.release(this.ownCamera.scene);
  }
}
