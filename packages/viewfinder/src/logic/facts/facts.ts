import { cameraFrustum, drawCount, type SceneNode, type Scene } from '@umber-lens/core/engine';

/** Something that is known of a node, in words. */
export interface Fact {
  name: string;
  value: string;
  /** Whether it is why a thing is not seen. */
  isWrong?: boolean;
}

/** What is known of a node: whether it is seen and why not, what it costs, what lights it. */
export function factsOf(node: SceneNode, camera: SceneNode, width: number, height: number): Fact[] {
  const { scene } = node;
  scene.update();
  const facts: Fact[] = [shownFact(node)];
  const bounds = node.worldBounds();
  const isEmpty = !(bounds.min[0] <= bounds.max[0]);
  if (!isEmpty && camera.camera) {
    const planes = cameraFrustum(camera, { x: 0, y: 0, width, height }, width, height);
    const isIn = isInView(bounds, planes as unknown as ArrayLike<number>);
    facts.push({ name: 'in view', value: isIn ? 'yes' : 'no: it lies beside the picture', isWrong: !isIn });
    const { sees = -1 } = camera.camera;
    if ((scene.visibleBits(node.row) & sees) === 0)
      facts.push({
        name: 'seen by the camera',
        value: "no: none of its visibleTo is among the camera's sees",
        isWrong: true,
      });
    const size = [0, 1, 2].map((k) => (bounds.max[k]! - bounds.min[k]!).toPrecision(3)); // three
    facts.push({ name: 'size', value: `${size.map(Number).join(' × ')} m` });
  }
  const cost = costOf(node);
  if (cost.nodes > 0) {
    facts.push({
      name: 'triangles',
      value: `${cost.isMore ? 'more than ' : ''}${cost.triangles.toLocaleString('en')}`,
    });
    facts.push({
      name: 'meshes',
      value: `${cost.nodes} of ${cost.geometries} geometries, ${cost.materials} materials`,
    });
    facts.push({ name: 'memory', value: bytes(cost.bytes) });
    facts.push(batchFact(node, scene));
    facts.push({ name: 'lights that reach it', value: lightsAt(node, scene) });
  }
  return facts;
}

function shownFact(node: SceneNode): Fact {
  if (node.isShown) return { name: 'shown', value: 'yes' };
  for (let at: SceneNode | undefined = node; at; at = at.parent)
    if (!at.visible)
      return {
        name: 'shown',
        value: at === node ? 'no: it is not visible' : `no: "${at.name}" above it is not visible`,
        isWrong: true,
      };
  return { name: 'shown', value: 'no', isWrong: true };
}

function isInView(
  { max, min }: { min: ArrayLike<number>; max: ArrayLike<number> },
  planes: ArrayLike<number>,
): boolean {
  for (let p = 0; p + 3 < planes.length; p += 4) {
    let reach = planes[p + 3]!; // four a plane
    for (let k = 0; k < 3; k++) reach += Math.max(planes[p + k]! * min[k]!, planes[p + k]! * max[k]!); // as above
    if (reach < 0) return false;
  }
  return true;
}

interface Cost {
  nodes: number;
  triangles: number;
  geometries: number;
  materials: number;
  bytes: number;
  /** Whether not all of it was looked at. */
  isMore: boolean;
}

/** Most nodes that are looked at: facts are told while a scene runs. */
const MOST = 20_000;

/** Of a node with all below it; what is shared counts once. */
function costOf(top: SceneNode): Cost {
  const geometries = new Set<object>();
  const materials = new Set<object>();
  // Attributes may lie in one region.
  const regions = new Set<ArrayBufferView>();
  const cost: Cost = { nodes: 0, triangles: 0, geometries: 0, materials: 0, bytes: 0, isMore: false };
  let looked = 0;
  for (const node of withBelow(top)) {
    if (++looked > MOST) {
      cost.isMore = true;
      break;
    }
    if (!node.mesh) continue;
    cost.nodes++;
    for (const { geometry, material } of node.mesh.primitives) {
      cost.triangles += Math.floor(drawCount(geometry) / 3);
      if (material) materials.add(material);
      if (geometries.has(geometry)) continue;
      geometries.add(geometry);
      if (geometry.indices) regions.add(geometry.indices);
      for (const { bytes: own } of Object.values(geometry.attributes)) regions.add(own);
    }
  }
  for (const { byteLength } of regions) cost.bytes += byteLength;
  cost.geometries = geometries.size;
  cost.materials = materials.size;
  return cost;
}

function* withBelow(top: SceneNode): Generator<SceneNode> {
  yield top;
  yield* top.descendants();
}

function batchFact(node: SceneNode, scene: Scene): Fact {
  const { mesh } = node;
  const [own] = mesh?.primitives ?? [];
  if (!own) return { name: 'drawn with', value: 'those below it' };
  let others = 0;
  for (const [other, { primitives }] of scene.meshes)
    if (
      other !== node &&
      primitives.some(({ geometry, material }) => geometry === own.geometry && material === own.material)
    )
      others++;
  return {
    name: 'drawn with',
    value: others === 0 ? 'nothing else of its geometry and material' : `${others} others, in one draw`,
  };
}

function lightsAt(node: SceneNode, scene: Scene): string {
  const bounds = node.worldBounds();
  const names: string[] = [];
  for (const [holder, light] of scene.lights) {
    if (!holder.isShown) continue;
    const { range = Infinity, type } = light;
    if (type === 'point' || type === 'spot') {
      const at = holder.readWorldPosition([0, 0, 0]);
      const away = Math.hypot(
        ...[0, 1, 2].map((k) => Math.max(0, bounds.min[k]! - at[k]!, at[k]! - bounds.max[k]!)), // three
      );
      if (away > range) continue;
    }
    names.push(holder.name || type);
  }
  if (scene.imageLight) names.push('image light');
  if (names.length === 0) return 'none';
  return names.length > 5 ? `${names.slice(0, 4).join(', ')} and ${names.length - 4} more` : names.join(', ');
}

function bytes(count: number): string {
  return count < 1e4
    ? `${count} B`
    : count < 1e6
      ? `${Math.round(count / 1e3)} kB`
      : `${(count / 1e6).toFixed(1)} MB`;
}
