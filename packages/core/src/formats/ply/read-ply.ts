import { LensError, type Warning } from '../../errors/lens-error.js';
import { type Geometry, type GeometryArrays, geometryFrom } from '../../geometry/geometry.js';
import { withSharedNormals } from '../../geometry/shared-normals.js';
import type { Image, Material, Texture } from '../../material/material.js';
import { linearFromSrgb } from '../../math/srgb.js';
import type { Mesh } from '../../scene/components.js';
import { assetFrom, type ModelAsset } from '../asset/asset.js';
import { behind, type ByteSource, piecesOf } from '../bytes/byte-source.js';
import { GrownFloats, GrownWords } from '../bytes/grown.js';
import { imageTypeOf } from '../bytes/image-type.js';
import type { Resolve } from '../gltf/read/accessors.js';
import { cutPolygon } from '../../geometry/cut-polygon.js';
import { PlyBody } from './body.js';
import { LONGEST_HEADER, type PlyElement, type PlyHeader, readPlyHeader } from './header.js';

export interface ReadPlyOptions {
  /** Name for messages. */
  file?: string;
  /** Gives the bytes of the picture that a comment `TextureFile` names. Left out: it stays unpainted. */
  resolve?: Resolve;
}

/**
 * Reads a PLY file: ASCII and both binary kinds, properties in any order and of any type.
 *
 * - Faces (`vertex_indices` or `vertex_index`) of any shape, strips (`tristrips`, -1 begins another) and edges become
 *   triangles and lines; a file without any is a cloud of points.
 * - `x y z`, `nx ny nz`, `red green blue alpha` (whole numbers and shares; sRGB) and `u v`, `s t` or `texture_u texture_v`
 *   (turned over) are read; other numbers of vertices are kept as attributes of their names, up to eight.
 * - Missing normals of faces are made; edges of more than 60 degrees are sharp.
 *
 * @throws LensError `ply/header`, `ply/truncated`, `ply/number`, `ply/index`, `ply/properties` with the line, or the byte in
 *   the message
 */
export async function readPly(source: ByteSource, options: ReadPlyOptions = {}): Promise<ModelAsset> {
  const { file = '', resolve } = options;
  let header: PlyHeader | undefined;
  let body: PlyBody | undefined;
  let reader: PlyReader | undefined;
  let head: Uint8Array = new Uint8Array(0);
  for await (const piece of piecesOf(source)) {
    if (body) {
      body.push(piece);
      continue;
    }
    head = behind(head, piece);
    header = readPlyHeader(head, file);
    if (!header) continue;
    reader = new PlyReader(header, file);
    body = new PlyBody(header, file, reader);
    body.push(head.subarray(header.length));
    head = new Uint8Array(0);
  }
  if (!header || !body || !reader) {
    if (head.length < LONGEST_HEADER) readPlyHeader(head, file);
    throw new LensError('ply/header', 'the file ends within its header', {
      where: { file },
      hint: 'It was cut off: copy or load it again.',
    });
  }
  body.end();
  return reader.asset(resolve);
}

/** Which property is what. */
const PLACES = ['x', 'y', 'z'];
const NORMALS = ['nx', 'ny', 'nz'];
const COLORS = [
  ['red', 'green', 'blue', 'alpha'],
  ['r', 'g', 'b', 'a'],
  ['diffuse_red', 'diffuse_green', 'diffuse_blue', 'diffuse_alpha'],
];
const COORDINATES = [
  ['u', 'v'],
  ['s', 't'],
  ['texture_u', 'texture_v'],
  ['texcoord_u', 'texcoord_v'],
];
const MOST_OWN = 8;
const CREASE = Math.PI / 3;
/** Largest value of whole colours, by type. */
const FULL: Readonly<Record<string, number>> = {
  u8: 255,
  u16: 65535,
  i8: 127,
  i16: 32767,
  u32: 0xffffffff,
  i32: 0x7fffffff,
};

/** What becomes of a file's elements. */
export class PlyReader {
  readonly warnings: Warning[] = [];
  private readonly position = new GrownFloats();
  private readonly normal: GrownFloats | undefined;
  private readonly color: GrownFloats | undefined;
  private readonly coordinate: GrownFloats | undefined;
  private readonly own: { name: string; at: number; values: GrownFloats }[] = [];
  private readonly faces = new GrownWords();
  private readonly edges = new GrownWords();
  /** By use: which of a vertex's numbers. */
  private readonly at: { place: number[]; normal: number[]; color: number[]; coordinate: number[] };
  private readonly colorFull: number;
  private readonly corners = new GrownWords();
  private readonly vertexCount: number;
  private readonly hasFaces: boolean;

  /** @throws LensError `ply/properties` */
  constructor(
    private readonly header: PlyHeader,
    private readonly file: string,
  ) {
    const vertex = header.elements.find(({ name }) => name === 'vertex');
    const indexOf = (name: string): number =>
      vertex?.properties.findIndex((p) => p.name.toLowerCase() === name && p.countType === undefined) ?? -1;
    const found = (names: readonly string[]): number[] => names.map(indexOf);
    const all = (sets: readonly string[][], least: number): number[] =>
      sets.map(found).find((set) => set.slice(0, least).every((at) => at >= 0)) ?? [];
    const place = found(PLACES);
    if (!vertex || place.some((at) => at < 0)) {
      throw new LensError('ply/properties', 'the file has no vertices with x, y and z', {
        where: { file },
        hint: `Its elements are ${header.elements.map(({ name }) => name).join(', ') || 'none'}.`,
      });
    }
    this.vertexCount = vertex.count;
    const normal = found(NORMALS);
    this.at = {
      place,
      normal: normal.every((at) => at >= 0) ? normal : [],
      color: all(COLORS, 3),
      coordinate: all(COORDINATES, 2),
    };
    if (this.at.normal.length > 0) this.normal = new GrownFloats();
    if (this.at.color.length > 0) this.color = new GrownFloats();
    if (this.at.coordinate.length > 0) this.coordinate = new GrownFloats();
    this.colorFull = FULL[vertex.properties[this.at.color[0] ?? -1]?.type ?? ''] ?? 1;
    const used = new Set(Object.values(this.at).flat());
    vertex.properties.forEach(({ name, countType }, at) => {
      if (countType !== undefined || used.has(at)) return;
      if (this.own.length < MOST_OWN && /^[A-Za-z_]\w*$/.test(name))
        this.own.push({ name, at, values: new GrownFloats() });
      else this.warn('ply/property', `the property "${name}" is left out`);
    });
    this.hasFaces = header.elements.some(
      ({ name, count }) => (name === 'face' || name === 'tristrips') && count > 0,
    );
    for (const { name, count } of header.elements)
      if (count > 0 && !['vertex', 'face', 'tristrips', 'edge'].includes(name))
        this.warn('ply/element', `elements "${name}" are passed over`);
  }

  /** Which property of an element is a list of vertices; -1 for none. */
  listOf({ name, properties }: PlyElement): number {
    if (name !== 'face' && name !== 'tristrips') return -1;
    const at = properties.findIndex((p) => p.countType !== undefined && /^vertex_ind(ex|ices)$/.test(p.name));
    if (at < 0)
      this.warn('ply/property', `elements "${name}" have no list "vertex_indices" and are passed over`);
    return at;
  }

  /** @param values one a property; lists have 0 */
  takeVertex(values: Float64Array): void {
    const { at } = this;
    for (let k = 0; k < 3; k++) this.position.push(values[at.place[k]!]!); // found in the header, here and below
    if (this.normal) for (let k = 0; k < 3; k++) this.normal.push(values[at.normal[k]!]!);
    if (this.color) {
      for (let k = 0; k < 3; k++)
        this.color.push(linearFromSrgb(Math.min(1, Math.max(0, values[at.color[k]!]! / this.colorFull))));
      const alpha = at.color[3]!;
      this.color.push(alpha >= 0 ? Math.min(1, Math.max(0, values[alpha]! / this.colorFull)) : 1);
    }
    if (this.coordinate) {
      this.coordinate.push(values[at.coordinate[0]!]!);
      this.coordinate.push(1 - values[at.coordinate[1]!]!);
    }
    for (let i = 0; i < this.own.length; i++) this.own[i]!.values.push(values[this.own[i]!.at]!); // i < length
  }

  /**
   * @param list numbers of vertices
   * @param place where it stands, for messages
   */
  takeFace(list: ArrayLike<number>, count: number, isStrip: boolean, place: () => LensError): void {
    const { corners, faces } = this;
    if (isStrip) {
      this.takeStrip(list, count, place);
      return;
    }
    corners.length = 0;
    for (let k = 0; k < count; k++) corners.push(this.vertex(list[k]!, place)); // k < count
    if (count < 3) {
      this.warn('ply/corners', `a face has 3 corners or more, not ${count}: it is passed over`);
      return;
    }
    // Whether all vertices are there is known when faces come behind them, as they do as a rule.
    if (this.position.length < this.vertexCount * 3)
      for (let k = 2; k < count; k++) [0, k - 1, k].forEach((c) => faces.push(corners.at(c)));
    else
      cutPolygon(count, this.position, corners, 0, (a, b, c) => {
        faces.push(corners.at(a));
        faces.push(corners.at(b));
        faces.push(corners.at(c));
      });
  }

  takeEdge(a: number, b: number, place: () => LensError): void {
    this.edges.push(this.vertex(a, place));
    this.edges.push(this.vertex(b, place));
  }

  private takeStrip(list: ArrayLike<number>, count: number, place: () => LensError): void {
    let first = 0;
    for (let k = 0; k < count; k++) {
      if (list[k] === -1) {
        first = k + 1;
        continue;
      }
      this.vertex(list[k]!, place); // k < count, here and below
      if (k < first + 2) continue;
      const isTurned = (k - first) % 2 === 1;
      this.faces.push(list[isTurned ? k - 1 : k - 2]!);
      this.faces.push(list[isTurned ? k - 2 : k - 1]!);
      this.faces.push(list[k]!);
    }
  }

  private vertex(number: number, place: () => LensError): number {
    if (!(number >= 0 && number < this.vertexCount && Number.isInteger(number))) throw place();
    return number;
  }

  warn(code: string, message: string): void {
    if (this.warnings.length < 100 && !this.warnings.some((warning) => warning.message === message))
      this.warnings.push({ code, message, where: { file: this.file } });
  }

  async asset(resolve: Resolve | undefined): Promise<ModelAsset> {
    const arrays: GeometryArrays = { position: this.position.done() };
    if (this.normal) arrays.normal = this.normal.done();
    if (this.color) arrays.color0 = this.color.done();
    if (this.coordinate) arrays.texcoord0 = this.coordinate.done();
    for (const { name, values } of this.own) arrays[`_${name.toLowerCase()}`] = values.done();
    const { primitives, images, textures, materials } = await this.painted(arrays, resolve);
    const mesh: Mesh = { primitives };
    return assetFrom('PLY', [{ children: [], mesh }], {
      meshes: [mesh],
      materials,
      textures,
      images,
      warnings: this.warnings,
      ...(this.header.comments.length > 0 ? { extras: { comments: this.header.comments } } : {}),
    });
  }

  private async painted(
    arrays: GeometryArrays,
    resolve: Resolve | undefined,
  ): Promise<Pick<ModelAsset, 'images' | 'textures' | 'materials'> & { primitives: Mesh['primitives'] }> {
    const material: Material = { metallicFactor: 0, roughnessFactor: 0.8 };
    const [images, textures]: [Image[], Texture[]] = [[], []];
    if (this.color && this.at.color[3]! >= 0 && arrays.color0 && hasClear(arrays.color0))
      material.alphaMode = 'blend';
    const path = this.header.comments.map((text) => /^TextureFile\s+(.+)$/i.exec(text)?.[1]).find(Boolean);
    if (path !== undefined && resolve) {
      try {
        const near = path.replaceAll('\\', '/').replace(/^.*\//, '');
        const bytes = await resolve(near);
        const mimeType = imageTypeOf(bytes);
        if (mimeType) {
          const image: Image = { name: near, uri: near, content: { kind: 'encoded', mimeType, bytes } };
          images.push(image);
          textures.push({ image });
          material.baseColorTexture = { texture: textures[0]! }; // pushed just before
        }
      } catch {
        this.warn('ply/picture', `the picture "${path}" is not there`);
      }
    }
    const primitives: Mesh['primitives'] = [];
    const add = (geometry: Geometry): void => void primitives.push({ geometry, material });
    if (this.faces.length > 0) {
      const geometry = geometryFrom(arrays, this.faces.done());
      const least = Math.cos(CREASE);
      const alike = (_face: number, _other: number, cosine: number): boolean => cosine >= least;
      add(arrays.normal ? geometry : withSharedNormals(geometry, { alike }));
    }
    if (this.edges.length > 0) add(geometryFrom(arrays, this.edges.done(), { mode: 'lines' }));
    if (primitives.length === 0 && !this.hasFaces && this.position.length > 0)
      add(geometryFrom(arrays, undefined, { mode: 'points' }));
    // Points and lines without normals are lit by nothing.
    if (!arrays.normal && this.faces.length === 0) material.unlit = true;
    return { primitives, images, textures, materials: primitives.length > 0 ? [material] : [] };
  }
}

function hasClear(colors: ArrayLike<number>): boolean {
  for (let i = 3; i < colors.length; i += 4) if (colors[i]! < 1) return true; // i < length
  return false;
}
