import type { Comparison, Lens, Panorama } from 'umber-lens';
import { type Drawable, stageShot } from './draw-shot.js';
import type { CompareRequest, ShotRequest } from './shot.js';

type Staged = [model: Drawable, request: ShotRequest, picture: Panorama | undefined];

/** Draws two requests in turn, each in a scene of its own, and tells which is faster. */
export async function compareShots(
  lens: Lens,
  { a, b }: { a: Staged; b: Staged },
  { turns, on, confidence }: Pick<CompareRequest, 'turns' | 'on' | 'confidence'>,
  onProgress: (fraction: number) => void,
): Promise<Comparison> {
  const wayOf = async ([model, request, picture]: Staged): Promise<() => void> => {
    const { scene, camera, target, setLens } = await stageShot(lens, model, request, picture);
    return () => {
      setLens();
      lens.draw(scene, camera, { target });
    };
  };
  const ways = { a: await wayOf(a), b: await wayOf(b) };
  return lens.compare(ways, { turns, on, confidence, onProgress });
}
