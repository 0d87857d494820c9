import {
  addressOf,
  type AppliedSheet,
  appliedTo,
  degreesOfRotation,
  relativeAddress,
  type SceneNode,
  type SheetChange,
  type SheetNode,
  sheetPlaceOf,
  type SourceCall,
  sourcesOf,
  type TextureUse,
  writeNodes,
} from '@umber-lens/core/engine';
import { deep, type Editing } from '../history/apply-edit.js';
import type { Change, Edit, MemberPath, Thing } from '../history/edit.js';

type Path = readonly (string | number)[];

/** What is to be other in one file. */
export interface FileChanges {
  kind: 'sheet' | 'code' | 'adjustments';
  /** Address of a sheet as the page has it; of a source its path in the project. */
  file: string;
  changes: SheetChange[];
  calls: { call: SourceCall & { made: number }; changes: { member: Path; value: unknown }[] }[];
  /** What it is about, in words. */
  about: string[];
}

/** Something that no file can say. */
export interface LeftOver {
  what: string;
  reason: string;
}

export interface Gathered {
  files: FileChanges[];
  left: LeftOver[];
  /** Nodes that came, to be offered to the sheet that brings them from now on. */
  added: SceneNode[];
}

/** A member that was touched, with what it holds now. */
interface Touched {
  thing: Thing;
  path: MemberPath;
  value: unknown;
}

/**
 * What changes came to, by the files that say it: the last value of each member, nodes that came, went or moved.
 *
 * @param adjustments the sheet that takes what no other file can say
 * @param origin of the page: where sheets are that it knows by their path in the project
 */
export function gather(
  unsaved: readonly { change: Change; isBack: boolean }[],
  editing: Editing,
  adjustments: string,
  origin = '',
): Gathered {
  return new Gathering(editing, adjustments, origin).of(unsaved);
}

/** Where a node hung, and what it was called, when files were last as the scene. */
interface Before {
  parent?: SceneNode;
  name?: string;
}

class Gathering {
  private readonly files = new Map<string, FileChanges>();
  private readonly left: LeftOver[] = [];
  private readonly before = new Map<SceneNode, Before>();
  /** Nodes that came, went or moved; of them those that were not there before. */
  private readonly seen = new Set<SceneNode>();
  private readonly came = new Set<SceneNode>();
  private readonly added = new Set<SceneNode>();
  private readonly removed = new Set<SceneNode>();
  /** Where nodes hang in the text of their sheet, and what they are called there, by the changes so far. */
  private readonly hung = new Map<SceneNode, { parent: SceneNode; name: string }>();

  constructor(
    private readonly editing: Editing,
    private readonly adjustments: string,
    private readonly origin: string,
  ) {}

  /** Where a sheet is in the page: what it names is relative to that. */
  private addressOf(file: string): string {
    return this.origin === '' || /^[a-z]+:\/\//i.test(file) ? file : `${this.origin}/${file}`;
  }

  of(unsaved: readonly { change: Change; isBack: boolean }[]): Gathered {
    const touched = new Map<string, Touched>();
    for (const { change, isBack } of unsaved)
      for (const edit of isBack ? [...change.edits].reverse() : change.edits)
        this.note(edit, isBack, touched);
    // By what was there and what is: what came and went never was, and what went along with something is gone, too.
    for (const node of new Set([...this.seen, ...this.before.keys()])) {
      const [was, is] = [this.wasThere(node), !this.editing.isGone(node)];
      if (!was) this.before.delete(node);
      if (was && !is) this.removed.add(node);
      else if (!was && is) this.added.add(node);
    }
    // A shape is written whole, with the material that its words have: what is other about that comes after it.
    const isShape = ({ path }: Touched): boolean => path[0] === 'shape';
    for (const one of touched.values()) if (isShape(one)) this.set(one);
    for (const one of touched.values()) if (!isShape(one)) this.set(one);
    const tops = [...this.added].filter((node) => node.isAlive && !this.isBrought(node.parent));
    const known = [...new Set([...this.before.keys(), ...this.removed])].filter(
      (node) => node.isAlive && !this.added.has(node),
    );
    this.inTheWay(known, tops).forEach((node, i) => this.renamed(node, `~${i}`));
    this.add(tops);
    this.move(known);
    // With what goes goes what hangs below it in the text.
    for (const node of this.removed) if (!this.goesAbove(node)) this.remove(node);
    for (const node of known) if (!this.editing.isGone(node)) this.renamed(node, node.name);
    const files = [...this.files.values()].filter(({ calls, changes }) => calls.length + changes.length > 0);
    return { files, left: this.left, added: tops };
  }

  /** Names that are given away before they are free would meet: nodes whose names have to be others for a while. */
  private inTheWay(known: readonly SceneNode[], tops: readonly SceneNode[]): readonly SceneNode[] {
    const stay = known.filter((node) => !this.editing.isGone(node));
    const moved = new Set(stay.filter((node) => this.parentBefore(node) !== node.parent));
    const isBelow = (node: SceneNode, up: (at: SceneNode) => SceneNode | undefined): boolean => {
      for (let at = node.parent; at; at = up(at)) if (moved.has(at)) return true;
      return false;
    };
    // Where some hang below one another some stand elsewhere on the way, and may meet anybody there.
    for (const node of moved)
      if (isBelow(node, (at) => at.parent) || isBelow(node, (at) => this.parentBefore(at))) return known;
    const wanted = new Map<SceneNode | undefined, Map<string, SceneNode>>();
    for (const node of [...tops, ...stay]) {
      const names = wanted.get(node.parent);
      if (names) names.set(node.name, node);
      else wanted.set(node.parent, new Map([[node.name, node]]));
    }
    return known.filter((node) => {
      const name = this.nameBefore(node);
      const other = wanted.get(this.parentBefore(node))?.get(name);
      return (other && other !== node) || (moved.has(node) && name !== node.name);
    });
  }

  private note(edit: Edit, isBack: boolean, touched: Map<string, Touched>): void {
    const { editing } = this;
    switch (edit.type) {
      case 'set': {
        const { path, thing } = edit;
        const node = 'of' in thing ? editing.nodeOf(thing.of) : undefined;
        if ('of' in thing && !node) return;
        if (thing.kind === 'node' && path[0] === 'name') {
          const had = (isBack ? edit.after : edit.before) as string;
          this.before.set(node!, { name: had, ...this.before.get(node!) }); // it was found
          return;
        }
        if (thing.kind === 'offer') return;
        touched.set(editing.keyOf(thing, path), { thing, path, value: editing.read(thing, path) });
        return;
      }
      case 'move': {
        const node = editing.nodeOf(edit.of);
        const parent = editing.nodeOf((isBack ? edit.to : edit.from).parent);
        if (!node || !parent) return;
        this.seen.add(node);
        this.before.set(node, { parent, ...this.before.get(node) });
        for (const name of ['translation', 'rotation', 'scale'] as const) {
          const thing: Thing = { kind: 'node', of: edit.of };
          touched.set(editing.keyOf(thing, [name]), {
            thing,
            path: [name],
            value: editing.read(thing, [name]),
          });
        }
        return;
      }
      default: {
        const node = editing.nodeOf(edit.of);
        const comes = (edit.type === 'add') !== isBack;
        const isFirst = node && !this.seen.has(node);
        if (!node) {
          if (!comes) this.gone(edit.of.address);
          return;
        }
        this.seen.add(node);
        if (comes && isFirst) this.came.add(node);
        const parent = comes ? undefined : editing.nodeOf(edit.parent);
        if (parent) this.before.set(node, { parent, ...this.before.get(node) });
      }
    }
  }

  private gone(address: string): void {
    this.left.push({ what: address, reason: 'it is gone from the page: take it out of the file by hand' });
  }

  /** Whether a new node's words bring it: it is new itself, or hangs below one and did not come there from elsewhere. */
  private isBrought(node: SceneNode | undefined): boolean {
    for (let at = node; at; at = at.parent) {
      if (this.added.has(at)) return true;
      if (this.before.get(at)?.parent) return false;
    }
    return false;
  }

  private nameBefore(node: SceneNode): string {
    return this.before.get(node)?.name ?? node.name;
  }

  private parentBefore(node: SceneNode): SceneNode | undefined {
    return this.before.get(node)?.parent ?? node.parent;
  }

  /** Where a node stood in a sheet before all of this. */
  private placeOf(node: SceneNode): { file: string; path: string; within?: string } | undefined {
    const inside: string[] = [];
    for (let at: SceneNode | undefined = node; at; at = this.parentBefore(at)) {
      const place = this.added.has(at) ? undefined : sheetPlaceOf(at);
      if (place && place.within === undefined) {
        const path: string[] = [];
        for (let up: SceneNode | undefined = at; up && up !== node.scene.root; up = this.parentBefore(up))
          path.unshift(this.nameBefore(up));
        if (inside.length > 0 && !sheetPlaceOf(node)) return undefined;
        return {
          file: place.file,
          path: path.join('/'),
          ...(inside.length > 0 ? { within: inside.join('/') } : {}),
        };
      }
      inside.unshift(this.nameBefore(at));
    }
    return undefined;
  }

  private fileOf(kind: FileChanges['kind'], file: string): FileChanges {
    let own = this.files.get(`${kind} ${file}`);
    if (!own) this.files.set(`${kind} ${file}`, (own = { kind, file, changes: [], calls: [], about: [] }));
    return own;
  }

  private sheet(file: string, change: SheetChange, about: string): void {
    const own = this.fileOf('sheet', file);
    own.changes.push(change);
    own.about.push(about);
  }

  private set({ path, thing, value }: Touched): void {
    if (thing.kind === 'material') return this.setMaterial(thing, path, value);
    if (thing.kind === 'offer') return;
    if (thing.kind !== 'node') return this.setAround(thing.kind, path, value);
    const node = this.editing.nodeOf(thing.of);
    if (!node || this.isBrought(node) || this.editing.isGone(node)) return;
    const about = `${node.name || 'a node'}: ${path.join(' ')}`;
    const place = this.placeOf(node);
    if (place) {
      const change = this.inSheet(node, place, path, value);
      if (change) this.sheet(place.file, change, about);
      else this.left.push({ what: about, reason: 'a sheet does not say it of nodes of a model' });
      return;
    }
    this.inCode(node, path, value, about);
  }

  /** A member of a node in the words of its sheet. */
  private inSheet(
    node: SceneNode,
    place: { file: string; path: string; within?: string },
    path: MemberPath,
    value: unknown,
  ): SheetChange | undefined {
    const [first = '', second = '', ...rest] = path;
    const at = { node: place.path, ...(place.within === undefined ? {} : { within: place.within }) };
    if (first === 'rotation') {
      const degrees = degreesOfRotation(value as number[]);
      return { type: 'set', ...at, member: 'degrees', value: degrees };
    }
    if (first === 'shape') {
      const made = value as { shape: string; options: object } | undefined;
      if (place.within !== undefined || !made) return undefined;
      const member = [...meshPath(this.givenOf(node, place.file)?.['mesh'], Number(second))];
      const mesh = deep(this.givenOf(node, place.file), member) as object | undefined;
      const material = (mesh as { material?: unknown } | undefined)?.material;
      return {
        type: 'set',
        ...at,
        member,
        value: { shape: made.shape, ...made.options, ...(material === undefined ? {} : { material }) },
      };
    }
    return { type: 'set', ...at, member: [first, ...(second === '' ? [] : [second]), ...rest], value };
  }

  /** What the sheet says of a node. */
  private givenOf(node: SceneNode, file: string): Record<string, unknown> | undefined {
    const sheet = appliedTo(node.scene).find((one) => one.file === file)?.sheet;
    const place = this.placeOf(node);
    let list = (sheet?.nodes ?? []) as unknown as Record<string, unknown>[];
    let found: Record<string, unknown> | undefined;
    for (const name of place?.path.split('/') ?? []) {
      found = list.find((one) => one['name'] === name);
      list = (found?.['children'] ?? []) as Record<string, unknown>[];
    }
    return found;
  }

  /** A member of a node that code made: of the literal that its call was given, else of an adjustment. */
  private inCode(node: SceneNode, path: MemberPath, value: unknown, about: string): void {
    const sources = sourcesOf(node);
    const isLight = path[0] === 'light';
    const own =
      (isLight ? sources.find(({ call }) => call === 'setLight') : undefined) ??
      sources.find(({ call }) => call === 'createNode');
    if (!own || own.made > 1 || path[0] === 'shape' || path[0] === 'weights')
      return this.adjust(node, path, value, about);
    const member = own.call === 'setLight' ? path.slice(1) : path;
    this.call(own, member, value, about);
  }

  private call(own: SourceCall & { made: number }, member: Path, value: unknown, about: string): void {
    const file = this.fileOf('code', own.file);
    let call = file.calls.find(({ call: one }) => one.line === own.line && one.column === own.column);
    if (!call) file.calls.push((call = { call: own, changes: [] }));
    call.changes.push({ member, value });
    file.about.push(about);
  }

  /** In a sheet of its own, which the page applies to its scene. */
  private adjust(node: SceneNode, path: MemberPath, value: unknown, about: string): void {
    const names: string[] = [];
    for (let up: SceneNode | undefined = node; up && up !== node.scene.root; up = this.parentBefore(up))
      names.unshift(this.nameBefore(up));
    if (names.some((name) => name === '' || name.includes('/')) || path[0] === 'shape') {
      this.left.push({
        what: about,
        reason:
          path[0] === 'shape' ? 'its shape is made in code' : 'it has no name by which a file could find it',
      });
      return;
    }
    const file = this.fileOf('adjustments', this.adjustments);
    const member = path[0] === 'rotation' ? ['degrees'] : path;
    const said = path[0] === 'rotation' ? degreesOfRotation(value as number[]) : value;
    file.changes.push({ type: 'set', at: ['adjust', names.join('/'), ...member], value: said });
    file.about.push(about);
  }

  private setMaterial(thing: Thing & { kind: 'material' }, path: MemberPath, value: unknown): void {
    const node = this.editing.nodeOf(thing.of);
    const { material, overlay, primitive } = thing;
    if (!node || this.isBrought(node) || this.editing.isGone(node)) return;
    const about = `material ${material?.name ?? `of ${node.name}`}: ${path.join(' ')}`;
    const say = (applied: AppliedSheet, change: (value: unknown) => SheetChange): void => {
      const said = this.inWords(value, applied, about);
      if (said.isSaid) this.sheet(applied.file, change(said.value), about);
    };
    for (const applied of appliedTo(node.scene))
      for (const name of Object.keys(applied.sheet.materials ?? {}))
        if (applied.material(name) === material)
          return say(applied, (words) => ({ type: 'set', at: ['materials', name, ...path], value: words }));
    const place = this.placeOf(node);
    const applied = place && appliedTo(node.scene).find(({ file }) => file === place.file);
    if (place && applied) {
      const own = this.givenOf(node, place.file);
      const model = own?.['model'];
      const { name } = material ?? {};
      if (typeof model === 'string' && name !== undefined)
        return say(applied, (words) => ({
          type: 'set',
          at: ['models', model, 'materials', name, ...path],
          value: words,
        }));
      const which = overlay === undefined ? ['material'] : ['overlays', overlay];
      const member = [...meshPath(own?.['mesh'], primitive), ...which, ...path];
      if (place.within === undefined && own?.['mesh'])
        return say(applied, (words) => ({ type: 'set', node: place.path, member, value: words }));
      this.left.push({ what: about, reason: 'the material has no name by which a sheet could find it' });
      return;
    }
    if (typeof value === 'object' && value !== null && 'texture' in value) {
      this.left.push({ what: about, reason: 'code loads its textures' });
      return;
    }
    const source = sourcesOf(node).find(({ call }) => call === 'createNode');
    if (source?.made === 1 && (node.mesh?.primitives.length ?? 0) === 1 && overlay === undefined)
      return this.call(source, ['mesh', 'material', ...path], value, about);
    this.left.push({ what: about, reason: 'code makes the material for several nodes, or loads it' });
  }

  /** A texture by its name, which the sheet gets where it has none. */
  private inWords(
    value: unknown,
    { file, sheet }: AppliedSheet,
    about: string,
  ): { value?: unknown; isSaid: boolean } {
    if (typeof value !== 'object' || value === null || !('texture' in value)) return { value, isSaid: true };
    const { texture, ...rest } = value as TextureUse;
    const address = addressOf(texture.image);
    if (address === undefined) {
      this.left.push({
        what: about,
        reason: 'its picture is in the page alone: drop the file in where a server saves it',
      });
      return { isSaid: false };
    }
    const image = relativeAddress(address, this.addressOf(file));
    const known = Object.entries(sheet.textures ?? {}).find(
      ([, one]) => (typeof one === 'string' ? one : one.image) === image,
    );
    const stem = image
      .split('/')
      .at(-1)!
      .replace(/\.\w+$/, ''); // there is one part
    let name = known?.[0] ?? stem;
    for (let i = 2; !known && name in (sheet.textures ?? {}); i++) name = `${stem} ${i}`;
    if (!known) this.sheet(file, { type: 'set', at: ['textures', name], value: image }, `texture ${name}`);
    return { value: Object.keys(rest).length > 0 ? { texture: name, ...rest } : name, isSaid: true };
  }

  /** A panorama by its address. */
  private panoramaInWords(
    value: unknown,
    { file }: AppliedSheet,
    about: string,
  ): { value?: unknown; isSaid: boolean } {
    const panorama = panoramaOf(value);
    if (!panorama) return { value, isSaid: true };
    const address = addressOf(panorama);
    if (address !== undefined) {
      const { panorama: _panorama, ...rest } = value as Record<string, unknown>;
      return { value: { image: relativeAddress(address, this.addressOf(file)), ...rest }, isSaid: true };
    }
    this.left.push({
      what: about,
      reason: 'its panorama is in the page alone: drop the file in where a server saves it',
    });
    return { isSaid: false };
  }

  private setAround(kind: 'scene' | 'look' | 'view', path: MemberPath, value: unknown): void {
    const { scene } = this.editing.edited;
    const at =
      kind === 'look'
        ? ['look', ...path]
        : path[0] === 'finish' || kind === 'scene'
          ? path
          : ['view', ...path];
    const about = at.join(' ');
    const applied = appliedTo(scene).find(({ sheet }) => !sheet.adjust);
    if (applied) {
      const said = kind === 'scene' ? this.panoramaInWords(value, applied, about) : { value, isSaid: true };
      if (said.isSaid) this.sheet(applied.file, { type: 'set', at: numbered(at), value: said.value }, about);
      return;
    }
    if (panoramaOf(value))
      return void this.left.push({ what: about, reason: 'code loads the light of this page' });
    const source = sourcesOf(scene).find(({ call }) => call === 'Scene');
    if (kind === 'scene' && source?.made === 1 && path[0] === 'clearColor')
      return this.call(source, path, value, about);
    const file = this.fileOf('adjustments', this.adjustments);
    file.changes.push({ type: 'set', at: numbered(at), value });
    file.about.push(about);
  }

  private remove(node: SceneNode): void {
    const place = this.placeOf(node);
    if (place && place.within === undefined) {
      const path = this.pathNow(node);
      const sheet = appliedTo(node.scene).find(({ file }) => file === place.file)?.sheet;
      const isOf = (other: string | undefined): boolean =>
        other === place.path || Boolean(other?.startsWith(`${place.path}/`));
      // What names it, or something below it, would name nothing.
      if (isOf(sheet?.camera))
        this.sheet(place.file, { type: 'set', at: ['camera'] }, 'no camera to start with');
      if (isOf(sheet?.clipping?.node))
        this.sheet(place.file, { type: 'set', at: ['clipping', 'node'] }, 'everything is cut');
      return this.sheet(place.file, { type: 'remove', node: path }, `without ${node.name}`);
    }
    // What code, or a model, brings can be hidden alone.
    if (place)
      return this.sheet(
        place.file,
        { type: 'set', node: place.path, within: place.within!, member: 'visible', value: false }, // it has one
        `${node.name}: hidden`,
      );
    this.adjust(node, ['visible'], false, `${node.name}: hidden`);
  }

  private add(nodes: readonly SceneNode[]): void {
    const { scene } = this.editing.edited;
    const applied = appliedTo(scene).find(({ sheet }) => !sheet.adjust);
    const brought = nodes.filter((node) => {
      const above = node.parent && node.parent !== scene.root ? this.placeOf(node.parent) : undefined;
      const isSaid = applied && (node.parent === scene.root || (above && above.within === undefined));
      if (!isSaid)
        this.left.push({
          what: `new ${node.name}`,
          reason: applied
            ? 'it hangs below a node that is of no sheet'
            : 'the page has no sheet that could bring it',
        });
      return isSaid;
    });
    if (!applied) return;
    const { file } = applied;
    const said = brought.filter((node) => this.isWritable(node, file));
    if (said.length === 0) return;
    const written = writeNodes(said, scene, this.addressOf(file));
    for (const kind of ['textures', 'models', 'materials'] as const)
      for (const [name, value] of Object.entries(written.named[kind] ?? {}))
        this.sheet(file, { type: 'set', at: [kind, name], value }, `${kind.slice(0, -1)} ${name}`);
    for (const { summary } of written.warnings) this.left.push({ what: 'new nodes', reason: summary });
    said.forEach((node, i) => {
      const spec = this.withoutKnown(inDegrees(written.nodes[i]!), node); // one each
      const parent = node.parent!; // the root is not new
      const above = this.pathNow(parent);
      this.sheet(
        file,
        { type: 'add', node: spec, ...(above === '' ? {} : { parent: above }) },
        `new ${node.name}`,
      );
      this.hung.set(node, { parent, name: node.name });
    });
  }

  /** Whether sheets can say a new node with all below it; why they cannot is told. */
  private isWritable(node: SceneNode, file: string): boolean {
    try {
      writeNodes([node], this.editing.edited.scene, this.addressOf(file));
      return true;
    } catch (error) {
      this.left.push({ what: `new ${node.name}`, reason: (error as Error).message });
      return false;
    }
  }

  /** Nodes of the sheet that were hung below new ones come by moving. */
  private withoutKnown(spec: SheetNode, node: SceneNode): SheetNode {
    const { children, ...rest } = spec;
    if (!children) return spec;
    const below = [...node.children()];
    const left = children.flatMap((child) => {
      const own = below.find(({ name }) => name === child.name);
      if (own && !this.added.has(own) && this.before.get(own)?.parent) return [];
      return own ? this.withoutKnown(child, own) : child;
    });
    for (const child of below)
      if (left.some(({ name }) => name === child.name))
        this.hung.set(child, { parent: node, name: child.name });
    return left.length > 0 ? { ...rest, children: left } : rest;
  }

  private move(nodes: readonly SceneNode[]): void {
    const waiting = nodes.filter((node) => {
      const { parent } = this.before.get(node) ?? {};
      return parent && parent !== node.parent && !this.editing.isGone(node);
    });
    while (waiting.length > 0) {
      // Not below something that hangs below it in the text still: that one goes first.
      const at = Math.max(
        0,
        waiting.findIndex((node) => !this.hangsBelow(node.parent!, node)),
      ); // the root never moves
      const [node] = waiting.splice(at, 1) as [SceneNode];
      const place = this.placeOf(node);
      const parent = node.parent!; // as above
      const isOurs =
        parent === node.scene.root || this.hung.has(parent) || this.placeOf(parent)?.within === undefined;
      if (
        !place ||
        place.within !== undefined ||
        !isOurs ||
        (parent !== node.scene.root && !this.hung.has(parent) && !this.placeOf(parent))
      ) {
        this.left.push({
          what: `${node.name} below ${parent.name}`,
          reason: 'a sheet moves nodes of its own alone',
        });
        continue;
      }
      // Two that changed places: one of them stands at the top for a while.
      if (this.hangsBelow(parent, node)) {
        this.hangAt(place.file, parent, node.scene.root);
      }
      this.hangAt(place.file, node, parent);
    }
  }

  private hangAt(file: string, node: SceneNode, parent: SceneNode): void {
    const above = this.pathNow(parent);
    this.sheet(
      file,
      { type: 'move', node: this.pathNow(node), ...(above === '' ? {} : { parent: above }) },
      `${node.name} below ${parent.name || 'the scene'}`,
    );
    this.hung.set(node, { parent, name: this.textName(node) });
  }

  /** Whether a node hangs below another in the text, or is it. */
  private hangsBelow(node: SceneNode, other: SceneNode): boolean {
    for (let at: SceneNode | undefined = node; at; at = this.textParent(at)) if (at === other) return true;
    return false;
  }

  private renamed(node: SceneNode, name: string): void {
    const before = this.textName(node);
    if (before === name) return;
    const place = this.placeOf(node);
    if (place && place.within === undefined) {
      const about = name.startsWith('~') ? '' : `${this.nameBefore(node)} is called ${name}`;
      this.sheet(place.file, { type: 'rename', node: this.pathNow(node), name }, about);
      this.hung.set(node, { parent: this.textParent(node)!, name }); // the root is not called anything else
      return;
    }
    if (name.startsWith('~') || this.nameBefore(node) === name) return;
    const about = `${before} is called ${name}`;
    const source = sourcesOf(node).find(({ call }) => call === 'createNode');
    if (!place && source?.made === 1) this.call(source, ['name'], name, about);
    else this.left.push({ what: about, reason: 'its name is of a model, or of code' });
  }

  /** Whether files have it: neither it nor what it hung below came since. */
  private wasThere(node: SceneNode): boolean {
    for (let at: SceneNode | undefined = node; at; at = this.parentBefore(at))
      if (this.came.has(at)) return false;
    return true;
  }

  private goesAbove(node: SceneNode): boolean {
    for (let at = this.textParent(node); at; at = this.textParent(at)) if (this.removed.has(at)) return true;
    return false;
  }

  private textParent(node: SceneNode): SceneNode | undefined {
    return this.hung.get(node)?.parent ?? this.parentBefore(node);
  }

  private textName(node: SceneNode): string {
    return this.hung.get(node)?.name ?? this.nameBefore(node);
  }

  /** Where a node stands in its sheet by the changes so far; empty for the scene itself. */
  private pathNow(node: SceneNode): string {
    const parent = this.textParent(node);
    if (!parent) return '';
    const above = this.pathNow(parent);
    return above === '' ? this.textName(node) : `${above}/${this.textName(node)}`;
  }
}

const panoramaOf = (value: unknown): object | undefined => {
  const found =
    typeof value === 'object' && value !== null && 'panorama' in value ? value.panorama : undefined;
  return typeof found === 'object' && found !== null ? found : undefined;
};

/** Turns as people read them, where a node and those below it have some. */
function inDegrees({ children, rotation, ...rest }: SheetNode): SheetNode {
  return {
    ...rest,
    ...(rotation ? { degrees: degreesOfRotation(rotation) } : {}),
    ...(children ? { children: children.map(inDegrees) } : {}),
  };
}

/** Where a primitive stands in the words of a mesh. */
function meshPath(mesh: unknown, primitive: number): Path {
  if (Array.isArray(mesh)) return ['mesh', primitive];
  if (typeof mesh === 'object' && mesh !== null && 'primitives' in mesh)
    return ['mesh', 'primitives', primitive];
  return ['mesh'];
}

/** Numbers of lists are numbers. */
const numbered = (path: readonly string[]): Path =>
  path.map((name) => (/^\d+$/.test(name) ? Number(name) : name));
