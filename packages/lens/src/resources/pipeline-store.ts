import {
  type CompiledShader,
  type DrawState,
  FEATURE,
  type FullMaterial,
  INSTANCE_WORDS,
  type MaterialShader,
  LOCATION,
  type StencilState,
} from '@umber-lens/core/engine';
import {
  type BlendComponent,
  type CompareFunction,
  type Device,
  type DevicePipeline,
  type DeviceShader,
  type RenderPipelineOptions,
  type TextureFormat,
  type VertexBufferLayout,
} from '../gpu/device.js';
import type { Messages } from '#messages';
import type { MultiDraw } from '../gpu/multi-draw.js';
import type { GpuGeometry } from './geometry-store.js';
import { INSTANCE_BYTES } from './instance-buffer.js';
import type { ShaderFeeds } from './shader-feeds.js';

const INSTANCE_LAYOUT: VertexBufferLayout = {
  arrayStride: INSTANCE_BYTES,
  stepMode: 'instance',
  attributes: [{ shaderLocation: LOCATION.instance, format: 'uint32', offset: 0 }],
};

const SWARM_LAYOUT: VertexBufferLayout = {
  arrayStride: INSTANCE_WORDS * 4,
  stepMode: 'instance',
  attributes: [{ shaderLocation: LOCATION.instance, format: 'uint32x4', offset: 0 }],
};

/** Formats of the pass that the pipelines draw in. */
export interface ScenePassFormats {
  color: TextureFormat;
  depth: TextureFormat;
  sampleCount: number;
}

/** Overrides of the mesh shader by the feature that turns each on. */
export const CONSTANTS: [name: string, bit: number][] = [
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

/** How what is drawn meets what is there. */
export interface Raster {
  compare: CompareFunction;
  /** Of depth. */
  write: boolean;
  blend?: { color: BlendComponent; alpha: BlendComponent };
  /** Default those of the scene's pass. */
  sampleCount?: number;
  color?: TextureFormat;
  /** Formats of more targets. */
  more?: readonly TextureFormat[];
  bias?: number;
  biasSlopeScale?: number;
  writeMask?: number;
  stencil?: StencilState;
}

const NO_MORE: readonly TextureFormat[] = [];
const over = { srcFactor: 'one', dstFactor: 'one-minus-src-alpha' } as const;
/** What is as near as what is there is drawn over it: overlays of the same geometry are seen. */
const OPAQUE: Raster = { compare: 'greater-equal', write: true };
/** Premultiplied colour over what is there. */
const BLENDED: Raster = { compare: 'greater-equal', write: false, blend: { color: over, alpha: over } };

/** How scenes with surroundings are drawn. */
export interface FullUse {
  material: FullMaterial;
  /** Bits of flags. */
  bits: number;
  /** Where surfaces do not hide or cover each other as usual. */
  raster: Raster | undefined;
  /** Of a pixel, where it is not the usual number. */
  sampleCount: number | undefined;
  /** Whether something asks of unlit surfaces, too, where they are. */
  needsPlace: boolean;
  /** How a material's own state has things meet what is there. @throws LensError `material/blend`, `material/stencil` */
  rasterOf(state: DrawState, usual: Raster, depthFormat: TextureFormat): Raster;
  /** Overrides of full shaders, besides those of plain ones. */
  constants(features: number, geometry: GpuGeometry): readonly [name: string, value: boolean][];
  /** Changes when something was loaded, as the object itself does. */
  loaded: number;
  /** Waits for what is being loaded, and draws with it then. */
  load(loading: Promise<void>): void;
}

export const bitOf =
  (features: number) =>
  ([name, bit]: [name: string, bit: number]): [string, boolean] => [name, (features & bit) !== 0];

/** Pipelines by what decides them. */
export class PipelineStore {
  private readonly shaders = new Map<CompiledShader, { shader: DeviceShader; wgsl: string; id: number }>();
  private readonly pipelines = new Map<string, DevicePipeline>();
  /** Full variants of materials' own shaders, as far as they are loaded, and of which text they are. */
  private readonly fullOf = new WeakMap<MaterialShader, { wgsl: string; full?: FullMaterial }>();
  /** How each was made, and what draws several at once instead. */
  private readonly plainOf = new WeakMap<object, CompiledShader>();
  private readonly optionsOf = new WeakMap<DevicePipeline, RenderPipelineOptions>();
  private readonly severalOf = new WeakMap<DevicePipeline, DevicePipeline>();
  private nextId = 0;
  /** Whether pipelines are made beside the script. */
  isAsync = false;
  /** Whether those that are not ready are waited for when they are drawn with. */
  waits = true;
  /** Milliseconds of a frame in which pipelines may be begun. */
  milliseconds = Infinity;
  private spent = 0;
  /** Those that are being made. */
  readonly pending = new Set<Promise<void>>();

  constructor(
    private readonly device: Device,
    readonly formats: ScenePassFormats,
    /** For materials without a shader of their own. */
    private readonly mesh: CompiledShader,
    private readonly messages: Messages,
  ) {}

  /** @param own a material's own shader */
  get(
    features: number,
    geometry: GpuGeometry,
    mirrored: boolean,
    own: MaterialShader | undefined,
    full: FullUse | undefined,
    state: DrawState | undefined,
  ): DevicePipeline {
    const whole = this.full(own, full)?.mesh;
    const compiled = whole ?? (own ? this.plain(own) : this.mesh);
    const use = whole && full;
    const key = `${features} ${use?.bits ?? 0} ${mirrored ? 'm' : ''}${state?.id ?? ''}`;
    return this.kept(compiled, own?.file ?? 'mesh', key, geometry, (shader) =>
      this.options(features, geometry, mirrored, shader, own, compiled, use, state),
    );
  }

  /** The pipeline of a shader for a geometry, made when it is first asked for. */
  kept(
    compiled: CompiledShader,
    label: string,
    what: string,
    geometry: GpuGeometry,
    optionsOf: (shader: DeviceShader) => RenderPipelineOptions,
  ): DevicePipeline {
    const { shader, id } = this.shader(compiled, label);
    const key = `${id} ${what} ${geometry.topology} ${geometry.stripIndexFormat ?? ''} ${geometry.layoutKey}`;
    let found = this.pipelines.get(key);
    if (!found) {
      const { isAsync } = this;
      const options = { ...optionsOf(shader), async: isAsync };
      const start = this.milliseconds === Infinity ? 0 : performance.now();
      found = this.device.createRenderPipeline(options);
      if (start > 0) this.spent += performance.now() - start;
      this.pipelines.set(key, found);
      this.optionsOf.set(found, options);
      if (isAsync) this.await(found);
    }
    return found;
  }

  /** Another frame: its time is all there. */
  beginFrame(): void {
    this.spent = 0;
  }

  /** Whether there is time left to begin one: there always is for the first of a frame. */
  get mayBegin(): boolean {
    return this.spent === 0 || this.spent < this.milliseconds;
  }

  /** What draws several at once as a pipeline draws one; undefined while it is being made. */
  several(pipeline: DevicePipeline, multiDraw: MultiDraw): DevicePipeline | undefined {
    let found = this.severalOf.get(pipeline);
    const options = this.optionsOf.get(pipeline);
    if (!found && options) {
      found = multiDraw.pipelineOf(pipeline, options);
      this.severalOf.set(pipeline, found);
      if (!found.isReady) this.await(found);
    }
    return found && (this.waits || found.isReady) ? found : undefined;
  }

  /** Waits for all that are being made. */
  async whenReady(): Promise<void> {
    while (this.pending.size > 0) await Promise.all(this.pending);
  }

  private await(pipeline: DevicePipeline): void {
    const settled = pipeline
      .ready()
      .catch((error: unknown) => this.messages.fault('a pipeline could not be made', error))
      .then(() => void this.pending.delete(settled));
    this.pending.add(settled);
  }

  private options(
    features: number,
    geometry: GpuGeometry,
    mirrored: boolean,
    shader: DeviceShader,
    own: MaterialShader | undefined,
    { overrides }: CompiledShader,
    full: FullUse | undefined,
    state: DrawState | undefined,
  ): RenderPipelineOptions {
    const { depth } = this.formats;
    const usualRaster = (features & FEATURE.blend) !== 0 ? BLENDED : OPAQUE;
    const { color, compare, write, blend, sampleCount, more, bias, biasSlopeScale, writeMask, stencil } = {
      ...this.formats,
      ...(full?.sampleCount === undefined ? {} : { sampleCount: full.sampleCount }),
      ...(full?.raster ?? (state && full ? full.rasterOf(state, usualRaster, depth) : usualRaster)),
    };
    const usual = (features & FEATURE.unlit) !== 0 ? 'unlit' : 'lit';
    return {
      label: own ? `material ${own.file}` : usual,
      shader,
      constants: constantsOf(
        [
          ...CONSTANTS.map(bitOf(features)),
          ['isPremultiplied', state?.blend === 'premultiplied'],
          ['needsPlace', usual === 'lit' || own !== undefined || full?.needsPlace === true],
          ...(full?.constants(features, geometry) ?? []),
        ],
        overrides,
      ),
      ...inputsOf(geometry, own),
      cullMode: own?.isMarched
        ? 'front'
        : (state?.cullMode ?? ((features & FEATURE.doubleSided) !== 0 ? 'none' : 'back')),
      frontFace: mirrored ? 'cw' : 'ccw',
      depth: {
        format: depth,
        compare,
        write,
        ...(bias === undefined ? {} : { bias }),
        ...(biasSlopeScale === undefined ? {} : { biasSlopeScale }),
        ...(stencil ? { stencil } : {}),
      },
      targets: [
        {
          format: color,
          ...(blend ? { blend } : {}),
          ...(writeMask === undefined ? {} : { write: writeMask }),
        },
        ...(more ?? NO_MORE).map((format) => ({ format })),
      ],
      sampleCount,
    };
  }

  /** The shaders for what the scene has around it; undefined while they are still loading. */
  full(own: MaterialShader | undefined, use: FullUse | undefined): FullMaterial | undefined {
    if (!use || !own) return use?.material;
    const { wgsl } = own;
    const loaded = this.fullOf.get(own);
    if (loaded?.wgsl === wgsl) return loaded.full;
    const entry: { wgsl: string; full?: FullMaterial } = { wgsl };
    this.fullOf.set(own, entry);
    if (own.full) use.load(own.full().then((full) => void (entry.full = wholeOf(own, full, use.material))));
    return undefined;
  }

  /** A material's own shader without what scenes have around them, in whole. */
  private plain(own: MaterialShader): CompiledShader {
    if (!own.packed) return own;
    let known = this.plainOf.get(own.packed);
    if (!known) this.plainOf.set(own.packed, (known = unpacked(own, own, this.mesh)));
    return known;
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

const unpacked = (own: MaterialShader, shader: CompiledShader, base: CompiledShader): CompiledShader =>
  (own.feeds as ShaderFeeds | undefined)?.unpack(shader, base, own.file) ?? shader;

const wholeOf = (own: MaterialShader, full: FullMaterial, base: FullMaterial): FullMaterial => ({
  mesh: unpacked(own, full.mesh, base.mesh),
  shadow: unpacked(own, full.shadow, base.shadow),
  surfaces: unpacked(own, full.surfaces, base.surfaces),
});

/** Those that a shader has. */
export function constantsOf(
  all: readonly [name: string, value: boolean][],
  overrides: readonly string[],
): Readonly<Record<string, boolean>> {
  return Object.fromEntries(all.filter(([name]) => overrides.includes(name)));
}

/** What vertices and instances bring along, and what they are put together to. */
export function inputsOf(
  geometry: GpuGeometry,
  own: MaterialShader | undefined,
): Pick<RenderPipelineOptions, 'vertexBuffers' | 'topology' | 'stripIndexFormat'> {
  const vertexBuffers = [
    geometry.placedBy === 'instances' ? SWARM_LAYOUT : INSTANCE_LAYOUT,
    ...geometry.layouts,
  ];
  const { feeds } = own ?? {};
  // Copies of swarms have theirs in their records.
  if (own && geometry.placedBy !== 'instances' && own.instanceSettings.length > 0 && feeds)
    vertexBuffers.push((feeds as ShaderFeeds).instanceLayout(own));
  return {
    vertexBuffers,
    topology: geometry.topology,
    ...(geometry.stripIndexFormat ? { stripIndexFormat: geometry.stripIndexFormat } : {}),
  };
}
