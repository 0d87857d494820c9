/** 20,000 moving boxes on WebGPU: the library against one instanced draw by hand. */
import { attributeFloats, box, facing, lensOn, Scene, WebgpuDevice } from 'umber-lens';

const COUNT = 20_000;
const SIDE = 142;
const height = (i: number, time: number): number => Math.sin(time + i * 0.1);
const turn = (i: number, time: number): number => time * 0.5 + i;
const placeX = (i: number): number => ((i % SIDE) - SIDE / 2) * 1.5;
const placeZ = (i: number): number => -Math.floor(i / SIDE) * 1.5;

/** Usages by their numbers in the interface. */
const USAGE = { COPY_DST: 8, INDEX: 16, VERTEX: 32, UNIFORM: 64, RENDER_ATTACHMENT: 16 };

type Frame = (time: number) => void;

function ourWay(gpu: GPUDevice): Frame {
  const lens = lensOn(new WebgpuDevice(gpu), { antialias: false });
  const scene = new Scene();
  const [geometry, material] = [box(), {}];
  const nodes = Array.from({ length: COUNT }, (_, i) =>
    scene.createNode({ translation: [placeX(i), 0, placeZ(i)], mesh: { geometry, material } }),
  );
  scene.createNode({ rotation: facing([-0.48, -0.8, -0.36]), light: { type: 'directional', intensity: 3 } });
  const camera = { type: 'perspective', yfov: 1.2, znear: 0.1 } as const;
  const eye = scene.createNode({ translation: [0, 60, 60], rotation: facing([0, -0.5, -1]), camera });
  const target = lens.createTarget({ width: 320, height: 200 });
  return (time) => {
    for (let i = 0; i < COUNT; i++) {
      const node = nodes[i]!;
      const half = turn(i, time) / 2;
      node.setTranslation(placeX(i), height(i, time), placeZ(i));
      node.setRotation(0, Math.sin(half), 0, Math.cos(half));
    }
    lens.draw(scene, eye, target);
  };
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

function byHand(gpu: GPUDevice): Frame {
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
  const f = 1 / Math.tan(0.6);
  const tilt = Math.atan(0.5);
  const [s, c] = [Math.sin(tilt), Math.cos(tilt)];
  const [ty, tz] = [-(c * 60 - s * 60), -(s * 60 + c * 60)];
  const view = [f / 1.6, 0, 0, 0, 0, f * c, -s, -s, 0, -f * s, -c, -c, 0, f * ty, -tz - 0.2, -tz];
  const uniforms = buffer(USAGE.UNIFORM, new Float32Array(view));
  const group = gpu.createBindGroup({
    layout: pipeline.getBindGroupLayout(0),
    entries: [{ binding: 0, resource: { buffer: uniforms } }],
  });
  const usage = USAGE.RENDER_ATTACHMENT;
  const color = gpu.createTexture({ size: [320, 200], format: 'rgba8unorm', usage }).createView();
  const depth = gpu.createTexture({ size: [320, 200], format: 'depth32float', usage }).createView();
  return (time) => {
    for (let i = 0, o = 0; i < COUNT; i++, o += 12) {
      const angle = turn(i, time);
      const [sin, cos] = [Math.sin(angle), Math.cos(angle)];
      matrices[o] = cos;
      matrices[o + 2] = sin;
      matrices[o + 3] = placeX(i);
      matrices[o + 5] = 1;
      matrices[o + 7] = height(i, time);
      matrices[o + 8] = -sin;
      matrices[o + 10] = cos;
      matrices[o + 11] = placeZ(i);
    }
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
}

async function boxes(rounds: number): Promise<Record<'ours' | 'hand', number>> {
  const adapter = await navigator.gpu.requestAdapter();
  const gpu = await adapter!.requestDevice();
  const ways = { ours: ourWay(gpu), hand: byHand(gpu) };
  const times: Record<'ours' | 'hand', number[]> = { ours: [], hand: [] };
  for (let round = -8; round < rounds; round++) {
    for (const name of ['ours', 'hand'] as const) {
      const start = performance.now();
      ways[name](round * 0.05);
      if (round >= 0) times[name].push(performance.now() - start);
      // The GPU's own work must not fall into the next measurement.
      await gpu.queue.onSubmittedWorkDone();
    }
  }
  const median = (list: number[]): number => list.sort((a, b) => a - b)[list.length >> 1]!;
  return { ours: median(times.ours), hand: median(times.hand) };
}

Object.assign(window, { boxes });
