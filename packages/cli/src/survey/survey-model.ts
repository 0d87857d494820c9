import {
  type AssetNode,
  boundsRadius,
  addTo,
  type Camera,
  type Light,
  type Bounds,
  frameBounds,
  inUnits,
  isEmptyBounds,
  KINDS,
  LAYER_TEXTURES,
  LAYERS,
  type Material,
  type ModelAsset,
  placeAsset,
  Scene,
  type Warning,
} from '@umber-lens/core/engine';
import { lensOn } from 'umber-lens';
import { TraceDevice } from 'umber-lens/device';
import { drawnCounts } from './drawn-counts.js';
import type { OpenedModel } from '../open/open-model.js';

/** What `umber survey --json` prints. */
export interface Survey {
  format: string;
  generator: string | null;
  nodes: number;
  meshes: number;
  primitives: number;
  /** As drawn by the default scene: a mesh on two nodes counts twice. */
  /** Every instance counted. */
  triangles: number;
  /** Primitives that are drawn, every instance counted. */
  instances: number;
  vertices: number;
  /** With the layers that each has besides base, metal and roughness, and what they cost. */
  materials: { name: string | null; layers: string[]; cost: string | null }[];
  /** Names of variants. */
  variants: string[];
  textures: { name: string | null; mimeType: string; width: number; height: number }[];
  /** `figures`: its members with their values, in units that people read. */
  cameras: { name: string | null; type: string; figures: string }[];
  /** As for cameras. */
  lights: { name: string | null; type: string; figures: string }[];
  /** Influences a vertex: the most of the meshes that hang on it. */
  skins: { name: string | null; joints: number; influences: number }[];
  /** With what each moves. */
  animations: {
    name: string | null;
    duration: number;
    channels: number;
    keys: number;
    bytes: number;
    targets: { name: string; paths: string[] }[];
  }[];
  morphTargets: { mesh: string | null; names: (string | null)[] }[];
  /** World space of the default scene, metres; null when it draws nothing. */
  bounds: Bounds | null;
  drawCalls: number;
  /** Why draws are not one with those before them, in words: how many each. */
  drawsApart: Record<string, number>;
  /** Vertex, index and texture memory with mipmaps. */
  gpuBytes: number;
  extensionsUsed: string[];
  extensionsRequired: string[];
  warnings: Warning[];
}

/** Names of the layers that a material has. */
export function layerNamesOf(material: Material): string[] {
  return LAYERS.filter(({ numbers, textures }) =>
    [...numbers, ...textures].some(({ key }) => material[key] !== undefined),
  ).map(({ name }) => name);
}

/** What a material's layers cost beyond a plain one, in words; null where they cost nothing to speak of. */
export function layerCostOf(material: Material): string | null {
  const textures = LAYER_TEXTURES.filter(({ key }) => material[key] !== undefined).length;
  const costs = [
    ...(material.transmissionFactor ? ['the opaque scene is drawn once more to be seen through it'] : []),
    ...(material.dispersion ? ['three reads of it instead of one'] : []),
    ...(material.clearcoatFactor ? ['a second mirroring for every light'] : []),
    ...(textures > 0 ? [`${textures} more texture${textures === 1 ? '' : 's'}, in one array`] : []),
  ];
  return costs.length > 0 ? costs.join('; ') : null;
}

export async function surveyModel({ asset, images }: OpenedModel): Promise<Survey> {
  const scene = new Scene();
  const { node: top, nodeOf } = placeAsset(asset, scene);
  let triangles = 0;
  let vertices = 0;
  let instances = 0;
  for (const { mesh, instances: placed } of nodeOf.keys()) {
    if (!mesh) continue;
    const drawn = drawnCounts(mesh, placed?.count);
    triangles += drawn.triangles;
    vertices += drawn.vertices;
    instances += drawn.instances;
  }
  const bounds = top.worldBounds();
  const name = (thing: { name?: string }): string | null => thing.name ?? null;
  return {
    format: asset.format,
    generator: asset.generator ?? null,
    nodes: asset.nodes.length,
    meshes: asset.meshes.length,
    primitives: asset.meshes.reduce((sum, mesh) => sum + mesh.primitives.length, 0),
    triangles,
    vertices,
    instances,
    materials: asset.materials.map((material) => ({
      name: name(material),
      layers: layerNamesOf(material),
      cost: layerCostOf(material),
    })),
    variants: asset.variants,
    textures: asset.textures.map((texture) => ({
      name: texture.name ?? texture.image.name ?? texture.image.uri ?? null,
      ...images.get(texture.image)!, // every image was looked at on opening
    })),
    cameras: asset.cameras.map((camera, i) => ({
      name: name(camera) ?? nodeNameOf(asset.nodes, 'camera', camera) ?? `camera ${i + 1}`,
      type: camera.type,
      figures: membersInWords(camera, 'camera'),
    })),
    lights: asset.lights.map((light) => ({
      name: name(light) ?? nodeNameOf(asset.nodes, 'light', light),
      type: light.type,
      figures: membersInWords(light, 'light'),
    })),
    skins: asset.skins.map((skin) => ({
      name: name(skin),
      joints: skin.joints.length,
      influences: Math.max(0, ...asset.nodes.filter((node) => node.skin === skin).map(influencesOf)),
    })),
    animations: asset.animations.map((animation) => ({
      name: name(animation),
      duration: animation.duration,
      channels: animation.channels.length,
      ...sizeOf(animation),
      targets: targetsOf(animation),
    })),
    morphTargets: asset.meshes.flatMap((mesh) => {
      const targets = mesh.primitives[0]?.geometry.targets;
      return targets ? [{ mesh: name(mesh), names: targets.map(name) }] : [];
    }),
    bounds: isEmptyBounds(bounds) ? null : bounds,
    ...(await costOf(scene, bounds, images)),
    extensionsUsed: asset.extensionsUsed,
    extensionsRequired: asset.extensionsRequired,
    warnings: asset.warnings,
  };
}

/** What a camera or a light holds besides what it is, in words: the table's own, with units. */
function membersInWords(thing: Camera | Light, kind: 'camera' | 'light'): string {
  const { table } = KINDS[kind];
  return Object.entries(thing)
    .filter(
      ([member, value]) =>
        member in table && !['type', 'name', 'extras'].includes(member) && value !== undefined,
    )
    .map(([member, value]) => `${member} ${inUnits(value, table[member]!, thing.type)}`) // filtered by that
    .join(', ');
}

function influencesOf({ mesh }: AssetNode): number {
  const sets = (mesh?.primitives ?? []).map(
    ({ geometry }) => Object.keys(geometry.attributes).filter((key) => /^weights\d$/.test(key)).length,
  );
  return 4 * Math.max(0, ...sets);
}

/** Keys of all channels, and bytes of the samplers, each counted once. */
function sizeOf({ channels }: ModelAsset['animations'][number]): { keys: number; bytes: number } {
  const arrays = new Set(channels.flatMap(({ sampler }) => [sampler.input, sampler.output]));
  return {
    keys: channels.reduce((sum, { sampler }) => sum + sampler.input.length, 0),
    bytes: [...arrays].reduce((sum, { byteLength }) => sum + byteLength, 0),
  };
}

/** What a clip moves, by the names of nodes, materials, lights and cameras. */
function targetsOf({ channels }: ModelAsset['animations'][number]): { name: string; paths: string[] }[] {
  const byName = new Map<string, string[]>();
  for (const { target, path, property } of channels) {
    const owner = (target ?? property?.owner ?? {}) as { name?: string };
    const name = owner.name ?? property?.pointer ?? '(unnamed)';
    addTo(byName, name, property?.names.join('.') ?? path);
  }
  return [...byName].map(([name, paths]) => ({ name, paths }));
}

function nodeNameOf(nodes: AssetNode[], key: 'camera' | 'light', thing: unknown): string | null {
  return nodes.find((node) => node[key] === thing)?.name ?? null;
}

/** Draws the scene on a device that only counts; an empty scene's own costs are taken off. */
async function costOf(
  scene: Scene,
  bounds: Bounds,
  images: OpenedModel['images'],
): Promise<{ drawCalls: number; gpuBytes: number; drawsApart: Record<string, number> }> {
  const device = new TraceDevice({ width: 640, height: 400 });
  device.recording = false;
  // Nothing is shown: what would be said of the picture is no concern of the figures.
  const lens = lensOn(device, { onMessage: () => undefined });
  const empty = new Scene();
  const camera = { type: 'perspective', yfov: 0.8, znear: 1e-3 } as const;
  lens.draw(empty, empty.createNode({ camera }));
  const before = device.counts.bufferBytes + device.counts.textureBytes;
  const draws = lens.ledger.draws;
  let packed = 0;
  for (const [image, { width, height, packedBytes }] of images) {
    const size = packedBytes === undefined ? { width, height } : { width: 1, height: 1 };
    image.content = { kind: 'host', ...size, source: {} };
    packed += packedBytes ?? 0;
  }
  // Far enough back that nothing is culled.
  const { translation, rotation } = frameBounds(bounds, { yfov: 0.8, aspect: 1.6 });
  const radius = boundsRadius(bounds);
  const cameraNode = scene.createNode({
    translation,
    rotation,
    camera: { ...camera, znear: Math.max(radius * 1e-4, 1e-6) },
  });
  cameraNode.setTranslation(
    ...(translation.map((v, k) => v + (v - (bounds.min[k]! + bounds.max[k]!) / 2) * 2 || 0) as [
      number,
      number,
      number,
    ]),
  );
  await lens.load(scene);
  lens.draw(scene, cameraNode);
  // Buffers shared by a frame (instances) count too: the model would not be drawn without them.
  const gpuBytes = device.counts.bufferBytes + device.counts.textureBytes - before + packed;
  const drawCalls = lens.ledger.draws - draws;
  const drawsApart: Record<string, number> = {};
  for (const { words } of await lens.batchBreaks()) {
    // The names behind the reason differ from draw to draw.
    const reason = words.split(':')[0]!; // split gives one part at least
    drawsApart[reason] = (drawsApart[reason] ?? 0) + 1;
  }
  lens.dispose();
  return { drawCalls, gpuBytes, drawsApart };
}
