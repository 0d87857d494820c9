import { type AroundLight, AroundLights } from './around-lights.js';
import type { CameraView, Light, Scene, SceneNode } from '@umber-lens/core/engine';
import type { BindGroupEntry, Device, DeviceBindGroup, DeviceBuffer } from '../gpu/device.js';
import { UniformBlock } from '../resources/uniform-block.js';
import {
  BINDING_FRAME,
  BINDING_LIGHTS,
  BINDING_TRANSFORMS,
  FRAME_CAMERA_POSITION,
  FRAME_CROP,
  FRAME_DELTA,
  FRAME_EXPOSURE,
  FRAME_FLOATS,
  FRAME_FORWARD,
  FRAME_GROUND,
  FRAME_IS_PARALLEL,
  FRAME_LIGHT_COUNT,
  FRAME_RIGHT,
  FRAME_SHIFT,
  FRAME_SIZE,
  FRAME_SKY,
  FRAME_TIME,
  FRAME_UP,
  FRAME_VIEW,
  FRAME_VIEW_PROJECTION,
  FRAME_WHOLE,
  LIGHT_SOURCE_COLOR,
  LIGHT_SOURCE_CONE_OFFSET,
  LIGHT_SOURCE_CONE_SCALE,
  LIGHT_SOURCE_DIRECTION,
  LIGHT_SOURCE_FLOATS,
  LIGHT_SOURCE_INVERSE_RANGE,
  LIGHT_SOURCE_KIND,
  LIGHT_SOURCE_POSITION,
  LIGHT_SOURCE_SHADOW,
  MOST_LIGHTS,
} from '../compiled/layouts.js';
import { freeUnusedWithin } from '../resources/kept.js';

/** What the caller knows of a picture. */
export interface FrameGiven {
  exposure: number;
  isParallel: boolean;
  /** Seconds. */
  time: number;
  delta: number;
  /** Pixels. */
  width: number;
  height: number;
  /** Where its upper left lies in the picture that it is a part of, and how large that one is: itself as a rule. Pixels. */
  left: number;
  top: number;
  wholeWidth: number;
  wholeHeight: number;
  /** Of lengths in pixels: where a canvas is drawn with fewer, they are less. */
  scale: number;
}

/** What is given of the size of a picture that is no part of another. */
export const wholePicture = (
  width: number,
  height: number,
): Pick<FrameGiven, 'width' | 'height' | 'left' | 'top' | 'wholeWidth' | 'wholeHeight'> => ({
  ...{ width, height, left: 0, top: 0 },
  ...{ wholeWidth: width, wholeHeight: height },
});

/** Whoever knows more of lights than where they are: see `LightSource` in lights.wgsl; and of how a picture lies. */
export interface MoreOfLights {
  adjustFrame?(values: Float32Array): void;
  writeMore(values: Float32Array, words: Uint32Array, at: number, node: SceneNode): void;
}

interface FrameGroup {
  group: DeviceBindGroup;
  lastUsed: number;
}

/** What is bound besides in frames without features. */
export const NOTHING_MORE: readonly BindGroupEntry[] = [];

/** What every surface of a picture shares: camera, ambient light and lights. */
export class FrameUniforms {
  private readonly around = new AroundLights();
  /** Lights of the scene beyond what one picture can have, in the last update. */
  lightsLeftOut = 0;
  private readonly frame: UniformBlock;
  private readonly lights: UniformBlock;
  private readonly lightNodes: SceneNode[] = [];
  private scene: Scene | undefined;
  private lightsVersion = -1;
  /** By the scene's transforms, and by what is bound besides. */
  private readonly groups = new Map<DeviceBuffer, Map<readonly BindGroupEntry[], FrameGroup>>();

  constructor(private readonly device: Device) {
    this.frame = new UniformBlock(device, 'frame', FRAME_FLOATS);
    this.lights = new UniformBlock(device, 'lights', LIGHT_SOURCE_FLOATS * MOST_LIGHTS);
  }

  /** What shaders are told of the picture, as of the last update. */
  get frameValues(): Float32Array {
    return this.frame.values;
  }

  get lightBuffer(): DeviceBuffer {
    return this.lights.buffer;
  }

  /**
   * The group for drawing instances whose transforms lie in a buffer.
   *
   * @param more what is bound besides; the same array gives the same group
   */
  groupFor(transforms: DeviceBuffer, frame: number, more: readonly BindGroupEntry[]): DeviceBindGroup {
    let groups = this.groups.get(transforms);
    if (!groups) this.groups.set(transforms, (groups = new Map<readonly BindGroupEntry[], FrameGroup>()));
    let found = groups.get(more);
    if (!found) {
      const entries: BindGroupEntry[] = [
        { binding: BINDING_FRAME, buffer: this.frame.buffer },
        { binding: BINDING_LIGHTS, buffer: this.lightBuffer },
        { binding: BINDING_TRANSFORMS, buffer: transforms },
      ];
      // What comes later takes the place of what was there.
      for (const entry of more) {
        const at = entries.findIndex(({ binding }) => binding === entry.binding);
        if (at < 0) entries.push(entry);
        else entries[at] = entry;
      }
      found = { group: this.device.createBindGroup({ label: 'frame', entries }), lastUsed: frame };
      groups.set(more, found);
    }
    found.lastUsed = frame;
    return found.group;
  }

  /** Frees groups that no frame since `frame` has drawn with. */
  sweep(frame: number): void {
    freeUnusedWithin(this.groups, frame, ({ group }) => group.dispose());
  }

  /** @param more what shaders are told of lights besides */
  update(scene: Scene, view: CameraView, given: FrameGiven, more?: MoreOfLights): void {
    const { frame, lights } = this;
    const count = this.writeLights(scene, more);
    writeFrame(frame.values, frame.words, this.around.update(scene), view, given, count);
    more?.adjustFrame?.(frame.values);
    // A still camera and lights that stand cost no upload.
    frame.upload();
    lights.upload(count * LIGHT_SOURCE_FLOATS);
  }

  /** The nodes of a scene that carry lights of some place or direction, in the order in which shaders number them. */
  lightsOf(scene: Scene): readonly SceneNode[] {
    if (scene !== this.scene || scene.lightsVersion !== this.lightsVersion) {
      this.scene = scene;
      this.lightsVersion = scene.lightsVersion;
      this.lightNodes.length = 0;
      for (const [node, { type }] of scene.lights)
        if (type !== 'ambient' && type !== 'hemisphere') this.lightNodes.push(node);
    }
    return this.lightNodes;
  }

  private writeLights(scene: Scene, more?: MoreOfLights): number {
    this.lightsOf(scene);
    const { world, flags } = scene.columns;
    let count = 0;
    this.lightsLeftOut = 0;
    for (let i = 0; i < this.lightNodes.length; i++) {
      const node = this.lightNodes[i]!; // i < length
      const light = node.light;
      if (!light || (flags[node.row]! & 4) === 0) continue;
      if (count === MOST_LIGHTS) {
        this.lightsLeftOut++;
        continue;
      }
      writeLight(this.lights.values, count * LIGHT_SOURCE_FLOATS, light, world, node.row * 12);
      this.lights.words[count * LIGHT_SOURCE_FLOATS + LIGHT_SOURCE_SHADOW] = 0;
      more?.writeMore(this.lights.values, this.lights.words, count * LIGHT_SOURCE_FLOATS, node);
      count++;
    }
    return count;
  }
}

/** The structure `Frame` of frame.wgsl for a view, whether of a camera or of a light. */
export function writeFrame(
  frame: Float32Array,
  words: Uint32Array,
  { sky, ground }: AroundLight,
  view: CameraView,
  given: FrameGiven,
  lightCount: number,
): void {
  frame.set(view.viewProjection, FRAME_VIEW_PROJECTION);
  frame.set(view.view, FRAME_VIEW);
  frame.set(view.position, FRAME_CAMERA_POSITION);
  frame[FRAME_EXPOSURE] = given.exposure;
  frame.set(sky, FRAME_SKY);
  words[FRAME_LIGHT_COUNT] = lightCount;
  frame.set(ground, FRAME_GROUND);
  frame[FRAME_TIME] = given.time;
  frame.set(view.forward, FRAME_FORWARD);
  frame[FRAME_IS_PARALLEL] = given.isParallel ? 1 : 0;
  // Rows of the view's rotation are the camera's axes; the projection's scale is one over half the picture.
  for (let k = 0; k < 3; k++) {
    frame[FRAME_RIGHT + k] = view.view[k * 4]! / view.projection[0]!;
    frame[FRAME_UP + k] = view.view[k * 4 + 1]! / view.projection[5]!;
  }
  frame[FRAME_DELTA] = given.delta;
  frame[FRAME_SIZE] = given.width;
  frame[FRAME_SIZE + 1] = given.height;
  // What is added in clip space: by depth in a perspective, as it is where rays are parallel.
  for (let k = 0; k < 2; k++) frame[FRAME_SHIFT + k] = view.projection[8 + k]! - view.projection[12 + k]!;
  frame[FRAME_WHOLE] = given.left;
  frame[FRAME_WHOLE + 1] = given.top;
  frame[FRAME_WHOLE + 2] = given.wholeWidth;
  frame[FRAME_WHOLE + 3] = given.wholeHeight;
  frame[FRAME_CROP] = frame[FRAME_CROP + 1] = 1;
}

export function writeLight(out: Float32Array, o: number, light: Light, world: Float32Array, w: number): void {
  // Lights shine along -Z of their node: the third column, turned round, whatever its scale.
  const x = -world[w + 2]!;
  const y = -world[w + 6]!;
  const z = -world[w + 10]!;
  const n = Math.sqrt(x * x + y * y + z * z) || 1;
  const intensity = light.intensity ?? 1;
  out[o + LIGHT_SOURCE_POSITION] = world[w + 3]!;
  out[o + LIGHT_SOURCE_POSITION + 1] = world[w + 7]!;
  out[o + LIGHT_SOURCE_POSITION + 2] = world[w + 11]!;
  out[o + LIGHT_SOURCE_INVERSE_RANGE] = light.range === undefined ? 0 : 1 / light.range;
  out[o + LIGHT_SOURCE_DIRECTION] = x / n;
  out[o + LIGHT_SOURCE_DIRECTION + 1] = y / n;
  out[o + LIGHT_SOURCE_DIRECTION + 2] = z / n;
  out[o + LIGHT_SOURCE_KIND] = light.type === 'directional' ? 1 : 0;
  for (let k = 0; k < 3; k++)
    out[o + LIGHT_SOURCE_COLOR + k] = (light.color ? light.color[k]! : 1) * intensity;
  // KHR_lights_punctual: a clamped linear ramp of the cosine, squared in the shader.
  let scale = 0;
  let offset = 1;
  if (light.type === 'spot') {
    const outer = Math.cos(light.outerConeAngle ?? Math.PI / 4);
    scale = 1 / Math.max(0.001, Math.cos(light.innerConeAngle ?? 0) - outer);
    offset = -outer * scale;
  }
  out[o + LIGHT_SOURCE_CONE_SCALE] = scale;
  out[o + LIGHT_SOURCE_CONE_OFFSET] = offset;
}
