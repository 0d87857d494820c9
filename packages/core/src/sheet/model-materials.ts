import type { Material } from '../material/material.js';
import type { LoadedSheet } from './gather-sheet.js';
import { same } from './same.js';
import type { Sheet, SheetMaterial, SheetModel } from './sheet.js';
import type { SheetParts } from './sheet-parts.js';

type Models = NonNullable<Sheet['models']>;

/** Materials of models as their files have them. */
const originals = new WeakMap<Material, Material>();

export const fileOf = (model: string | SheetModel): string =>
  typeof model === 'string' ? model : model.file;

const materialsOf = (model: string | SheetModel | undefined): Readonly<Record<string, SheetMaterial>> =>
  (typeof model === 'object' && model.materials) || {};

/**
 * Has materials of models be as a sheet says, where that is not what it said before; as their files have them where it says nothing.
 *
 * @param hasOtherFiles whether models are not those of before
 */
export function adjustMaterials(
  models: Models,
  before: Models | undefined,
  { files }: LoadedSheet,
  parts: SheetParts,
  hasOtherFiles: boolean,
): void {
  for (const [name, model] of Object.entries(models)) {
    const asset = files.model.get(fileOf(model));
    const wanted = materialsOf(model);
    if (!asset || (!hasOtherFiles && same(wanted, materialsOf(before?.[name])))) continue;
    for (const material of asset.materials) {
      const own = material.name === undefined ? undefined : wanted[material.name];
      const original = originals.get(material) ?? { ...material };
      if (!own && !originals.has(material)) continue;
      originals.set(material, original);
      const whole: Record<string, unknown> = { ...original, ...(own && parts.materialMembers(own)) };
      const holder = material as Record<string, unknown>;
      for (const key of Object.keys(holder)) if (!(key in whole)) delete holder[key];
      Object.assign(holder, whole);
    }
  }
}
