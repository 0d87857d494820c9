// Made by @umber-lens/vite out of the sheet beside it.
import type { SheetImport } from 'umber-lens';

declare const sheet: SheetImport<{
  node: 
    | "sea"
    | "sun"
    | "carving"
    | "carving/figurehead"
    | "float"
    | "float/rope 1"
    | "float/rope 2"
    | "quay"
    | "quay/plank 1"
    | "quay/plank 2"
    | "quay/plank 3"
    | "quay/plank 4"
    | "quay/plank 5"
    | "quay/plank 6"
    | "quay/plank 7"
    | "quay/plank 8"
    | "quay/plank 9"
    | "quay/plank 10"
    | "quay/plank 11"
    | "lantern"
    | "camera";
  material: 
    | "open sea"
    | "planks"
    | "sea glass"
    | "salt"
    | "rope";
  animation: never;
}>;
export default sheet;
