import { KINDS } from '../../properties/kinds.js';
import type { Scene } from '../../scene/scene.js';
import { same } from '../same.js';
import type { Sheet } from '../sheet.js';
import { asJson, kept, type Members, plain, reordered, rest } from './as-json.js';
import type { NamedParts } from './named-parts.js';
import type { WriteSheetOptions } from './write-sheet.js';

/** Writes what is no node: what is around them, the look, the view and the finish. */
export function writeAround(
  sheet: Sheet,
  base: Sheet,
  scene: Scene,
  parts: NamedParts,
  options: Pick<WriteSheetOptions, 'lens' | 'camera'>,
): void {
  const members = sheet as unknown as Members;
  const write = (key: keyof Sheet, value: unknown): void => {
    if (value === undefined) delete members[key];
    else members[key] = same(value, base[key]) ? base[key] : value;
  };
  write('name', scene.name || undefined);
  const clear = asJson(scene.clearColor);
  write(
    'clearColor',
    same(clear, [0, 0, 0, 0]) && !base.clearColor ? undefined : kept(base.clearColor, clear),
  );
  write('fog', scene.fog && asJson(scene.fog));
  const { backdrop, imageLight } = scene;
  const light = imageLight && parts.panorama(imageLight.panorama, 'image light');
  write(
    'imageLight',
    light && { ...reordered(base.imageLight, { ...light, ...rest(imageLight, base.imageLight) }) },
  );
  const isShared = backdrop && imageLight && backdrop.panorama === imageLight.panorama;
  const behind =
    backdrop &&
    (isShared && !base.backdrop?.image && !base.backdrop?.sky
      ? {}
      : parts.panorama(backdrop.panorama, 'backdrop'));
  write(
    'backdrop',
    behind && { ...reordered(base.backdrop, { ...behind, ...rest(backdrop, base.backdrop) }) },
  );
  const { clipping } = scene;
  write(
    'clipping',
    clipping && { planes: asJson(clipping.planes), ...(clipping.node ? { node: clipping.node.path } : {}) },
  );
  if (options.camera) write('camera', options.camera.path);
  const { lens } = options;
  if (!lens) return;
  write(
    'finish',
    lens.view.finish.length > 0 || base.finish ? parts.effects(lens.view.finish, 'the picture') : undefined,
  );
  const look = plain(lens.look, KINDS.look.table, base.look);
  write('look', Object.keys(look).length > 0 || base.look ? look : undefined);
  const { finish: _finish, ...shown } = lens.view;
  const view = plain(shown, KINDS.view.table, base.view);
  if (Object.keys((view['culling'] as object | undefined) ?? {}).length === 0 && !base.view?.['culling'])
    delete view['culling'];
  write('view', Object.keys(view).length > 0 || base.view ? view : undefined);
}
