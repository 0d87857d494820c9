/** What the command asks of the page, and what it answers; both travel as JSON. */
export interface ShotRequest {
  /** Address of the model, as the page sees it. */
  url: string;
  width: number;
  height: number;
  /** Name of a camera or of the node that carries it; undefined: the first in the file, else a framing. */
  camera?: string;
  /** Linear RGBA. */
  background: [number, number, number, number];
  allowOutside: boolean;
}

export type ShotAnswer =
  | {
      kind: 'picture';
      /** RGBA rows, top first, premultiplied, as base64. */
      pixels: string;
      backend: string;
      camera: string;
      addedLight: boolean;
      draws: number;
      triangles: number;
    }
  | {
      kind: 'error';
      code: string;
      message: string;
      hint: string;
      where: { file?: string; pointer?: string };
    };
