import { LAYERS } from '../../../material/layers.js';
import { LensError, type Warning } from '../../../errors/lens-error.js';
import { openAccessors, type Resolve } from './accessors.js';
import { readAnimations } from './animations.js';
import type { AssetNode, ModelAsset } from '../../asset/asset.js';
import { readContainer } from './container.js';
import { Cursor } from './cursor.js';
import {
  NEWER_PICTURES,
  readImages,
  readMaterials,
  readSamplers,
  readTextures,
  readVariantNames,
} from './materials.js';
import { KEPT_EXTENSIONS, readKept } from '../extensions/kept-extensions.js';
import { readMeshes } from './meshes.js';
import { readInstances } from '../extensions/instances.js';
import { readLights } from '../extensions/lights.js';
import { readCameras, readNodes, readScenes, readSkins } from './nodes.js';

export interface ReadGltfOptions {
  /** Name for messages. */
  file?: string;
  /** Gives the bytes of files the model names. Left out: naming one is an error. */
  resolve?: Resolve;
  /** Lets URIs leave the model's folder or name the network. Default false. */
  allowOutside?: boolean;
}

export const SUPPORTED_EXTENSIONS = [
  'KHR_animation_pointer',
  'KHR_lights_punctual',
  'KHR_materials_unlit',
  'KHR_materials_emissive_strength',
  'KHR_materials_pbrSpecularGlossiness',
  'KHR_materials_variants',
  ...LAYERS.map(({ extension }) => extension),
  'KHR_texture_transform',
  'KHR_mesh_quantization',
  'KHR_node_visibility',
  'KHR_draco_mesh_compression',
  'EXT_meshopt_compression',
  'KHR_meshopt_compression',
  'EXT_mesh_gpu_instancing',
  ...NEWER_PICTURES,
  'MSFT_lod',
  ...KEPT_EXTENSIONS,
];

/**
 * Reads glTF 2.0, as `.gltf` JSON or as GLB, whole.
 *
 * Vertex data stays where it lies: attributes are views of `bytes` (or of what `resolve` gave), so
 * keep those bytes unchanged. Every number is checked here; what follows checks none.
 *
 * @throws LensError with a code `gltf/...` or `glb/...`, naming the place by JSON pointer or line
 */
export async function readGltf(bytes: Uint8Array, options: ReadGltfOptions = {}): Promise<ModelAsset> {
  const file = options.file ?? '';
  const allowOutside = options.allowOutside ?? false;
  const resolve: Resolve =
    options.resolve ??
    ((path) =>
      Promise.reject(
        new LensError('gltf/no-resolver', `the model needs the file "${path}"`, {
          where: { file },
          hint: 'Give a resolver, or use a .glb, which holds everything in itself.',
        }),
      ));
  const { json, binary } = await readContainer(bytes, file);
  const warnings: Warning[] = [];
  const root = Cursor.root(json, { file, warnings }).object();
  checkVersion(root.need('asset').object());
  const extensionsUsed = root.list('extensionsUsed').map((at) => String(at.value));
  const extensionsRequired = root.list('extensionsRequired').map((at) => String(at.value));
  checkExtensions(root, extensionsUsed, extensionsRequired);

  const accessors = await openAccessors(root, binary, resolve, allowOutside);
  if (extensionsUsed.includes('KHR_draco_mesh_compression')) {
    const { unpackPrimitives } = await import('./draco-primitives.js');
    await unpackPrimitives(root, accessors);
  }
  const images = await readImages(root, accessors, resolve, allowOutside);
  const samplers = readSamplers(root);
  const textures = readTextures(root, images, samplers);
  const materials = readMaterials(root, textures);
  const variants = readVariantNames(root);
  const isQuantized = extensionsUsed.includes('KHR_mesh_quantization');
  const meshes = readMeshes(root, accessors, materials, textures, variants, isQuantized);
  const cameras = readCameras(root);
  const lights = readLights(root);
  const nodes = readNodes(root, meshes, cameras, lights);
  readInstances(root, nodes, accessors);
  const skins = readSkins(root, nodes, accessors);
  // By what it has: not every file says what it uses.
  const hasPointers = namesPointers(root.get('animations')?.value);
  const pointers = hasPointers ? (await import('../extensions/pointers.js')).resolvePointer : undefined;
  const animations = readAnimations(root, { nodes, materials, lights, cameras }, accessors, pointers);
  const { scenes, defaultScene } = readScenes(root, nodes);
  const asset: ModelAsset = {
    format: 'glTF',
    scenes,
    ...(defaultScene ? { defaultScene } : {}),
    nodes,
    meshes,
    materials,
    variants,
    textures: textures.filter((texture) => texture !== undefined),
    images,
    samplers,
    cameras,
    lights,
    skins,
    animations,
    extensionsUsed,
    extensionsRequired,
    warnings,
  };
  const kept = readKept(root, accessors, textures);
  if (kept) asset.kept = kept;
  const { extras } = root.common();
  if (extras !== undefined) asset.extras = extras;
  const about = root.need('asset');
  const generator = about.text('generator');
  if (generator !== undefined) asset.generator = generator;
  const copyright = about.text('copyright');
  if (copyright !== undefined) asset.copyright = copyright;
  warnUnused(root, asset, accessors.unusedCount());
  return asset;
}

function checkVersion(about: Cursor): void {
  about.need('version');
  const version = about.text('version')!; // needed just above
  const least = about.text('minVersion');
  if (!/^2\.\d+$/.test(version) || (least !== undefined && least !== '2.0')) {
    about.fail('version', `glTF version ${least ?? version} is not read`, 'Export the model as glTF 2.0.');
  }
}

function checkExtensions(root: Cursor, used: string[], required: string[]): void {
  const unsupported = required.findIndex((name) => !SUPPORTED_EXTENSIONS.includes(name));
  if (unsupported >= 0) {
    const name = required[unsupported]!; // found above
    const place = root.list('extensionsRequired')[unsupported]!;
    place.fail(
      'extension-required',
      `the model requires the extension ${name}, which is not supported`,
      `Export it without ${name}. Supported: ${SUPPORTED_EXTENSIONS.join(', ')}.`,
    );
  }
  const places = root.list('extensionsUsed');
  used.forEach((name, i) => {
    if (SUPPORTED_EXTENSIONS.includes(name)) return;
    places[i]!.warn('extension-unknown', `the extension ${name} is not supported and is passed over`);
  });
}

/** Parts that no scene reaches, one line a kind. Unknown extensions may use them, so then nothing is said. */
function warnUnused(root: Cursor, asset: ModelAsset, unusedAccessors: number): void {
  const reached = new Set<AssetNode>();
  const open = asset.scenes.flatMap((scene) => scene.nodes);
  for (let node = open.pop(); node; node = open.pop()) {
    reached.add(node);
    for (const child of node.children) open.push(child);
    // Those that stand for it, once each.
    for (const level of node.levels ?? []) if (!reached.has(level.node)) open.push(level.node);
  }
  for (const skin of asset.skins) for (const joint of skin.joints) reached.add(joint);
  const used = new Set<unknown>(reached);
  for (const node of asset.nodes) if (node.mesh) used.add(node.mesh);
  for (const mesh of asset.meshes) {
    if (used.has(mesh)) for (const { material } of mesh.primitives) used.add(material);
  }
  for (const material of asset.materials) {
    for (const value of Object.values(material) as { texture?: unknown }[]) {
      if (typeof value === 'object' && value?.texture) used.add(value.texture);
    }
  }
  for (const texture of asset.textures) used.add(texture.image);
  const isForeign = asset.extensionsUsed.some((name) => !SUPPORTED_EXTENSIONS.includes(name));
  if (isForeign) return;
  const tell = (kind: string, key: string, list: readonly unknown[]): void => {
    const unused = list.flatMap((item, i) => (used.has(item) ? [] : [i]));
    if (unused.length > 0) unusedWarning(root, kind, key, unused.length, unused[0]);
  };
  if (asset.scenes.length > 0) tell('node', 'nodes', asset.nodes);
  tell('mesh', 'meshes', asset.meshes);
  tell('material', 'materials', asset.materials);
  tell('image', 'images', asset.images);
  if (unusedAccessors > 0) unusedWarning(root, 'accessor', 'accessors', unusedAccessors, undefined);
}

function unusedWarning(root: Cursor, kind: string, key: string, n: number, first: number | undefined): void {
  const which = first === undefined ? '' : `, the first is ${kind} ${first}`;
  root.get(key)?.warn('unused', `${n} ${n === 1 ? `${kind} is` : key + ' are'} never used${which}`);
}

/** Whether a channel of unchecked JSON goes by a pointer. */
function namesPointers(animations: unknown): boolean {
  const isList = (value: unknown): value is { channels?: unknown; target?: { path?: unknown } | null }[] =>
    Array.isArray(value);
  return (
    isList(animations) &&
    animations.some(
      (one) => isList(one?.channels) && one.channels.some((channel) => channel?.target?.path === 'pointer'),
    )
  );
}
