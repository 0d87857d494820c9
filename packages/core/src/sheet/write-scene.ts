import type { Effect } from '../effects/effect.js';
import type { Scene } from '../scene/scene.js';
import type { SceneNode } from '../scene/scene-node.js';
import { same } from './same.js';
import { LOOK_FORM, VIEW_FORM } from './sheet-forms.js';
import { copied, type SheetParts } from './sheet-parts.js';
import type { Sheet } from './sheet.js';

/** What shows a scene: a `Lens`. */
export interface ShownBy {
  readonly look: object;
  readonly view: { finish: readonly Effect[] };
}

/**
 * Has a scene have around it what a sheet says, where that is not what it said before.
 *
 * @param hasOtherLight whether panoramas are not those of before
 */
export function writeSurroundings(
  scene: Scene,
  sheet: Sheet,
  before: Sheet,
  parts: SheetParts,
  nodeAt: (path: string) => SceneNode | undefined,
  hasOtherLight: boolean,
): void {
  const differs = (key: keyof Sheet): boolean => !same(sheet[key], before[key]);
  if (differs('name')) scene.name = sheet.name ?? '';
  if (differs('clearColor'))
    scene.clearColor = (copied(sheet.clearColor) as number[] | undefined) ?? [0, 0, 0, 0];
  if (differs('fog')) scene.fog = copied(sheet.fog) as Scene['fog'];
  if (differs('imageLight') || differs('backdrop') || hasOtherLight) {
    const { backdrop, imageLight } = sheet;
    const panorama = imageLight && parts.panorama(imageLight);
    scene.imageLight = panorama && { ...membersBut(imageLight!), panorama }; // it has one
    const behind = backdrop && (parts.panorama(backdrop) ?? panorama);
    scene.backdrop = behind && { ...membersBut(backdrop), panorama: behind };
  }
  if (differs('clipping')) {
    const { node, planes = [] } = sheet.clipping ?? {};
    const cut = node === undefined ? undefined : nodeAt(node);
    scene.clipping = sheet.clipping && {
      planes: planes.map((plane) => [...plane] as [number, number, number, number]),
      ...(cut ? { node: cut } : {}),
    };
  }
}

function membersBut(given: object): Record<string, unknown> {
  const { image: _image, sky: _sky, ...members } = given as { image?: unknown; sky?: unknown };
  return copied(members) as Record<string, unknown>;
}

/**
 * Has a lens show things as a sheet says, where that is not what it was told before.
 *
 * @param finish the sheet's effects, as the lens takes them
 */
export function writeLook(
  { look, view }: ShownBy,
  sheet: Sheet,
  before: Sheet | undefined,
  finish: readonly Effect[],
): void {
  const write = (holder: object, names: string[], now: object = {}, last: object = {}): void => {
    const [wanted, had] = [now as Record<string, unknown>, last as Record<string, unknown>];
    for (const name of names) {
      if (same(wanted[name], had[name])) continue;
      const into = holder as Record<string, unknown>;
      // The lens holds this one for good.
      if (name === 'culling') Object.assign(into[name] as object, wanted[name] ?? {});
      else if (name in wanted) into[name] = copied(wanted[name]);
      else if (holder === view) into[name] = VIEW_FORM.members()[name]?.default;
      else delete into[name];
    }
  };
  write(look, Object.keys(LOOK_FORM.members()), sheet.look, before?.look);
  write(view, Object.keys(VIEW_FORM.members()), sheet.view, before?.view);
  if (sheet.finish ?? before?.finish) view.finish = finish;
}
