import { LensError, type StencilState } from '@umber-lens/core/engine';
import type { RenderPipelineOptions } from '../device.js';
import type { WebgpuPipeline, WebgpuShader } from './objects.js';

/** A pipeline on WebGPU: made at once, or beside the script until it is asked for. */
export function webgpuPipeline(
  gpu: GPUDevice,
  options: RenderPipelineOptions,
): Omit<WebgpuPipeline, 'dispose'> {
  const { label = '', topology } = options;
  const descriptor = descriptorOf(options);
  let handle: GPURenderPipeline | undefined;
  let made: Promise<void> | undefined;
  if (options.async === true) {
    made = gpu.createRenderPipelineAsync(descriptor).then(
      (pipeline) => void (handle ??= pipeline),
      (error: unknown) => {
        throw new LensError('shader/pipeline', `pipeline "${label}" cannot be made: ${String(error)}`);
      },
    );
    // Whoever waits hears of it; nobody has to.
    made.catch(() => undefined);
  } else {
    handle = gpu.createRenderPipeline(descriptor);
  }
  return {
    kind: 'pipeline',
    label,
    shader: options.shader as WebgpuShader,
    topology,
    vertexBuffers: options.vertexBuffers?.length ?? 0,
    stencilReference: options.depth?.stencil && (options.depth.stencil.reference ?? 0),
    get handle() {
      return (handle ??= gpu.createRenderPipeline(descriptor));
    },
    get isReady() {
      return handle !== undefined;
    },
    ready: () => made ?? Promise.resolve(),
  };
}

function stencilOf({
  compare = 'always',
  failOp = 'keep',
  depthFailOp = 'keep',
  passOp = 'keep',
  readMask = 255,
  writeMask = 255,
}: StencilState): Partial<GPUDepthStencilState> {
  const face = { compare, failOp, depthFailOp, passOp };
  return {
    stencilFront: face,
    stencilBack: face,
    stencilReadMask: readMask,
    stencilWriteMask: writeMask,
  };
}

function descriptorOf(options: RenderPipelineOptions): GPURenderPipelineDescriptor {
  const { label = '', topology, depth, sampleCount = 1, vertexBuffers = [] } = options;
  const { fragment, layout, module, vertex } = options.shader as WebgpuShader;
  const constants = Object.fromEntries(
    Object.entries(options.constants ?? {}).map(([name, value]) => [name, Number(value)]),
  );
  return {
    label,
    layout,
    vertex: {
      module,
      entryPoint: vertex,
      constants,
      buffers: vertexBuffers.map(({ arrayStride, stepMode = 'vertex', attributes }) => ({
        arrayStride,
        stepMode,
        attributes: attributes as GPUVertexAttribute[],
      })),
    },
    fragment: {
      module,
      entryPoint: fragment,
      constants,
      targets: (options.targets ?? [{ format: 'rgba8unorm' as const }]).map(
        ({ format, blend, write = true }) => ({
          ...(write === true ? {} : { writeMask: Number(write) }),
          format,
          ...(blend ? { blend } : {}),
        }),
      ),
    },
    primitive: {
      topology: topology ?? 'triangle-list',
      cullMode: options.cullMode ?? 'none',
      frontFace: options.frontFace ?? 'ccw',
      ...(options.stripIndexFormat ? { stripIndexFormat: options.stripIndexFormat } : {}),
    },
    ...(depth
      ? {
          depthStencil: {
            format: depth.format,
            depthCompare: depth.compare,
            depthWriteEnabled: depth.write,
            depthBias: depth.bias ?? 0,
            depthBiasSlopeScale: depth.biasSlopeScale ?? 0,
            ...(depth.stencil ? stencilOf(depth.stencil) : {}),
          },
        }
      : {}),
    multisample: { count: sampleCount },
  };
}
