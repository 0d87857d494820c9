import { keepPlacing } from '../../animation/placings.js';
import { LensError } from '../../errors/lens-error.js';
import { poseNode } from '../../pose/pose-node.js';
import type { NodeOptions, Scene } from '../../scene/scene.js';
import type { SceneNode } from '../../scene/scene-node.js';
import type { AssetNode, AssetScene, ModelAsset } from './asset.js';
import { copiesOf } from './copies.js';
import { leveledMesh } from './levels.js';
import { rootsOf } from './roots.js';

export interface PlaceOptions {
  /** Name of the node that everything hangs from. Default: the asset scene's name, or `model`. */
  name?: string;
  /** Where to hang it. Default: the scene's top. */
  parent?: SceneNode;
  /** Which of the asset's scenes, by name. Default: the asset's default scene. */
  scene?: string;
}

/** What one placing made. */
export interface Placed {
  /** The node that everything hangs from. */
  node: SceneNode;
  /** The scene's node for each node of the asset that was placed. */
  nodeOf: Map<AssetNode, SceneNode>;
}

/**
 * Hangs an asset's scene into a scene, any number of times: meshes, materials, cameras and lights
 * are shared between the placings, and vertex data is never copied.
 *
 * @throws LensError `model/no-scene` when the asset has no scene of that name
 */
export function placeAsset(asset: ModelAsset, scene: Scene, options: PlaceOptions = {}): Placed {
  const from = chooseScene(asset, options.scene);
  const node = scene.createNode({
    name: options.name ?? from.name ?? 'model',
    ...(options.parent ? { parent: options.parent } : {}),
  });
  if (from.extras !== undefined) node.extras = from.extras;
  const nodeOf = new Map<AssetNode, SceneNode>();
  const open = [...from.nodes].reverse().map((child) => ({ child, parent: node }));
  for (let next = open.pop(); next; next = open.pop()) {
    const made = scene.createNode(nodeOptions(next.child, next.parent));
    nodeOf.set(next.child, made);
    placeCopies(next.child, made);
    for (let i = next.child.children.length - 1; i >= 0; i--) {
      open.push({ child: next.child.children[i]!, parent: made });
    }
  }
  for (const [from, to] of nodeOf) {
    const { skin, weights, mesh } = from;
    if (mesh && (skin || mesh.primitives.some(({ geometry }) => geometry.targets)))
      pose(to, skin, weights, nodeOf);
  }
  keepPlacing(node, { animations: asset.animations, sources: asset.nodes, nodeOf });
  return { node, nodeOf };
}

/** Copies of a mesh of several primitives are a node for each. */
function placeCopies(from: AssetNode, to: SceneNode): void {
  if (!from.instances || !from.mesh) return;
  const [first, ...others] = copiesOf(from);
  to.setMesh(first);
  for (const mesh of others)
    to.scene.createNode({ parent: to, mesh, ...(from.name === undefined ? {} : { name: from.name }) });
}

/** Joints that the scene does not show have no place: what hangs on them stays with the mesh's own node. */
function pose(
  node: SceneNode,
  skin: AssetNode['skin'],
  weights: number[] | undefined,
  nodeOf: ReadonlyMap<AssetNode, SceneNode>,
): void {
  const joints = skin?.joints.map((joint) => nodeOf.get(joint) ?? node);
  poseNode(node, {
    ...(skin && joints ? { skin: { ...skin, joints } } : {}),
    ...(weights ? { weights } : {}),
  });
}

function chooseScene(asset: ModelAsset, name: string | undefined): AssetScene {
  if (name !== undefined) {
    const found = asset.scenes.find((scene) => scene.name === name);
    if (found) return found;
    throw new LensError('model/no-scene', `the model has no scene "${name}"`, {
      hint: `It has: ${asset.scenes.map((scene) => scene.name ?? '(unnamed)').join(', ') || 'none'}.`,
    });
  }
  if (asset.defaultScene) return asset.defaultScene;
  // A file without scenes is a library of nodes: show all that hang from none.
  return { nodes: rootsOf(asset.nodes) };
}

function nodeOptions(node: AssetNode, parent: SceneNode): NodeOptions {
  const { name, matrix, translation, rotation, scale, camera, light, visible, extras } = node;
  const mesh = node.instances ? undefined : leveledMesh(node);
  const options: NodeOptions = { parent };
  if (name !== undefined) options.name = name;
  if (matrix) options.matrix = matrix;
  if (translation) options.translation = translation;
  if (rotation) options.rotation = rotation;
  if (scale) options.scale = scale;
  if (mesh) options.mesh = mesh;
  if (camera) options.camera = camera;
  if (light) options.light = light;
  if (visible === false) options.visible = false;
  if (extras !== undefined) options.extras = extras;
  return options;
}
