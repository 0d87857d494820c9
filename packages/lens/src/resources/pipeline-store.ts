import { type CompiledShader, FEATURE, type MaterialShader } from '@umber-lens/core';
import type {
  Device,
  DevicePipeline,
  DeviceShader,
  TextureFormat,
  VertexBufferLayout,
} from '../gpu/device.js';
import { LOCATION } from '../shaders/locations.js';
import type { GpuGeometry } from './geometry-store.js';
import { INSTANCE_BYTES } from './instance-buffer.js';

const INSTANCE_LAYOUT: VertexBufferLayout = {
  arrayStride: INSTANCE_BYTES,
  stepMode: 'instance',
  attributes: [{ shaderLocation: LOCATION.instance, format: 'uint32', offset: 0 }],
};

/** Formats of the pass that the pipelines draw in. */
export interface ScenePassFormats {
  color: TextureFormat;
  depth: TextureFormat;
  sampleCount: number;
}

/** Overrides of the mesh shader by the feature that turns each on. */
const CONSTANTS: [name: string, bit: number][] = [
  ['isUnlit', FEATURE.unlit],
  ['isMask', FEATURE.mask],
  ['isBlend', FEATURE.blend],
  ['useBaseColorTexture', FEATURE.baseColorTexture],
  ['useMetallicRoughnessTexture', FEATURE.metallicRoughnessTexture],
  ['useNormalTexture', FEATURE.normalTexture],
  ['useOcclusionTexture', FEATURE.occlusionTexture],
  ['useEmissiveTexture', FEATURE.emissiveTexture],
  ['hasColor', FEATURE.color],
  ['hasTangent', FEATURE.tangent],
  ['hasNormal', FEATURE.normal],
];

/** Pipelines by what decides them. */
export class PipelineStore {
  private readonly shaders = new Map<CompiledShader, { shader: DeviceShader; wgsl: string; id: number }>();
  private readonly pipelines = new Map<string, DevicePipeline>();
  private nextId = 0;

  constructor(
    private readonly device: Device,
    private readonly formats: ScenePassFormats,
    /** For materials without a shader of their own. */
    private readonly mesh: CompiledShader,
  ) {}

  /** @param own a material's own shader */
  get(
    features: number,
    geometry: GpuGeometry,
    mirrored: boolean,
    own: MaterialShader | undefined,
  ): DevicePipeline {
    const { shader, id } = this.shader(own ?? this.mesh, own?.file ?? 'mesh');
    const key = `${id} ${features} ${mirrored ? 'm' : ''} ${geometry.topology} ${geometry.stripIndexFormat ?? ''} ${geometry.layoutKey}`;
    let found = this.pipelines.get(key);
    if (!found) {
      found = this.create(features, geometry, mirrored, shader, own);
      this.pipelines.set(key, found);
    }
    return found;
  }

  private create(
    features: number,
    geometry: GpuGeometry,
    mirrored: boolean,
    shader: DeviceShader,
    own: MaterialShader | undefined,
  ): DevicePipeline {
    const isBlend = (features & FEATURE.blend) !== 0;
    const { color, depth, sampleCount } = this.formats;
    const { overrides } = own ?? this.mesh;
    const usual = (features & FEATURE.unlit) !== 0 ? 'unlit' : 'lit';
    const vertexBuffers = [INSTANCE_LAYOUT, ...geometry.layouts];
    if (own && own.instanceSettings.length > 0) vertexBuffers.push(instanceSettingsLayout(own));
    return this.device.createRenderPipeline({
      label: own ? `material ${own.file}` : usual,
      shader,
      constants: Object.fromEntries(
        CONSTANTS.filter(([name]) => overrides.includes(name)).map(([name, bit]) => [
          name,
          (features & bit) !== 0,
        ]),
      ),
      vertexBuffers,
      topology: geometry.topology,
      ...(geometry.stripIndexFormat ? { stripIndexFormat: geometry.stripIndexFormat } : {}),
      cullMode: own?.isMarched ? 'front' : (features & FEATURE.doubleSided) !== 0 ? 'none' : 'back',
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

  private shader(compiled: CompiledShader, label: string): { shader: DeviceShader; id: number } {
    let found = this.shaders.get(compiled);
    if (found && found.wgsl !== compiled.wgsl) {
      // The file changed while serving: the object is the same, its contents are new.
      for (const [key, pipeline] of this.pipelines) {
        if (!key.startsWith(`${found.id} `)) continue;
        pipeline.dispose();
        this.pipelines.delete(key);
      }
      found.shader.dispose();
      found = undefined;
    }
    if (!found) {
      const shader = this.device.createShader({ label, ...compiled });
      found = { shader, wgsl: compiled.wgsl, id: this.nextId++ };
      this.shaders.set(compiled, found);
    }
    return found;
  }
}

/** Floats of a shader's settings for one instance. */
export function instanceSettingsFloats(shader: MaterialShader): number {
  return shader.instanceSettings.reduce((sum, { components }) => sum + components, 0);
}

function instanceSettingsLayout(shader: MaterialShader): VertexBufferLayout {
  let offset = 0;
  const attributes = shader.instanceSettings.map(({ location, components }) => {
    const format = `float32${(['', 'x2', 'x3', 'x4'] as const)[components - 1]!}` as const; // 1 to 4 by type
    const attribute = { shaderLocation: location, format, offset };
    offset += components * 4;
    return attribute;
  });
  return { arrayStride: offset, stepMode: 'instance', attributes };
}
