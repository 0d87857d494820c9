import { spawnSync } from 'node:child_process';
import type { Comparison, Panorama } from 'umber-lens';
import type { CompareRequest, ShotFacts, ShotRequest } from '../browser/shot.js';
import type { OpenedModel } from '../open/open-model.js';
import { hasNodeGpu } from './node-gpu.js';
import { softwareVulkan } from './software-vulkan.js';

/** What `--backend` may name: one of the two in Chromium, or WebGPU in this process. */
export const BACKENDS = ['webgpu', 'webgl2', 'node'] as const;
export type Backend = (typeof BACKENDS)[number];

/** How a model is drawn; where it comes from is the host's. */
export type Shot = Omit<ShotRequest, 'url' | 'backend' | 'environment'> & {
  /** Light from all around: the analytic sky, or the session's picture. */
  environment?: 'sky' | 'picture';
};

export type Drawn = ShotFacts & { pixels: Uint8Array; backend: string };

/** Takes a picture of a film, and is waited for. */
export type Take = (pixels: Uint8Array, number: number) => Promise<void>;

/** What is drawn together. */
export interface DrawnTogether {
  models: readonly OpenedModel[];
  /** Names of the models' files, for errors. */
  files: readonly string[];
  /** Light from all around: as it was read, and the bytes of its file. */
  picture?: { panorama: Panorama; bytes: Uint8Array } | undefined;
}

export interface Drawing {
  /** Draws one of the models. */
  draw(model: number, shot: Shot, take?: Take): Promise<Drawn>;
  /** Draws the first model and the second in turn. @param onProgress hears of 0 to 1 */
  compare(
    a: Shot,
    b: Shot,
    how: Pick<CompareRequest, 'turns' | 'on' | 'confidence'>,
    onProgress: (fraction: number) => void,
  ): Promise<{ comparison: Comparison; backend: string }>;
}

/** Where pictures are drawn: in Chromium, or in this process. */
export interface DrawingHost {
  /** Opens what is needed, and closes it again whatever happens. */
  with<T>(what: DrawnTogether, act: (drawing: Drawing) => Promise<T>): Promise<T>;
}

/**
 * The host for what `--backend` says: Chromium where it is installed, else this process.
 *
 * @returns undefined where this process was begun again, and there is nothing left to do: the loader of graphics drivers is
 *   found by a process that starts with its folder
 */
export async function drawingHost(backend: Backend | undefined): Promise<DrawingHost | undefined> {
  if (!(await choosesNode(backend))) {
    const { BrowserHost } = await import('./browser-host.js');
    return new BrowserHost(backend === 'node' ? undefined : backend);
  }
  if (beginsAgain()) return undefined;
  const { NodeHost } = await import('./node-host.js');
  return new NodeHost();
}

async function choosesNode(backend: Backend | undefined): Promise<boolean> {
  if (backend !== undefined) return backend === 'node';
  const { findChromium } = await import('./chromium.js');
  return !isThere(findChromium) && (await hasNodeGpu());
}

function isThere(find: () => string): boolean {
  try {
    find();
    return true;
  } catch {
    return false;
  }
}

function beginsAgain(): boolean {
  const vulkan = softwareVulkan();
  if (!vulkan) return false;
  const env = { ...process.env, ...vulkan };
  const { status } = spawnSync(process.execPath, [...process.execArgv, ...process.argv.slice(1)], {
    env,
    stdio: 'inherit',
  });
  process.exitCode = status ?? 1;
  return true;
}
