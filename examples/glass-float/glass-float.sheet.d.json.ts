// Made by @umber-lens/vite out of the sheet beside it.
import type { SheetImport } from 'umber-lens';

declare const sheet: SheetImport<{
  node: 
    | "float 1"
    | "float 1/rope 1"
    | "float 1/rope 2"
    | "float 1/rope 3"
    | "float 2"
    | "float 2/rope 1"
    | "float 2/rope 2"
    | "float 2/rope 3"
    | "float 3"
    | "float 3/rope 1"
    | "float 3/rope 2"
    | "float 3/rope 3"
    | "float 4"
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
    | "quay/plank 12"
    | "quay/plank 13"
    | "quay/under the planks"
    | "coil"
    | "sky light"
    | "evening sun"
    | "lantern"
    | "camera";
  material: 
    | "glass"
    | "rope"
    | "shade";
  animation: never;
}>;
export default sheet;
