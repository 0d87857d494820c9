import { FEATURE, INSTANCE_FLOATS } from '@umber-lens/core';
import type {
  Device,
  DevicePipeline,
  DeviceShader,
  TextureFormat,
  VertexBufferLayout,
} from '../gpu/device.js';
import { LOCATION, litFragment, litVertex } from '../shaders/lit.js';
import type { GpuGeometry } from './geometry-store.js';

const INSTANCE_LAYOUT: VertexBufferLayout = {
  arrayStride: INSTANCE_FLOATS * 4,
  stepMode: 'instance',
  attributes: [0, 1, 2].map((row) => ({
    shaderLocation: LOCATION.instance + row,
    format: 'float32x4' as const,
    offset: row * 16,
  })),
};

/** Formats of the pass that the pipelines draw in. */
export interface ScenePassFormats {
  color: TextureFormat;
  depth: TextureFormat;
  sampleCount: number;
}

/** Pipelines by what decides them; shaders by features alone. */
export class PipelineStore {
  private readonly shaders = new Map<number, DeviceShader>();
  private readonly pipelines = new Map<string, DevicePipeline>();

  constructor(
    private readonly device: Device,
    private readonly formats: ScenePassFormats,
  ) {}

  get(features: number, geometry: GpuGeometry, mirrored: boolean): DevicePipeline {
    const key = `${features} ${mirrored ? 'm' : ''} ${geometry.topology} ${geometry.layoutKey}`;
    let found = this.pipelines.get(key);
    if (!found) {
      found = this.create(features, geometry, mirrored);
      this.pipelines.set(key, found);
    }
    return found;
  }

  private create(features: number, geometry: GpuGeometry, mirrored: boolean): DevicePipeline {
    const isBlend = (features & FEATURE.blend) !== 0;
    const { color, depth, sampleCount } = this.formats;
    return this.device.createRenderPipeline({
      label: (features & FEATURE.unlit) !== 0 ? 'unlit' : 'lit',
      shader: this.shader(features & ~FEATURE.doubleSided),
      vertexBuffers: [INSTANCE_LAYOUT, ...geometry.layouts],
      topology: geometry.topology,
      cullMode: (features & FEATURE.doubleSided) !== 0 ? 'none' : 'back',
      frontFace: mirrored ? 'cw' : 'ccw',
      depth: { format: depth, compare: 'greater', write: !isBlend },
      targets: [
        isBlend
          ? {
              format: color,
              blend: {
                color: { srcFactor: 'one', dstFactor: 'one-minus-src-alpha' },
                alpha: { srcFactor: 'one', dstFactor: 'one-minus-src-alpha' },
              },
            }
          : { format: color },
      ],
      sampleCount,
    });
  }

  private shader(features: number): DeviceShader {
    let found = this.shaders.get(features);
    if (!found) {
      const use = (i: number): { texture: [number, number]; sampler: [number, number] } => ({
        texture: [1, 1 + i],
        sampler: [1, 6 + i],
      });
      found = this.device.createShader({
        label: (features & FEATURE.unlit) !== 0 ? 'unlit' : 'lit',
        glsl: {
          vertex: litVertex(features),
          fragment: litFragment(features),
          blocks: { Frame: [0, 0], Lights: [0, 1], Material: [1, 0] },
          samplers: {
            baseColorTexture: use(0),
            metallicRoughnessTexture: use(1),
            normalTexture: use(2),
            occlusionTexture: use(3),
            emissiveTexture: use(4),
          },
        },
      });
      this.shaders.set(features, found);
    }
    return found;
  }
}
