/**
 * Scenes as files: sheets are read, checked, placed in scenes and written.
 *
 * @module @umber-lens/core/sheets
 */
export {
  type AppliedSheet,
  type ApplyOptions,
  applySheet,
  type SheetPlace,
  sheetPlaceOf,
} from './sheet/apply-sheet.js';
export type { ShownBy } from './sheet/write-scene.js';
export { degreesOfRotation, rotationOfDegrees } from './sheet/degrees.js';
export {
  gatherSheet,
  type LoadedSheet,
  type SheetFiles,
  type SheetLoader,
  type SheetNames,
} from './sheet/gather-sheet.js';
export { checkSheet, isSheetName, readSheet } from './sheet/read-sheet.js';
export { type SheetChange, sheetEdit, type SheetEditOptions } from './sheet/edit/sheet-edit.js';
export { applyEdits, type TextEdit, undoEdits } from './json/text-edit.js';
export { noteSource, type SourceCall, sourcesOf } from './sheet/sources.js';
export { sheetTypes } from './sheet/sheet-types.js';
export { sheetSchema } from './sheet/sheet-schema.js';
export { writeSheet, type WriteSheetOptions, type WrittenSheet } from './sheet/write/write-sheet.js';
export type * from './sheet/sheet.js';
