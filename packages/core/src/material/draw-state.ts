import type { Material } from './material.js';

/** How colors meet what is there, by the terms of WebGPU. */
export type MaterialBlend =
  /** By alpha. */
  | 'over'
  /** Light is added. */
  | 'add'
  /** What is there is darkened by the color. */
  | 'multiply'
  /** What is there is lightened by the color. */
  | 'screen'
  /** By alpha, which the colors of its texture, or those that a hook gives, are multiplied by already. */
  | 'premultiplied';

/** Factors of the color that comes, multiplied by its alpha, and of the one that is there. */
export interface BlendFactors {
  /** Default `one`. */
  srcFactor?: string;
  /** Default `one-minus-src-alpha`. */
  dstFactor?: string;
  /** Default `add`. */
  operation?: string;
}

export interface BlendState {
  color: BlendFactors;
  /** Default as `color`. */
  alpha?: BlendFactors;
}

export const COMPARE_FUNCTIONS = [
  'never',
  'less',
  'equal',
  'less-equal',
  'greater',
  'not-equal',
  'greater-equal',
  'always',
] as const;
export type DepthCompare = (typeof COMPARE_FUNCTIONS)[number];

/** What becomes of a pixel's stencil value, by the terms of WebGPU. */
export type StencilOperation =
  | 'keep'
  | 'zero'
  | 'replace'
  | 'invert'
  | 'increment-clamp'
  | 'decrement-clamp'
  | 'increment-wrap'
  | 'decrement-wrap';

/** How both sides of triangles meet the stencil, by the terms of WebGPU: 8 bits a pixel that begin with 0 wherever depths do. */
export interface StencilState {
  /** Which pixels are drawn, by `reference` (on the left) and the value that is there. Default `always`. */
  compare?: DepthCompare;
  /** What becomes of the value where that fails. Default `keep`. */
  failOp?: StencilOperation;
  /** Where it holds, and the depth is not drawn. Default `keep`. */
  depthFailOp?: StencilOperation;
  /** Where it is drawn. Default `keep`. */
  passOp?: StencilOperation;
  /** What is compared, and what `replace` writes: 0 to 255. Default 0. */
  reference?: number;
  /** Bits that are compared: 0 to 255. Default 255. */
  readMask?: number;
  /** Bits that are written: 0 to 255. Default 255. */
  writeMask?: number;
}

/** Members of a material that say how it meets what was drawn. */
export const STATE_MEMBERS = [
  'blend',
  'depthCompare',
  'depthWrite',
  'depthBias',
  'depthBiasSlopeScale',
  'cullMode',
  'writeMask',
  'stencil',
  'drawOrder',
] as const;

/** What a material says of how it meets what was drawn; one object for each combination. */
export interface DrawState extends Pick<Material, (typeof STATE_MEMBERS)[number]> {
  /** Its own among all; above 0. */
  readonly id: number;
}

const known = new Map<string, DrawState>();

/** The state of a material; undefined where all of it is as usual. */
export function drawStateOf(material: Material): DrawState | undefined {
  let has = false;
  for (let i = 0; i < STATE_MEMBERS.length; i++) if (material[STATE_MEMBERS[i]!] !== undefined) has = true; // i < length
  if (!has) return undefined;
  const members = STATE_MEMBERS.map((name) => material[name]);
  const key = JSON.stringify(members);
  let found = known.get(key);
  if (!found) {
    const own = Object.fromEntries(
      STATE_MEMBERS.flatMap((name) => (material[name] === undefined ? [] : [[name, material[name]]])),
    );
    known.set(key, (found = { ...(JSON.parse(JSON.stringify(own)) as object), id: known.size + 1 }));
  }
  return found;
}

/** Whether that is still a material's state. */
export function isStateOf(material: Material, state: DrawState | undefined): boolean {
  for (let i = 0; i < STATE_MEMBERS.length; i++) {
    const name = STATE_MEMBERS[i]!; // i < length
    const now = material[name];
    const before = state?.[name];
    if (now === before) continue;
    // Factors are compared by what they say.
    if (typeof now !== 'object' || typeof before !== 'object') return false;
    if (JSON.stringify(now) !== JSON.stringify(before)) return false;
  }
  return true;
}

/** Whether a material is drawn with what is transparent, the farthest first. */
export const isBlended = ({ alphaMode, blend }: Material): boolean =>
  alphaMode === 'blend' || blend !== undefined;
