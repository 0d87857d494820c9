import type { HookName } from '../shading/hook-outline.js';

/**
 * What stands at an input of a node:
 *
 * - a number, a truth, or a list of two to four numbers: a value; where a vector is wanted, a number counts for all its parts;
 * - `"#ffb46a"`: a color, as linear light;
 * - `"@name"`, `"@name.xyz"`: what another node gives, or parts of it; `"@p.normal"` a member of what the hook takes,
 *   `"@settings.edge"` a setting, `"@frame.time"` what all surfaces of a picture share;
 * - any other text: a texture by its name;
 * - `{ "call": ..., "in": [...] }`: another call, within;
 * - null, or nothing: the input's default.
 */
export type GraphInput = number | boolean | string | null | readonly number[] | GraphCall;

/** A call by itself, within an input. */
export interface GraphCall {
  /** An operator (`+`), a built-in function of WGSL, a type (`vec3f`), a function of the library, of `uses` or of the graph. */
  call: string;
  in?: readonly GraphInput[];
}

/** A node: it computes one value, which others name by `"@name"`. */
export interface GraphValue {
  call?: string;
  in?: readonly GraphInput[];
  /** In place of a call: a value. Whole numbers are `f32`, too. */
  value?: GraphInput;
  /** What it is for: a comment in the WGSL. */
  note?: string;
  /** Whether it is passed over: it gives its first input as it is. */
  muted?: boolean;
}

/** A value that is set from outside, without compiling anew. */
export interface GraphSetting {
  /** `color` is a `vec3f`, `colorWithAlpha` a `vec4f`: linear light. */
  type: 'f32' | 'i32' | 'u32' | 'vec2f' | 'vec3f' | 'vec4f' | 'color' | 'colorWithAlpha';
  /** What it begins with. Default 0; of colors white. */
  value?: number | readonly number[] | string;
  /** Lowest and highest. */
  range?: readonly [low: number, high: number];
  note?: string;
}

/** A texture that is set from outside. */
export interface GraphTexture {
  /** `color` is read as linear light, `data` as it is. Default `color`. */
  holds?: 'color' | 'data';
  /** Default `2d`. */
  shape?: '2d' | 'cube' | '2d-array';
  note?: string;
}

/** A part of a graph that is used many times, as a function. Or one that is written in WGSL: then `code` is all of it. */
export interface GraphFunction {
  /** Types of what it takes, by name: `{ "place": "vec3f" }`. */
  takes?: Readonly<Record<string, string>>;
  nodes?: Readonly<Record<string, GraphValue>>;
  /** What it gives. */
  gives?: GraphInput;
  /** The whole function in WGSL, of the same name. */
  code?: string;
  note?: string;
  /** Where its nodes, and what it takes, stand in the editor: x and y by name. */
  layout?: Readonly<Record<string, readonly [x: number, y: number]>>;
}

/**
 * What a hook gives. Of `surface` and `displace` members by name, over what the material says anyway; of `march` the members
 * of a hit; of the others one input. Or the whole hook in WGSL.
 */
export type GraphHook = GraphInput | Readonly<Record<string, GraphInput>> | { code: string };

/** A shader as a graph: `*.graph.json`. */
export interface Graph {
  graph: 1;
  /** What it is for: a comment at the top of the WGSL. */
  note?: string;
  /** WGSL files whose functions it calls, relative to it. The library's own are known anyway. */
  uses?: readonly string[];
  settings?: Readonly<Record<string, GraphSetting>>;
  /** Settings that each instance has for itself: `@instance.tint`. */
  instanceSettings?: Readonly<Record<string, GraphSetting>>;
  /** Attributes of the geometry: `@attributes.tint`. Of each its type. */
  attributes?: Readonly<Record<string, string>>;
  textures?: Readonly<Record<string, GraphTexture>>;
  /** Declarations in WGSL that functions build on: constants, structures. */
  declarations?: readonly string[];
  functions?: Readonly<Record<string, GraphFunction>>;
  nodes?: Readonly<Record<string, GraphValue>>;
  hooks: Readonly<Partial<Record<HookName, GraphHook>>>;
  /** Where nodes stand in the editor: x and y by name. */
  layout?: Readonly<Record<string, readonly [x: number, y: number]>>;
  /** Frames about nodes, by what they are called. */
  frames?: Readonly<Record<string, GraphFrame>>;
  /** Texts beside nodes. */
  notes?: readonly { text: string; at: readonly [x: number, y: number] }[];
}

export interface GraphFrame {
  nodes: readonly string[];
  note?: string;
}

export const isCall = (input: unknown): input is GraphCall =>
  typeof input === 'object' && input !== null && !Array.isArray(input) && 'call' in input;
