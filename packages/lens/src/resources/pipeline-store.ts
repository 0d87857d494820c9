import { type CompiledShader, FEATURE, type FullMaterial, type MaterialShader } from '@umber-lens/core';
import type {
  Device,
  DevicePipeline,
  DeviceShader,
  RenderPipelineOptions,
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

/** The same of the full shader, whose layers are built in only where a material has them. */
const LAYER_CONSTANTS: [name: string, bit: number][] = [
  ['useClearcoat', FEATURE.clearcoat],
  ['useSheen', FEATURE.sheen],
  ['useSpecular', FEATURE.specular],
  ['useTransmission', FEATURE.transmission],
  ['useIridescence', FEATURE.iridescence],
  ['useAnisotropy', FEATURE.anisotropy],
  ['useDiffuseTransmission', FEATURE.diffuseTransmission],
];

/** Every surface adds to what is there: overdraw can be seen. */
const ADDED = {
  color: { srcFactor: 'one', dstFactor: 'one' },
  alpha: { srcFactor: 'one', dstFactor: 'one-minus-src-alpha' },
} as const;

/** How scenes with surroundings are drawn. */
export interface FullUse {
  material: FullMaterial;
  /** Bits of `AROUND`. */
  features: number;
  /** Changes when something was loaded, as the object itself does. */
  loaded: number;
  /** Waits for what is being loaded, and draws with it then. */
  load(loading: Promise<void>): void;
}

/** What matters of a material for its shadow: where it is cut out. */
const SHADOW_FEATURES =
  FEATURE.mask | FEATURE.baseColorTexture | FEATURE.color | FEATURE.texcoord0 | FEATURE.texcoord1;

/** What a scene has around it that pipelines are built for. */
export const AROUND = { environment: 1, shadows: 2, inspected: 4, overdraw: 8, clusters: 16 } as const;

const FULL_CONSTANTS: [name: string, bit: number][] = [
  ['useEnvironment', AROUND.environment],
  ['useShadows', AROUND.shadows],
  ['isInspected', AROUND.inspected],
  ['useClusters', AROUND.clusters],
];

const bitOf =
  (features: number) =>
  ([name, bit]: [name: string, bit: number]): [string, boolean] => [name, (features & bit) !== 0];

/** Pipelines by what decides them. */
export class PipelineStore {
  private readonly shaders = new Map<CompiledShader, { shader: DeviceShader; wgsl: string; id: number }>();
  private readonly pipelines = new Map<string, DevicePipeline>();
  /** Full variants of materials' own shaders, as far as they are loaded, and of which text they are. */
  private readonly fullOf = new WeakMap<MaterialShader, { wgsl: string; full?: FullMaterial }>();
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
    full: FullUse | undefined,
  ): DevicePipeline {
    const compiled = this.full(own, full)?.mesh ?? own ?? this.mesh;
    const { shader, id } = this.shader(compiled, own?.file ?? 'mesh');
    const around = compiled === (own ?? this.mesh) ? 0 : (full?.features ?? 0);
    const key = `${id} ${features} ${around} ${mirrored ? 'm' : ''} ${geometry.topology} ${geometry.stripIndexFormat ?? ''} ${geometry.layoutKey}`;
    let found = this.pipelines.get(key);
    if (!found) {
      found = this.create(features, geometry, mirrored, shader, own, compiled, around);
      this.pipelines.set(key, found);
    }
    return found;
  }

  /** As a light sees it: depth alone. Undefined while its shader is loading, or where it has none. */
  shadow(
    features: number,
    geometry: GpuGeometry,
    own: MaterialShader | undefined,
    full: FullUse,
  ): DevicePipeline | undefined {
    const compiled = this.full(own, full)?.shadow;
    if (!compiled) return undefined;
    const { shader, id } = this.shader(compiled, `shadow of ${own?.file ?? 'mesh'}`);
    const key = `${id} ${features & SHADOW_FEATURES} ${geometry.topology} ${geometry.stripIndexFormat ?? ''} ${geometry.layoutKey}`;
    let found = this.pipelines.get(key);
    if (!found) {
      found = this.device.createRenderPipeline({
        label: 'shadow',
        shader,
        constants: constantsOf(features & SHADOW_FEATURES, 0, compiled.overrides),
        ...inputsOf(geometry, own),
        // Both sides throw shadows; of marched shapes the far side of the geometry asks the pixels.
        cullMode: own?.isMarched ? 'front' : 'none',
        depth: { format: this.formats.depth, compare: 'greater', write: true },
        targets: [],
      });
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
    { overrides }: CompiledShader,
    around: number,
  ): DevicePipeline {
    const isBlend = (features & FEATURE.blend) !== 0;
    const isAdded = (around & AROUND.overdraw) !== 0;
    const { color, depth, sampleCount } = this.formats;
    const usual = (features & FEATURE.unlit) !== 0 ? 'unlit' : 'lit';
    return this.device.createRenderPipeline({
      label: own ? `material ${own.file}` : usual,
      shader,
      constants: constantsOf(features, around, overrides),
      ...inputsOf(geometry, own),
      cullMode: own?.isMarched ? 'front' : (features & FEATURE.doubleSided) !== 0 ? 'none' : 'back',
      frontFace: mirrored ? 'cw' : 'ccw',
      depth: isAdded
        ? { format: depth, compare: 'always', write: false }
        : { format: depth, compare: 'greater', write: !isBlend },
      targets: [
        isAdded
          ? { format: color, blend: ADDED }
          : isBlend
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

  /** The shaders for what the scene has around it; undefined while they are still loading. */
  full(own: MaterialShader | undefined, use: FullUse | undefined): FullMaterial | undefined {
    if (!use || !own) return use?.material;
    const { wgsl } = own;
    const loaded = this.fullOf.get(own);
    if (loaded?.wgsl === wgsl) return loaded.full;
    const entry: { wgsl: string; full?: FullMaterial } = { wgsl };
    this.fullOf.set(own, entry);
    if (own.full) use.load(own.full().then((full) => void (entry.full = full)));
    return undefined;
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

function constantsOf(
  features: number,
  around: number,
  overrides: readonly string[],
): Readonly<Record<string, boolean>> {
  const all = [
    ...[...CONSTANTS, ...LAYER_CONSTANTS].map(bitOf(features)),
    ...FULL_CONSTANTS.map(bitOf(around)),
  ];
  return Object.fromEntries(all.filter(([name]) => overrides.includes(name)));
}

/** What vertices and instances bring along, and what they are put together to. */
function inputsOf(
  geometry: GpuGeometry,
  own: MaterialShader | undefined,
): Pick<RenderPipelineOptions, 'vertexBuffers' | 'topology' | 'stripIndexFormat'> {
  const vertexBuffers = [INSTANCE_LAYOUT, ...geometry.layouts];
  if (own && own.instanceSettings.length > 0) vertexBuffers.push(instanceSettingsLayout(own));
  return {
    vertexBuffers,
    topology: geometry.topology,
    ...(geometry.stripIndexFormat ? { stripIndexFormat: geometry.stripIndexFormat } : {}),
  };
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
