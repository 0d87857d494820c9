import type { AnimatedProperty } from '../../animation/animation.js';
import { LAYERS } from '../../material/layers.js';
import type { AssetNode } from '../asset/asset.js';

/** A property that KHR_animation_pointer may move: where the file has it below its owner, and where we do. */
interface Movable {
  path: string;
  names: readonly string[];
  default: number | readonly number[];
}

const PUNCTUAL = '/extensions/KHR_lights_punctual/lights/';
const VISIBLE = 'extensions/KHR_node_visibility/visible';

const one = (path: string, usual: Movable['default'], ...names: string[]): Movable => ({
  path,
  names: names.length > 0 ? names : [path.slice(path.lastIndexOf('/') + 1)],
  default: usual,
});

/** Where the file has a material's textures. */
const TEXTURES = [
  'pbrMetallicRoughness/baseColorTexture',
  'pbrMetallicRoughness/metallicRoughnessTexture',
  'normalTexture',
  'occlusionTexture',
  'emissiveTexture',
  ...LAYERS.flatMap(({ extension, textures }) => textures.map(({ key }) => `extensions/${extension}/${key}`)),
];

const MATERIAL: readonly Movable[] = [
  one('pbrMetallicRoughness/baseColorFactor', [1, 1, 1, 1]),
  one('pbrMetallicRoughness/metallicFactor', 1),
  one('pbrMetallicRoughness/roughnessFactor', 1),
  one('emissiveFactor', [0, 0, 0]),
  one('alphaCutoff', 0.5),
  one('normalTexture/scale', 1, 'normalTexture', 'strength'),
  one('occlusionTexture/strength', 1, 'occlusionTexture', 'strength'),
  one('extensions/KHR_materials_emissive_strength/emissiveStrength', 1),
  ...LAYERS.flatMap(({ extension, numbers, textures }) => [
    ...numbers.map(({ key, default: usual }) => one(`extensions/${extension}/${key}`, usual)),
    ...textures.flatMap(({ key, strength }) =>
      strength ? [one(`extensions/${extension}/${key}/${strength}`, 1, key, 'strength')] : [],
    ),
  ]),
  ...TEXTURES.flatMap((path) => {
    const texture = path.slice(path.lastIndexOf('/') + 1);
    const at = `${path}/extensions/KHR_texture_transform`;
    return [
      one(`${at}/offset`, [0, 0], texture, 'transform', 'offset'),
      one(`${at}/rotation`, 0, texture, 'transform', 'rotation'),
      one(`${at}/scale`, [1, 1], texture, 'transform', 'scale'),
    ];
  }),
];
const LIGHT: readonly Movable[] = [
  one('color', [1, 1, 1]),
  one('intensity', 1),
  one('range', Infinity),
  one('spot/innerConeAngle', 0),
  one('spot/outerConeAngle', Math.PI / 4),
];
const CAMERA: readonly Movable[] = [
  ...['yfov', 'znear', 'zfar', 'aspectRatio'].map((name) => one(`perspective/${name}`, 1)),
  ...['xmag', 'ymag', 'znear', 'zfar'].map((name) => one(`orthographic/${name}`, 1)),
];
const NODE: readonly Movable[] = [one(VISIBLE, 1, 'visible')];

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
