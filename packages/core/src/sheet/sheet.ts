import type { Effect } from '../effects/effect.js';
import type { Material, TextureUse } from '../material/material.js';
import type { Sampler } from '../material/material.js';
import type { Camera, Light } from '../scene/components.js';
import type { Fog } from '../light/environment.js';

/**
 * A scene as a file of JSON: what `readSheet` gives. Names stand for what is listed elsewhere in it, addresses are relative to
 * the file. Everything but `sheet` may be left out, and has its default then.
 */
export interface Sheet {
  $schema?: string;
  /** Version of the form. */
  sheet: 1;
  name?: string;
  models?: Record<string, string | SheetModel>;
  textures?: Record<string, string | SheetTexture>;
  materials?: Record<string, SheetMaterial>;
  nodes?: SheetNode[];
  /** Path of the node whose camera it starts with. */
  camera?: string;
  clearColor?: number[];
  backdrop?: SheetBackdrop;
  imageLight?: SheetImageLight;
  fog?: Fog;
  clipping?: { planes: number[][]; node?: string };
  finish?: SheetEffect[];
  look?: Record<string, unknown>;
  view?: Record<string, unknown>;
  /** Of nodes of a scene that is made elsewhere, by path. */
  adjust?: Record<string, SheetAdjustment>;
  extras?: unknown;
}

export interface SheetModel {
  file: string;
  scene?: string;
  materials?: Record<string, SheetMaterial>;
}

export interface SheetTexture extends Omit<Sampler, 'name'> {
  image: string;
}

/** A material whose textures are names, and whose shader is an address. */
export type SheetMaterial = {
  [K in Exclude<keyof Material, 'name' | 'kept' | 'shader' | 'settings'>]?: Material[K] extends
    TextureUse | undefined
    ? string | SheetTextureUse
    : Material[K];
} & { shader?: string; settings?: Record<string, number | number[] | boolean | string> };

export interface SheetTextureUse extends Omit<TextureUse, 'texture'> {
  texture: string;
}

/** A shape with what it takes. */
export interface SheetPrimitive {
  shape: string;
  material?: string | SheetMaterial;
  /** Materials that it is drawn with once more, over the first, in order. */
  overlays?: (string | SheetMaterial)[];
  [option: string]: unknown;
}

export interface SheetMesh {
  name?: string;
  primitives: SheetPrimitive[];
  weights?: number[];
  boundsMargin?: number;
  extras?: unknown;
}

/** An effect whose textures, tables, shaders and nodes are names and addresses. */
export type SheetEffect = { type: Effect['type'] } & Record<string, unknown>;

/** What nodes and adjustments have in common. */
export interface SheetPlaced {
  translation?: number[];
  /** A unit quaternion xyzw. */
  rotation?: number[];
  /** In place of `rotation`: degrees about X, Y and Z, applied in the order Y, X, Z. */
  degrees?: number[];
  scale?: number[];
  matrix?: number[];
  visible?: boolean;
  castsShadow?: boolean;
  receivesShadow?: boolean;
  visibleTo?: number;
  effects?: SheetEffect[];
  mesh?: SheetPrimitive | SheetPrimitive[] | SheetMesh;
  settings?: Record<string, number | number[]>;
  weights?: Record<string, number>;
  extras?: unknown;
}

export interface SheetNode extends SheetPlaced {
  name?: string;
  camera?: Camera;
  light?: Light;
  model?: string;
  sheet?: string;
  adjust?: Record<string, SheetAdjustment>;
  children?: SheetNode[];
}

/** What is other about a node of a model, or of another sheet: of a light and a camera some members. */
export interface SheetAdjustment extends SheetPlaced {
  camera?: Partial<Camera>;
  light?: Partial<Light>;
}

export interface SheetBackdrop extends SheetImage {
  blur?: number;
}

export interface SheetImageLight extends SheetImage {
  intensity?: number;
  rotation?: number;
}

interface SheetImage {
  image?: string | string[];
  sky?: SheetSky;
  intensity?: number;
  rotation?: number;
}

/** What `skyPanorama` takes. */
export interface SheetSky {
  sunDirection?: readonly [number, number, number];
  turbidity?: number;
  groundAlbedo?: readonly [number, number, number];
  height?: number;
  sunDisc?: boolean;
}
