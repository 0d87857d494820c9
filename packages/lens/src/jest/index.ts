/**
 * Holds scenes against limits in Jest.
 *
 * @module umber-lens/jest
 */
import {
  type Budget,
  BUDGET_LIMITS,
  type Figures,
  holdAgainst,
  type Scene,
  type SceneNode,
} from '@umber-lens/core/engine';
import { TraceDevice } from '../gpu/trace/trace-device.js';
import { lensOn } from '../lens-on.js';

/** What is held against a budget: a scene, and the camera node that it is drawn through. */
export interface Budgeted {
  scene: Scene;
  camera: SceneNode;
  /** Pixels. Default 1280 x 800. */
  size?: { width: number; height: number };
}

/** Of figures: what shadow maps take of the memory, which no model has. */
const shadowMb = new WeakMap<object, number>();

/**
 * What a steady frame of a scene costs, by a device that draws nothing and counts: no GPU is needed. `scriptMs` is left
 * out, since tests should not depend on the machine.
 */
export async function figuresOfScene({
  scene,
  camera,
  size = { width: 1280, height: 800 },
}: Budgeted): Promise<Figures> {
  const device = new TraceDevice(size);
  device.recording = false;
  const lens = lensOn(device, { onMessage: () => undefined });
  await lens.load(scene);
  // The first frame uploads everything; the second is a steady one.
  lens.draw(scene, camera);
  lens.draw(scene, camera);
  const { draws, triangles, instances, bytesUploaded, living } = lens.ledger;
  const shadowBytes = device.owners().find(({ label }) => label === 'shadow maps')?.bytes ?? 0;
  const figures = {
    draws,
    triangles,
    instances,
    pipelines: living.pipelines,
    textures: living.textures,
    gpuMb: (living.bufferBytes + living.textureBytes) / 1e6,
    textureMb: living.textureBytes / 1e6,
    uploadKb: bytesUploaded / 1e3,
  };
  lens.dispose();
  shadowMb.set(figures, shadowBytes / 1e6);
  return figures;
}

/**
 * Matchers for Jest:
 *
 *     expect.extend(budgetMatchers);
 *     await expect({ scene, camera }).toKeepWithin({ draws: 40, triangles: 500_000 });
 */
export const budgetMatchers = {
  async toKeepWithin(received: unknown, budget: Budget): Promise<{ pass: boolean; message: () => string }> {
    const figures = await figuresOfScene(received as Budgeted);
    const lines = holdAgainst(figures, budget);
    const shadows = shadowMb.get(figures) ?? 0;
    const partOf = (limit: string): string =>
      shadows > 0 && (limit === 'gpuMb' || limit === 'textureMb')
        ? `, ${shadows.toFixed(1)} MB of it shadow maps`
        : '';
    const over = lines.filter(({ isOver }) => isOver);
    const told = (over.length > 0 ? over : lines)
      .map(
        ({ limit, max: most, value }) =>
          `  ${BUDGET_LIMITS[limit].about}: ${value ?? 'unknown'}, of ${most}${partOf(limit)}`,
      )
      .join('\n');
    return {
      pass: over.length === 0,
      message: () =>
        over.length > 0
          ? `the scene is over its budget:\n${told}`
          : `the scene is within its budget, and should not be:\n${told}`,
    };
  },
};

declare global {
  // Jest's own types are a namespace.
  // eslint-disable-next-line @typescript-eslint/no-namespace
  namespace jest {
    // eslint-disable-next-line @typescript-eslint/no-unused-vars, @typescript-eslint/no-empty-object-type
    interface Matchers<R, T = {}> {
      /** Whether a steady frame of `{ scene, camera }` keeps within limits. */
      toKeepWithin(budget: Budget): Promise<R>;
    }
  }
}
