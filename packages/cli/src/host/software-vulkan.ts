import { existsSync, readdirSync } from 'node:fs';
import { delimiter, join } from 'node:path';

/** Where browsers keep a Vulkan loader and a driver that needs no GPU. */
const BROWSERS = ['/usr/lib/chromium', '/usr/lib/chromium-browser', '/opt/google/chrome'];
const DRIVER = 'vk_swiftshader_icd.json';
const LOADER = 'libvulkan.so.1';
const LOADER_FOLDERS = [
  '/usr/lib',
  '/usr/lib64',
  '/lib',
  '/usr/local/lib',
  '/usr/lib/x86_64-linux-gnu',
  '/usr/lib/aarch64-linux-gnu',
];
const DRIVER_FOLDERS = ['/usr/share/vulkan/icd.d', '/etc/vulkan/icd.d', '/usr/local/share/vulkan/icd.d'];

/**
 * Environment for a process that wants WebGPU on a Linux machine that has no Vulkan of its own: the browser's
 * loader and software driver. Undefined where nothing need be added. The loader's folder only counts for a
 * process that starts with it.
 */
export function softwareVulkan(env: NodeJS.ProcessEnv = process.env): Record<string, string> | undefined {
  if (process.platform !== 'linux') return undefined;
  const browser = BROWSERS.find((folder) => existsSync(join(folder, DRIVER)));
  if (!browser) return undefined;
  const added: Record<string, string> = {};
  const hasDriver =
    env['VK_ICD_FILENAMES'] !== undefined ||
    env['VK_DRIVER_FILES'] !== undefined ||
    DRIVER_FOLDERS.some(isFilled);
  if (!hasDriver) added['VK_ICD_FILENAMES'] = join(browser, DRIVER);
  const folders = [...LOADER_FOLDERS, ...(env['LD_LIBRARY_PATH'] ?? '').split(delimiter).filter(Boolean)];
  if (!folders.some((folder) => existsSync(join(folder, LOADER)))) {
    added['LD_LIBRARY_PATH'] = [env['LD_LIBRARY_PATH'], browser].filter(Boolean).join(delimiter);
  }
  return Object.keys(added).length > 0 ? added : undefined;
}

const isFilled = (folder: string): boolean =>
  existsSync(folder) && readdirSync(folder).some((file) => file.endsWith('.json'));
