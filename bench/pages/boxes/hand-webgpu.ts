import { attributeFloats, box } from 'umber-lens';
import { COUNT, viewProjection, type Way, writeMatrices } from './motion.js';

/** Usages by their numbers in the interface. */
const USAGE = { COPY_DST: 8, INDEX: 16, VERTEX: 32, UNIFORM: 64, RENDER_ATTACHMENT: 16 };

/** The boxes in WebGPU by hand: one instanced draw. */
export function handWebgpu(gpu: GPUDevice): Way {
  const module = gpu.createShaderModule({ code: CODE });
  const row = (shaderLocation: number): GPUVertexAttribute => ({
    shaderLocation,
    format: 'float32x4',
    offset: (shaderLocation - 2) * 16,
  });
  const three = (shaderLocation: number): GPUVertexBufferLayout => ({
    arrayStride: 12,
    attributes: [{ shaderLocation, format: 'float32x3', offset: 0 }],
  });
  const pipeline = gpu.createRenderPipeline({
    layout: 'auto',
    vertex: {
      module,
      buffers: [
        three(0),
        three(1),
        { arrayStride: 48, stepMode: 'instance', attributes: [row(2), row(3), row(4)] },
      ],
    },
    fragment: { module, targets: [{ format: 'rgba8unorm' }] },
    primitive: { cullMode: 'back' },
    depthStencil: { format: 'depth32float', depthCompare: 'less', depthWriteEnabled: true },
  });
  const buffer = (usage: number, data: Float32Array<ArrayBuffer> | Uint16Array<ArrayBuffer>): GPUBuffer => {
    const made = gpu.createBuffer({
      size: (data.byteLength + 3) & ~3,
      usage: usage | USAGE.COPY_DST,
    });
    gpu.queue.writeBuffer(made, 0, data);
    return made;
  };
  const geometry = box();
  const floats = (name: string): Float32Array<ArrayBuffer> =>
    attributeFloats(geometry.attributes[name]!) as Float32Array<ArrayBuffer>;
  const vertices = [buffer(USAGE.VERTEX, floats('position')), buffer(USAGE.VERTEX, floats('normal'))];
  const indices = buffer(USAGE.INDEX, Uint16Array.from(geometry.indices!));
  const matrices = new Float32Array(COUNT * 12);
  const instances = buffer(USAGE.VERTEX, matrices);
  const uniforms = buffer(USAGE.UNIFORM, new Float32Array(viewProjection(true)));
  const group = gpu.createBindGroup({
    layout: pipeline.getBindGroupLayout(0),
    entries: [{ binding: 0, resource: { buffer: uniforms } }],
  });
  const usage = USAGE.RENDER_ATTACHMENT;
  const color = gpu.createTexture({ size: [320, 200], format: 'rgba8unorm', usage }).createView();
  const depth = gpu.createTexture({ size: [320, 200], format: 'depth32float', usage }).createView();
  const frame = (time: number): void => {
    writeMatrices(matrices, 0, time);
    gpu.queue.writeBuffer(instances, 0, matrices);
    const encoder = gpu.createCommandEncoder();
    const pass = encoder.beginRenderPass({
      colorAttachments: [{ view: color, loadOp: 'clear', storeOp: 'store' }],
      depthStencilAttachment: {
        view: depth,
        depthLoadOp: 'clear',
        depthClearValue: 1,
        depthStoreOp: 'store',
      },
    });
    pass.setPipeline(pipeline);
    pass.setBindGroup(0, group);
    vertices.forEach((one, slot) => pass.setVertexBuffer(slot, one));
    pass.setVertexBuffer(2, instances);
    pass.setIndexBuffer(indices, 'uint16');
    pass.drawIndexed(36, COUNT);
    pass.end();
    gpu.queue.submit([encoder.finish()]);
  };
  return { frame, finish: () => gpu.queue.onSubmittedWorkDone(), draws: 1 };
}

const CODE = `
@group(0) @binding(0) var<uniform> viewProjection: mat4x4f;
struct Varying { @builtin(position) at: vec4f, @location(0) n: vec3f }
@vertex fn v(@location(0) p: vec3f, @location(1) q: vec3f, @location(2) a: vec4f, @location(3) b: vec4f, @location(4) c: vec4f) -> Varying {
  let w = vec4f(p, 1);
  return Varying(viewProjection * vec4f(dot(a, w), dot(b, w), dot(c, w), 1), vec3f(dot(a.xyz, q), dot(b.xyz, q), dot(c.xyz, q)));
}
@fragment fn f(i: Varying) -> @location(0) vec4f {
  return vec4f(vec3f(0.1 + 0.9 * max(0, dot(normalize(i.n), vec3f(0.48, 0.8, 0.36)))), 1);
}`;
