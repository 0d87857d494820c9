import type { Camera, Light, Mesh } from '../scene/components.js';
import { readLocal, type SceneNode } from '../scene/scene-node.js';
import { rotationOfDegrees } from './degrees.js';
import type { SheetParts } from './sheet-parts.js';
import { copied } from './sheet-parts.js';
import type { SheetAdjustment, SheetEffect, SheetPlaced } from './sheet.js';

/** Members that say where a node is. */
export const TRANSFORM = ['translation', 'rotation', 'degrees', 'scale', 'matrix'] as const;
const ALL: ReadonlySet<string> = new Set(TRANSFORM);

type Given = SheetPlaced & { camera?: Camera | Partial<Camera>; light?: Light | Partial<Light> };

/** What writing needs besides. */
export interface Writing {
  parts: SheetParts;
  /** Effects may name nodes that are not there yet. */
  later(act: () => void): void;
  nodeAt(path: string): SceneNode | undefined;
}

/**
 * Writes where a node is, as a sheet has it: what is left out has its default.
 *
 * @param names which of it; default all
 */
export function writeTransform(
  node: SceneNode,
  { degrees, matrix, rotation, scale, translation }: SheetPlaced,
  names: ReadonlySet<string> = ALL,
): void {
  if (matrix) {
    node.setMatrix(matrix);
    return;
  }
  // What was a matrix is all told anew.
  const isAll = names.has('matrix');
  if (isAll || names.has('translation')) {
    const [x, y, z] = translation ?? [0, 0, 0];
    node.setTranslation(x!, y!, z!); // three by the form
  }
  if (isAll || names.has('rotation') || names.has('degrees')) {
    const [x, y, z, w] = rotation ?? (degrees ? rotationOfDegrees(degrees) : [0, 0, 0, 1]);
    node.setRotation(x!, y!, z!, w!); // four by the form
  }
  if (isAll || names.has('scale')) {
    const [x, y, z] = scale ?? [1, 1, 1];
    node.setScale(x!, y!, z!); // three by the form
  }
}

/**
 * Writes members of a node that are other than before, as a sheet has them: what is left out has its default.
 *
 * @param names which
 */
export function writeMembers(node: SceneNode, given: Given, names: ReadonlySet<string>, at: Writing): void {
  if (TRANSFORM.some((name) => names.has(name))) writeTransform(node, given, names);
  for (const name of names) writeOne(node, given, name, at);
  if (names.has('castsShadow') || names.has('receivesShadow'))
    node.setShadows(given.castsShadow ?? true, given.receivesShadow ?? true);
}

function writeOne(node: SceneNode, given: Given, name: string, { later, nodeAt, parts }: Writing): void {
  switch (name) {
    case 'visible':
      return void node.setVisible(given.visible ?? true);
    case 'visibleTo':
      return void (node.visibleTo = given.visibleTo ?? 0xffffffff);
    case 'effects': {
      const effects = given.effects ?? [];
      const write = (): void => void (node.effects = parts.effects(effects, nodeAt));
      return needsNodes(effects) ? later(write) : write();
    }
    case 'mesh':
      return void node.setMesh(given.mesh && parts.mesh(given.mesh));
    case 'camera':
      return writeInto(node.camera, given.camera as Camera | undefined, (camera) => node.setCamera(camera));
    case 'light':
      return writeInto(node.light, given.light as Light | undefined, (light) => node.setLight(light));
    case 'settings':
      if (given.settings) node.settings = parts.settings(given.settings) as Record<string, number | number[]>;
      else (node as { settings?: unknown }).settings = undefined;
      return;
    case 'weights':
      for (const [target, weight] of Object.entries(given.weights ?? {})) node.setWeight(target, weight);
      return;
    case 'extras':
      node.extras = copied(given.extras);
  }
}

const needsNodes = (effects: readonly SheetEffect[]): boolean =>
  effects.some(({ focus, from }) => typeof focus === 'string' || typeof from === 'string');

/** A light or a camera stays the same object, for those who hold it, as long as it is of its type. */
function writeInto<T extends { type: string }>(
  holder: T | undefined,
  given: T | undefined,
  set: (thing: T | undefined) => void,
): void {
  if (!holder || !given || holder.type !== given.type) {
    set(given && (copied(given) as T));
    return;
  }
  const members = holder as unknown as Record<string, unknown>;
  for (const key of Object.keys(members)) if (!(key in given)) delete members[key];
  Object.assign(members, copied(given));
}

/** What a node's members were, for one of a name at a time: transforms are one. */
export type Before = Map<string, unknown>;

interface Transform {
  /** Of a node whose place is a matrix. */
  rows: Float32Array;
  translation: number[];
  rotation: number[];
  scale: number[];
}

const keyOf = (name: string): string =>
  (TRANSFORM as readonly string[]).includes(name) ? 'transform' : name;

/** Writes an adjustment of a node, noting what was there. */
export function adjustNode(node: SceneNode, given: SheetAdjustment, before: Before, at: Writing): void {
  const names = new Set(Object.keys(given));
  for (const name of names)
    if (!before.has(keyOf(name))) before.set(keyOf(name), readBack(node, keyOf(name)));
  const whole: Given = { ...given };
  // Models share their lights and cameras: this one has its own from now on.
  for (const part of ['camera', 'light'] as const) {
    const had = before.get(part) as { type: string } | undefined;
    if (given[part]) whole[part] = { ...had, ...given[part] } as never;
    if (given[part] && had) {
      if (part === 'light') node.setLight({ ...had } as Light);
      else node.setCamera({ ...had } as Camera);
    }
  }
  if ('castsShadow' in given !== 'receivesShadow' in given) {
    whole.castsShadow ??= node.castsShadow;
    whole.receivesShadow ??= node.receivesShadow;
  }
  writeMembers(node, whole, names, at);
}

/** Undoes what an adjustment did. */
export function restore(node: SceneNode, before: Before): void {
  for (const [key, value] of before) {
    switch (key) {
      case 'transform': {
        const { rotation, rows, scale, translation } = value as Transform;
        writeTransform(node, { translation, rotation, scale });
        const now = readLocal(node, new Float32Array(12));
        if (now.some((n, i) => Math.abs(n - rows[i]!) > 1e-5 * (1 + Math.abs(n))))
          node.setMatrix(byColumns(rows)); // twelve
        break;
      }
      case 'visible':
        node.setVisible(value as boolean);
        break;
      case 'castsShadow':
        node.setShadows(value as boolean, node.receivesShadow);
        break;
      case 'receivesShadow':
        node.setShadows(node.castsShadow, value as boolean);
        break;
      case 'mesh':
        node.setMesh(value as Mesh | undefined);
        break;
      case 'camera':
        node.setCamera(value as Camera | undefined);
        break;
      case 'light':
        node.setLight(value as Light | undefined);
        break;
      case 'weights':
        for (const [target, weight] of Object.entries((value ?? {}) as Record<string, number>))
          node.setWeight(target, weight);
        break;
      default:
        (node as unknown as Record<string, unknown>)[key] = value;
    }
  }
  before.clear();
}

function readBack(node: SceneNode, key: string): unknown {
  if (key === 'transform')
    return {
      rows: readLocal(node, new Float32Array(12)),
      translation: node.readTranslation([0, 0, 0]),
      rotation: node.readRotation([0, 0, 0, 1]),
      scale: node.readScale([1, 1, 1]),
    } satisfies Transform;
  return (node as unknown as Record<string, unknown>)[key];
}

/** Three rows of four as four columns of four. */
export const byColumns = (m: ArrayLike<number>): number[] => [
  ...[m[0]!, m[4]!, m[8]!, 0, m[1]!, m[5]!, m[9]!, 0], // twelve by contract
  ...[m[2]!, m[6]!, m[10]!, 0, m[3]!, m[7]!, m[11]!, 1],
];
