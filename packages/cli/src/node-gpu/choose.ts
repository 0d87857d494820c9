import { spawnSync } from 'node:child_process';
import { hasNodeGpu } from './open-gpu.js';
import { softwareVulkan } from './software-vulkan.js';

/** By the backend that was asked for, else by Chromium where it is installed, else in this process. */
export async function choosesNode(backend: string | undefined): Promise<boolean> {
  if (backend !== undefined) return backend === 'node';
  const { findChromium } = await import('../browser/chromium.js');
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

/**
 * The loader of drivers is found by a process that starts with its folder: where it did not, this one begins again with it.
 *
 * @returns whether that is done, and there is nothing left to do
 */
export function beginsAgain(): boolean {
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
