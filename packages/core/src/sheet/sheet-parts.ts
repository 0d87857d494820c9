import type { Effect } from '../effects/effect.js';
import { LensError } from '../errors/lens-error.js';
import type { Geometry } from '../geometry/geometry.js';
import type { Panorama } from '../light/panorama.js';
import type { Material, SettingValue, Texture, TextureUse } from '../material/material.js';
import type { Mesh, Primitive } from '../scene/components.js';
import type { SceneNode } from '../scene/scene-node.js';
import type { LoadedSheet } from './gather-sheet.js';
import { same } from './same.js';
import { primitivesOf, shapeKey, shapeOf } from './shape-of.js';
import type {
  SheetEffect,
  SheetImageLight,
  SheetMaterial,
  SheetMesh,
  SheetPlaced,
  SheetPrimitive,
} from './sheet.js';

/** Textures, materials and geometries of a sheet: what has the same words is one thing. */
export class SheetParts {
  private loaded: LoadedSheet;
  private readonly textures = new Map<string, Texture>();
  private readonly materials = new Map<string, Material>();
  /** Those that stand where they are used, by their JSON. */
  private readonly inPlace = new Map<string, Material>();
  private readonly geometries = new Map<string, WeakRef<Geometry>>();
  private readonly meshes = new Map<string, WeakRef<Mesh>>();

  constructor(loaded: LoadedSheet) {
    this.loaded = loaded;
  }

  /** Takes a changed sheet: textures and materials of a name stay what they are, and hold what it says now. */
  change(loaded: LoadedSheet): void {
    const before = this.loaded.sheet;
    const filesBefore = this.loaded.files;
    this.loaded = loaded;
    const { files, sheet } = loaded;
    for (const [name, texture] of this.textures) {
      const given = sheet.textures?.[name];
      if (given === undefined) this.textures.delete(name);
      else {
        const address = imageOf(given);
        const isOther = files.image.get(address) !== filesBefore.image.get(address);
        if (!same(given, before.textures?.[name]) || isOther) this.writeTexture(texture, name);
      }
    }
    for (const [name, material] of this.materials) {
      const given = sheet.materials?.[name];
      if (given === undefined) {
        this.materials.delete(name);
        this.meshes.clear();
      } else if (!(same(given, before.materials?.[name]) && this.hasShader(material, given)))
        this.writeMaterial(material, given, name);
    }
  }

  private hasShader({ shader }: Material, given: SheetMaterial): boolean {
    return given.shader === undefined || this.loaded.files.shader.get(given.shader) === shader;
  }

  texture(name: string): Texture {
    let found = this.textures.get(name);
    if (!found) {
      found = {} as Texture; // written at once
      this.textures.set(name, found);
      this.writeTexture(found, name);
    }
    return found;
  }

  private writeTexture(texture: Texture, name: string): void {
    const { files, sheet } = this.loaded;
    const given = sheet.textures![name]!; // names were looked at
    const { image: _image, ...sampler } = typeof given === 'string' ? { image: given } : given;
    texture.name = name;
    texture.image = found(files.image, imageOf(given), this.loaded.file);
    if (Object.keys(sampler).length > 0) texture.sampler = sampler;
    else delete texture.sampler;
  }

  material(given: string | SheetMaterial): Material {
    const [known, key] =
      typeof given === 'string' ? [this.materials, given] : [this.inPlace, JSON.stringify(given)];
    let found = known.get(key);
    if (!found) {
      known.set(key, (found = {}));
      // names were looked at
      if (typeof given === 'string') this.writeMaterial(found, this.loaded.sheet.materials![given]!, given);
      else this.writeMaterial(found, given, '');
    }
    return found;
  }

  texturesOf(): Iterable<[name: string, texture: Texture]> {
    return this.textures;
  }

  /** Has a material hold what is given, and nothing else. */
  writeMaterial(material: Material, given: SheetMaterial, name: string): void {
    const wanted: Record<string, unknown> = this.materialMembers(given);
    if (name !== '') wanted['name'] = name;
    const holder = material as Record<string, unknown>;
    for (const key of Object.keys(holder)) if (!(key in wanted)) delete holder[key];
    Object.assign(holder, wanted);
  }

  /** A sheet's members of a material as a scene has them. */
  materialMembers(given: SheetMaterial): Record<string, unknown> {
    const members: Record<string, unknown> = {};
    for (const [key, value] of Object.entries(given)) {
      if (key.endsWith('Texture')) members[key] = this.textureUse(value as string | { texture: string });
      else if (key === 'shader')
        members[key] = found(this.loaded.files.shader, value as string, this.loaded.file);
      else if (key === 'settings') members[key] = this.settings(value as Record<string, unknown>);
      else members[key] = copied(value);
    }
    return members;
  }

  private textureUse(given: string | { texture: string }): TextureUse {
    if (typeof given === 'string') return { texture: this.texture(given) };
    return { ...(copied(given) as object), texture: this.texture(given.texture) };
  }

  settings(given: Readonly<Record<string, unknown>>): Record<string, SettingValue> {
    return Object.fromEntries(
      Object.entries(given).map(([key, value]): [string, SettingValue] => [
        key,
        typeof value === 'string'
          ? this.texture(value)
          : typeof value === 'boolean'
            ? Number(value)
            : (copied(value) as number | number[]),
      ]),
    );
  }

  /** Equal meshes are one, as those of a model are. */
  mesh(given: NonNullable<SheetPlaced['mesh']>): Mesh {
    const key = JSON.stringify(given);
    const known = this.meshes.get(key)?.deref();
    if (known) return known;
    const made = this.meshOf(given);
    this.meshes.set(key, new WeakRef(made));
    return made;
  }

  private meshOf(given: NonNullable<SheetPlaced['mesh']>): Mesh {
    const primitives = primitivesOf(given).map((one) => this.primitive(one));
    if (Array.isArray(given) || !('primitives' in given)) return { primitives };
    const { primitives: _primitives, ...more } = given as SheetMesh;
    return { ...(copied(more) as object), primitives };
  }

  private primitive(given: SheetPrimitive): Primitive {
    const { material, overlays = [] } = given;
    return {
      geometry: this.geometry(given),
      ...(material === undefined ? {} : { material: this.material(material) }),
      ...(overlays.length > 0 ? { overlays: overlays.map((one) => this.material(one)) } : {}),
    };
  }

  /** Equal shapes share one geometry, as long as somebody has it. */
  private geometry(given: SheetPrimitive): Geometry {
    const key = shapeKey(given);
    const known = this.geometries.get(key)?.deref();
    if (known) return known;
    const made = this.loaded.files.shape.get(key) ?? shapeOf(given);
    this.geometries.set(key, new WeakRef(made));
    return made;
  }

  /** @param nodeAt the node at a path */
  effects(given: readonly SheetEffect[], nodeAt: (path: string) => SceneNode | undefined): Effect[] {
    const { file, files } = this.loaded;
    return given.map((effect) => {
      const made = copied(effect) as Record<string, unknown>;
      const { map, settings, shader, table } = effect;
      if (typeof shader === 'string') made['shader'] = found(files.effect, shader, file);
      if (typeof table === 'string') made['table'] = found(files.table, table, file);
      if (typeof map === 'string' && this.loaded.sheet.textures?.[map] !== undefined && !isResult(given, map))
        made['map'] = this.texture(map);
      if (settings) made['settings'] = this.settings(settings as Record<string, unknown>);
      for (const key of ['focus', 'from']) {
        const path = effect[key];
        if (typeof path !== 'string') continue;
        const node = nodeAt(path);
        if (!node)
          throw new LensError('sheet/name', `there is no node "${path}", which an effect of ${file} names`, {
            where: { file },
          });
        made[key] = node;
      }
      return made as unknown as Effect;
    });
  }

  panorama({ image, sky }: SheetImageLight): Panorama | undefined {
    const key = sky ? JSON.stringify(sky) : Array.isArray(image) ? image.join(' ') : image;
    return key === undefined ? undefined : found(this.loaded.files.panorama, key, this.loaded.file);
  }
}

const isResult = (effects: readonly SheetEffect[], name: string): boolean =>
  effects.some(({ result }) => result === name);

export const imageOf = (given: string | { image: string }): string =>
  typeof given === 'string' ? given : given.image;

/** Something that was to be loaded. @throws LensError `sheet/not-loaded` */
export function found<T>(files: ReadonlyMap<string, T>, address: string, file: string): T {
  const one = files.get(address);
  if (one === undefined)
    throw new LensError('sheet/not-loaded', `"${address}", which ${file} names, was not loaded`, {
      hint: 'Read it with its files: await loadSheet(address).',
    });
  return one;
}

/** JSON of its own, which may be written to. */
export function copied(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(copied);
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, copied(one)]));
}
