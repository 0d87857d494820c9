import {
  type AppliedSheet,
  applySheet,
  type Lens,
  loadSheet,
  type Scene,
  type SheetImport,
  type SheetNames,
} from 'umber-lens';

export interface PlacedSheet<N extends SheetNames> {
  stage: AppliedSheet<N>;
  /** Gives a lens the sheet's look and finish. */
  prepare(lens: Lens): void;
}

/** Places an imported sheet, and what changes in it while developing as soon as it is saved. */
export async function placeSheet<N extends SheetNames>(
  scene: Scene,
  source: SheetImport<N>,
): Promise<PlacedSheet<N>> {
  let loaded = await loadSheet(source);
  let shownBy: Lens | undefined;
  const stage = applySheet(scene, loaded);
  const show = async (): Promise<void> => {
    const before = loaded;
    loaded = await loadSheet(source);
    applySheet(scene, loaded, shownBy ? { lens: shownBy } : {});
    before.dispose();
  };
  source.onChange(() => void show());
  return {
    stage,
    prepare(lens) {
      shownBy = lens;
      applySheet(scene, loaded, { lens });
    },
  };
}
