import type { FrameAt, FramesBefore } from '../feature.js';

/** What of the pictures of a list is its own, in their pixels: all, or what a layer has room for and things may leave. */
export interface EffectArea {
  left: number;
  top: number;
  width: number;
  height: number;
}

/** What effects are told of the picture at hand. */
export interface EffectMoment {
  readonly area: EffectArea;
  /** Of lengths in pixels. */
  scale: number;
  /** Counts frames, where pictures change by themselves. */
  frame: number;
  /** Seconds. */
  time: number;
  delta: number;
  /** Of the camera, sixteen numbers each. */
  projection: ArrayLike<number>;
  view: ArrayLike<number>;
  viewProjection: ArrayLike<number>;
  /** Pixels of the whole picture, and how much of that the one at hand has: 1, but where it is a part of a larger one. */
  height: number;
  share: number;
  isParallel: boolean;
  /** Whose picture it is: what was made of the frame before is kept for each. */
  viewer: object;
  /** Where directions were in the frame before: see velocity.wgsl. */
  sky: ArrayLike<number>;
  /** Samples that pixels of what stands still hold with this frame. */
  samples: number;
  /** By how much of a pixel as it was drawn the picture is shifted: to the right and down. */
  shift: readonly [x: number, y: number];
}

const NO_SHIFT = [0, 0] as const;
const NO_SKY = new Float32Array(9);

/** One that says nothing yet. */
export const newMoment = (): EffectMoment => ({
  area: { left: 0, top: 0, width: 0, height: 0 },
  ...{
    scale: 1,
    frame: 0,
    time: 0,
    delta: 0,
    projection: [],
    view: [],
    viewProjection: [],
    height: 1,
    share: 1,
  },
  ...{ isParallel: false, viewer: NO_SKY, sky: NO_SKY, samples: 0, shift: NO_SHIFT },
});

/** Takes over what the frame at hand says. Which area counts is for whoever has the pictures. */
export function tellMoment(
  moment: EffectMoment,
  { frame, given, settings, state }: FrameAt,
  before?: FramesBefore,
): void {
  const { view } = state;
  moment.scale = given.scale;
  // What changes by itself would have every frame drawn.
  moment.frame = settings.onDemand ? 0 : frame;
  moment.time = given.time;
  moment.delta = given.delta;
  moment.projection = view.projection;
  moment.view = view.view;
  moment.viewProjection = view.viewProjection;
  moment.height = given.wholeHeight;
  moment.share = given.height / given.wholeHeight;
  moment.isParallel = given.isParallel;
  moment.viewer = state;
  moment.sky = before?.sky ?? NO_SKY;
  moment.samples = before?.samples ?? 0;
  moment.shift = before?.shift ?? NO_SHIFT;
}
