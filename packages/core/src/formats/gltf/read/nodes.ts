import type { Skin } from '../../../animation/animation.js';
import type { Camera, Light, Mesh } from '../../../scene/components.js';
import { accessorFloats, type Accessors } from './accessors.js';
import type { AssetNode, AssetScene } from '../../asset/asset.js';
import type { Cursor } from './cursor.js';
import { readOwnLight } from '../extensions/lights.js';

export function readCameras(root: Cursor): Camera[] {
  return root.list('cameras').map((at): Camera => {
    at.object().need('type');
    const type = at.choice('type', ['perspective', 'orthographic'] as const)!; // needed just above
    const lens = at.need(type).object();
    const zfarAt = lens.get('zfar');
    if (type === 'perspective') {
      const yfov = lens.need('yfov').asNumber(Number.MIN_VALUE);
      if (yfov >= Math.PI)
        lens.need('yfov').fail('range', `a field of view of ${yfov} radians is not below pi`);
      const znear = lens.need('znear').asNumber(Number.MIN_VALUE);
      const zfar = zfarAt?.asNumber();
      if (zfar !== undefined && zfar <= znear)
        zfarAt!.fail('range', `zfar ${zfar} is not beyond znear ${znear}`);
      const aspectRatio = lens.number('aspectRatio', Number.MIN_VALUE);
      return {
        type,
        ...at.common(),
        yfov,
        znear,
        ...(zfar === undefined ? {} : { zfar }),
        ...(aspectRatio === undefined ? {} : { aspectRatio }),
      };
    }
    const [xmag, ymag] = [lens.need('xmag').asNumber(), lens.need('ymag').asNumber()];
    if (xmag === 0 || ymag === 0) lens.fail('range', 'xmag and ymag must not be zero');
    const znear = lens.need('znear').asNumber(0);
    const zfar = lens.need('zfar').asNumber();
    if (zfar <= znear) lens.need('zfar').fail('range', `zfar ${zfar} is not beyond znear ${znear}`);
    return { type, ...at.common(), xmag: Math.abs(xmag), ymag: Math.abs(ymag), znear, zfar };
  });
}

/** Nodes, linked to their children. A node with two parents, or below itself, is an error. */
export function readNodes(root: Cursor, meshes: Mesh[], cameras: Camera[], lights: Light[]): AssetNode[] {
  const places = root.list('nodes');
  const nodes = places.map((at): AssetNode => {
    const node: AssetNode = { ...at.object().common(), children: [] };
    readTransform(at, node);
    const mesh = at.get('mesh')?.pick(meshes, 'mesh');
    if (mesh) node.mesh = mesh;
    const camera = at.get('camera')?.pick(cameras, 'camera');
    if (camera) node.camera = camera;
    const light = at.extension('KHR_lights_punctual')?.need('light').pick(lights, 'light');
    if (light) node.light = light;
    else readOwnLight(at, node);
    if (at.extension('KHR_node_visibility')?.flag('visible') === false) node.visible = false;
    const weights = at.get('weights');
    if (weights) {
      node.weights = at.list('weights').map((weight) => weight.asNumber());
      const expected = mesh?.weights?.length ?? 0;
      if (node.weights.length !== expected) {
        weights.fail('length', `${expected} weights are expected, not ${node.weights.length}`);
      }
    }
    return node;
  });
  places.forEach((at, i) => readLevels(at, nodes[i]!, nodes));
  const parentOf = new Int32Array(nodes.length).fill(-1);
  places.forEach((at, i) => {
    for (const childAt of at.list('children')) {
      const child = childAt.pick(nodes, 'node');
      const index = childAt.asWhole();
      if (parentOf[index] !== -1) {
        childAt.fail(
          'two-parents',
          `node ${index} is already a child of node ${parentOf[index]}`,
          'A node has one parent.',
        );
      }
      parentOf[index] = i;
      nodes[i]!.children.push(child);
    }
  });
  refuseCycles(places, parentOf);
  return nodes;
}

/** Coarser placeholders (MSFT_lod), with how wrong they are, where extras say so. */
function readLevels(at: Cursor, node: AssetNode, nodes: readonly AssetNode[]): void {
  const ids = at.extension('MSFT_lod')?.list('ids') ?? [];
  if (ids.length === 0) return;
  const extras = node.extras as
    { MSFT_screencoverage?: unknown; umberLevels?: { errors?: unknown } } | undefined;
  const numberIn = (list: unknown, i: number): number | undefined => {
    const value: unknown = Array.isArray(list) ? list[i] : undefined;
    return typeof value === 'number' && value >= 0 && Number.isFinite(value) ? value : undefined;
  };
  node.levels = ids.map((id, i) => {
    const level = id.pick(nodes, 'node');
    if (level === node) id.fail('cycle', 'a node cannot be a level of its own');
    const error = numberIn(extras?.umberLevels?.errors, i);
    const coverage = numberIn(extras?.MSFT_screencoverage, i);
    return {
      node: level,
      ...(error === undefined ? {} : { error }),
      ...(coverage === undefined ? {} : { coverage }),
    };
  });
}

/** Walks up from every node, marking what is known to end at a root: linear in all. */
function refuseCycles(places: Cursor[], parentOf: Int32Array): void {
  const known = new Uint8Array(places.length);
  for (let i = 0; i < places.length; i++) {
    let at = i;
    const way: number[] = [];
    while (at !== -1 && known[at] === 0) {
      known[at] = 1;
      way.push(at);
      at = parentOf[at]!; // in range
    }
    if (at !== -1 && known[at] === 1) {
      places[at]!.fail('cycle', `node ${at} is its own ancestor`, 'Nodes must form trees.');
    }
    for (const node of way) known[node] = 2;
  }
}

function readTransform(at: Cursor, node: AssetNode): void {
  const matrix = at.numbers('matrix', 16);
  const translation = at.numbers('translation', 3);
  const rotation = at.numbers('rotation', 4);
  const scale = at.numbers('scale', 3);
  if (matrix) {
    if (translation || rotation || scale)
      at.fail('transform', 'a node has either a matrix or its parts, not both');
    if (matrix[3] !== 0 || matrix[7] !== 0 || matrix[11] !== 0 || matrix[15] !== 1) {
      at.need('matrix').fail('transform', 'the last row of the matrix is not 0 0 0 1');
    }
    node.matrix = matrix;
  }
  if (translation) node.translation = translation as [number, number, number];
  if (scale) node.scale = scale as [number, number, number];
  if (rotation) {
    const n = Math.hypot(...rotation);
    if (!(n > 0) || !Number.isFinite(n))
      at.need('rotation').fail('range', 'a rotation of zero length turns nowhere');
    if (Math.abs(n - 1) > 1e-3) {
      at.need('rotation').warn(
        'rotation',
        `the rotation has length ${+n.toPrecision(6)}; it was brought to 1`,
      );
    }
    node.rotation = rotation.map((v) => v / n) as [number, number, number, number];
  }
}

/** Skins, hung onto the nodes that use them. */
export function readSkins(root: Cursor, nodes: AssetNode[], accessors: Accessors): Skin<AssetNode>[] {
  const skins = root.list('skins').map((at): Skin<AssetNode> => {
    at.object().need('joints');
    const joints = at.list('joints').map((joint) => joint.pick(nodes, 'node'));
    if (joints.length === 0) at.need('joints').fail('missing', 'a skin needs at least one joint');
    const skeleton = at.get('skeleton')?.pick(nodes, 'node');
    const matricesAt = at.get('inverseBindMatrices');
    let inverseBindMatrices: Float32Array | undefined;
    if (matricesAt) {
      const data = accessors.read(matricesAt);
      if (data.type !== 'MAT4' || data.componentType !== 'f32') {
        matricesAt.fail(
          'skin',
          `inverse bind matrices are MAT4 of f32, not ${data.type} of ${data.componentType}`,
        );
      }
      if (data.count < joints.length) {
        matricesAt.fail(
          'skin',
          `${data.count} inverse bind matrices are too few for ${joints.length} joints`,
        );
      }
      inverseBindMatrices = accessorFloats(data);
      if (!inverseBindMatrices.every(Number.isFinite)) {
        matricesAt.fail('not-finite', 'an inverse bind matrix has a number that is not finite');
      }
    }
    return {
      ...at.common(),
      joints,
      ...(inverseBindMatrices ? { inverseBindMatrices } : {}),
      ...(skeleton ? { skeleton } : {}),
    };
  });
  root.list('nodes').forEach((at, i) => {
    const skinAt = at.get('skin');
    const skin = skinAt?.pick(skins, 'skin');
    if (skin && !nodes[i]!.mesh) skinAt!.warn('skin', 'a skin on a node without a mesh does nothing');
    if (skin) nodes[i]!.skin = skin;
  });
  return skins;
}

export function readScenes(
  root: Cursor,
  nodes: AssetNode[],
): { scenes: AssetScene[]; defaultScene?: AssetScene } {
  const isChild = new Set(nodes.flatMap((node) => node.children));
  const scenes = root.list('scenes').map((at): AssetScene => {
    const roots = at
      .object()
      .list('nodes')
      .map((place) => {
        const node = place.pick(nodes, 'node');
        if (isChild.has(node)) place.fail('two-parents', 'a root of a scene is also a child of another node');
        return node;
      });
    return { ...at.common(), nodes: [...new Set(roots)] };
  });
  const chosen = root.get('scene')?.pick(scenes, 'scene') ?? scenes[0];
  return { scenes, ...(chosen ? { defaultScene: chosen } : {}) };
}
