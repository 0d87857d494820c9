import { affineDeterminant, type Light } from '@umber-lens/core/engine';
import type { BindGroupEntry, Device } from '../gpu/device.js';
import { AREA_MATRICES, AREA_SHARES, AREA_TABLE_SIDE } from './area-table.js';

/** Floats of `LightSource` in lights.wgsl that hold half of a light's height. */
const UP = [11, 12, 14] as const;

/**
 * What shaders are told of an area light besides: half of its width and of its height, as they lie in the world. Their
 * cross product points away from where it shines, also when the node is mirrored.
 *
 * @param o of its `LightSource`
 * @param w of its node's world transform
 */
export function writeAreaLight(
  out: Float32Array,
  o: number,
  { shape, size = [1, 1] }: Light,
  world: Float32Array,
  w: number,
): void {
  const turned = affineDeterminant(world, w) < 0 ? -1 : 1;
  for (let k = 0; k < 3; k++) {
    out[o + 4 + k] = (world[w + k * 4]! * size[0]) / 2; // twelve numbers, here and below
    out[o + UP[k]!] = (world[w + k * 4 + 1]! * size[1] * turned) / 2;
  }
  out[o + 7] = shape === 'disc' ? 3 : 2;
}

/** The tables of area.wgsl, as the frame's group binds them: one black texel until a scene has an area light. */
export class AreaTables {
  entries: readonly BindGroupEntry[];
  private isLoaded = false;

  constructor(private readonly device: Device) {
    this.entries = this.make(1, [new Float32Array(4), new Float32Array(4)]);
  }

  load(): void {
    if (this.isLoaded) return;
    this.isLoaded = true;
    const shares = new Float32Array(AREA_MATRICES.length);
    for (let i = 0; i < AREA_SHARES.length; i++) shares[(i >> 1) * 4 + (i & 1)] = AREA_SHARES[i]!; // i < length
    this.entries = this.make(AREA_TABLE_SIDE, [Float32Array.from(AREA_MATRICES), shares]);
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
      { binding: 15, texture },
      { binding: 16, sampler },
    ];
  }
}
