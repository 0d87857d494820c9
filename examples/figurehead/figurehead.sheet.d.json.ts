// Made by @umber-lens/vite out of the sheet beside it.
import type { SheetImport } from 'umber-lens';

declare const sheet: SheetImport<{
  node: 
    | "sea"
    | "sun"
    | "carving"
    | "carving/figurehead"
    | "camera";
  material: 
    | "open sea";
  animation: never;
}>;
export default sheet;
