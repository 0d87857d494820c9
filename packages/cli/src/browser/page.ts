import { LensError, loadEnvironment, loadModel, openLens } from 'umber-lens';
import { drawShot } from './draw-shot.js';
import type { ShotAnswer, ShotRequest } from './shot.js';

declare global {
  interface Window {
    takeShot(request: ShotRequest): Promise<ShotAnswer>;
    /** Given by the command: takes a picture of a film. */
    keepFrame?(pixels: string, number: number): Promise<void>;
  }
}

window.takeShot = async (request) => {
  try {
    return await draw(request);
  } catch (error) {
    if (error instanceof LensError) {
      const { code, message, hint, where } = error;
      return { kind: 'error', code, message, hint, where };
    }
    return { kind: 'error', code: 'shoot/page', message: String(error), hint: '', where: {} };
  }
};

async function draw(request: ShotRequest): Promise<ShotAnswer> {
  const failures: LensError[] = [];
  const lens = await openLens(undefined, {
    ...(request.backend ? { backend: request.backend } : {}),
    onError: (error) => failures.push(error),
  });
  const model = await loadModel(request.url, { allowOutside: request.allowOutside });
  const { environment } = request;
  const picture = environment && environment !== 'sky' ? await loadEnvironment(environment.url) : undefined;
  const { pixels, ...facts } = await drawShot(lens, model, request, picture, async (frame, number) =>
    window.keepFrame?.(toBase64(frame), number),
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

function toBase64(bytes: Uint8Array): string {
  let text = '';
  for (let at = 0; at < bytes.length; at += 32768)
    text += String.fromCharCode(...bytes.subarray(at, at + 32768));
  return btoa(text);
}
