import type { AnimatedProperty } from '../../../animation/animation.js';
import type { Property, Table } from '../../../properties/property.js';
import { LIGHT_TABLE } from '../../../properties/tables/light.js';
import { MATERIAL_TABLE, TEXTURE_TRANSFORM_TABLE } from '../../../properties/tables/material.js';
import { CAMERA_TABLE, NODE_TABLE } from '../../../properties/tables/node.js';
import type { AssetNode } from '../../asset/asset.js';

/** A property that KHR_animation_pointer may move: where the file has it below its owner, and where we do. */
interface Movable {
  path: string;
  names: readonly string[];
  default: number | readonly number[];
}

const PUNCTUAL = '/extensions/KHR_lights_punctual/lights/';

/** What of a table's members is numbers, and stands in files: it may be moved. */
const movableOf = (table: Table, at = '', above: readonly string[] = []): Movable[] =>
  Object.entries(table).flatMap(([name, { default: usual = 1, file, type }]) =>
    file !== undefined && (type === 'number' || type === 'numbers' || name === 'visible')
      ? [{ path: at + file, names: [...above, name], default: numbersOf(usual) }]
      : [],
  );
const numbersOf = (usual: unknown): Movable['default'] =>
  typeof usual === 'boolean' ? Number(usual) : (usual as Movable['default']);

/** How strong a texture is, and how it lies. */
const ofTexture = ([key, { file, strength, type }]: [string, Property]): Movable[] =>
  type !== 'texture' || file === undefined
    ? []
    : [
        ...(strength ? [{ path: `${file}/${strength}`, names: [key, 'strength'], default: 1 }] : []),
        ...movableOf(TEXTURE_TRANSFORM_TABLE, `${file}/`, [key, 'transform']),
      ];

const MATERIAL = [...movableOf(MATERIAL_TABLE), ...Object.entries(MATERIAL_TABLE).flatMap(ofTexture)];
const LIGHT = movableOf(LIGHT_TABLE);
// Planes stand below either type.
const CAMERA = movableOf(CAMERA_TABLE).flatMap((one) =>
  one.path.includes('/')
    ? [one]
    : ['perspective', 'orthographic'].map((type) => ({ ...one, path: `${type}/${one.path}` })),
);
const NODE = movableOf(NODE_TABLE).filter(({ names }) => names[0] === 'visible');

/** What pointers may name, in the file's order. */
export interface Owners {
  nodes: readonly AssetNode[];
  materials: readonly object[];
  lights: readonly object[];
  cameras: readonly object[];
}

/** What is moved: a node's own path, or a property. */
export type Pointed =
  | { node: AssetNode; path: 'translation' | 'rotation' | 'scale' | 'weights' }
  | { property: AnimatedProperty; components: number };

/** What a pointer names; undefined for what is not moved here. */
export function resolvePointer(pointer: string, owners: Owners): Pointed | undefined {
  const own = /^\/nodes\/(\d+)\/(translation|rotation|scale|weights)$/.exec(pointer);
  if (own) {
    const node = owners.nodes[Number(own[1])];
    return node && { node, path: own[2] as 'translation' };
  }
  for (const { prefix, list, movable } of kinds(owners)) {
    if (!pointer.startsWith(prefix)) continue;
    const [, index, path] = /^(\d+)\/(.+)$/.exec(pointer.slice(prefix.length)) ?? [];
    const owner = list[Number(index)];
    const found = movable.find((one) => one.path === path);
    if (!owner || !found) continue;
    const { names, default: usual } = found;
    return {
      property: { owner, names, pointer, default: usual },
      components: typeof usual === 'number' ? 1 : usual.length,
    };
  }
  return undefined;
}

/**
 * The pointer of a property in a file that is written.
 *
 * @param indexOf the owner's number in its list; undefined when it is not of that kind
 */
export function pointerOf(
  { owner, names }: AnimatedProperty,
  indexOf: { node: number; material: number; light: number; camera: number },
): string | undefined {
  const all = [
    { prefix: '/materials/', index: indexOf.material, movable: MATERIAL },
    { prefix: PUNCTUAL, index: indexOf.light, movable: LIGHT },
    { prefix: '/cameras/', index: indexOf.camera, movable: CAMERA },
    { prefix: '/nodes/', index: indexOf.node, movable: NODE },
  ];
  for (const { prefix, index, movable } of all) {
    if (index < 0) continue;
    const type = 'type' in owner ? String(owner.type) : '';
    const found = movable.find(
      (one) => one.names.join() === names.join() && (prefix !== '/cameras/' || one.path.startsWith(type)),
    );
    if (found) return `${prefix}${index}/${found.path}`;
  }
  return undefined;
}

function kinds({ nodes, materials, lights, cameras }: Owners): {
  prefix: string;
  list: readonly object[];
  movable: readonly Movable[];
}[] {
  return [
    { prefix: '/materials/', list: materials, movable: MATERIAL },
    { prefix: PUNCTUAL, list: lights, movable: LIGHT },
    { prefix: '/cameras/', list: cameras, movable: CAMERA },
    { prefix: '/nodes/', list: nodes, movable: NODE },
  ];
}
