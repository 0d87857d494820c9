import type { Scene } from '@umber-lens/core/engine';
import { probeEffect, probedValues } from '@umber-lens/core/graphs';
import type { Effect, Lens } from 'umber-lens';
import type { GraphSession } from '../logic/graph/graph-session.js';
import type { Shaded } from '../logic/graph/shaded.js';
import { settingsFor } from './preview-shader.js';
import type { Stage } from './stage.js';

/** Frames after which an effect that is not drawn will not be. */
const MOST_FRAMES = 20;
/** Milliseconds between them. */
const REST = 30;

/** A pixel of the picture that an effect was probed at, and what its nodes are there, as the GPU has them. */
export interface ProbedPixel {
  x: number;
  y: number;
  values: ReadonlyMap<string, readonly number[]>;
}

/**
 * Draws the picture once more, with an effect in it that tells what its nodes are at one pixel. What comes before it in the list is drawn as
 * ever, what comes behind it is left out.
 *
 * @param shaded the effect
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
  const { finish = lens.view.finish, ...options } = stage.pageOptions;
  const at = finish.indexOf(shaded as Effect);
  if (at < 0) return 'effects of nodes are probed on the pictures of their nodes: click on one';
  const probed = probeEffect(session.graph, session);
  if (!probed)
    return 'it cannot be probed here: it compares a pixel with the next, or something is wrong in it';
  const { compileEffect } = await import('umber-lens/shaders');
  const { file, sources } = session;
  const shader = compileEffect<object>(probed.wgsl, { file, sources: { ...sources } });
  const canvas = lens.canvas;
  const { height, width } = stage.place;
  const size = { width: canvas?.width ?? width, height: canvas?.height ?? height };
  const pixel = [Math.floor((x / width) * size.width), Math.floor((y / height) * size.height)] as const;
  const effect = {
    ...shaded,
    shader,
    settings: { ...settingsFor(shader, shaded.settings), probedPixel: [...pixel] },
  } as Effect;
  const target = lens.createTarget(size);
  try {
    for (let frame = 0; frame < MOST_FRAMES; frame++) {
      lens.draw(scene, stage.camera, { ...options, target, finish: [...finish.slice(0, at), effect] });
      const values = probedValues(probed, await target.read());
      if (values) return { x: pixel[0], y: pixel[1], values };
      // Its pipeline is made beside the script.
      await new Promise((next) => setTimeout(next, REST));
    }
  } finally {
    target.dispose();
  }
  return 'it is not drawn over the picture now';
}
