import { affineDeterminant, type Light, type SceneNode } from '@umber-lens/core/engine';
import type { BindGroupEntry, Device } from '../../gpu/device.js';
import {
  BINDING_AREA_SAMPLER,
  BINDING_AREA_TABLE,
  LIGHT_SOURCE_CONE_OFFSET,
  LIGHT_SOURCE_CONE_SCALE,
  LIGHT_SOURCE_DIRECTION,
  LIGHT_SOURCE_KIND,
  LIGHT_SOURCE_MORE,
} from '../../compiled/layouts.js';
import type { Facts, Feature, FeatureHost, FrameAt } from '../feature.js';
import { type Flag, flag } from '../flags.js';
import type { FullPipelines } from '../full-pipelines.js';
import { WANTS } from '../wants.js';
import { AREA_MATRICES, AREA_SHARES, AREA_TABLE_SIDE } from './area-table.js';

const AREAS = flag({ override: 'useAreas' });
/** Of `LightSource`: where half of a light's height is. */
const UP = [LIGHT_SOURCE_CONE_SCALE, LIGHT_SOURCE_CONE_OFFSET, LIGHT_SOURCE_MORE];

/**
 * What shaders are told of an area light besides: half of its width and of its height, as they lie in the world. Their
 * cross product points away from where it shines, also when the node is mirrored.
 *
 * @param o of its `LightSource`
 * @param w of its node's world transform
 */
function writeAreaLight(
  out: Float32Array,
  o: number,
  { shape, size = [1, 1] }: Light,
  world: Float32Array,
  w: number,
): void {
  const turned = affineDeterminant(world, w) < 0 ? -1 : 1;
  for (let k = 0; k < 3; k++) {
    out[o + LIGHT_SOURCE_DIRECTION + k] = (world[w + k * 4]! * size[0]) / 2; // twelve numbers, here and below
    out[o + UP[k]!] = (world[w + k * 4 + 1]! * size[1] * turned) / 2;
  }
  out[o + LIGHT_SOURCE_KIND] = shape === 'disc' ? 3 : 2;
}

/** Lights with an extent, and the tables of area.wgsl that they are looked up in: one black texel until there is one. */
export class AreaLights implements Feature {
  entries: readonly BindGroupEntry[];
  private isLoaded = false;

  private readonly device: Device;

  constructor({ device }: FeatureHost) {
    this.device = device;
    this.entries = this.make(1, [new Float32Array(4), new Float32Array(4)]);
  }

  flagsFor(facts: Facts): readonly Flag[] {
    return WANTS.areaLights(facts) ? [AREAS] : [];
  }

  prepare(_at: FrameAt, full: FullPipelines): void {
    if (this.isLoaded || !full.has(AREAS)) return;
    this.isLoaded = true;
    const shares = new Float32Array(AREA_MATRICES.length);
    for (let i = 0; i < AREA_SHARES.length; i++) shares[(i >> 1) * 4 + (i & 1)] = AREA_SHARES[i]!; // i < length
    this.entries = this.make(AREA_TABLE_SIDE, [Float32Array.from(AREA_MATRICES), shares]);
  }

  writeLight(values: Float32Array, _words: Uint32Array, at: number, { light, row, scene }: SceneNode): void {
    if (light?.type === 'area') writeAreaLight(values, at, light, scene.columns.world, row * 12);
  }

  private make(side: number, layers: Float32Array[]): BindGroupEntry[] {
    const texture = this.device.createTexture({
      label: 'area lights',
      width: side,
      height: side,
      format: 'rgba16float',
      shape: '2d-array',
      layers: layers.length,
    });
    layers.forEach((data, layer) => this.device.writeTexture(texture, data, { layer }));
    const sampler = this.device.createSampler({
      label: 'area lights',
      mipmapFilter: 'none',
      addressModeU: 'clamp-to-edge',
      addressModeV: 'clamp-to-edge',
    });
    return [
      { binding: BINDING_AREA_TABLE, texture },
      { binding: BINDING_AREA_SAMPLER, sampler },
    ];
  }
}
