import type { Placing } from '../../animation/placings.js';
import type { Effect } from '../../effects/effect.js';
import { LensError } from '../../errors/lens-error.js';
import { assetFrom, type ModelAsset } from '../../formats/asset/asset.js';
import type { Panorama } from '../../light/panorama.js';
import type { Image, Material, Texture, TextureUse } from '../../material/material.js';
import type { MaterialShader } from '../../material/shader-types.js';
import { KINDS } from '../../properties/kinds.js';
import { madeOf } from '../../properties/made-of.js';
import type { Mesh } from '../../scene/components.js';
import { SceneNode } from '../../scene/scene-node.js';
import { addressOf, relativeAddress } from '../addresses.js';
import { type AppliedSheet, tieOf } from '../apply-sheet.js';
import { same } from '../same.js';
import type { Sheet, SheetEffect, SheetImageLight, SheetMaterial } from '../sheet.js';
import { asJson, kept, type Members, ordered, plain } from './as-json.js';

/** What a sheet names: its models, textures and materials, those it has and those that nodes need. */
export class NamedParts {
  readonly written: Pick<Sheet, 'models' | 'textures' | 'materials'> = {};
  /** Models that are to be written beside the sheet, by address. */
  readonly models = new Map<string, ModelAsset>();
  readonly warnings: LensError[] = [];
  private readonly materials = new Map<Material, string>();
  private readonly textures = new Map<Texture, string>();
  private readonly modelNames = new Map<string, string>();
  private readonly meshModels = new Map<Mesh, string>();

  constructor(
    private readonly sheets: readonly AppliedSheet[],
    private readonly file: string,
  ) {
    for (const applied of sheets) this.take(applied);
    for (const [material, name] of [...this.materials]) this.writeMaterial(material, name);
  }

  /** Names that sheets have keep what they name. */
  private take(applied: AppliedSheet): void {
    const { written } = this;
    const { materials, models, textures } = applied.sheet;
    if (models) written.models = { ...models, ...written.models };
    if (textures) written.textures = { ...textures, ...written.textures };
    if (materials) written.materials = { ...materials, ...written.materials };
    for (const name of Object.keys(materials ?? {})) {
      const material = applied.material(name);
      if (material) this.materials.set(material, name);
    }
    // Those of materials that nothing shows yet, too.
    for (const [name, texture] of tieOf(applied).texturesOf()) this.textures.set(texture, name);
    for (const [name, model] of Object.entries(models ?? {}))
      this.modelNames.set(typeof model === 'string' ? model : `${model.file} ${model.scene ?? ''}`, name);
  }

  warn(code: string, summary: string, hint = ''): void {
    if (this.warnings.some((one) => one.summary === summary)) return;
    this.warnings.push(new LensError(code, summary, { hint }));
  }

  /** A mesh that is of no shapes, as a model beside the sheet. */
  meshModel(mesh: Mesh, name: string): string {
    const known = this.meshModels.get(mesh);
    if (known !== undefined) return known;
    const stem = name || mesh.name || 'mesh';
    const model = free(stem, this.written.models);
    const address = `${model.replace(/[^\w -]/g, '').replaceAll(' ', '-') || 'mesh'}.glb`;
    this.written.models = { ...this.written.models, [model]: address };
    const materials = mesh.primitives.flatMap(({ material }) => material ?? []);
    this.models.set(
      address,
      assetFrom('glTF', [{ children: [], mesh, ...(mesh.name === undefined ? {} : { name: mesh.name }) }], {
        meshes: [mesh],
        materials,
      }),
    );
    this.meshModels.set(mesh, model);
    return model;
  }

  /** Name of a model that was placed in code. */
  modelOf(placing: Placing, name: string): string | undefined {
    const address = addressOf(placing.sources);
    if (address === undefined) {
      this.warn(
        'sheet/model',
        `the model "${name}" was not loaded from an address: its nodes are written one by one`,
        'Load it with loadModel.',
      );
      return undefined;
    }
    const own = relativeAddress(address, this.file);
    const known = this.modelNames.get(own) ?? this.modelNames.get(`${own} `);
    if (known !== undefined) return known;
    const model = free(stemOf(own), this.written.models);
    this.modelNames.set(own, model);
    this.written.models = { ...this.written.models, [model]: own };
    return model;
  }

  nameOfMaterial(material: Material): string | SheetMaterial {
    const known = this.materials.get(material);
    if (known !== undefined) return known;
    const name = free(material.name ?? `material ${this.materials.size + 1}`, this.written.materials);
    this.materials.set(material, name);
    this.written.materials = { ...this.written.materials, [name]: {} };
    this.writeMaterial(material, name);
    return name;
  }

  private writeMaterial(material: Material, name: string): void {
    const given: Members = { ...this.written.materials?.[name] };
    const own: Members = {};
    const { table } = KINDS.material;
    for (const [key, value] of Object.entries(material) as [string, unknown][]) {
      if (key === 'name' || key === 'kept' || value === undefined) continue;
      if (key === 'shader') {
        const shader = (value as MaterialShader).file;
        if (shader) own[key] = given[key] ?? shader;
        else
          this.warn(
            'sheet/shader',
            `the shader of material "${name}" has no file`,
            'Write it into a .wgsl file.',
          );
      } else if (key.endsWith('Texture')) {
        const use = this.textureUse(value as TextureUse, `material "${name}"`);
        if (use !== undefined) own[key] = same(asUse(use), asUse(given[key])) ? given[key] : use;
      } else if (key === 'settings')
        own[key] = this.settings(value as Members, given[key] as Members | undefined);
      else if (key in given || !same(asJson(value), table[key as keyof typeof table]?.default))
        own[key] = kept(given[key], asJson(value));
    }
    this.written.materials![name] = ordered(own, given, Object.keys(table)) as SheetMaterial; // named before
  }

  settings(
    now: Readonly<Record<string, unknown>>,
    given: Readonly<Record<string, unknown>> | undefined,
  ): Members {
    return Object.fromEntries(
      Object.entries(now).flatMap(([key, value]): [string, unknown][] => {
        const before = given?.[key];
        if (typeof value === 'object' && value !== null && ('image' in value || 'texture' in value)) {
          const texture = 'texture' in value ? (value as TextureUse).texture : (value as Texture);
          const name = this.nameOfTexture(texture, 'a setting');
          return name === undefined ? [] : [[key, name]];
        }
        if (typeof before === 'boolean' && value === Number(before)) return [[key, before]];
        return [[key, kept(before, asJson(value))]];
      }),
    );
  }

  private textureUse({ texture, ...more }: TextureUse, of: string): unknown {
    const name = this.nameOfTexture(texture, of);
    if (name === undefined) return undefined;
    // What loads textures has functions of its own beside them.
    const plainMore = Object.fromEntries(
      Object.entries(more).filter(([, value]) => typeof value !== 'function'),
    );
    return Object.keys(plainMore).length > 0 ? { texture: name, ...(asJson(plainMore) as object) } : name;
  }

  private nameOfTexture(texture: Texture, of: string): string | undefined {
    const known = this.textures.get(texture);
    if (known !== undefined) return known;
    const image: Image = texture.image;
    const address = addressOf(image);
    if (address === undefined) {
      this.warn(
        'sheet/texture',
        `a texture of ${of} was not loaded from an address, and is not written`,
        'Load it with loadTexture.',
      );
      return undefined;
    }
    const own = relativeAddress(address, this.file);
    const name = free(texture.name ?? stemOf(own), this.written.textures);
    this.textures.set(texture, name);
    const sampler = texture.sampler ? plain(texture.sampler, KINDS.sampler.table, undefined) : {};
    delete sampler['name'];
    this.written.textures = {
      ...this.written.textures,
      [name]: Object.keys(sampler).length > 0 ? { image: own, ...sampler } : own,
    };
    return name;
  }

  effects(effects: readonly Effect[], of: string): SheetEffect[] {
    return effects.flatMap((effect): SheetEffect[] => {
      const own: Members = {};
      for (const [key, value] of Object.entries(effect as unknown as Members)) {
        if (value === undefined) continue;
        if (value instanceof SceneNode) own[key] = value.path;
        else if (key === 'shader') own[key] = (value as { file?: string }).file;
        else if (key === 'table') own[key] = this.relative(value as object);
        else if (key === 'map' && typeof value === 'object') {
          const texture = 'texture' in value! ? (value as TextureUse).texture : (value as Texture);
          own[key] = this.nameOfTexture(texture, `an effect of ${of}`);
        } else if (key === 'settings') own[key] = this.settings(value as Members, undefined);
        else own[key] = asJson(value);
      }
      const missing = ['shader', 'table', 'map'].find((key) => key in own && own[key] === undefined);
      if (missing !== undefined) {
        this.warn(
          'sheet/effect',
          `an effect of ${of}, ${effect.type}, has a ${missing} without an address, and is not written`,
        );
        return [];
      }
      return [own as unknown as SheetEffect];
    });
  }

  private relative(thing: object): string | undefined {
    for (const sheet of this.sheets) {
      const known = tieOf(sheet).addressOf(thing);
      if (known !== undefined) return known;
    }
    const address = addressOf(thing);
    return address === undefined ? undefined : relativeAddress(address, this.file);
  }

  panorama(panorama: Panorama, what: string): SheetImageLight | undefined {
    const made = madeOf(panorama);
    if (made?.shape === 'sky') return { sky: asJson(made.options) as NonNullable<SheetImageLight['sky']> };
    const address = this.relative(panorama);
    if (address === undefined) {
      this.warn(
        'sheet/panorama',
        `the panorama of the ${what} was not loaded from an address, and is not written`,
        'Load it with loadEnvironment.',
      );
      return undefined;
    }
    const sides = address.split(' ');
    return { image: sides.length === 6 ? sides : address };
  }
}

/** A name that is not taken. */
export function free(name: string, taken: object = {}): string {
  if (!(name in taken)) return name;
  let number = 2;
  while (`${name} ${number}` in taken) number++;
  return `${name} ${number}`;
}

/** Name of a file without its folder and its ending. */
const stemOf = (address: string): string =>
  address
    .split('/')
    .at(-1)! // there is a part
    .replace(/\.\w+$/, '');

/** A texture by its name alone, as one with more to say. */
const asUse = (given: unknown): unknown => (typeof given === 'string' ? { texture: given } : given);
