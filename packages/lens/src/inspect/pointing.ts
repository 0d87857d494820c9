import {
  type CameraView,
  cropView,
  cameraRay,
  LensError,
  NO_SHADOW_CAST,
  type PictureRegion,
  type Scene,
  type SceneNode,
  SLOT_BITS,
  swarmPart,
  TRAIT_SHIFT,
  updateCameraView,
} from '@umber-lens/core/engine';
import type { Device, DeviceTexture } from '../gpu/device.js';
import type { Lens } from '../lens.js';
import { NO_AROUND_LIGHT } from '../batches/around-lights.js';
import { CameraState } from '../batches/camera-state.js';
import { wholePicture, writeFrame } from '../batches/frame-uniforms.js';
import type { PreparedScene } from '../batches/prepared-scene.js';
import type { PickHit, PickOptions, PictureSize } from './pick.js';
import type { Facts } from '../features/feature.js';
import { flag } from '../features/flags.js';
import type { Surroundings } from '../features/surroundings.js';
import { Way } from '../features/way.js';
import type { Raster } from '../resources/pipeline-store.js';
import type { Renderer } from '../view/renderer.js';
import {
  AIR_FLOATS,
  AIR_SHOW,
  BINDING_AIR,
  BINDING_FRAME,
  BINDING_LIGHTS,
  BINDING_TRANSFORMS,
  FRAME_DRAW,
  FRAME_FLOATS,
  FRAME_ORIGIN,
  LIGHT_SOURCE_FLOATS,
  MOST_LIGHTS,
} from '../compiled/layouts.js';

/** Numbers in place of colours, of whatever covers a pixel. */
const POINTED: Raster = { compare: 'greater-equal', write: true, sampleCount: 1, color: 'rgba32float' };
const IS_POINTED = flag({ override: 'isPointed', raster: POINTED, needsPlace: true });
const POINT = new Way();

/** In the order of pointed.wgsl. */
const ANSWERS = ['identity', 'position', 'normal', 'texcoord'] as const;
type Answer = (typeof ANSWERS)[number];
type Answers = Partial<Record<Answer, Float32Array>>;

/** Who points marks what is left out by what says that it throws no shadow. */
const LEFT_OUT = NO_SHADOW_CAST << TRAIT_SHIFT;

type Filter = ((node: SceneNode) => boolean) | undefined;

/** What the GPU draws at a place of the picture: the nearest to it within a radius. */
export async function pointAt(
  lens: Lens,
  scene: Scene,
  cameraNode: SceneNode,
  x: number,
  y: number,
  size: PictureSize,
  { filter, radius = 0 }: PickOptions,
): Promise<PickHit | undefined> {
  const [left, top] = [Math.floor(x - radius), Math.floor(y - radius)];
  const region = {
    x: left,
    y: top,
    width: Math.floor(x + radius) - left + 1,
    height: Math.floor(y + radius) - top + 1,
  };
  const seen = await see(lens, scene, cameraNode, region, size, filter, ANSWERS);
  const { identity, position, normal, texcoord } = seen.answers;
  let best = -1;
  let least = radius + 0.75;
  for (let i = 0; i < region.width * region.height; i++) {
    if (!identity![i * 4 + 3]) continue; // asked for, here and below
    const [dx, dy] = [left + (i % region.width) + 0.5 - x, top + Math.floor(i / region.width) + 0.5 - y];
    // The pixel that the place is in counts, wherever in it.
    const distance = Math.max(Math.abs(dx), Math.abs(dy)) <= 0.5 ? 0 : Math.hypot(dx, dy);
    if (distance >= least) continue;
    least = distance;
    best = i;
  }
  const who = best < 0 ? undefined : seen.who(best);
  if (!who) return undefined;
  const three = (values: Float32Array): [number, number, number] =>
    [0, 1, 2].map((k) => values[best * 4 + k]!) as [number, number, number];
  const point = three(position!);
  const pixel = [left + (best % region.width) + 0.5, top + Math.floor(best / region.width) + 0.5] as const;
  const { origin, direction } = cameraRay(cameraNode, ...pixel, size.width, size.height);
  const length = Math.hypot(...direction);
  const uv = who.node.mesh!.primitives[who.primitive]!.geometry.attributes['texcoord0'] && three(texcoord!); // it was drawn
  return {
    ...who,
    triangle: undefined,
    point,
    normal: three(normal!),
    texcoord: uv ? [uv[0], uv[1]] : undefined,
    distance: point.reduce((sum, part, k) => sum + ((part - origin[k]!) * direction[k]!) / length, 0),
  };
}

/** The nodes that can be seen in a rectangle of the picture, in the scene's order. */
export async function pointIn(
  lens: Lens,
  scene: Scene,
  cameraNode: SceneNode,
  { x, y, width, height }: PictureRegion,
  size: PictureSize,
  filter: Filter,
): Promise<SceneNode[]> {
  const least = [Math.min(x, x + width), Math.min(y, y + height)].map((v) => Math.max(0, Math.floor(v)));
  const most = [
    Math.min(size.width, Math.ceil(Math.max(x, x + width))),
    Math.min(size.height, Math.ceil(Math.max(y, y + height))),
  ];
  const region = { x: least[0]!, y: least[1]!, width: most[0]! - least[0]!, height: most[1]! - least[1]! };
  if (!(region.width > 0 && region.height > 0)) return [];
  const seen = await see(lens, scene, cameraNode, region, size, filter, ['identity']);
  const found = new Set<SceneNode>();
  const { identity } = seen.answers;
  // Neighbours mostly are the same.
  let last = [-1, -1];
  for (let i = 0; i < identity!.length; i += 4) {
    if (!identity![i + 3] || (identity![i] === last[0] && identity![i + 1] === last[1])) continue;
    last = [identity![i]!, identity![i + 1]!];
    const who = seen.who(i / 4);
    if (who) found.add(who.node);
  }
  return [...scene.meshes.keys()].filter((node) => found.has(node));
}

/** What each pixel of a picture shows of some nodes, and where that is. */
export async function pointEach(
  lens: Lens,
  scene: Scene,
  camera: SceneNode,
  size: PictureSize,
  filter: Filter,
): Promise<(Drawn & { point: [number, number, number] })[]> {
  const region = { x: 0, y: 0, ...size };
  const seen = await see(lens, scene, camera, region, size, filter, ['identity', 'position']);
  const { identity, position } = seen.answers;
  return Array.from({ length: size.width * size.height }, (_, pixel) => pixel).flatMap((pixel) => {
    const who = identity![pixel * 4 + 3] ? seen.who(pixel) : undefined; // asked for, here and below
    return who
      ? [{ ...who, point: [0, 1, 2].map((k) => position![pixel * 4 + k]!) as [number, number, number] }]
      : [];
  });
}

interface Drawn {
  node: SceneNode;
  primitive: number;
  /** Number of a swarm's copy. */
  instance?: number;
}

interface Seen {
  answers: Answers;
  /** Whose surface a pixel shows. */
  who(pixel: number): Drawn | undefined;
}

/** Draws numbers in place of colours for a part of the picture, as many times as there are answers wanted. */
async function see(
  lens: Lens,
  scene: Scene,
  cameraNode: SceneNode,
  region: PictureRegion,
  size: PictureSize,
  filter: Filter,
  wanted: readonly Answer[],
): Promise<Seen> {
  await lens.whenReady();
  const { device, renderer } = lens;
  if (!device.features.has('float32-renderable'))
    throw new LensError('pick/no-float', 'this GPU cannot draw floats, which exact picking needs', {
      hint: 'Pick without `exact`.',
    });
  const surroundings = await loaded(lens);
  const prepared = renderer.scenePass.sceneOf(scene);
  // Shaders of materials are loaded in the first round, pipelines are made beside the script in the second.
  for (let round = 1; !prepareAll(lens, scene, prepared, surroundings) && round < 3; round++)
    await lens.whenReady();
  const state = new CameraState(device);
  const textures: DeviceTexture[] = [];
  try {
    const { list, view } = state;
    updateCameraView(view, cameraNode, size.width / size.height);
    // What the whole picture shows is listed: hooks may move things from beside the region into it.
    list.update(scene, view, true, prepared.transforms);
    cropView(view, region, size.width, size.height);
    const drawn = whoIsDrawn(scene, state, filter);
    state.instances.upload(list, true);
    const { instanceFeeds } = prepared;
    if (instanceFeeds) (state.settings ??= instanceFeeds.instanceSettings(device)).update(list, scene);
    textures.push(...draw(lens, surroundings, scene, prepared, state, cameraNode, region, size, wanted));
    const read = await Promise.all(textures.map((texture) => device.readTexture(texture)));
    const answers: Answers = {};
    wanted.forEach((answer, i) => (answers[answer] = read[i] as Float32Array));
    const who: Seen['who'] = (pixel) => {
      const [command, slot] = [answers.identity![pixel * 4]!, answers.identity![pixel * 4 + 1]!];
      const found = drawn[command]?.get(slot);
      const geometry = found?.node.mesh?.primitives[found.primitive]?.geometry;
      const part = geometry && swarmPart(geometry);
      if (!found || !part) return found;
      return { ...found, instance: part.swarm.instanceAt(part.shape, answers.identity![pixel * 4 + 2]!) };
    };
    return { answers, who };
  } finally {
    for (const texture of textures) texture.dispose();
    state.dispose();
  }
}

/**
 * Whose instances a list's commands draw, by their slots, as long as the scene is as it is; what a filter leaves out is
 * marked in the instances.
 */
function whoIsDrawn(scene: Scene, { list }: CameraState, filter: Filter): Map<number, Drawn>[] {
  const byRow = new Map([...scene.meshes.keys()].map((node) => [node.row, node]));
  return Array.from({ length: list.commands }, (_, command) => {
    const drawn = new Map<number, Drawn>();
    const first = list.commandFirst[command]!; // command < commands, here and below
    for (let at = first; at < first + list.commandCount[command]!; at++) {
      const node = byRow.get(list.rowAt(at))!; // what is listed has a mesh
      const isLeftOut = filter && !filter(node);
      list.instances[at] = (list.instances[at]! & ~LEFT_OUT) | (isLeftOut ? LEFT_OUT : 0);
      if (isLeftOut) continue;
      const primitive = primitiveOf(scene, node.row, list.commandBatch[command]!);
      drawn.set(list.instances[at]! & SLOT_BITS, { node, primitive });
    }
    return drawn;
  });
}

/** Which primitive of a row's mesh a batch draws, with its overlays. */
function primitiveOf({ columns, handles, meshes }: Scene, row: number, batch: number): number {
  const { primitives = [] } = meshes.get(handles[row]!) ?? {}; // a living row
  let item = columns.firstItem[row]!; // as above
  for (const [i, { overlays }] of primitives.entries())
    for (
      let left = 1 + (overlays?.length ?? 0);
      left > 0 && item >= 0;
      left--, item = columns.itemNext[item]!
    )
      if (columns.itemBatch[item] === batch) return i; // an item in use, as above
  return 0;
}

/** Gets everything ready that can be. @returns whether that is all */
function prepareAll(
  { renderer, settings }: Lens,
  scene: Scene,
  prepared: PreparedScene,
  surroundings: Surroundings,
): boolean {
  scene.update();
  prepared.prepare(renderer.frame);
  const facts: Facts = {
    scene,
    lights: renderer.uniforms.lightsOf(scene),
    layers: prepared.layers,
    settings,
  };
  // What is around does not matter for what is where; where parts are taken away there is nothing.
  const full = surroundings.pipelinesFor(IS_POINTED.bit | surroundings.cutBits(facts));
  let isAll = true;
  for (const ready of prepared.batches) {
    if (!ready || ready.geometry.count === 0) continue;
    if (!POINT.prepare(prepared, ready, ready.geometry, full)) isAll = false;
  }
  return isAll;
}

async function loaded(lens: Lens): Promise<Surroundings> {
  const { around } = lens.renderer;
  if (!around.surroundings) around.begin();
  await lens.whenReady();
  if (!around.surroundings)
    throw new LensError(
      'pick/not-loaded',
      'the part of the library that points at pixels could not be loaded',
      {
        hint: 'The console has the reason; check that all files of the page are served.',
      },
    );
  return around.surroundings;
}

function draw(
  { device, renderer: { frame, given, scenePass } }: Lens,
  surroundings: Surroundings,
  scene: Scene,
  prepared: PreparedScene,
  state: CameraState,
  cameraNode: SceneNode,
  region: PictureRegion,
  size: PictureSize,
  wanted: readonly Answer[],
): DeviceTexture[] {
  const { list, view } = state;
  const before = prepared.batches.map((ready) => ready?.layers);
  const entries = surroundings.prepareUnlit(prepared, frame);
  surroundings.followList(state, scene, view, true, isParallel(cameraNode), size.height);
  const { buffer: frames, step } = frameBuffer(device, view, cameraNode, given, region, size, list.commands);
  const lights = device.createBuffer({
    label: 'no lights',
    usage: 'uniform',
    size: MOST_LIGHTS * LIGHT_SOURCE_FLOATS * 4,
  });
  const { width, height } = region;
  const depth = device.createTexture({
    label: 'pointed',
    width,
    height,
    format: 'depth32float',
    renderable: true,
  });
  const spent: { dispose(): void }[] = [frames, lights, depth];
  const textures = wanted.map((answer) => {
    const air = device.createBuffer({ label: 'pointed', usage: 'uniform', size: AIR_FLOATS * 4 });
    const words = new Uint32Array(AIR_FLOATS);
    words[AIR_SHOW] = ANSWERS.indexOf(answer);
    device.writeBuffer(air, 0, words);
    const group = device.createBindGroup({
      label: 'pointed',
      entries: [
        { binding: BINDING_FRAME, buffer: frames, size: FRAME_FLOATS * 4 },
        { binding: BINDING_LIGHTS, buffer: lights },
        { binding: BINDING_TRANSFORMS, buffer: prepared.transforms.buffer! }, // made by prepare
        ...entries.map((entry) =>
          entry.binding === BINDING_AIR ? { binding: BINDING_AIR, buffer: air } : entry,
        ),
      ],
    });
    spent.push(air, group);
    const texture = device.createTexture({
      label: answer,
      width,
      height,
      format: 'rgba32float',
      renderable: true,
    });
    const pass = device.beginRenderPass({
      label: `point: ${answer}`,
      colorAttachments: [{ texture, clearValue: [0, 0, 0, 0] }],
      depthAttachment: { texture: depth, clearValue: 0 },
    });
    for (let command = 0; command < list.commands; command++)
      scenePass.draw(pass, prepared, state, group, POINT, command, command * step);
    pass.end();
    return texture;
  });
  device.submit();
  for (const thing of spent) thing.dispose();
  prepared.batches.forEach((ready, i) => {
    if (ready) ready.layers = before[i];
  });
  return textures;
}

const isParallel = ({ camera }: SceneNode): boolean => camera?.type === 'orthographic';

/** The frame's numbers, once for each draw, which is told its own. */
function frameBuffer(
  device: Device,
  view: CameraView,
  cameraNode: SceneNode,
  given: Renderer['given'],
  region: PictureRegion,
  { width, height }: PictureSize,
  commands: number,
): { buffer: ReturnType<Device['createBuffer']>; step: number } {
  const { uniformAlignment } = device.limits;
  const step = Math.ceil((FRAME_FLOATS * 4) / uniformAlignment) * uniformAlignment;
  const values = new Float32Array((step / 4) * Math.max(1, commands));
  const words = new Uint32Array(values.buffer);
  writeFrame(
    values,
    words,
    NO_AROUND_LIGHT,
    view,
    { ...given, isParallel: isParallel(cameraNode), ...wholePicture(width, height) },
    0,
  );
  values[FRAME_ORIGIN] = region.x;
  values[FRAME_ORIGIN + 1] = region.y;
  for (let command = 1; command < commands; command++)
    values.copyWithin((command * step) / 4, 0, FRAME_FLOATS);
  for (let command = 0; command < commands; command++) words[(command * step) / 4 + FRAME_DRAW] = command;
  const buffer = device.createBuffer({ label: 'pointed frames', usage: 'uniform', size: values.byteLength });
  device.writeBuffer(buffer, 0, values);
  return { buffer, step };
}
