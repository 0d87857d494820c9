import type { Effect } from '../effects/effect.js';
import { LensError } from '../errors/lens-error.js';
import { nearHint } from '../errors/near-names.js';
import { placeAsset } from '../formats/asset/place.js';
import type { ModelAsset } from '../formats/asset/asset.js';
import type { Material, Texture } from '../material/material.js';
import type { Camera, Light, Mesh } from '../scene/components.js';
import type { NodeOptions, Scene } from '../scene/scene.js';
import { rotationOfDegrees } from './degrees.js';
import type { SceneNode } from '../scene/scene-node.js';
import { type LoadedSheet, noFiles, type SheetNames } from './gather-sheet.js';
import { adjustNode, type Before, restore, TRANSFORM, type Writing, writeMembers } from './node-members.js';
import { same } from './same.js';
import type { Sheet, SheetAdjustment, SheetNode } from './sheet.js';
import { adjusted } from './adjusted-sheet.js';
import { adjustMaterials, fileOf } from './model-materials.js';
import { copied, found, SheetParts } from './sheet-parts.js';
import { type ShownBy, writeLook, writeSurroundings } from './write-scene.js';

export interface ApplyOptions {
  /** Takes the sheet's look, view and finish. Left out: they do not count. */
  lens?: ShownBy;
  /** What the sheet's nodes hang from. Default: the scene itself. With it, what is around the scene does not count. */
  parent?: SceneNode;
}

/** A sheet as it stands in a scene. */
export interface AppliedSheet<N extends SheetNames = SheetNames> {
  /** Its address, or what was given as its name. */
  readonly file: string;
  /** What it says, as it was applied last. */
  readonly sheet: Sheet;
  /** The node to look through first. */
  readonly camera: SceneNode | undefined;
  /** Its finish, for a lens that was not given. */
  readonly finish: readonly Effect[];
  /** The node at a path of its names, into models and other sheets. */
  find(path: N['node']): SceneNode | undefined;
  /** The material of a name. */
  material(name: N['material']): Material | undefined;
  /** Where a node comes from; undefined for nodes of others. */
  placeOf(node: SceneNode): SheetPlace | undefined;
  /** Takes away what it brought into the scene. */
  remove(): void;
}

/** What of a sheet a node is. */
export interface SheetPlace {
  /** Address of the sheet. */
  file: string;
  /** Path of names to its node in the sheet: for `sheetEdit`. */
  path: string;
  /** Of a node within a model or another sheet: its path from there, the key of its adjustment. */
  within?: string;
}

/** Nodes that stand in a scene already, and will stand in a sheet. */
const offered = new WeakSet<SceneNode>();

/** Has a sheet that brings a node of the same name to the same place take this one, with all below it. */
export function offerNode(node: SceneNode): void {
  offered.add(node);
  for (const below of node.descendants()) offered.add(below);
}

/** Children of a node that were offered, by name: the first of each. */
function offeredBelow(parent: SceneNode): ReadonlyMap<string, SceneNode> {
  const byName = new Map<string, SceneNode>();
  for (const node of parent.children())
    if (node.name !== '' && offered.has(node) && !byName.has(node.name)) byName.set(node.name, node);
  return byName;
}

/** What stands in scenes, by the sheet's address and what it hangs from. */
const applied = new WeakMap<Scene, Map<SceneNode, Map<string, Applied>>>();

/**
 * Places a sheet in a scene. The same sheet once more, changed, changes what differs: nodes, materials, lights and cameras stay the
 * same objects, and what the page has written to them stays where the sheet says the same as before.
 *
 *     const stage = applySheet(scene, await loadSheet('stage.sheet.json'), { lens });
 *     lens.run(() => lens.draw(scene, stage.camera));
 *
 * A sheet with `adjust` at its top is of a scene that is made elsewhere: it changes the nodes at those paths, and has them as they
 * were where it no longer names them.
 *
 * @param sheet of `loadSheet` or `gatherSheet`; one of `readSheet` that names no other files
 * @throws LensError `sheet/not-loaded`, `sheet/adjust` for paths without a node; nothing is changed then
 */
export function applySheet<N extends SheetNames = SheetNames>(
  scene: Scene,
  sheet: LoadedSheet<N> | Sheet,
  options: ApplyOptions = {},
): AppliedSheet<N> {
  const loaded = 'files' in sheet ? sheet : { file: 'sheet', sheet, files: noFiles() };
  const { parent = scene.root } = options;
  let byParent = applied.get(scene);
  if (!byParent) applied.set(scene, (byParent = new Map<SceneNode, Map<string, Applied>>()));
  let byFile = byParent.get(parent);
  if (!byFile) byParent.set(parent, (byFile = new Map<string, Applied>()));
  const known = byFile.get(loaded.file);
  if (known) {
    known.change(loaded, options);
    return known;
  }
  const made = new Applied(scene, parent, loaded, () => byFile.delete(loaded.file));
  made.change(loaded, options);
  byFile.set(loaded.file, made);
  return made;
}

/** Of which sheet a node of a scene is; undefined for nodes of others. */
export function sheetPlaceOf(node: SceneNode): SheetPlace | undefined {
  for (const byFile of applied.get(node.scene)?.values() ?? [])
    for (const one of byFile.values()) {
      const place = one.placeOf(node);
      if (place) return place;
    }
  return undefined;
}

/** Sheets that stand in a scene. */
export const appliedTo = (scene: Scene): AppliedSheet[] =>
  [...(applied.get(scene)?.values() ?? [])].flatMap((byFile) => [...byFile.values()]);

/** What writers of sheets ask of one that stands in a scene. */
export interface SheetTie {
  entryOf(node: SceneNode): Entry | undefined;
  /** Nodes of it, with their paths. */
  eachEntry(visit: (entry: Entry, path: string) => void): void;
  texturesOf(): Iterable<[name: string, texture: Texture]>;
  /** How it names something that was loaded. */
  addressOf(thing: object): string | undefined;
}

export const tieOf = (sheet: AppliedSheet): SheetTie => sheet as Applied;

/** A node of a sheet in a scene. */
export interface Entry {
  given: SheetNode;
  node: SceneNode;
  /** By name, or by number of those without one. */
  children: ReadonlyMap<string, Entry>;
  /** What it was made of, where it is a model or another sheet. */
  asset?: ModelAsset;
  nested?: Applied;
  /** What it carried when its mesh was written. */
  mesh?: Mesh | undefined;
  /** What adjustments changed, by path; undefined where there were none. */
  before?: Map<string, Before>;
}

/** Most nodes have no children: they share this. */
const NO_CHILDREN: ReadonlyMap<string, Entry> = new Map<string, Entry>();

/** Members of a node that are written to it as they stand. */
const WRITTEN = [
  ...TRANSFORM,
  ...['visible', 'castsShadow', 'receivesShadow', 'visibleTo', 'effects', 'mesh', 'camera', 'light'],
  ...['settings', 'weights', 'extras'],
] as const;

/** Those that are written when the node is there. */
const LATE = ['effects', 'settings', 'weights'] as const;

class Applied implements AppliedSheet, SheetTie {
  private loaded: LoadedSheet;
  private readonly parts: SheetParts;
  private entries = NO_CHILDREN;
  private readonly byNode = new Map<SceneNode, Entry>();
  /** Of adjustments of the scene itself, by path. */
  private readonly before = new Map<string, Before>();
  private waiting: (() => void)[] = [];
  private readonly writing: Writing;
  private around: Sheet = { sheet: 1 };
  /** What each lens was given last: one may come later than the sheet. */
  private readonly shownBy = new WeakMap<ShownBy, Sheet>();
  private looking: SceneNode | undefined;
  /** Whether models or other sheets are not those of before. */
  private hasOtherFiles = false;
  finish: readonly Effect[] = [];

  constructor(
    private readonly scene: Scene,
    private readonly parent: SceneNode,
    loaded: LoadedSheet,
    private readonly onRemove: () => void,
  ) {
    this.loaded = loaded;
    this.parts = new SheetParts(loaded);
    this.writing = {
      parts: this.parts,
      later: (act) => void this.waiting.push(act),
      nodeAt: (path) => this.find(path),
    };
  }

  get file(): string {
    return this.loaded.file;
  }

  get sheet(): Sheet {
    return this.loaded.sheet;
  }

  get camera(): SceneNode | undefined {
    return this.sheet.camera !== undefined && this.looking?.isAlive ? this.looking : undefined;
  }

  change(loaded: LoadedSheet, { lens, parent }: ApplyOptions): void {
    this.refuseMissing(loaded);
    const { files } = this.loaded;
    // Other sheets are new each time they are loaded: they are looked into.
    const hasOtherModels = isOther(files.model, loaded.files.model);
    this.hasOtherFiles = hasOtherModels || loaded.files.sheet.size > 0;
    const hasOtherLight = isOther(files.panorama, loaded.files.panorama);
    if (loaded !== this.loaded) {
      this.loaded = loaded;
      this.parts.change(loaded);
    }
    const { sheet } = loaded;
    adjustMaterials(sheet.models ?? {}, this.around.models, loaded, this.parts, hasOtherModels);
    this.entries = this.list(sheet.nodes ?? [], this.entries, this.parent);
    for (const act of this.waiting.splice(0)) act();
    if (!same(sheet.adjust, this.around.adjust))
      this.adjustAll(sheet.adjust ?? {}, this.before, (path) => this.parent.findPath(path));
    const nodeAt = (path: string): SceneNode | undefined => this.find(path);
    if (!parent) writeSurroundings(this.scene, sheet, this.around, this.parts, nodeAt, hasOtherLight);
    this.finish = same(sheet.finish, this.around.finish)
      ? this.finish
      : this.parts.effects(sheet.finish ?? [], nodeAt);
    if (lens) {
      writeLook(lens, sheet, this.shownBy.get(lens), this.finish);
      this.shownBy.set(lens, sheet);
    }
    // Pages may hang it elsewhere.
    this.looking = (sheet.camera === undefined ? undefined : this.find(sheet.camera)) ?? this.looking;
    this.around = sheet;
  }

  /** @throws LensError before anything is changed */
  private refuseMissing({ file, files, sheet }: LoadedSheet): void {
    for (const model of Object.values(sheet.models ?? {})) found(files.model, fileOf(model), file);
    for (const path of Object.keys(sheet.adjust ?? {})) {
      let at = this.parent;
      for (const part of path.split('/')) {
        const next = at.findPath(part);
        if (!next)
          throw new LensError('sheet/adjust', `the scene has no node "${path}", which ${file} adjusts`, {
            where: { file },
            hint: nearHint(part, [...at.children()].map(({ name }) => name).filter(Boolean)),
          });
        at = next;
      }
    }
  }

  /** Brings a list of siblings to what a sheet says. */
  private list(
    given: readonly SheetNode[],
    before: ReadonlyMap<string, Entry>,
    parent: SceneNode,
  ): ReadonlyMap<string, Entry> {
    if (given.length === 0 && before.size === 0) return NO_CHILDREN;
    const now = new Map<string, Entry>();
    const offers = offeredBelow(parent);
    let unnamed = 0;
    for (let i = 0; i < given.length; i++) {
      const node = given[i]!; // i < length
      const key = node.name ?? `#${unnamed++}`;
      const known = before.get(key);
      const entry = known && this.isStill(known, node) ? known : undefined;
      if (known && !entry) this.drop(known);
      now.set(key, entry ? this.changed(entry, node) : (this.taken(node, offers) ?? this.made(node, parent)));
    }
    for (const [key, entry] of before) if (!now.has(key)) this.drop(entry);
    return now;
  }

  /** One that was offered, as the sheet says it. */
  private taken(given: SheetNode, offers: ReadonlyMap<string, SceneNode>): Entry | undefined {
    if (given.sheet !== undefined || given.name === undefined) return undefined;
    const node = offers.get(given.name);
    if (!node?.isAlive || this.byNode.has(node)) return undefined;
    offered.delete(node);
    const entry: Entry = { given, children: NO_CHILDREN, node };
    if (given.model !== undefined) entry.asset = this.assetOf(given.model).asset;
    this.byNode.set(node, entry);
    const names = new Set<string>(WRITTEN.filter((key) => key in given));
    if (names.size > 0) writeMembers(node, given, names, this.writing);
    entry.mesh = node.mesh;
    if (given.adjust && given.model !== undefined) this.adjustBelow(entry, given.adjust);
    entry.children = this.list(given.children ?? [], entry.children, node);
    return entry;
  }

  /** Whether a node can become what a sheet says by being written to. */
  private isStill({ asset, given, nested, node }: Entry, { model, sheet }: SheetNode): boolean {
    if (!node.isAlive || given.model !== model || given.sheet !== sheet) return false;
    if (model !== undefined && this.assetOf(model).asset !== asset) return false;
    return sheet === undefined || nested !== undefined;
  }

  private assetOf(name: string): { asset: ModelAsset; scene: string | undefined } {
    const { file, files, sheet } = this.loaded;
    const model = sheet.models![name]!; // names were looked at
    return {
      asset: found(files.model, fileOf(model), file),
      scene: typeof model === 'object' ? model.scene : undefined,
    };
  }

  private made(given: SheetNode, parent: SceneNode): Entry {
    const { children, model, name, sheet } = given;
    const entry: Entry = { given, children: NO_CHILDREN, node: parent };
    if (model !== undefined) {
      const { asset, scene } = this.assetOf(model);
      entry.asset = asset;
      entry.node = placeAsset(asset, this.scene, {
        name: name ?? '',
        parent,
        ...(scene === undefined ? {} : { scene }),
      }).node;
    } else entry.node = this.scene.createNode(this.optionsOf(given, parent));
    this.byNode.set(entry.node, entry);
    const names = new Set<string>();
    // Nodes that were made have most of it.
    const written: readonly string[] = model === undefined ? LATE : WRITTEN;
    for (const key of written) if (key in given) names.add(key);
    if (names.size > 0) writeMembers(entry.node, given, names, this.writing);
    entry.mesh = entry.node.mesh;
    if (sheet !== undefined) this.nest(entry, given);
    if (given.adjust && model !== undefined) this.adjustBelow(entry, given.adjust);
    if (children) entry.children = this.list(children, entry.children, entry.node);
    return entry;
  }

  /** What a node is made with: what needs no other nodes. */
  private optionsOf(given: SheetNode, parent: SceneNode): NodeOptions {
    const { camera, castsShadow, degrees, extras, light, matrix, mesh, name, receivesShadow } = given;
    const {
      rotation = degrees && rotationOfDegrees(degrees),
      scale,
      translation,
      visible,
      visibleTo,
    } = given;
    const options: NodeOptions = { parent };
    if (name !== undefined) options.name = name;
    if (translation) options.translation = translation;
    if (rotation) options.rotation = rotation;
    if (scale) options.scale = scale;
    if (matrix) options.matrix = matrix;
    if (visible !== undefined) options.visible = visible;
    if (castsShadow !== undefined) options.castsShadow = castsShadow;
    if (receivesShadow !== undefined) options.receivesShadow = receivesShadow;
    if (visibleTo !== undefined) options.visibleTo = visibleTo;
    if (mesh) options.mesh = this.parts.mesh(mesh);
    if (camera) options.camera = copied(camera) as Camera;
    if (light) options.light = copied(light) as Light;
    if (extras !== undefined) options.extras = copied(extras);
    return options;
  }

  private changed(entry: Entry, given: SheetNode): Entry {
    const before = entry.given;
    entry.given = given;
    if (given.sheet !== undefined) this.nest(entry, given);
    // Nothing differs below it either, unless other files do.
    if (!this.hasOtherFiles && same(before, given)) return entry;
    const names = new Set<string>(
      WRITTEN.filter((key) => !same(before[key as keyof SheetNode], given[key as keyof SheetNode])),
    );
    if (names.size > 0) writeMembers(entry.node, given, names, this.writing);
    if (names.has('mesh')) entry.mesh = entry.node.mesh;
    if (given.model !== undefined && !same(before.adjust, given.adjust))
      this.adjustBelow(entry, given.adjust ?? {});
    entry.children = this.list(given.children ?? [], entry.children, entry.node);
    return entry;
  }

  /** Has another sheet stand below a node, with its adjustments. */
  private nest(entry: Entry, { adjust, sheet }: SheetNode): void {
    const { file, files } = this.loaded;
    const other = found(files.sheet, sheet!, file); // it is another sheet
    const loaded = adjust ? { ...other, sheet: adjusted(other.sheet, adjust) } : other;
    entry.nested ??= new Applied(this.scene, entry.node, loaded, () => undefined);
    entry.nested.change(loaded, { parent: entry.node });
  }

  private adjustBelow(entry: Entry, adjust: Readonly<Record<string, SheetAdjustment>>): void {
    this.adjustAll(adjust, (entry.before ??= new Map<string, Before>()), (path) => entry.node.findPath(path));
  }

  private adjustAll(
    adjust: Readonly<Record<string, SheetAdjustment>>,
    before: Map<string, Before>,
    at: (path: string) => SceneNode | undefined,
  ): void {
    for (const [path, noted] of before) {
      const node = at(path);
      if (node) restore(node, noted);
      if (!(path in adjust)) before.delete(path);
    }
    for (const [path, given] of Object.entries(adjust)) {
      const node = at(path);
      if (!node) continue;
      let noted = before.get(path);
      if (!noted) before.set(path, (noted = new Map<string, unknown>()));
      adjustNode(node, given, noted, this.writing);
    }
    for (const act of this.waiting.splice(0)) act();
  }

  find(path: string): SceneNode | undefined {
    return this.parent.findPath(path);
  }

  material(name: string): Material | undefined {
    return this.sheet.materials?.[name] === undefined ? undefined : this.parts.material(name);
  }

  entryOf(node: SceneNode): Entry | undefined {
    return this.byNode.get(node);
  }

  eachEntry(visit: (entry: Entry, path: string) => void): void {
    for (const entry of this.byNode.values()) {
      const path: string[] = [];
      for (let up: SceneNode | undefined = entry.node; up && up !== this.parent; up = up.parent)
        path.unshift(up.name);
      visit(entry, path.join('/'));
    }
  }

  texturesOf(): Iterable<[name: string, texture: Texture]> {
    return this.parts.texturesOf();
  }

  addressOf(thing: object): string | undefined {
    const { panorama, table } = this.loaded.files;
    for (const files of [panorama, table] as Map<string, object>[])
      for (const [address, one] of files) if (one === thing && !address.startsWith('{')) return address;
    return undefined;
  }

  placeOf(node: SceneNode): SheetPlace | undefined {
    const inside: string[] = [];
    for (let at: SceneNode | undefined = node; at; at = at.parent) {
      const entry = this.byNode.get(at);
      if (!entry) {
        inside.unshift(at.name);
        continue;
      }
      const path: string[] = [];
      for (let up: SceneNode | undefined = at; up && up !== this.parent; up = up.parent)
        path.unshift(up.name);
      if (inside.length > 0 && entry.given.model === undefined && entry.given.sheet === undefined)
        return undefined;
      return {
        file: this.file,
        path: path.join('/'),
        ...(inside.length > 0 ? { within: inside.join('/') } : {}),
      };
    }
    return undefined;
  }

  private drop(entry: Entry): void {
    for (const child of entry.children.values()) this.drop(child);
    this.byNode.delete(entry.node);
    if (entry.node.isAlive) entry.node.remove();
  }

  remove(): void {
    this.adjustAll({}, this.before, (path) => this.parent.findPath(path));
    for (const entry of this.entries.values()) this.drop(entry);
    this.entries = NO_CHILDREN;
    if (this.parent === this.scene.root)
      writeSurroundings(this.scene, { sheet: 1 }, this.around, this.parts, () => undefined, false);
    const plain = Object.entries(this.sheet.models ?? {}).map(
      ([name, model]) => [name, fileOf(model)] as const,
    );
    adjustMaterials(Object.fromEntries(plain), this.around.models, this.loaded, this.parts, false);
    this.around = { sheet: 1 };
    this.onRemove();
  }
}

/** Whether something of a name is another thing now. */
const isOther = (before: ReadonlyMap<string, unknown>, now: ReadonlyMap<string, unknown>): boolean =>
  [...now].some(([name, thing]) => before.get(name) !== thing);
