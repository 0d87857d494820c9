import { existsSync } from 'node:fs';
import { delimiter, join } from 'node:path';
import { LensError } from '@umber-lens/core/engine';
import { type Browser, chromium } from 'playwright-core';

const NAMES = ['chromium', 'chromium-browser', 'google-chrome', 'google-chrome-stable', 'chrome'];
const PLACES = [
  '/Applications/Google Chrome.app/Contents/MacOS/Google Chrome',
  '/Applications/Chromium.app/Contents/MacOS/Chromium',
];

/** Keeps the browser quiet on machines without a network, and lets it draw without a GPU. */
export const CHROMIUM_FLAGS = [
  '--no-sandbox',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--enable-unsafe-swiftshader',
];

/** Both GPU interfaces off screen, drawn by the browser's own software driver: pictures are the same everywhere. */
export const OFFSCREEN_FLAGS = [
  ...CHROMIUM_FLAGS,
  '--use-angle=swiftshader',
  // A software driver draws what the page shows as well; the browser's own way to put pages together costs a fraction of that.
  '--disable-gpu-compositing',
  '--enable-unsafe-webgpu',
  '--use-webgpu-adapter=swiftshader',
];

/** The system's Chromium: `UMBER_CHROMIUM` names one, else the usual names are looked for. */
export function findChromium(): string {
  const named = process.env['UMBER_CHROMIUM'];
  const folders = (process.env['PATH'] ?? '').split(delimiter);
  const places = named
    ? [named]
    : [...folders.flatMap((folder) => NAMES.map((name) => join(folder, name))), ...PLACES];
  const found = places.find((place) => existsSync(place));
  if (found) return found;
  throw new LensError(
    'shoot/no-chromium',
    named ? `there is no Chromium at ${named}` : 'no Chromium was found on this machine',
    {
      hint: 'Install it (on Debian: apt-get install chromium), or name it in UMBER_CHROMIUM.',
    },
  );
}

export function launchChromium(): Promise<Browser> {
  return chromium.launch({
    executablePath: findChromium(),
    headless: true,
    args: OFFSCREEN_FLAGS,
  });
}
