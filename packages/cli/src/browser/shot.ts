import type { Comparison, Effect, RenderPath, ShownQuantity, ToneMapping } from 'umber-lens';

/** What the command asks of the page, and what it answers; both travel as JSON. */
export interface ShotRequest {
  /** Address of the model, as the page sees it. */
  url: string;
  /** Whether that is a sheet. */
  isSheet?: boolean;
  width: number;
  height: number;
  /** Name of a camera or of the node that carries it; undefined: the first in the file, else a framing. */
  camera?: string;
  /** Linear RGBA; undefined: the environment, if there is one. */
  clearColor?: [number, number, number, number];
  /** Light from all around: the analytic sky, or a Radiance picture at an address. */
  environment?: 'sky' | { url: string };
  /** Stops above what suits the environment: an exposure of 1, or of a third for the sky, which is as bright as day. */
  exposure: number;
  /** Left out: that of the sheet, else `soft`. */
  toneMapping?: ToneMapping;
  /** Which lights there are besides the environment. Left out: the model's, or a neutral one where nothing else lights it. */
  lights?: 'model' | 'neutral' | 'none';
  /** Density of the air, a metre; undefined: none. */
  fog?: number;
  variant?: string;
  /** An animation by its name, and the second of it that is shown. */
  animation?: { name: string; at: number };
  /** Many pictures, one after the other: the animation runs on, and the camera goes around. */
  film?: Film;
  /** Of morph targets, by their names. */
  weights?: Record<string, number>;
  /** A single quantity instead of light. */
  show: ShownQuantity;
  /** Whether lights throw shadows. */
  shadows: boolean;
  /** How opaque things are drawn. Default `forward`. */
  renderPath?: RenderPath;
  /** Effects on the picture, one after the other. */
  finish?: Effect[];
  allowOutside: boolean;
  /** Left out: what the browser has. */
  backend?: 'webgpu' | 'webgl2';
}

export interface Film {
  /** Pictures. */
  frames: number;
  /** A second. */
  fps: number;
  /** How often the camera goes around the model's middle, counterclockwise from above. */
  turns: number;
}

/** What is to be told of a picture. */
export interface ShotFacts {
  camera: string;
  addedLight: boolean;
  draws: number;
  triangles: number;
}

export type ShotAnswer =
  | (ShotFacts & {
      kind: 'picture';
      /** RGBA rows, top first, premultiplied, as base64; the last picture of a film. */
      pixels: string;
      backend: string;
    })
  | ErrorAnswer;

/** Two ways of drawing, held against each other. */
export interface CompareRequest {
  a: ShotRequest;
  b: ShotRequest;
  turns: number;
  on: Comparison['on'];
  confidence: number;
}

export type CompareAnswer = { kind: 'comparison'; comparison: Comparison; backend: string } | ErrorAnswer;

export interface ErrorAnswer {
  kind: 'error';
  code: string;
  message: string;
  hint: string;
  where: { file?: string; pointer?: string };
}
