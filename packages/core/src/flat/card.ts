import { LensError } from '../errors/lens-error.js';
import { type Geometry, geometryFrom } from '../geometry/geometry.js';
import type { Image, Material, Texture, TextureUse } from '../material/material.js';
import type { Mesh } from '../scene/components.js';

export interface CardOptions {
  /** What it shows, as `loadTexture` gives it or by itself; left out: its color alone. */
  texture?: Texture | TextureUse;
  /** A part of the texture, in its pixels, from the upper left; left out: all of it. */
  frame?: { x: number; y: number; width: number; height: number };
  /** Left out: the texture's pixels; where only one of both is given, the other keeps the shape. */
  width?: number;
  height?: number;
  /** Where the node stands on it: `[0, 0]` its upper left, `[1, 1]` its lower right. Default `[0, 0]` in pixels, the middle in metres. */
  anchor?: readonly [x: number, y: number];
  /**
   * Pixels of the texture from its top, right, bottom and left that keep their size when the card has another: corners stay, edges are
   * stretched along, the middle both ways.
   */
  slices?: readonly [top: number, right: number, bottom: number, left: number];
  /** `pixels` (the default): y runs down, for `pixelCamera`. `metres`: y runs up and it faces +Z, for scenes in space. */
  units?: 'pixels' | 'metres';
  /** Linear RGBA, multiplied into the texture. Default white. */
  color?: readonly [red: number, green: number, blue: number, alpha: number];
}

interface Made {
  geometries: Map<string, Geometry>;
  /** The texture with its colors multiplied by alpha. */
  texture: Texture | undefined;
}

/** By the texture's image: cards of one size share their geometry, and are drawn together. */
const made = new WeakMap<object, Made>();
const NO_IMAGE = {};

/**
 * An image as a flat thing, as large as its pixels: for a node's mesh. Its alpha is mixed without dark fringes; light does not change it.
 * Cards of one texture and one size are one draw for each 64 of them with a color of their own; a mesh may be on any number of nodes.
 *
 *     scene.createNode({ translation: [40, 24, 0], mesh: card({ texture: await loadTexture('flag.png') }) });
 *
 * @throws LensError `card/size` where neither its size nor that of its texture is known
 */
export function card(options: CardOptions = {}): Mesh {
  const { color = [1, 1, 1, 1], units = 'pixels' } = options;
  const texture = options.texture && ('image' in options.texture ? options.texture : options.texture.texture);
  const { image } = texture ?? {};
  let known = made.get(image ?? NO_IMAGE);
  if (!known) {
    known = { geometries: new Map(), texture: texture && multiplied(texture) };
    made.set(image ?? NO_IMAGE, known);
  }
  const pixels = sizeOf(image);
  const frame = options.frame ?? { x: 0, y: 0, width: pixels?.width ?? 1, height: pixels?.height ?? 1 };
  const [width, height] = cardSize(options, pixels && frame);
  const { anchor = units === 'pixels' ? [0, 0] : [0.5, 0.5], slices } = options;
  const key = JSON.stringify([width, height, anchor, slices, frame, units, pixels]);
  let geometry = known.geometries.get(key);
  if (!geometry) {
    geometry = cardGeometry(width, height, anchor, slices, frame, pixels ?? frame, units);
    known.geometries.set(key, geometry);
  }
  const material: Material = {
    unlit: true,
    doubleSided: true,
    alphaMode: 'blend',
    blend: 'premultiplied',
    baseColorFactor: [...color],
    ...(known.texture ? { baseColorTexture: { texture: known.texture } } : {}),
  };
  return { primitives: [{ geometry, material }] };
}

/** The same picture, whose colors are multiplied by alpha when they are uploaded; it follows what becomes of the other. */
function multiplied(texture: Texture): Texture {
  const image = Object.create(texture.image) as Image;
  image.premultiply = true;
  return {
    ...texture,
    image,
    sampler: { wrapS: 'clamp-to-edge', wrapT: 'clamp-to-edge', ...texture.sampler },
  };
}

const sizeOf = (image: Image | undefined): { width: number; height: number } | undefined =>
  image && image.content.kind !== 'encoded'
    ? { width: image.content.width, height: image.content.height }
    : undefined;

function cardSize(
  { width, height }: CardOptions,
  frame: { width: number; height: number } | undefined,
): [number, number] {
  const shape = frame && frame.width / frame.height;
  const w = width ?? (height === undefined ? frame?.width : shape && height * shape);
  const h = height ?? (width === undefined ? frame?.height : shape && width / shape);
  if (!(w! > 0 && h! > 0))
    throw new LensError('card/size', 'how large the card is to be is not known', {
      hint: 'Give width and height, or a texture that is there: await loadTexture(address).',
    });
  return [w!, h!]; // above 0
}

function cardGeometry(
  width: number,
  height: number,
  [ax, ay]: readonly [number, number],
  slices: CardOptions['slices'],
  frame: NonNullable<CardOptions['frame']>,
  of: { width: number; height: number },
  units: NonNullable<CardOptions['units']>,
): Geometry {
  const [top, right, bottom, left] = slices ?? [0, 0, 0, 0];
  /** Lines across or down: of the card, and of the texture, 0..1. */
  const lines = (size: number, first: number, last: number, start: number, part: number, whole: number) => {
    const fit = Math.min(1, size / Math.max(1e-9, first + last));
    const all: [number, number][] = [
      [0, start],
      [first * fit, start + first],
      [size - last * fit, start + part - last],
      [size, start + part],
    ];
    return all
      .filter((_, i) => (i !== 1 || first > 0) && (i !== 2 || last > 0))
      .map(([at, pixel]): [number, number] => [at, pixel / whole]);
  };
  const across = lines(width, left, right, frame.x, frame.width, of.width);
  const down = lines(height, top, bottom, frame.y, frame.height, of.height);
  const flip = units === 'pixels' ? 1 : -1;
  const position: number[] = [];
  const texcoord0: number[] = [];
  const normal: number[] = [];
  for (const [y, v] of down)
    for (const [x, u] of across) {
      position.push(x - ax * width, flip * (y - ay * height), 0);
      normal.push(0, 0, -flip);
      texcoord0.push(u, v);
    }
  const indices: number[] = [];
  const n = across.length;
  for (let row = 0; row + 1 < down.length; row++)
    for (let column = 0; column + 1 < n; column++) {
      const a = row * n + column;
      indices.push(a, a + n, a + 1, a + 1, a + n, a + n + 1);
    }
  return geometryFrom({ position, normal, texcoord0 }, indices, { name: 'card' });
}
