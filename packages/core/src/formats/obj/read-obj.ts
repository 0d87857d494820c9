import { LensError, type Warning } from '../../errors/lens-error.js';
import type { Image, Material, Sampler, Texture } from '../../material/material.js';
import type { Mesh } from '../../scene/components.js';
import { assetFrom, type AssetNode, type ModelAsset } from '../asset/asset.js';
import { type ByteSource, piecesOf } from '../bytes/byte-source.js';
import { Lines } from '../bytes/lines.js';
import { imageTypeOf } from '../bytes/image-type.js';
import { type Resolve } from '../gltf/read/accessors.js';
import { ObjParser, type ObjThing } from './obj-parser.js';
import { type MtlMap, type MtlMaterial, readMtl } from './read-mtl.js';

export interface ReadObjOptions {
  /** Name for messages. */
  file?: string;
  /** Gives the bytes of material files and pictures, by paths with `/`. Left out: the model stays unpainted. */
  resolve?: Resolve;
}

/**
 * Reads a Wavefront OBJ file with its MTL files, as a model with a node for each object (or group, where there are no
 * objects), and a primitive for each material of it.
 *
 * - Faces may have any number of corners and any shape; negative numbers, colours behind places (sRGB), lines, points,
 *   continued lines and names with blanks are read; free-form curves and surfaces are told and passed over.
 * - Where normals are missing they are made by smoothing groups; where no group is named, edges of more than 60 degrees are
 *   sharp.
 * - Coordinates are turned over, as textures here count from above.
 * - Material files and pictures that are not there are told, and the model is read without them.
 *
 * Bytes may come in pieces: what is kept is what becomes of them.
 *
 * @throws LensError `obj/number`, `obj/index`, `obj/empty`, `text/line`, with line and column
 */
export async function readObj(source: ByteSource, options: ReadObjOptions = {}): Promise<ModelAsset> {
  const { file = '', resolve } = options;
  const parser = new ObjParser(file);
  const lines = new Lines(parser.take, true);
  for await (const piece of piecesOf(source)) lines.push(piece);
  lines.end();
  parser.finish();
  if (parser.lists.positions.length === 0) {
    throw new LensError('obj/empty', 'there is not a single place ("v") in this file', {
      where: { file },
      hint: 'Is it an OBJ file, and a whole one?',
    });
  }
  const warnings = [...parser.warnings];
  const painter = new Painter(file, resolve, warnings);
  for (const { name, line } of parser.libraries) await painter.readLibrary(name, line);
  const meshes: Mesh[] = [];
  const nodes: AssetNode[] = [];
  for (const thing of parser.things) {
    const mesh = await meshOf(thing, painter);
    if (!mesh) continue;
    meshes.push(mesh);
    nodes.push({ ...(thing.name === undefined ? {} : { name: thing.name }), children: [], mesh });
  }
  const { materials, textures, images, samplers } = painter;
  return assetFrom('OBJ', nodes, { meshes, materials, textures, images, samplers, warnings });
}

async function meshOf({ name, parts }: ObjThing, painter: Painter): Promise<Mesh | undefined> {
  const primitives: Mesh['primitives'] = [];
  for (const { material, part } of parts.values()) {
    if (part.isEmpty) continue;
    const painted = material === '' ? undefined : await painter.material(material);
    primitives.push({ geometry: part.geometry(name), ...(painted ? { material: painted } : {}) });
  }
  if (primitives.length === 0) return undefined;
  return { ...(name === undefined ? {} : { name }), primitives };
}

/** Materials by name, with their pictures. */
class Painter {
  readonly materials: Material[] = [];
  readonly textures: Texture[] = [];
  readonly images: Image[] = [];
  readonly samplers: Sampler[] = [];
  private readonly known = new Map<string, { from: MtlMaterial; file: string; made?: Material }>();
  private readonly byPath = new Map<string, Image | undefined>();
  private readonly byUse = new Map<string, Texture>();

  constructor(
    private readonly file: string,
    private readonly resolve: Resolve | undefined,
    private readonly warnings: Warning[],
  ) {}

  /** @param names one file, or several with blanks between: a file of the whole name is tried first */
  async readLibrary(names: string, line: number): Promise<void> {
    const where = { file: this.file, line };
    const whole = await this.bytesOf(slashes(names));
    const files = whole ? [names] : names.split(/\s+/);
    for (const name of files) {
      const bytes = whole ?? (files.length > 1 ? await this.bytesOf(slashes(name)) : undefined);
      if (!bytes) {
        this.warnings.push({
          code: 'obj/library',
          message: `the material file "${name}" ${this.resolve ? 'is not there' : 'was not asked for'}: things have no paint`,
          where,
        });
        continue;
      }
      const { materials, warnings } = readMtl(bytes, slashes(name));
      this.warnings.push(...warnings);
      for (const [key, from] of materials)
        if (!this.known.has(key)) this.known.set(key, { from, file: slashes(name) });
    }
  }

  /** Made when it is first used; one that no file has is told, and is plain. */
  async material(name: string): Promise<Material> {
    let entry = this.known.get(name);
    if (!entry) {
      this.warnings.push({
        code: 'obj/material',
        message: `there is no material "${name}"`,
        where: { file: this.file },
      });
      const from: MtlMaterial = { material: { name, metallicFactor: 0 }, maps: [] };
      this.known.set(name, (entry = { from, file: this.file }));
    }
    if (!entry.made) {
      entry.made = entry.from.material;
      this.materials.push(entry.made);
      await this.paint(entry.made, entry.from.maps, entry.file);
    }
    return entry.made;
  }

  private async paint(material: Material, maps: readonly MtlMap[], file: string): Promise<void> {
    const base = maps.find(({ place }) => place === 'baseColorTexture');
    const rough = maps.find(({ word }) => word === 'map_pr');
    for (const map of maps) {
      const { place, path, line, use, word } = map;
      const tell = (message: string): void =>
        void this.warnings.push({ code: 'mtl/map', message, where: { file, line } });
      if (place === 'opacity') {
        if (base && slashes(base.path) === slashes(path)) material.alphaMode = 'blend';
        else
          tell(
            `map_d is left out: opacity is read from the alpha of map_Kd, and "${path}" is another picture`,
          );
        continue;
      }
      if (word === 'map_pm' && rough && slashes(rough.path) !== slashes(path)) {
        tell('map_Pm is left out: metal (blue) and roughness (green) are one picture here');
        continue;
      }
      if (word === 'map_pm' && !rough)
        tell('the green of map_Pm counts as roughness, since there is no map_Pr');
      const image = await this.image(slashes(path), file, line);
      if (!image) continue;
      material[place] = { texture: this.texture(image, map), ...use };
    }
  }

  private texture(image: Image, { isClamped }: MtlMap): Texture {
    const key = `${this.images.indexOf(image)} ${isClamped}`;
    let texture = this.byUse.get(key);
    if (!texture) {
      texture = { image, ...(image.name === undefined ? {} : { name: image.name }) };
      if (isClamped) {
        const sampler: Sampler = { wrapS: 'clamp-to-edge', wrapT: 'clamp-to-edge' };
        if (!this.samplers.some(({ wrapS }) => wrapS === 'clamp-to-edge')) this.samplers.push(sampler);
        texture.sampler = this.samplers[0]!; // pushed above, or before
      }
      this.byUse.set(key, texture);
      this.textures.push(texture);
    }
    return texture;
  }

  private async image(path: string, file: string, line: number): Promise<Image | undefined> {
    if (this.byPath.has(path)) return this.byPath.get(path);
    const tell = (message: string): void =>
      void this.warnings.push({ code: 'obj/picture', message, where: { file, line } });
    const bytes = await this.bytesOf(path);
    let image: Image | undefined;
    if (!bytes) tell(`the picture "${path}" ${this.resolve ? 'is not there' : 'was not asked for'}`);
    else {
      const mimeType = imageTypeOf(bytes);
      if (!mimeType) tell(`"${path}" is no picture of a kind that is read (PNG, JPEG, WebP, AVIF, KTX2)`);
      else {
        const name = path.replace(/^.*\//, '').replace(/\.\w+$/, '');
        image = { name, uri: path, content: { kind: 'encoded', mimeType, bytes } };
        this.images.push(image);
      }
    }
    this.byPath.set(path, image);
    return image;
  }

  /** Undefined for what is not there. What goes wrong otherwise is thrown. */
  private async bytesOf(path: string): Promise<Uint8Array | undefined> {
    // Paths of another machine: the file's own name is likely to lie beside the model.
    const isFar = /^([a-z]:|\/)/i.test(path) || path.split('/').includes('..');
    const near = isFar ? path.replace(/^.*\//, '') : path.replace(/^(\.\/)+/, '');
    if (!this.resolve || near === '') return undefined;
    try {
      return await this.resolve(near);
    } catch (error) {
      if (error instanceof LensError && /missing|http|network/.test(error.code)) return undefined;
      throw error;
    }
  }
}

const slashes = (path: string): string => path.replaceAll('\\', '/').replaceAll(/\/+/g, '/');
