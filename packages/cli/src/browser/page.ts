import {
  type Lens,
  LensError,
  loadEnvironment,
  loadModel,
  loadSheet,
  openLens,
  type Panorama,
} from 'umber-lens';
import { compareShots } from './compare-shots.js';
import { type Drawable, drawShot } from './draw-shot.js';
import type { CompareAnswer, CompareRequest, ErrorAnswer, ShotAnswer, ShotRequest } from './shot.js';

declare global {
  interface Window {
    takeShot(request: ShotRequest): Promise<ShotAnswer>;
    /** Given by the command: takes a picture of a film. */
    keepFrame?(pixels: string, number: number): Promise<void>;
    compareShots(request: CompareRequest): Promise<CompareAnswer>;
    /** Given by the command: shows how far it has come. */
    tellProgress?(fraction: number): Promise<void>;
  }
}

window.takeShot = (request) => answering(() => draw(request));
window.compareShots = (request) => answering(() => compare(request));

async function answering<T>(act: () => Promise<T>): Promise<T | ErrorAnswer> {
  try {
    return await act();
  } catch (error) {
    if (error instanceof LensError) {
      const { code, summary: message, hint, where } = error;
      return { kind: 'error', code, message, hint, where };
    }
    return { kind: 'error', code: 'shoot/page', message: String(error), hint: '', where: {} };
  }
}

/** Opens a lens without a canvas. @returns what failed, besides */
async function open({ backend }: ShotRequest): Promise<{ lens: Lens; failures: LensError[] }> {
  const failures: LensError[] = [];
  const lens = await openLens(undefined, {
    ...(backend ? { backend } : {}),
    onError: (error) => failures.push(error),
  });
  return { lens, failures };
}

const modelOf = ({ url, allowOutside, isSheet = false }: ShotRequest): Promise<Drawable> =>
  isSheet ? loadSheet(url, { allowOutside }) : loadModel(url, { allowOutside });
const pictureOf = async ({ environment }: ShotRequest): Promise<Panorama | undefined> =>
  environment && environment !== 'sky' ? loadEnvironment(environment.url) : undefined;

async function draw(request: ShotRequest): Promise<ShotAnswer> {
  const { lens, failures } = await open(request);
  const { pixels, ...facts } = await drawShot(
    lens,
    await modelOf(request),
    request,
    await pictureOf(request),
    async (frame, number) => window.keepFrame?.(toBase64(frame), number),
  );
  const answer: ShotAnswer = {
    kind: 'picture',
    pixels: toBase64(pixels),
    backend: lens.device.backend,
    ...facts,
  };
  lens.dispose();
  if (failures[0]) throw failures[0];
  return answer;
}

async function compare(request: CompareRequest): Promise<CompareAnswer> {
  const { a, b } = request;
  const { lens, failures } = await open(a);
  const picture = await pictureOf(a);
  const comparison = await compareShots(
    lens,
    { a: [await modelOf(a), a, picture], b: [await modelOf(b), b, picture] },
    request,
    (fraction) => void window.tellProgress?.(fraction),
  );
  const { backend } = lens.device;
  lens.dispose();
  if (failures[0]) throw failures[0];
  return { kind: 'comparison', comparison, backend };
}

function toBase64(bytes: Uint8Array): string {
  let text = '';
  for (let at = 0; at < bytes.length; at += 32768)
    text += String.fromCharCode(...bytes.subarray(at, at + 32768));
  return btoa(text);
}
