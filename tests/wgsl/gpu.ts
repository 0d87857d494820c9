import type { Page } from 'playwright-core';
import type { GlslShader } from '@umber-lens/core/engine';

/** What the page offers to these tests; see `gpuScript`. */
interface GpuWindow {
  webgpuErrors(texts: string[]): Promise<(string | null)[]>;
  glslErrors(pairs: { vertex: string; fragment: string }[]): Promise<(string | null)[]>;
  webgpuRun(texts: string[], count: number, data?: number[]): Promise<(number[] | string)[]>;
  glslRun(texts: string[], count: number, data?: number[]): Promise<(number[] | string)[]>;
  storageTexels(text: string, format: string, of: string, size: number): Promise<number[]>;
}

const call = <K extends keyof GpuWindow>(
  page: Page,
  name: K,
  ...args: Parameters<GpuWindow[K]>
): ReturnType<GpuWindow[K]> =>
  page.evaluate(
    ([key, given]) =>
      (window as unknown as Record<string, (...a: unknown[]) => unknown>)[key as string]!(
        ...(given as unknown[]),
      ),
    [name, args] as const,
  ) as ReturnType<GpuWindow[K]>;

/** First error of each module by the browser's own WGSL compiler, or null. */
export const webgpuErrors = (page: Page, texts: string[]): Promise<(string | null)[]> =>
  call(page, 'webgpuErrors', texts);
/** First error of compiling and linking each pair in WebGL2, or null. */
export const glslErrors = (
  page: Page,
  pairs: { vertex: string; fragment: string }[],
): Promise<(string | null)[]> => call(page, 'glslErrors', pairs);

export const COMPUTE_TAIL = `
@group(0) @binding(0) var<storage, read_write> umber_results: array<vec4u>;
@compute @workgroup_size(1) fn umber_compute(@builtin(global_invocation_id) id: vec3u) {
  umber_results[id.x] = program(id.x);
}`;
export const FRAGMENT_TAIL = `
@fragment fn umber_fragment(@builtin(position) at: vec4f) -> @location(0) vec4u {
  return program(u32(at.x));
}`;

/** Runs `fn program(i: u32) -> vec4u` for i below count, on WebGPU by compute. `data`: words of the buffer at binding 1. */
export const webgpuRun = (
  page: Page,
  texts: string[],
  count: number,
  data?: number[],
): Promise<(number[] | string)[]> =>
  call(
    page,
    'webgpuRun',
    texts.map((text) => text + COMPUTE_TAIL),
    count,
    data,
  );
/** The four numbers of each texel of a storage texture that `main` wrote, read by textureLoad. */
export const storageTexels = (
  page: Page,
  text: string,
  format: string,
  of: string,
  size: number,
): Promise<number[]> => call(page, 'storageTexels', text, format, of, size);
/** The same on WebGL2, from the GLSL of the fragment entry point. */
export const glslRun = (
  page: Page,
  shaders: GlslShader[],
  count: number,
  data?: number[],
): Promise<(number[] | string)[]> =>
  call(
    page,
    'glslRun',
    shaders.map(({ text }) => text),
    count,
    data,
  );

/** Runs inside the page. */
export const gpuScript = `
const VERTEX = '#version 300 es\\nvoid main() { gl_Position = vec4(float(gl_VertexID & 1) * 4.0 - 1.0, float(gl_VertexID >> 1) * 4.0 - 1.0, 0.0, 1.0); }';
let device;
async function getDevice() {
  if (!device) {
    const adapter = await navigator.gpu.requestAdapter();
    const wanted = ['subgroups'].filter((name) => adapter.features.has(name));
    device = await adapter.requestDevice({ requiredFeatures: wanted });
    device.onuncapturederror = (event) => event.preventDefault();
  }
  return device;
}
let context;
function getGl() {
  if (!context) {
    const canvas = document.createElement('canvas');
    context = canvas.getContext('webgl2');
  }
  return context;
}
window.webgpuErrors = async (texts) => {
  const gpu = await getDevice();
  const out = [];
  for (const code of texts) {
    const info = await gpu.createShaderModule({ code }).getCompilationInfo();
    const error = info.messages.find((m) => m.type === 'error');
    out.push(error ? error.lineNum + ':' + error.linePos + ' ' + error.message : null);
  }
  return out;
};
function build(gl, vertex, fragment) {
  const program = gl.createProgram();
  const shaders = [[gl.VERTEX_SHADER, vertex], [gl.FRAGMENT_SHADER, fragment]].map(([type, text]) => {
    const shader = gl.createShader(type);
    gl.shaderSource(shader, text);
    gl.compileShader(shader);
    gl.attachShader(program, shader);
    return shader;
  });
  gl.linkProgram(program);
  let error = null;
  if (!gl.getProgramParameter(program, gl.LINK_STATUS)) {
    error = shaders.map((s) => gl.getShaderInfoLog(s)).join('') + gl.getProgramInfoLog(program) || 'no link';
  }
  for (const s of shaders) gl.deleteShader(s);
  return { program, error };
}
window.glslErrors = async (pairs) => {
  const gl = getGl();
  return pairs.map(({ vertex, fragment }) => {
    const { program, error } = build(gl, vertex || VERTEX, fragment || '#version 300 es\\nprecision highp float;\\nvoid main() {}');
    gl.deleteProgram(program);
    return error;
  });
};
window.webgpuRun = async (texts, count, data) => {
  const gpu = await getDevice();
  const out = [];
  for (const code of texts) {
    const module = gpu.createShaderModule({ code });
    const info = await module.getCompilationInfo();
    const error = info.messages.find((m) => m.type === 'error');
    if (error) { out.push('WebGPU: ' + error.lineNum + ':' + error.linePos + ' ' + error.message); continue; }
    const pipeline = gpu.createComputePipeline({ layout: 'auto', compute: { module, entryPoint: 'umber_compute' } });
    const buffer = gpu.createBuffer({ size: count * 16, usage: GPUBufferUsage.STORAGE | GPUBufferUsage.COPY_SRC });
    const back = gpu.createBuffer({ size: count * 16, usage: GPUBufferUsage.MAP_READ | GPUBufferUsage.COPY_DST });
    const entries = [{ binding: 0, resource: { buffer } }];
    if (data) {
      const given = gpu.createBuffer({ size: data.length * 4, usage: GPUBufferUsage.STORAGE | GPUBufferUsage.COPY_DST });
      gpu.queue.writeBuffer(given, 0, new Uint32Array(data));
      entries.push({ binding: 1, resource: { buffer: given } });
    }
    const group = gpu.createBindGroup({ layout: pipeline.getBindGroupLayout(0), entries });
    const encoder = gpu.createCommandEncoder();
    const pass = encoder.beginComputePass();
    pass.setPipeline(pipeline);
    pass.setBindGroup(0, group);
    pass.dispatchWorkgroups(count);
    pass.end();
    encoder.copyBufferToBuffer(buffer, 0, back, 0, count * 16);
    gpu.queue.submit([encoder.finish()]);
    await back.mapAsync(GPUMapMode.READ);
    out.push([...new Uint32Array(back.getMappedRange())]);
    back.unmap();
    buffer.destroy();
    back.destroy();
  }
  return out;
};
window.storageTexels = async (text, format, of, size) => {
  const gpu = await getDevice();
  const texture = gpu.createTexture({ size: [size, size], format, usage: GPUTextureUsage.STORAGE_BINDING | GPUTextureUsage.TEXTURE_BINDING });
  const buffer = gpu.createBuffer({ size: size * size * 16, usage: GPUBufferUsage.STORAGE | GPUBufferUsage.COPY_SRC });
  const back = gpu.createBuffer({ size: size * size * 16, usage: GPUBufferUsage.MAP_READ | GPUBufferUsage.COPY_DST });
  const reader = '@group(0) @binding(0) var t: texture_2d<' + of + '>; @group(0) @binding(1) var<storage, read_write> o: array<vec4<' + of + '>>; ' +
    '@compute @workgroup_size(1) fn main(@builtin(global_invocation_id) id: vec3u) { o[id.y * ' + size + 'u + id.x] = textureLoad(t, vec2i(id.xy), 0); }';
  const encoder = gpu.createCommandEncoder();
  for (const code of [text, reader]) {
    const isWriting = code === text;
    const module = gpu.createShaderModule({ code });
    const resource = [{ binding: 0, resource: texture.createView() }];
    if (!isWriting) resource.push({ binding: 1, resource: { buffer } });
    const layout = gpu.createBindGroupLayout({ entries: [
      isWriting
        ? { binding: 0, visibility: GPUShaderStage.COMPUTE, storageTexture: { format } }
        : { binding: 0, visibility: GPUShaderStage.COMPUTE, texture: { sampleType: of === 'u32' ? 'uint' : of === 'i32' ? 'sint' : 'unfilterable-float' } },
      ...(isWriting ? [] : [{ binding: 1, visibility: GPUShaderStage.COMPUTE, buffer: { type: 'storage' } }]),
    ] });
    const pipeline = gpu.createComputePipeline({ layout: gpu.createPipelineLayout({ bindGroupLayouts: [layout] }), compute: { module, entryPoint: 'main' } });
    const pass = encoder.beginComputePass();
    pass.setPipeline(pipeline);
    pass.setBindGroup(0, gpu.createBindGroup({ layout, entries: resource }));
    pass.dispatchWorkgroups(size, size);
    pass.end();
  }
  encoder.copyBufferToBuffer(buffer, 0, back, 0, size * size * 16);
  gpu.queue.submit([encoder.finish()]);
  await back.mapAsync(GPUMapMode.READ);
  const View = of === 'u32' ? Uint32Array : of === 'i32' ? Int32Array : Float32Array;
  return [...new View(back.getMappedRange())];
};
window.glslRun = async (texts, count, data) => {
  const gl = getGl();
  const texture = gl.createTexture();
  gl.bindTexture(gl.TEXTURE_2D, texture);
  gl.texStorage2D(gl.TEXTURE_2D, 1, gl.RGBA32UI, count, 1);
  const framebuffer = gl.createFramebuffer();
  gl.bindFramebuffer(gl.FRAMEBUFFER, framebuffer);
  gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, texture, 0);
  gl.viewport(0, 0, count, 1);
  return texts.map((text) => {
    const { program, error } = build(gl, VERTEX, text);
    if (error) return 'WebGL2: ' + error;
    gl.useProgram(program);
    if (data) {
      // A storage buffer is a texture of four words a texel; its name and length as the compiler gives them.
      const storage = gl.createTexture();
      gl.activeTexture(gl.TEXTURE1);
      gl.bindTexture(gl.TEXTURE_2D, storage);
      gl.texStorage2D(gl.TEXTURE_2D, 1, gl.RGBA32UI, data.length / 4, 1);
      gl.texSubImage2D(gl.TEXTURE_2D, 0, 0, 0, data.length / 4, 1, gl.RGBA_INTEGER, gl.UNSIGNED_INT, new Uint32Array(data));
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
      gl.uniform1i(gl.getUniformLocation(program, 'b'), 1);
      gl.uniform1ui(gl.getUniformLocation(program, 'b_bytes'), data.length * 4);
      gl.activeTexture(gl.TEXTURE0);
    }
    gl.drawArrays(gl.TRIANGLES, 0, 3);
    const pixels = new Uint32Array(count * 4);
    gl.readPixels(0, 0, count, 1, gl.RGBA_INTEGER, gl.UNSIGNED_INT, pixels);
    gl.deleteProgram(program);
    return [...pixels];
  });
};
`;
