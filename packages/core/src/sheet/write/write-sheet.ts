import { type Placing, placingOf } from '../../animation/placings.js';
import { MATRIX, PLACED } from '../../columns/flags.js';
import { LensError } from '../../errors/lens-error.js';
import type { AssetNode, ModelAsset } from '../../formats/asset/asset.js';
import { leveledMesh } from '../../formats/asset/levels.js';
import type { Geometry } from '../../geometry/geometry.js';
import { DEEPEST } from '../../json/forms.js';
import { KINDS } from '../../properties/kinds.js';
import { madeOf } from '../../properties/made-of.js';
import type { Mesh } from '../../scene/components.js';
import type { Scene } from '../../scene/scene.js';
import { readLocal, type SceneNode } from '../../scene/scene-node.js';
import { Swarm } from '../../swarm/swarm.js';
import { type AppliedSheet, appliedTo, type Entry, tieOf } from '../apply-sheet.js';
import type { ShownBy } from '../write-scene.js';
import { rotationOfDegrees } from '../degrees.js';
import { byColumns } from '../node-members.js';
import { NODE_ORDER } from '../order.js';
import { same } from '../same.js';
import type { Sheet, SheetAdjustment, SheetNode, SheetPlaced } from '../sheet.js';
import {
  asJson,
  changedMembers,
  kept,
  type Members,
  near,
  nearTurn,
  ordered,
  plain,
  rounded,
} from './as-json.js';
import { free, NamedParts } from './named-parts.js';
import { writeAround } from './write-around.js';

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
 *
 * @throws LensError `sheet/depth` for a tree that is too deep to be read again
 */
export function writeSheet(scene: Scene, options: WriteSheetOptions = {}): WrittenSheet {
  scene.update();
  return new SheetWriter(scene, options).write();
}

/** Nodes of a scene as a sheet has them, each with all below it. */
export interface WrittenNodes {
  nodes: SheetNode[];
  /** What it names that no sheet of the scene has yet. */
  named: Pick<Sheet, 'materials' | 'models' | 'textures'>;
  models: Map<string, ModelAsset>;
  warnings: LensError[];
}

/**
 * @param file address of the sheet that they go into
 * @throws LensError `sheet/depth`
 */
export function writeNodes(nodes: readonly SceneNode[], scene: Scene, file: string): WrittenNodes {
  scene.update();
  return new SheetWriter(scene, { file }).writeSome(nodes);
}

/** Each node is two objects and lists deeper than the one that it hangs from; what it is made of has room within. */
const MOST_DEEP = DEEPEST / 2 - 10;

class SheetWriter {
  /** Of the node at hand: how many hang above it. */
  private depth = 0;
  private readonly sheets: readonly AppliedSheet[];
  private readonly base: Sheet;
  private readonly parts: NamedParts;

  constructor(
    private readonly scene: Scene,
    private readonly options: WriteSheetOptions,
  ) {
    this.sheets = appliedTo(scene).filter(({ sheet }) => !sheet.adjust);
    const [first] = this.sheets;
    this.base = first?.sheet ?? { sheet: 1 };
    this.parts = new NamedParts(this.sheets, options.file ?? first?.file ?? 'scene.sheet.json');
  }

  write(): WrittenSheet {
    const { base, options, parts, scene } = this;
    const nodes = this.siblings(scene.root.children());
    // What nodes needed has been named by now.
    const sheet: Sheet = { ...base, ...parts.written };
    if (nodes.length > 0 || 'nodes' in base) sheet.nodes = nodes;
    writeAround(sheet, base, scene, parts, options);
    return { sheet, models: parts.models, warnings: parts.warnings };
  }

  writeSome(given: readonly SceneNode[]): WrittenNodes {
    const { base, parts } = this;
    const nodes = given.map((node) => this.node(node));
    const named: WrittenNodes['named'] = {};
    for (const kind of ['materials', 'models', 'textures'] as const) {
      const fresh = Object.entries(parts.written[kind] ?? {}).filter(
        ([name]) => !(name in (base[kind] ?? {})),
      );
      if (fresh.length > 0) named[kind] = Object.fromEntries(fresh) as never;
    }
    return { nodes, named, models: parts.models, warnings: parts.warnings };
  }

  /** Siblings need names of their own, and a path is parted at "/". */
  private siblings(children: Iterable<SceneNode>): SheetNode[] {
    const names: Record<string, true> = {};
    return Array.from(children, (child) => {
      const made = this.node(child);
      if (made.name === undefined) return made;
      made.name = free(made.name.replaceAll('/', ' '), names);
      names[made.name] = true;
      return made;
    });
  }

  /** @throws LensError `sheet/depth` */
  private node(node: SceneNode): SheetNode {
    if (this.depth === MOST_DEEP)
      throw new LensError(
        'sheet/depth',
        `a node hangs below ${MOST_DEEP} others, and no sheet is read that deep`,
        {
          hint: 'Have it hang from one that is nearer to the root, or write a model: writeGlb(assetOf(scene)).',
        },
      );
    this.depth++;
    const made = this.written(node);
    this.depth--;
    return made;
  }

  private written(node: SceneNode): SheetNode {
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
      const model = this.parts.modelOf(placing, node.name);
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
    if (!placing && !nested) return this.siblings(node.children());
    const brought = new Set(placing?.nodeOf.values());
    return this.siblings(
      [...node.children()].filter(
        (child) => !brought.has(child) && !(nested && tieOf(nested).entryOf(child)),
      ),
    );
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
          this.parts.warn(
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
    const hasOwnMesh =
      noted.mesh !== undefined && !source.instances && !sameMesh(node.mesh, leveledMesh(source));
    const now = this.placed(node, { ...usual, ...said }, undefined, hasOwnMesh) as Members;
    const found: Members = {};
    for (const [key, value] of Object.entries(now)) {
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
  private placed(
    node: SceneNode,
    given: SheetNode,
    mesh: Mesh | undefined,
    hasMesh = true,
  ): SheetPlaced & Members {
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
      own['effects'] = this.parts.effects(node.effects, `node "${node.name}"`);
    if (node.light) own['light'] = plain(node.light, KINDS.light.table, given.light);
    if (node.camera) own['camera'] = plain(node.camera, KINDS.camera.table, given.camera);
    if (node.settings) own['settings'] = this.parts.settings(node.settings, given.settings);
    if (node.extras !== undefined) own['extras'] = node.extras;
    const { weights } = node;
    if (weights && (given.weights || Object.values(weights).some((one) => one !== 0)))
      own['weights'] = Object.fromEntries(
        Object.entries(weights)
          .filter(([name, value]) => value !== 0 || given.weights?.[name] !== undefined)
          .map(([name, value]) => [name, kept(given.weights?.[name], value)]),
      );
    else if (given.weights) own['weights'] = given.weights;
    if (node.mesh && hasMesh) {
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
      this.parts.warn(
        'sheet/swarm',
        `node "${node.name}" carries a swarm, which sheets have no place for`,
        'Make it in code, below a node of the sheet.',
      );
      return undefined;
    }
    const primitives = mesh.primitives.map(({ geometry, material, overlays = [] }) => {
      const made = madeOf(geometry as Geometry);
      if (!made) return undefined;
      return {
        shape: made.shape,
        ...(asJson(made.options) as object),
        ...(material ? { material: this.parts.nameOfMaterial(material) } : {}),
        ...(overlays.length > 0 ? { overlays: overlays.map((one) => this.parts.nameOfMaterial(one)) } : {}),
      };
    });
    if (primitives.includes(undefined)) {
      own['model'] = this.parts.meshModel(mesh, node.name);
      return undefined;
    }
    const more: Members = {};
    if (mesh.name !== undefined) more['name'] = mesh.name;
    if (mesh.weights) more['weights'] = mesh.weights;
    if (mesh.boundsMargin !== undefined) more['boundsMargin'] = mesh.boundsMargin;
    if (Object.keys(more).length > 0) return { ...more, primitives };
    return primitives.length === 1 ? primitives[0] : primitives;
  }
}

const DEFAULTS = { translation: [0, 0, 0], rotation: [0, 0, 0, 1], scale: [1, 1, 1] };

const matrixOf = (node: SceneNode): number[] => byColumns(readLocal(node, new Float32Array(12)));

/** Whether its place was given as a matrix. */
const isMatrix = (node: SceneNode): boolean =>
  (node.scene.columns.flags[node.row]! & (MATRIX | PLACED)) !== 0; // it is alive

const sameMesh = (a: Mesh | undefined, b: Mesh | undefined): boolean =>
  a === b ||
  (a?.primitives.length === b?.primitives.length &&
    a !== undefined &&
    a.primitives.every(({ geometry, material, overlays = [] }, i) => {
      const other = b!.primitives[i]!; // as many
      const others = other.overlays ?? [];
      return (
        geometry === other.geometry &&
        (material === other.material || material === other.standard) &&
        overlays.length === others.length &&
        overlays.every((one, k) => one === others[k])
      );
    }));

/** Path of names from one node down to another; undefined where one on the way has none. */
function pathFrom(top: SceneNode, node: SceneNode): string | undefined {
  const names: string[] = [];
  for (let at: SceneNode | undefined = node; at && at !== top; at = at.parent) {
    if (at.name === '') return undefined;
    names.unshift(at.name);
  }
  return names.join('/');
}
