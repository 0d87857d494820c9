import type { Effect } from '../effects/effect.js';
import { LensError } from '../errors/lens-error.js';
import type { AssetNode, ModelAsset } from '../formats/asset/asset.js';
import { assetFrom } from '../formats/asset/asset.js';
import { leveledMesh } from '../formats/asset/levels.js';
import { type Placing, placingOf } from '../animation/placings.js';
import type { Geometry } from '../geometry/geometry.js';
import type { Panorama } from '../light/panorama.js';
import type { Image, Material, Texture, TextureUse } from '../material/material.js';
import type { MaterialShader } from '../material/shader-types.js';
import { madeOf } from '../properties/made-of.js';
import { KINDS } from '../properties/kinds.js';
import type { Table } from '../properties/property.js';
import type { Mesh } from '../scene/components.js';
import type { Scene } from '../scene/scene.js';
import { readLocal, SceneNode } from '../scene/scene-node.js';
import { MATRIX, PLACED } from '../columns/flags.js';
import { byColumns } from './node-members.js';
import { Swarm } from '../swarm/swarm.js';
import { addressOf, relativeAddress } from './addresses.js';
import { type AppliedSheet, appliedTo, type Entry, type ShownBy, tieOf } from './apply-sheet.js';
import { rotationOfDegrees } from './degrees.js';
import { NODE_ORDER } from './order.js';
import { same } from './same.js';
import type {
  Sheet,
  SheetAdjustment,
  SheetEffect,
  SheetImageLight,
  SheetMaterial,
  SheetNode,
  SheetPlaced,
} from './sheet.js';

export interface WriteSheetOptions {
  /** Address that it will have: what it names is relative to that. Default: that of a sheet that stands in the scene. */
  file?: string;
  /** Has its look, view and finish written. */
  lens?: ShownBy;
  /** The node whose camera it starts with. Default: as a sheet of the scene has it. */
  camera?: SceneNode;
}

export interface WrittenSheet {
  sheet: Sheet;
  /** Geometries that are no shapes, as models that the sheet names: by address. To be written beside it (`writeGlb`). */
  models: Map<string, ModelAsset>;
  /** What sheets have no place for. */
  warnings: LensError[];
}

/**
 * A whole new sheet of a scene. What came out of a sheet keeps its words (`degrees`, names, order), as far as it is still so; everything
 * else is written as it is now, without what is at its default. Nodes that models brought stand as adjustments.
 *
 * Not in sheets, and told in `warnings`: swarms, poses, probes, effects and materials with shaders without a file, textures
 * that were not loaded from an address, nodes that were hung below nodes of a model.
 */
export function writeSheet(scene: Scene, options: WriteSheetOptions = {}): WrittenSheet {
  scene.update();
  return new SheetWriter(scene, options).write();
}

type Members = Record<string, unknown>;

class SheetWriter {
  private readonly sheets: readonly AppliedSheet[];
  private readonly file: string;
  private readonly base: Sheet;
  private readonly materials = new Map<Material, string>();
  private readonly textures = new Map<Texture, string>();
  private readonly modelNames = new Map<string, string>();
  private readonly written: Sheet;
  private readonly models = new Map<string, ModelAsset>();
  private readonly meshModels = new Map<Mesh, string>();
  private readonly warnings: LensError[] = [];

  constructor(
    private readonly scene: Scene,
    private readonly options: WriteSheetOptions,
  ) {
    this.sheets = appliedTo(scene).filter(({ sheet }) => !sheet.adjust);
    const [first] = this.sheets;
    this.file = options.file ?? first?.file ?? 'scene.sheet.json';
    this.base = first?.sheet ?? { sheet: 1 };
    this.written = { ...this.base };
    for (const applied of this.sheets) this.takeNames(applied);
  }

  /** Names that sheets have keep what they name. */
  private takeNames(applied: AppliedSheet): void {
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

  write(): WrittenSheet {
    const { written } = this;
    // What is written as it is now needs materials as they are now.
    for (const [material, name] of [...this.materials]) this.writeMaterial(material, name);
    const nodes = this.siblings(this.scene.root);
    const { nodes: _nodes, ...rest } = written;
    const sheet: Sheet = 'nodes' in this.base || nodes.length === 0 ? { ...written } : rest;
    if (nodes.length > 0 || 'nodes' in this.base) sheet.nodes = nodes;
    this.writeAround(sheet);
    return { sheet, models: this.models, warnings: this.warnings };
  }

  private warn(code: string, summary: string, hint = ''): void {
    if (this.warnings.some((one) => one.summary === summary)) return;
    this.warnings.push(new LensError(code, summary, { hint }));
  }

  private siblings(parent: SceneNode): SheetNode[] {
    const found: SheetNode[] = [];
    const names = new Set<string>();
    for (const child of parent.children()) {
      const made = this.node(child);
      // Siblings need names of their own.
      if (made.name !== undefined && names.has(made.name)) {
        let number = 2;
        while (names.has(`${made.name} ${number}`)) number++;
        made.name = `${made.name} ${number}`;
      }
      if (made.name?.includes('/')) made.name = made.name.replaceAll('/', ' ');
      if (made.name !== undefined) names.add(made.name);
      found.push(made);
    }
    return found;
  }

  private node(node: SceneNode): SheetNode {
    const tie = this.sheets.map((sheet) => tieOf(sheet).entryOf(node)).find((entry) => entry !== undefined);
    const given: SheetNode = tie?.given ?? {};
    const placing = placingOf(node);
    const own: Members = { ...this.placed(node, given, tie?.mesh) };
    if (node.name !== '') own['name'] = node.name;
    if (given.model !== undefined && tie?.asset) {
      own['model'] = given.model;
      this.adjustments(node, placing, own, given);
      delete own['mesh'];
    } else if (placing && given.sheet === undefined) {
      const model = this.modelOf(placing, node.name);
      if (model !== undefined) {
        own['model'] = model;
        this.adjustments(node, placing, own, given);
        delete own['mesh'];
      }
    }
    if (given.sheet !== undefined && tie?.nested) {
      own['sheet'] = given.sheet;
      const adjust = this.nestedAdjustments(tie.nested, given.adjust ?? {});
      if (Object.keys(adjust).length > 0) own['adjust'] = adjust;
    }
    // Of a model that cannot be named all nodes are written.
    const below = this.childrenOf(node, own['model'] === undefined ? undefined : placing, tie);
    if (below.length > 0 || given.children) own['children'] = below;
    return ordered(own, given, NODE_ORDER) as SheetNode;
  }

  /** Nodes below one that its model or its sheet did not bring. */
  private childrenOf(node: SceneNode, placing: Placing | undefined, tie: Entry | undefined): SheetNode[] {
    const nested = tie?.nested;
    if (!placing && !nested) return this.siblings(node);
    const brought = new Set(placing?.nodeOf.values());
    const found: SheetNode[] = [];
    for (const child of node.children())
      if (!brought.has(child) && !(nested && tieOf(nested).entryOf(child))) found.push(this.node(child));
    return found;
  }

  /** What is other about nodes that a model brought. */
  private adjustments(node: SceneNode, placing: Placing | undefined, own: Members, given: SheetNode): void {
    if (!placing) return;
    const adjust: Record<string, SheetAdjustment> = {};
    const brought = new Set(placing.nodeOf.values());
    for (const [source, made] of placing.nodeOf) {
      if (!made.isAlive) continue;
      const path = pathFrom(node, made);
      if (path === undefined) continue;
      const noted = given.adjust?.[path] ?? {};
      const other = this.differences(made, source as AssetNode, noted);
      if (Object.keys(other).length > 0) adjust[path] = other;
      for (const child of made.children())
        // Copies of a mesh have the name of their node.
        if (!brought.has(child) && child.name !== made.name)
          this.warn(
            'sheet/below',
            `"${child.path}" hangs below a node of a model, and is not written`,
            'Hang it from the node of the model itself.',
          );
    }
    const whole = ordered(adjust, given.adjust ?? {}, []);
    if (Object.keys(whole).length > 0) own['adjust'] = whole;
  }

  private differences(node: SceneNode, source: AssetNode, noted: SheetAdjustment): SheetAdjustment {
    const usual: SheetNode = {
      ...(source.matrix ? { matrix: source.matrix } : {}),
      ...(source.translation ? { translation: source.translation } : {}),
      ...(source.rotation ? { rotation: source.rotation } : {}),
      ...(source.scale ? { scale: source.scale } : {}),
      ...(source.visible === false ? { visible: false } : {}),
      ...(source.light ? { light: source.light } : {}),
      ...(source.camera ? { camera: source.camera } : {}),
      ...(source.extras === undefined ? {} : { extras: source.extras }),
    };
    const { camera: _camera, light: _light, ...said } = noted;
    const now = this.placed(node, { ...usual, ...said }, undefined) as Members;
    const found: Members = {};
    const mesh = source.instances ? undefined : leveledMesh(source);
    for (const [key, value] of Object.entries(now)) {
      if (key === 'mesh' && (source.instances || sameMesh(node.mesh, mesh))) continue;
      if (key === 'mesh' && !noted.mesh) continue;
      if (key === 'light' || key === 'camera') {
        const parts = changedMembers(value as Members, (source[key] ?? {}) as unknown as Members);
        if (Object.keys(parts).length > 0) found[key] = parts;
        continue;
      }
      if (key in noted || !same(value, usual[key as keyof SheetNode])) found[key] = value;
    }
    // A place that went back to its default is said.
    for (const key of ['translation', 'rotation', 'scale'] as const)
      if (usual[key] && !(key in now) && !('degrees' in now) && !('matrix' in now))
        found[key] = DEFAULTS[key];
    if (source.visible === false && node.visible) found['visible'] = true;
    return ordered(found, noted, NODE_ORDER) as SheetAdjustment;
  }

  /** What is other about nodes of another sheet: its adjustments, and what was written to it since. */
  private nestedAdjustments(
    nested: AppliedSheet,
    noted: Readonly<Record<string, SheetAdjustment>>,
  ): Record<string, SheetAdjustment> {
    const adjust: Record<string, SheetAdjustment> = {};
    for (const [path, value] of Object.entries(noted)) adjust[path] = { ...value };
    tieOf(nested).eachEntry((entry, path) => {
      const now = this.placed(entry.node, entry.given, entry.mesh) as Members;
      for (const [key, value] of Object.entries(now))
        if (key !== 'name' && !same(value, entry.given[key as keyof SheetNode]))
          (adjust[path] ??= {})[key as keyof SheetAdjustment] = value as never;
    });
    return adjust;
  }

  /** What nodes and adjustments have in common. Where it is as it was given, in the words of that. */
  private placed(node: SceneNode, given: SheetNode, mesh: Mesh | undefined): SheetPlaced & Members {
    const own: Members = { ...this.transform(node, given) };
    const write = (key: keyof SheetPlaced, value: unknown, usual: unknown): void => {
      if (!same(value, usual)) own[key] = value;
      else if (key in given && same(given[key], usual)) own[key] = usual;
    };
    write('visible', node.visible, true);
    write('castsShadow', node.castsShadow, true);
    write('receivesShadow', node.receivesShadow, true);
    write('visibleTo', node.visibleTo, 0xffffffff);
    if (node.effects.length > 0 || given.effects)
      own['effects'] = this.effects(node.effects, `node "${node.name}"`);
    if (node.light) own['light'] = plain(node.light, KINDS.light.table, given.light);
    if (node.camera) own['camera'] = plain(node.camera, KINDS.camera.table, given.camera);
    if (node.settings) own['settings'] = this.settings(node.settings, given.settings);
    if (node.extras !== undefined) own['extras'] = node.extras;
    const { weights } = node;
    if (weights && (given.weights || Object.values(weights).some((one) => one !== 0)))
      own['weights'] = Object.fromEntries(
        Object.entries(weights)
          .filter(([name, value]) => value !== 0 || given.weights?.[name] !== undefined)
          .map(([name, value]) => [name, kept(given.weights?.[name], value)]),
      );
    else if (given.weights) own['weights'] = given.weights;
    if (node.mesh) {
      const made = given.mesh && node.mesh === mesh ? given.mesh : this.mesh(node.mesh, node, own);
      if (made) own['mesh'] = made;
    }
    return own as SheetPlaced & Members;
  }

  private transform(node: SceneNode, given: SheetNode): Members {
    const { degrees, matrix, rotation, scale, translation } = given;
    const [t, r, s] = [
      node.readTranslation([0, 0, 0]),
      node.readRotation([0, 0, 0, 1]),
      node.readScale([1, 1, 1]),
    ];
    const world = matrixOf(node);
    if (matrix && near(world, matrix)) return { matrix };
    // What turns and scales cannot say, a matrix does.
    if (isMatrix(node)) return { matrix: world.map(rounded) };
    const own: Members = {};
    if (translation && near(t, translation)) own['translation'] = translation;
    else if (!near(t, [0, 0, 0]) || translation) own['translation'] = t.map(rounded);
    if (degrees && nearTurn(r, rotationOfDegrees(degrees))) own['degrees'] = degrees;
    else if (rotation && nearTurn(r, rotation)) own['rotation'] = rotation;
    else if (!nearTurn(r, [0, 0, 0, 1]) || rotation || degrees) own['rotation'] = r.map(rounded);
    if (scale && near(s, scale)) own['scale'] = scale;
    else if (!near(s, [1, 1, 1]) || scale) own['scale'] = s.map(rounded);
    return own;
  }

  private mesh(mesh: Mesh, node: SceneNode, own: Members): unknown {
    if (mesh instanceof Swarm) {
      this.warn(
        'sheet/swarm',
        `node "${node.name}" carries a swarm, which sheets have no place for`,
        'Make it in code, below a node of the sheet.',
      );
      return undefined;
    }
    const primitives = mesh.primitives.map(({ geometry, material }) => {
      const made = madeOf(geometry as Geometry);
      if (!made) return undefined;
      return {
        shape: made.shape,
        ...(asJson(made.options) as object),
        ...(material ? { material: this.nameOfMaterial(material) } : {}),
      };
    });
    if (primitives.includes(undefined)) {
      own['model'] = this.meshModel(mesh, node.name);
      return undefined;
    }
    const more: Members = {};
    if (mesh.name !== undefined) more['name'] = mesh.name;
    if (mesh.weights) more['weights'] = mesh.weights;
    if (mesh.boundsMargin !== undefined) more['boundsMargin'] = mesh.boundsMargin;
    if (Object.keys(more).length > 0) return { ...more, primitives };
    return primitives.length === 1 ? primitives[0] : primitives;
  }

  /** A mesh that is of no shapes, as a model beside the sheet. */
  private meshModel(mesh: Mesh, name: string): string {
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
  private modelOf(placing: Placing, name: string): string | undefined {
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
    const stem = own
      .split('/')
      .at(-1)!
      .replace(/\.\w+$/, ''); // there is a part
    const model = free(stem, this.written.models);
    this.modelNames.set(own, model);
    this.written.models = { ...this.written.models, [model]: own };
    return model;
  }

  private nameOfMaterial(material: Material): string | SheetMaterial {
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

  private settings(
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
    const name = free(
      texture.name ??
        own
          .split('/')
          .at(-1)!
          .replace(/\.\w+$/, ''),
      this.written.textures,
    ); // there is a part
    this.textures.set(texture, name);
    const sampler = texture.sampler ? plain(texture.sampler, KINDS.sampler.table, undefined) : {};
    delete sampler['name'];
    this.written.textures = {
      ...this.written.textures,
      [name]: Object.keys(sampler).length > 0 ? { image: own, ...sampler } : own,
    };
    return name;
  }

  private effects(effects: readonly Effect[], of: string): SheetEffect[] {
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

  private panorama(panorama: Panorama, what: string): SheetImageLight | undefined {
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

  private writeAround(sheet: Sheet): void {
    const { base, options, scene } = this;
    const members = sheet as unknown as Members;
    const write = (key: keyof Sheet, value: unknown): void => {
      if (value === undefined) delete members[key];
      else members[key] = same(value, base[key]) ? base[key] : value;
    };
    write('name', scene.name || undefined);
    const clear = asJson(scene.clearColor);
    write(
      'clearColor',
      same(clear, [0, 0, 0, 0]) && !base.clearColor ? undefined : kept(base.clearColor, clear),
    );
    write('fog', scene.fog && asJson(scene.fog));
    const { backdrop, imageLight } = scene;
    const light = imageLight && this.panorama(imageLight.panorama, 'image light');
    write(
      'imageLight',
      light && { ...reordered(base.imageLight, { ...light, ...rest(imageLight, base.imageLight) }) },
    );
    const isShared = backdrop && imageLight && backdrop.panorama === imageLight.panorama;
    const behind =
      backdrop &&
      (isShared && !base.backdrop?.image && !base.backdrop?.sky
        ? {}
        : this.panorama(backdrop.panorama, 'backdrop'));
    write(
      'backdrop',
      behind && { ...reordered(base.backdrop, { ...behind, ...rest(backdrop, base.backdrop) }) },
    );
    const { clipping } = scene;
    write(
      'clipping',
      clipping && { planes: asJson(clipping.planes), ...(clipping.node ? { node: clipping.node.path } : {}) },
    );
    if (options.camera) write('camera', options.camera.path);
    const { lens } = options;
    if (!lens) return;
    write(
      'finish',
      lens.view.finish.length > 0 || base.finish ? this.effects(lens.view.finish, 'the picture') : undefined,
    );
    const look = plain(lens.look, KINDS.look.table, base.look);
    write('look', Object.keys(look).length > 0 || base.look ? look : undefined);
    const { finish: _finish, ...shown } = lens.view;
    const view = plain(shown, KINDS.view.table, base.view);
    if (Object.keys((view['culling'] as object | undefined) ?? {}).length === 0 && !base.view?.['culling'])
      delete view['culling'];
    write('view', Object.keys(view).length > 0 || base.view ? view : undefined);
  }
}

const DEFAULTS = { translation: [0, 0, 0], rotation: [0, 0, 0, 1], scale: [1, 1, 1] };

/** Members in the order of what was given, then of a list, then of their own. */
function ordered(own: Members, given: object, order: readonly string[]): Members {
  const keys = [...Object.keys(given), ...order, ...Object.keys(own)];
  return Object.fromEntries(
    [...new Set(keys)].filter((key) => own[key] !== undefined).map((key) => [key, own[key]]),
  );
}
const reordered = (given: object | undefined, own: Members): Members => ordered(own, given ?? {}, []);

/** Members of a plain thing that are not at their default, or were given. */
function plain(thing: object, table: Table, given: object | undefined): Members {
  const before = (given ?? {}) as Members;
  const own: Members = {};
  for (const [key, value] of Object.entries(thing) as [string, unknown][]) {
    if (value === undefined || typeof value === 'function') continue;
    const json = asJson(value);
    const isUsual = same(json, table[key]?.default);
    if (isUsual && !(key in before)) continue;
    own[key] = kept(before[key], json);
  }
  return ordered(own, before, Object.keys(table));
}

function rest(thing: object, given: object | undefined): Members {
  const { panorama: _panorama, ...members } = thing as { panorama?: unknown };
  return plain(members, {}, given);
}

/** Members that are other than those of something. */
const changedMembers = (now: Members, usual: Members): Members =>
  Object.fromEntries(
    Object.entries(now).filter(([key, value]) => key !== 'type' && !same(value, asJson(usual[key]))),
  );

/** As it was given, where that is the same. */
const kept = (given: unknown, now: unknown): unknown =>
  given !== undefined && (same(given, now) || near(now, given)) ? given : now;

/** JSON of what a scene holds: typed arrays become lists. */
function asJson(value: unknown): unknown {
  if (ArrayBuffer.isView(value) && !(value instanceof DataView))
    return Array.from(value as Float32Array, rounded);
  if (Array.isArray(value)) return value.map(asJson);
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(
    Object.entries(value)
      .filter(([, one]) => one !== undefined && typeof one !== 'function')
      .map(([key, one]) => [key, asJson(one)]),
  );
}

/** A number of 32 bits in as few digits as tell it apart. */
function rounded(value: number): number {
  for (let digits = 6; digits < 9; digits++) {
    const short = Number(value.toPrecision(digits));
    if (Math.fround(short) === Math.fround(value)) return short === 0 ? 0 : short;
  }
  return value;
}

function near(now: unknown, given: unknown): boolean {
  if (typeof now === 'number' && typeof given === 'number')
    return Math.abs(now - given) <= 1e-6 * Math.max(1, Math.abs(given));
  if (!Array.isArray(now) || !Array.isArray(given) || now.length !== given.length) return false;
  return now.every((one, i) => near(one, given[i]));
}

/** A turn and its opposite in sign are the same. */
const nearTurn = (now: readonly number[], given: ArrayLike<number>): boolean => {
  const length = Math.hypot(...Array.from(given)) || 1;
  const dot = now.reduce((sum, one, i) => sum + (one * given[i]!) / length, 0); // four each
  return (
    Math.abs(dot) > 1 - 1e-7 &&
    now.every((one, i) => Math.abs(one * Math.sign(dot) - given[i]! / length) < 2e-6)
  );
};

const matrixOf = (node: SceneNode): number[] => byColumns(readLocal(node, new Float32Array(12)));

/** Whether its place was given as a matrix. */
const isMatrix = (node: SceneNode): boolean =>
  (node.scene.columns.flags[node.row]! & (MATRIX | PLACED)) !== 0; // it is alive

const sameMesh = (a: Mesh | undefined, b: Mesh | undefined): boolean =>
  a === b ||
  (a?.primitives.length === b?.primitives.length &&
    a !== undefined &&
    a.primitives.every(({ geometry, material }, i) => {
      const other = b!.primitives[i]!; // as many
      return geometry === other.geometry && (material === other.material || material === other.standard);
    }));

/** A texture by its name alone, as one with more to say. */
const asUse = (given: unknown): unknown => (typeof given === 'string' ? { texture: given } : given);

/** A name that is not taken. */
function free(name: string, taken: object = {}): string {
  if (!(name in taken)) return name;
  let number = 2;
  while (`${name} ${number}` in taken) number++;
  return `${name} ${number}`;
}

/** Path of names from one node down to another; undefined where one on the way has none. */
function pathFrom(top: SceneNode, node: SceneNode): string | undefined {
  const names: string[] = [];
  for (let at: SceneNode | undefined = node; at && at !== top; at = at.parent) {
    if (at.name === '') return undefined;
    names.unshift(at.name);
  }
  return names.join('/');
}
