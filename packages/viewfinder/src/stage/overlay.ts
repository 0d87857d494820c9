import { poseOf, type SceneNode } from '@umber-lens/core/engine';
import {
  axisLines,
  boxLines,
  cameraLines,
  lightLines,
  type Line,
  skeletonLines,
  surfaceCircle,
} from '../logic/aids/aid-lines.js';
import type { Eye } from '../logic/handles/eye.js';
import type { Grip, GripName } from '../logic/handles/grips.js';
import type { Vec } from '../logic/handles/vectors.js';
import { NotedPen, type Pen } from './noted-pen.js';

/** What is drawn over the picture, each of which can be switched off. */
export const AIDS = [
  'grid',
  'axes',
  'lights',
  'image light',
  'cameras',
  'bounds',
  'skeletons',
  'outlines',
] as const;
export type Aid = (typeof AIDS)[number];

/** Of the axes x, y and z, and of the view. */
const COLORS = ['#e2694a', '#93b34a', '#5b9bd0', '#e9dcc6'] as const;
const BRASS = '#f3c069';
const QUIET = 'rgba(233, 220, 198, 0.55)';

/** All that is drawn over a picture. */
export interface Shown {
  aids: ReadonlySet<Aid>;
  lights: Iterable<[SceneNode, NonNullable<SceneNode['light']>]>;
  cameras: Iterable<[SceneNode, unknown]>;
  selected: readonly SceneNode[];
  /** Of these the box is drawn. */
  boxed: readonly SceneNode[];
  grips: readonly Grip[];
  active: GripName | undefined;
  /** In words, beside the handles. */
  readout: { text: string; at: Vec } | undefined;
  /** Where something would land. */
  landing: { at: Vec; normal: Vec } | undefined;
  /** A rectangle that chooses, CSS pixels. */
  rectangle: { x: number; y: number; width: number; height: number } | undefined;
}

/** Draws lines and marks over the picture. */
export class Overlay {
  private readonly noted: NotedPen;
  private readonly pen: Pen;
  private ratio = 0;

  constructor(readonly canvas: HTMLCanvasElement) {
    this.noted = new NotedPen(canvas.getContext('2d')!); // every browser has one
    this.pen = this.noted.pen;
  }

  /** @param ratio pixels to a CSS pixel */
  resize(width: number, height: number, ratio: number): void {
    const { canvas } = this;
    const [w, h] = [Math.max(1, Math.round(width * ratio)), Math.max(1, Math.round(height * ratio))];
    if (canvas.width === w && canvas.height === h && this.ratio === ratio) return;
    this.ratio = ratio;
    canvas.width = w;
    canvas.height = h;
    this.noted.restart(ratio);
  }

  draw(eye: Eye, shown: Shown): void {
    const { pen } = this;
    const { aids, selected } = shown;
    this.noted.begin();
    pen.lineJoin = pen.lineCap = 'round';
    const chosen = new Set(selected);
    if (aids.has('lights'))
      for (const [node, light] of shown.lights) {
        if (!node.isShown) continue;
        this.sign(eye, node, light.type === 'directional' ? 'sun' : 'lamp', chosen.has(node));
        if (!chosen.has(node)) continue;
        const size = 90 * eye.pixelAt(placeOf(node));
        this.lines(eye, lightLines(node, light, size), BRASS, 1.25);
      }
    if (aids.has('cameras'))
      for (const [node] of shown.cameras) {
        this.sign(eye, node, 'camera', chosen.has(node));
        if (chosen.has(node))
          this.lines(
            eye,
            cameraLines(node, eye.width / eye.height, 160 * eye.pixelAt(placeOf(node))),
            BRASS,
            1.25,
          );
      }
    for (const node of selected) {
      const bounds = node.worldBounds();
      const isEmpty = !(bounds.min[0] <= bounds.max[0]);
      if (!isEmpty && (aids.has('bounds') || shown.boxed.includes(node)))
        this.lines(eye, boxLines(bounds), 'rgba(243, 192, 105, 0.6)', 1);
      if (aids.has('skeletons')) {
        const joints = poseOf(node)?.skin?.joints;
        if (joints) this.lines(eye, skeletonLines(joints), '#cfe08a', 2);
      }
      if (aids.has('axes') && shown.grips.length === 0) {
        const axes = axisLines(node, 40 * eye.pixelAt(placeOf(node)));
        axes.forEach((line, k) => this.lines(eye, [line], COLORS[k]!, 2)); // three
      }
      this.pivot(eye, placeOf(node));
    }
    if (shown.landing) {
      const { at, normal } = shown.landing;
      this.lines(eye, [surfaceCircle(at, normal, 30 * eye.pixelAt(at))], BRASS, 2);
    }
    for (const grip of shown.grips) this.grip(grip, grip.name === shown.active);
    if (shown.readout) this.readout(eye, shown.readout);
    if (shown.rectangle) this.rectangle(shown.rectangle);
    this.noted.end(eye.width, eye.height);
  }

  private lines(eye: Eye, lines: readonly Line[], color: string, width: number): void {
    const { pen } = this;
    pen.strokeStyle = color;
    pen.lineWidth = width;
    pen.beginPath();
    for (const line of lines)
      for (let i = 0; i + 1 < line.length; i++) {
        const found = eye.line(line[i]!, line[i + 1]!); // i + 1 < length
        if (!found) continue;
        pen.moveTo(found[0], found[1]);
        pen.lineTo(found[2], found[3]);
      }
    pen.stroke();
  }

  /** A sign for what has no shape of its own, so that it can be seen and clicked on. */
  private sign(eye: Eye, node: SceneNode, kind: 'lamp' | 'sun' | 'camera', isChosen: boolean): void {
    const { w, x, y } = eye.project(placeOf(node));
    if (w <= 0) return;
    const { pen } = this;
    pen.save();
    pen.translate(x, y);
    pen.lineWidth = 1.5;
    pen.strokeStyle = isChosen ? BRASS : QUIET;
    pen.fillStyle = 'rgba(28, 23, 18, 0.55)';
    pen.beginPath();
    if (kind === 'camera') {
      pen.rect(-7, -5, 10, 10);
      pen.moveTo(3, -1);
      pen.lineTo(8, -4);
      pen.lineTo(8, 4);
      pen.lineTo(3, 1);
    } else {
      pen.arc(0, 0, 4, 0, 2 * Math.PI);
      for (let i = 0; i < 8; i++) {
        const [cos, sin] = [Math.cos((i * Math.PI) / 4), Math.sin((i * Math.PI) / 4)];
        const out = kind === 'sun' ? 11 : 8.5;
        pen.moveTo(cos * 6, sin * 6);
        pen.lineTo(cos * out, sin * out);
      }
    }
    pen.fill();
    pen.stroke();
    pen.restore();
  }

  private pivot(eye: Eye, at: Vec): void {
    const { w, x, y } = eye.project(at);
    if (w <= 0) return;
    const { pen } = this;
    pen.fillStyle = BRASS;
    pen.strokeStyle = 'rgba(28, 23, 18, 0.8)';
    pen.lineWidth = 1;
    pen.beginPath();
    pen.arc(x, y, 3, 0, 2 * Math.PI);
    pen.fill();
    pen.stroke();
  }

  private grip({ color, fill, lines, tip }: Grip, isActive: boolean): void {
    const { pen } = this;
    const ink = isActive ? BRASS : COLORS[color];
    const path = (points: readonly number[]): void => {
      pen.beginPath();
      for (let i = 0; i + 1 < points.length; i += 2)
        if (i === 0) pen.moveTo(points[0]!, points[1]!);
        else pen.lineTo(points[i]!, points[i + 1]!); // i + 1 < length
    };
    if (fill) {
      path(fill);
      pen.globalAlpha = isActive ? 0.75 : 0.4;
      pen.fillStyle = ink;
      pen.fill();
      pen.globalAlpha = 1;
    }
    // A dark line below keeps them apart from any picture.
    for (const [style, width] of [
      ['rgba(20, 16, 12, 0.55)', isActive ? 6 : 4.5],
      [ink, isActive ? 3.5 : 2.25],
    ] as const) {
      pen.strokeStyle = style;
      pen.lineWidth = width;
      for (const line of lines) {
        path(line);
        pen.stroke();
      }
    }
    if (!tip) return;
    pen.save();
    pen.translate(tip.x, tip.y);
    pen.rotate(tip.angle);
    pen.fillStyle = ink;
    pen.strokeStyle = 'rgba(20, 16, 12, 0.55)';
    pen.lineWidth = 1;
    pen.beginPath();
    if (tip.kind === 'arrow') {
      pen.moveTo(10, 0);
      pen.lineTo(-4, -5.5);
      pen.lineTo(-4, 5.5);
      pen.closePath();
    } else pen.rect(-5, -5, 10, 10);
    pen.fill();
    pen.stroke();
    pen.restore();
  }

  private readout(eye: Eye, { at, text }: { at: Vec; text: string }): void {
    const { w, x, y } = eye.project(at);
    if (w <= 0) return;
    const { pen } = this;
    pen.font = '500 13px ui-monospace, SFMono-Regular, Menlo, monospace';
    const { width } = pen.measureText(text);
    const [left, top] = [
      Math.min(eye.width - width - 24, Math.max(8, x + 18)),
      Math.min(eye.height - 34, Math.max(8, y + 18)),
    ];
    pen.fillStyle = 'rgba(28, 23, 18, 0.9)';
    pen.beginPath();
    pen.roundRect(left, top, width + 16, 26, 4);
    pen.fill();
    pen.fillStyle = '#f6e9d2';
    pen.textBaseline = 'middle';
    pen.fillText(text, left + 8, top + 13.5);
  }

  private rectangle({ height, width, x, y }: NonNullable<Shown['rectangle']>): void {
    const { pen } = this;
    pen.fillStyle = 'rgba(243, 192, 105, 0.12)';
    pen.strokeStyle = BRASS;
    pen.lineWidth = 1;
    pen.setLineDash([5, 4]);
    pen.fillRect(x, y, width, height);
    pen.strokeRect(x + 0.5, y + 0.5, width, height);
    pen.setLineDash([]);
  }
}

function placeOf(node: SceneNode): Vec {
  const [x, y, z] = node.readWorldPosition([0, 0, 0]);
  return [x, y, z];
}
