// Made by @umber-lens/vite out of the sheet beside it.
import type { SheetImport } from 'umber-lens';

declare const sheet: SheetImport<{
  node: 
    | "sky light"
    | "last light"
    | "sea"
    | "tug"
    | "tug/masthead light"
    | "tug/port light"
    | "tug/starboard light"
    | "tug/cabin light"
    | "tug/hull below"
    | "tug/hull above"
    | "tug/rail"
    | "tug/bulwark"
    | "tug/stern"
    | "tug/deck"
    | "tug/cabin"
    | "tug/cabin roof"
    | "tug/wheelhouse"
    | "tug/wheelhouse roof"
    | "tug/front pane 1"
    | "tug/front pane 2"
    | "tug/front pane 3"
    | "tug/side pane"
    | "tug/porthole"
    | "tug/tyre"
    | "tug/funnel"
    | "tug/funnel band"
    | "tug/funnel top"
    | "tug/mast"
    | "tug/lamp"
    | "tug/towing post"
    | "tug/bow fender"
    | "camera";
  material: 
    | "sea";
  animation: never;
}>;
export default sheet;
