import type { Scene, SceneNode } from '@umber-lens/core/engine';
import {
  type ProbedEffect,
  type ProbedFrom,
  probedValues,
  probeEffect,
  roomForProbed,
} from '@umber-lens/core/graphs';
import type { Effect, LayerPlace, LayerTap, Lens, MaterialShader } from 'umber-lens';
import type { GraphSession } from '../logic/graph/graph-session.js';
import type { Shaded } from '../logic/graph/shaded.js';
import { settingsFor } from './preview-shader.js';
import { pixelUnder } from './probe-scene.js';
import type { Stage } from './stage.js';

/** Frames after which an effect that is not drawn will not be. */
const MOST_FRAMES = 20;
/** Milliseconds between them. */
const REST = 30;
const NOT_DRAWN = 'it is not drawn over the picture now';
const NOT_THERE = 'its effect does not reach this pixel: click on the node that has it';

const TOO_SMALL = 'the node covers too few pixels to tell so many values in: go nearer';

/** A pixel of the picture that an effect was probed at, and what its nodes are there, as the GPU has them. */
export interface ProbedPixel {
  x: number;
  y: number;
  values: ReadonlyMap<string, readonly number[]>;
}

/** An effect that tells instead of the one that is probed. */
interface Telling {
  probed: ProbedEffect;
  effect: Effect & { settings: ProbedFrom };
  /** Pixels of the canvas. */
  size: { width: number; height: number };
  /** Where it is probed, as a share of the picture. */
  share: readonly [number, number];
}

/**
 * Draws the picture once more, with an effect in it that tells what its nodes are at one pixel. What comes before it in the list is drawn as
 * ever, what comes behind it is left out.
 *
 * @param shaded the effect, of the picture or of a node
 * @param x pixels of CSS, from the picture's upper left; `y` as well
 * @returns why it cannot be told, where it cannot
 */
export async function probeEffectAt(
  lens: Lens,
  scene: Scene,
  stage: Stage,
  session: GraphSession,
  shaded: Shaded,
  x: number,
  y: number,
): Promise<ProbedPixel | string> {
  const { finish = lens.view.finish } = stage.pageOptions;
  const at = finish.indexOf(shaded as Effect);
  const node = at < 0 ? nodeWith(scene, shaded as Effect) : undefined;
  if (at < 0 && !node) return NOT_DRAWN;
  const probed = probeEffect(session.graph, session);
  if (!probed) return 'it cannot be probed here: something is wrong in it';
  const { compileEffect } = await import('umber-lens/shaders');
  const { file, sources } = session;
  const shader = compileEffect<object>(probed.wgsl, { file, sources: { ...sources } });
  const pixel = pixelUnder(lens, stage, x, y);
  const size = { width: pixel.width, height: pixel.height };
  const settings: ProbedFrom & Record<string, unknown> = {
    ...settingsFor(shader as unknown as MaterialShader, shaded.settings),
    ...{
      probedPixel: [pixel.x, pixel.y],
      probedCorner: [0, 0],
      probedStart: [0, 0],
      probedAcross: even(size.width),
    },
  };
  const effect = { ...shaded, shader, settings } as Telling['effect'];
  const { place } = stage;
  const telling = { probed, effect, size, share: [x / place.width, y / place.height] } as const;
  const read = node
    ? readOfNode(lens, scene, stage, node, shaded as Effect, telling)
    : readOfPicture(lens, scene, stage, [...finish.slice(0, at), effect], telling);
  for (let frame = 0; frame < MOST_FRAMES; frame++) {
    const values = await read();
    if (typeof values === 'string') return values;
    if (values) return { x: pixel.x, y: pixel.y, values };
    // Its pipeline is made beside the script.
    await new Promise((next) => setTimeout(next, REST));
  }
  return NOT_DRAWN;
}

/** Draws once, and says what was told: nothing where it was not drawn yet, a reason where it never will be. */
type ReadOnce = () => Promise<ReadonlyMap<string, readonly number[]> | string | undefined>;

function readOfPicture(
  lens: Lens,
  scene: Scene,
  stage: Stage,
  finish: readonly Effect[],
  { effect, probed, size }: Telling,
): ReadOnce {
  return async () => {
    const target = lens.createTarget(size);
    try {
      lens.draw(scene, stage.camera, { ...stage.pageOptions, target, finish });
      return probedValues(probed, await target.read(), size.width, effect.settings);
    } finally {
      target.dispose();
    }
  };
}

/** What is put into the picture went through its light: it is told as it was before. */
function readOfNode(
  lens: Lens,
  scene: Scene,
  stage: Stage,
  node: SceneNode,
  shaded: Effect,
  { effect, probed, share, size }: Telling,
): ReadOnce {
  const was = node.effects;
  const effects = [...was.slice(0, was.indexOf(shaded)), effect];
  return async () => {
    if (!node.isAlive || !node.effects.includes(shaded)) return NOT_DRAWN;
    const target = lens.createTarget(size);
    try {
      const drawn = drawnOnce(lens, node, effects, () =>
        lens.draw(scene, stage.camera, { ...stage.pageOptions, target }),
      );
      const { settings } = effect;
      // Where it lies is known with a first picture of it.
      const room = drawn((result, place) => aimAt(settings, place, share, result));
      if (room === undefined) return undefined;
      if (room === 0) return NOT_THERE;
      if (room < roomForProbed(probed)) return TOO_SMALL;
      const told = drawn(async (result) =>
        probedValues(probed, await lens.device.readTexture(result), result.width, settings),
      );
      return await told;
    } finally {
      target.dispose();
    }
  };
}

/** Draws with other effects on a node for once: what is made of what they come to, if they are drawn. */
function drawnOnce(
  lens: Lens,
  node: SceneNode,
  effects: readonly Effect[],
  draw: () => void,
): <T>(take: (...given: Parameters<LayerTap>) => T) => T | undefined {
  return <T>(take: (...given: Parameters<LayerTap>) => T) => {
    const now = node.effects;
    // Loaded with the first effect that is drawn.
    const taps = lens.renderer.around.surroundings?.layers.taps;
    let taken: T | undefined;
    try {
      node.effects = effects;
      taps?.set(node, (result, at) => (taken = take(result, at)));
      draw();
    } finally {
      taps?.delete(node);
      node.effects = now;
    }
    return taken;
  };
}

/** Has an effect asked at a pixel of what a node is drawn into. @returns how many pixels of that it has to answer in; 0: it has not that one */
function aimAt(
  settings: ProbedFrom,
  { area, height, left, top, width }: LayerPlace,
  share: readonly [number, number],
  texture: { width: number; height: number },
): number {
  const pixel = [
    Math.floor(share[0] * width) - left - area.left,
    Math.floor(share[1] * height) - top - area.top,
  ] as const;
  // What of its own it has room for.
  const start = [even(Math.max(0, area.left) + 1), even(Math.max(0, area.top) + 1)] as const;
  const end = Math.min(texture.width, area.left + area.width);
  const foot = Math.min(texture.height, area.top + area.height);
  Object.assign(settings, {
    probedPixel: pixel,
    probedCorner: [area.left, area.top],
    probedStart: start,
    probedAcross: even(end - start[0]),
  });
  const [x, y] = [pixel[0] + area.left, pixel[1] + area.top];
  const isOwn = pixel[0] >= 0 && pixel[1] >= 0 && pixel[0] < area.width && pixel[1] < area.height;
  const isThere = isOwn && x >= 0 && y >= 0 && x < texture.width && y < texture.height;
  return isThere ? even(end - start[0]) * even(foot - start[1]) : 0;
}

const even = (pixels: number): number => 2 * Math.floor(pixels / 2);

/** The node among whose effects one is. */
function nodeWith(scene: Scene, effect: Effect): SceneNode | undefined {
  for (const [node, effects] of scene.effects) if (effects.includes(effect)) return node;
  return undefined;
}
