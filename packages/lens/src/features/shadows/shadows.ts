import { NO_AROUND_LIGHT } from '../../batches/around-lights.js';
import {
  type CameraView,
  createCameraView,
  type Light,
  type Scene,
  type SceneNode,
  type ShadowOptions,
  sliceEnds,
  writeCascadeView,
  writeLightView,
} from '@umber-lens/core/engine';
import type {
  BindGroupEntry,
  Device,
  DeviceBindGroup,
  DeviceBuffer,
  DeviceSampler,
  DeviceTexture,
} from '../../gpu/device.js';
import { UniformBlock } from '../../resources/uniform-block.js';
import { CameraState } from '../../batches/camera-state.js';
import { type FrameGiven, wholePicture, writeFrame } from '../../batches/frame-uniforms.js';
import type { PreparedScene } from '../../batches/prepared-scene.js';
import type { PreparedBatch } from '../../batches/prepared-scene.js';
import type { FramePlan, PlanPainter } from '../../frame/frame-plan.js';
import {
  BINDING_FRAME,
  BINDING_LIGHTS,
  BINDING_SHADOWS,
  BINDING_SHADOW_DEPTHS,
  BINDING_SHADOW_SAMPLER,
  BINDING_TRANSFORMS,
  FRAME_FLOATS,
  LIGHT_SOURCE_SHADOW,
  MOST_MAPS,
  SHADOW_MAPS_FLOATS,
  SHADOW_MAPS_MAPS,
  SHADOW_MAPS_SIZE,
  SHADOW_MAP_BIAS,
  SHADOW_MAP_FLOATS,
  SHADOW_MAP_MATRIX,
  SHADOW_MAP_SOFTNESS,
  SHADOW_MAP_SPREADS,
  SHADOW_MAP_TEXEL,
} from '../../compiled/layouts.js';
import { DepthVariant } from '../depth-variant.js';
import type { Facts, Feature, FeatureHost, FrameAt } from '../feature.js';
import { type Flag, flag } from '../flags.js';
import type { FullPipelines } from '../full-pipelines.js';
import { WANTS } from '../wants.js';

const SHADOWS = flag({ override: 'useShadows' });
/** Some light that casts shadows has a size. */
const SOFT = flag({ override: 'useSoftShadows' });
const ORDER = ['directional', 'spot', 'area', 'point'];
/** Radians from its axis to which an area light throws shadows, as if from its middle. */
const AREA_HALF = 1.2;
/** Way along each side of a cube about a point light: +X, -X, +Y, -Y, +Z, -Z. */
const SIDES = [
  [1, 0, 0],
  [-1, 0, 0],
  [0, 1, 0],
  [0, -1, 0],
  [0, 0, 1],
  [0, 0, -1],
] as const;

/** One layer of the maps: what a light sees one way. */
interface ShadowMap {
  view: CameraView;
  before: Float32Array;
  state: CameraState;
  isParallel: boolean;
  /** Metres a texel; at distance 1 where rays spread. */
  texel: number;
  bias: number;
  /** Size of the light: see `softnessOf`. */
  softness: number;
  /** Whose it is now, and what it was drawn with. */
  scene: Scene | undefined;
  drawnAt: number;
  decodedAt: number;
  /** Whether all that it shows could be drawn the last time. */
  isWhole: boolean;
  mustDraw: boolean;
}

/**
 * Depths as lights see them, one layer of an array texture a map: one for a spot light, six for a point light, one a
 * cascade for a directional light. A map is drawn anew only when its view changed, or when something in it moved, came,
 * went, or is moved by its shader: by the time, or by settings that were written.
 */
export class Shadows implements Feature {
  /** Whether the picture at hand has some. */
  private isActive = false;
  private readonly thrown = new DepthVariant(true);
  entries: readonly BindGroupEntry[];
  /** Texels of a side. */
  private size = 0;
  private layers = 0;
  private depths: DeviceTexture;
  private readonly sampler: DeviceSampler;
  private readonly block: UniformBlock;
  private readonly maps: ShadowMap[] = [];
  private used = 0;
  private readonly infos = new Map<SceneNode, number>();
  /** The frame's numbers as each map sees them. */
  private readonly frameBuffer: DeviceBuffer;
  private readonly frameStep: number;
  private readonly frame = new Float32Array(FRAME_FLOATS);
  private readonly frameWords = new Uint32Array(this.frame.buffer);
  private readonly groups = new Map<DeviceBuffer, DeviceBindGroup>();
  private reach = {
    scene: undefined as Scene | undefined,
    updateCount: -1,
    itemsEnd: -1,
    movedEnd: -1,
    corners: new Float32Array(24),
  };
  /** What the parts bound when the groups were made. */
  private readonly bound: (readonly BindGroupEntry[])[] = [];
  private dirty: ShadowMap[] = [];
  private prepared: PreparedScene | undefined;

  private readonly device: Device;

  constructor(private readonly host: FeatureHost) {
    const { device } = host;
    this.device = device;
    const { uniformAlignment } = device.limits;
    this.frameStep = Math.ceil((FRAME_FLOATS * 4) / uniformAlignment) * uniformAlignment;
    this.frameBuffer = device.createBuffer({
      label: 'shadow frames',
      usage: 'uniform',
      size: this.frameStep * MOST_MAPS,
    });
    this.block = new UniformBlock(device, 'shadow maps', SHADOW_MAPS_FLOATS);
    this.sampler = device.createSampler({
      label: 'shadow maps',
      compare: 'greater-equal',
      mipmapFilter: 'none',
      addressModeU: 'clamp-to-edge',
      addressModeV: 'clamp-to-edge',
    });
    this.depths = this.makeDepths(1, 1);
    this.entries = this.makeEntries();
  }

  flagsFor(facts: Facts): readonly Flag[] {
    if (!WANTS.shadows(facts)) return [];
    const isSoft = facts.lights.some(({ light }) => light?.shadow && softnessOf(light) > 0);
    return isSoft ? [SHADOWS, SOFT] : [SHADOWS];
  }

  prepare(at: FrameAt, full: FullPipelines): void {
    this.isActive = full.has(SHADOWS);
    if (this.isActive) this.prepareMaps(at);
  }

  /** What shaders are told of a light: 0 without maps, else one more than the first, plus 256 times how many. */
  writeLight(_values: Float32Array, words: Uint32Array, at: number, node: SceneNode): void {
    if (this.isActive) words[at + LIGHT_SOURCE_SHADOW] = this.infos.get(node) ?? 0;
  }

  makePipelines(ready: PreparedBatch, prepared: PreparedScene): void {
    if ((prepared.full as FullPipelines).has(SHADOWS)) this.thrown.pipelineOf(ready, 0, prepared);
  }

  get hasPasses(): boolean {
    return this.isActive && this.dirty.length > 0;
  }

  /** The maps outlive the frame, and whoever draws light reads them. */
  addEarly({ graph }: FramePlan, painter: PlanPainter): void {
    const maps = graph.outside('shadow maps');
    graph.pass({ name: 'shadows', writes: [maps], run: () => this.draw(painter.lights) });
  }

  /** Gives the lights their maps, in the order of importance, and finds out which must be drawn. */
  private prepareMaps({ scene, prepared, lights, state: { view: camera }, given, ledger }: FrameAt): void {
    // It changes when a picture that may cut holes was decoded.
    const { decodedCount: decoded } = this.host.textures;
    const wanted = this.wanted(lights);
    const sum = wanted.reduce((count, { maps }) => count + maps, 0);
    const { shadowTexels: budget } = this.host;
    const size = sizeFor(sum, budget);
    if (size !== this.size || sum > this.layers) this.resize(size, sum);
    this.infos.clear();
    this.used = 0;
    for (const { node, light, maps } of wanted) {
      this.infos.set(node, this.used + 1 + maps * 256);
      this.place(scene, node, light, maps, camera, given);
    }
    this.prepared = prepared;
    this.dirty.length = 0;
    const { values: numbers } = this.block;
    for (let i = 0; i < this.used; i++) {
      const map = this.maps[i]!; // i < used, here and below
      this.refresh(map, scene, prepared, decoded);
      if (map.mustDraw) this.dirty.push(map);
      const at = SHADOW_MAPS_MAPS + i * SHADOW_MAP_FLOATS;
      numbers.set(map.view.viewProjection, at + SHADOW_MAP_MATRIX);
      numbers[at + SHADOW_MAP_TEXEL] = map.texel;
      numbers[at + SHADOW_MAP_SPREADS] = map.isParallel ? 0 : 1;
      numbers[at + SHADOW_MAP_BIAS] = map.bias;
      numbers[at + SHADOW_MAP_SOFTNESS] = map.softness;
      if (!map.mustDraw) continue;
      writeFrame(
        this.frame,
        this.frameWords,
        NO_AROUND_LIGHT,
        map.view,
        { ...given, isParallel: map.isParallel, ...wholePicture(size, size) },
        0,
      );
      this.device.writeBuffer(this.frameBuffer, i * this.frameStep, this.frame);
    }
    numbers[SHADOW_MAPS_SIZE] = this.size;
    numbers[SHADOW_MAPS_SIZE + 1] = 1 / this.size;
    this.block.upload();
    const { shadows } = ledger;
    shadows.maps = this.used;
    shadows.drawn = this.dirty.length;
    shadows.size = this.size;
    shadows.lightsLeftOut = lights.filter((node) => node.light?.shadow && !this.infos.has(node)).length;
    shadows.reason = `${this.used} maps of ${size} x ${size} texels: the largest that keep within ${budget} texels`;
  }

  /** Draws the maps that are out of date; each is a pass of its own. */
  private draw(lights: DeviceBuffer): void {
    const { device, prepared, depths } = this;
    const { placing, scenePass } = this.host;
    const transforms = prepared!.transforms.buffer!; // prepared before, here and below
    for (let i = 0; i < placing.length; i++) {
      const { entries } = placing[i]!; // i < length
      if (this.bound[i] !== entries) this.sweep();
      this.bound[i] = entries;
    }
    let group = this.groups.get(transforms);
    if (!group) {
      group = device.createBindGroup({
        label: 'shadow frame',
        entries: [
          { binding: BINDING_FRAME, buffer: this.frameBuffer, size: FRAME_FLOATS * 4 },
          { binding: BINDING_LIGHTS, buffer: lights },
          { binding: BINDING_TRANSFORMS, buffer: transforms },
          ...this.bound.flat(),
        ],
      });
      this.groups.set(transforms, group);
    }
    for (const map of this.dirty) {
      const layer = this.maps.indexOf(map);
      const pass = device.beginRenderPass({
        label: `shadow map ${layer}`,
        colorAttachments: [],
        depthAttachment: { texture: depths, layer, clearValue: 0 },
      });
      scenePass.draw(pass, prepared!, map.state, group, this.thrown, 'opaque', layer * this.frameStep);
      pass.end();
      map.mustDraw = false;
    }
  }

  /** Frees groups whose transforms or poses are gone. */
  sweep(): void {
    for (const group of this.groups.values()) group.dispose();
    this.groups.clear();
  }

  /** The lights that throw shadows, as many as there are maps for. */
  private wanted(lights: readonly SceneNode[]): { node: SceneNode; light: Light; maps: number }[] {
    let left = MOST_MAPS;
    // A sun matters everywhere, a spot where it points.
    const inOrder = ORDER.flatMap((type) => lights.filter(({ light }) => light?.type === type));
    return inOrder.flatMap((node) => {
      const { light } = node;
      if (!light?.shadow || !node.isShown) return [];
      const maps =
        light.type === 'point'
          ? 6
          : light.type !== 'directional'
            ? 1
            : Math.min(4, Math.max(1, Math.round(optionsOf(light).cascades ?? 3)));
      if (maps > left) return [];
      left -= maps;
      return [{ node, light, maps }];
    });
  }

  private place(
    scene: Scene,
    node: SceneNode,
    light: Light,
    count: number,
    camera: CameraView,
    given: FrameGiven,
  ): void {
    const { near = 0.05, bias = 1, distance } = optionsOf(light);
    const { world } = scene.columns;
    const w = node.row * 12;
    const position = [world[w + 3]!, world[w + 7]!, world[w + 11]!]; // a living row, here and below
    const length = Math.hypot(world[w + 2]!, world[w + 6]!, world[w + 10]!) || 1;
    const forward = [2, 6, 10].map((k) => -world[w + k]! / length);
    const { size } = this;
    if (light.type === 'directional') {
      const { from, to } = this.reachOf(scene, camera, distance);
      const ends = sliceEnds(from, to, count);
      const softness = softnessOf(light);
      // How far away what casts a shadow is says how soft it is.
      const more = softness > 0 ? this.acrossScene() : 0;
      for (let k = 0; k < count; k++) {
        const map = this.next(true, bias, softness);
        map.texel = writeCascadeView(
          map.view,
          camera,
          forward,
          {
            ...{ from: k === 0 ? from : ends[k - 1]!, to: ends[k]! },
            ...{ across: given.wholeWidth / given.width, down: given.wholeHeight / given.height },
          },
          size,
          more,
        );
      }
      return;
    }
    // A little wider than is lit, so that comparisons at the edge have neighbours.
    const half =
      light.type === 'spot'
        ? Math.min(1.5, light.outerConeAngle ?? Math.PI / 4)
        : light.type === 'area'
          ? AREA_HALF
          : Math.PI / 4;
    const tangent = Math.tan(half) * (1 + 6 / size);
    for (let k = 0; k < count; k++) {
      const map = this.next(false, bias, softnessOf(light));
      writeLightView(
        map.view,
        position,
        light.type === 'point' ? SIDES[k]! : forward,
        Math.atan(tangent),
        near,
      );
      map.texel = (2 * tangent) / size;
    }
  }

  private next(isParallel: boolean, bias: number, softness: number): ShadowMap {
    const map = (this.maps[this.used++] ??= {
      view: createCameraView(),
      before: new Float32Array(16),
      state: new CameraState(this.device),
      isParallel,
      texel: 1,
      bias,
      softness,
      scene: undefined,
      drawnAt: -1,
      decodedAt: -1,
      isWhole: false,
      mustDraw: true,
    });
    map.isParallel = isParallel;
    map.bias = bias;
    map.softness = softness;
    return map;
  }

  /** Brings a map's list up to date and finds out whether it must be drawn. */
  private refresh(map: ShadowMap, scene: Scene, prepared: PreparedScene, decoded: number): void {
    const { view, before, state } = map;
    let isMoved = map.scene !== scene;
    for (let i = 0; i < 16; i++) if (view.viewProjection[i] !== before[i]) isMoved = true;
    before.set(view.viewProjection);
    map.scene = scene;
    const isListed = state.list.update(scene, view, isMoved, prepared.transforms);
    state.instances.upload(state.list, isListed, this.host.scenePass.instancesFromStorage);
    const isSwarming = this.host.followList(state, scene, view, isListed, map.isParallel, this.size);
    const { instanceFeeds } = prepared;
    const isSet =
      instanceFeeds !== undefined &&
      (state.settings ??= instanceFeeds.instanceSettings(this.device)).update(state.list, scene);
    // Pipelines are made before a pass is open; while one is missing, the map is not whole.
    const isWhole = this.makeAll(state, prepared);
    const isPlacedOtherwise = this.host.placing.some(({ changedAt }) => changedAt === prepared.lastUsed);
    map.mustDraw ||=
      isMoved ||
      isListed ||
      isSwarming ||
      isSet ||
      !isWhole ||
      !map.isWhole ||
      isPlacedOtherwise ||
      map.decodedAt !== decoded ||
      (map.drawnAt !== scene.updateCount && hasMoved(map, scene)) ||
      isAnimated(state, prepared);
    map.isWhole = isWhole;
    map.drawnAt = scene.updateCount;
    map.decodedAt = decoded;
  }

  private makeAll({ list }: CameraState, prepared: PreparedScene): boolean {
    let isWhole = true;
    for (let i = 0; i < list.opaqueCommands; i++) {
      const ready = prepared.batches[list.commandBatch[i]!]; // i < commands
      if (ready && ready.geometry.count > 0 && !this.thrown.pipelineOf(ready, 0, prepared)) isWhole = false;
    }
    return isWhole;
  }

  /** How far from the camera there is anything, in steps of a quarter of its double, so that maps stay as they are. */
  private reachOf(
    scene: Scene,
    camera: CameraView,
    distance: number | undefined,
  ): { from: number; to: number } {
    const { reach } = this;
    const { updateCount, drawables, movedRows } = scene;
    // What is removed moves nothing, but shortens the reach.
    if (
      reach.scene !== scene ||
      reach.itemsEnd !== drawables.log.end ||
      (reach.updateCount !== updateCount && movesThings(scene, reach.movedEnd))
    ) {
      reach.scene = scene;
      reach.itemsEnd = drawables.log.end;
      const { min, max } = scene.root.worldBounds();
      for (let i = 0; i < 8; i++)
        for (let k = 0; k < 3; k++) reach.corners[i * 3 + k] = ((i >> k) & 1 ? max[k] : min[k])!; // three numbers
    }
    reach.updateCount = updateCount;
    reach.movedEnd = movedRows.end;
    let nearest = Infinity;
    let farthest = 0;
    for (let i = 0; i < 24; i += 3) {
      let depth = 0;
      for (let k = 0; k < 3; k++) depth += (reach.corners[i + k]! - camera.position[k]!) * camera.forward[k]!; // 24 numbers
      nearest = Math.min(nearest, depth);
      farthest = Math.max(farthest, depth);
    }
    const isKnown = Number.isFinite(farthest) && farthest > 0;
    const far = Math.min(distance ?? Infinity, isKnown ? 2 ** (Math.ceil(Math.log2(farthest) * 4) / 4) : 100);
    const near = Math.max(far / 1000, nearest > 0 ? 2 ** (Math.floor(Math.log2(nearest) * 4) / 4) : 0);
    return { from: Math.min(near, far * 0.9), to: far };
  }

  /** Metres across all that there is, as of the last `reachOf`, by steps of its double; 0 where that is not known. */
  private acrossScene(): number {
    const { corners } = this.reach;
    let sum = 0;
    for (let k = 0; k < 3; k++) sum += (corners[21 + k]! - corners[k]!) ** 2; // the first and the last of eight
    return sum > 0 && sum < Infinity ? 2 ** Math.ceil(Math.log2(sum) / 2) : 0;
  }

  private resize(size: number, layers: number): void {
    this.depths.dispose();
    this.size = size;
    this.layers = layers;
    this.depths = this.makeDepths(size, layers);
    this.entries = this.makeEntries();
    for (const map of this.maps) map.mustDraw = true;
  }

  private makeDepths(size: number, layers: number): DeviceTexture {
    return this.device.createTexture({
      label: 'shadow maps',
      shape: '2d-array',
      layers,
      width: size,
      height: size,
      format: 'depth32float',
      renderable: true,
    });
  }

  private makeEntries(): BindGroupEntry[] {
    return [
      { binding: BINDING_SHADOWS, buffer: this.block.buffer },
      { binding: BINDING_SHADOW_DEPTHS, texture: this.depths },
      { binding: BINDING_SHADOW_SAMPLER, sampler: this.sampler },
    ];
  }
}

/**
 * How soft a light's shadows are: metres of its radius; of directional lights the tangent of the angle from their middle to
 * their rim. 0: their edges are hard.
 */
export function softnessOf({ angle = 0, radius = 0, type }: Light): number {
  if (type === 'directional') return Math.tan(Math.min(angle, 1) / 2);
  return type === 'point' || type === 'spot' ? Math.max(0, radius) : 0;
}

const optionsOf = ({ shadow }: Light): ShadowOptions => (typeof shadow === 'object' ? shadow : {});

/** The largest power of two, from 256 to 2,048, of which so many maps keep within a budget of texels. */
function sizeFor(maps: number, budget: number): number {
  let size = 2048;
  while (size > 256 && size * size * maps > budget) size /= 2;
  return size;
}

/**
 * Whether something that is drawn has moved, and not cameras and lights alone.
 *
 * @param since end of the log of moved rows then
 */
function movesThings({ columns: { firstItem }, movedRows, guests }: Scene, since: number): boolean {
  // What a guest gives its shape reaches where that does, as meshes do with their joints.
  if (guests.shapesAny || !movedRows.holds(since)) return true;
  for (let at = since; at < movedRows.end; at++) {
    const first = movedRows.firstAt(at);
    for (let row = first; row < first + movedRows.countAt(at); row++) if (firstItem[row]! >= 0) return true; // rows that were there
  }
  return false;
}

/** Whether something in a map's list moved since it was drawn. */
function hasMoved({ state: { list }, drawnAt }: ShadowMap, { columns }: Scene): boolean {
  for (let command = 0; command < list.opaqueCommands; command++) {
    const first = list.commandFirst[command]!; // command < commands, here and below
    const end = first + list.commandCount[command]!;
    for (let at = first; at < end; at++) if (columns.movedAt[list.rowAt(at)]! > drawnAt) return true;
  }
  return false;
}

/** Whether shaders of their own may have moved something in a list: they ask for the time, or their settings were written. */
function isAnimated({ list }: CameraState, prepared: PreparedScene): boolean {
  for (let command = 0; command < list.opaqueCommands; command++) {
    const ready = prepared.batches[list.commandBatch[command]!]; // command < commands
    if (ready?.shader?.isTimed || ready?.settings?.changedAt === prepared.lastUsed) return true;
  }
  return false;
}
