import { bareShader } from '@umber-lens/core/shading';
import { compileGraph, readGraph } from '@umber-lens/core/graphs';
import type { Backend } from 'umber-lens';
import { RIM } from '../rim-graph.js';
import { testPage } from './stage.js';

/** A picture, and how far its pixels lie from the library's. */
interface Compared {
  colors: number;
  most: number;
  apart: number;
}
interface Bare {
  text: string;
  hooks: string;
  settings: Record<string, number | number[]>;
  defines?: Record<string, boolean>;
}
declare global {
  /** Draws a ball by hand-written calls of one interface, with what the shader's comments say, and by the library. */
  var comparedBare: (given: Bare, backend: Backend) => Promise<Compared>;
}

/** As someone would write it who has the text alone: places of numbers, locations and bindings are read from its comments. */
const STAGE = `globalThis.comparedBare = async ({ text, hooks, settings, defines = {} }, backend) => {
  const { compileMaterialShader, createMaterial, facing, Scene, sphere } = umber;
  const width = 96, height = 64, near = 0.5, far = 20;
  const color = [0.7, 0.5, 0.3];
  const way = [0.48, 0.6, 0.64];
  const lamp = [-1.5, 0.5, 1.6];
  // By the library.
  const lens = await keptLens({ antialias: false });
  const scene = new Scene({ clearColor: [0, 0, 0, 1] });
  const geometry = sphere({ radius: 1 });
  scene.createNode({
    translation: [0.3, 0, 0],
    mesh: {
      geometry,
      material: createMaterial(compileMaterialShader(hooks), {
        baseColorFactor: [...color, 1], metallicFactor: 0.2, roughnessFactor: 0.5, emissiveFactor: [0, 0.02, 0.05],
        settings, unlit: defines.isUnlit === true,
      }),
    },
  });
  scene.createNode({ rotation: facing(way.map((x) => -x)), light: { type: 'directional', intensity: 2 } });
  scene.createNode({ translation: lamp, light: { type: 'point', intensity: 3, color: [1, 0.6, 0.4] } });
  scene.createNode({ light: { type: 'hemisphere', intensity: 1, color: [0.2, 0.3, 0.4], groundColor: [0.1, 0.08, 0.05] } });
  const camera = scene.createNode({ translation: [0, 0, 4], camera: { type: 'perspective', yfov: 0.7, znear: near, zfar: far } });
  const target = lens.createTarget({ width, height });
  await lens.load(scene);
  lens.draw(scene, camera, { target });
  const wanted = await target.read();
  target.dispose();
  // By hand.
  const isGl = backend === 'webgl2';
  const f = 1 / Math.tan(0.35), aspect = width / height;
  const [zz, zw] = isGl ? [(far + near) / (near - far), (2 * far * near) / (near - far)] : [far / (near - far), (far * near) / (near - far)];
  const values = {
    frame: {
      // The camera stands four metres before the middle, and the ball aside.
      viewProjection: [f / aspect, 0, 0, 0, 0, f, 0, 0, 0, 0, zz, -1, 0, 0, zw - 4 * zz, 4],
      view: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, -4, 1],
      objectToWorld: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0.3, 0, 0, 1],
      cameraPosition: [0, 0, 4], exposure: 1,
      // Lux on what faces it, over pi.
      sky: [0.2, 0.3, 0.4].map((x) => x / Math.PI), ground: [0.1, 0.08, 0.05].map((x) => x / Math.PI),
      forward: [0, 0, -1], right: [aspect / f, 0, 0], up: [0, 1 / f, 0], lightCount: 2,
      size: [width, height], depthRange: isGl ? [0.5, 0.5] : [1, 0],
    },
    material: { baseColorFactor: [...color, 1], emissiveFactor: [0, 0.02, 0.05], metallicFactor: 0.2, roughnessFactor: 0.5 },
    settings,
  };
  const lights = [
    { position: way, isParallel: 1, color: [2, 2, 2] },
    { position: lamp, isParallel: 0, color: [3, 1.8, 1.2] },
  ];
  const comments = text.split('\\n').filter((line) => line.startsWith('//')).map((line) => line.slice(3));
  const buffers = [];
  const locations = {};
  for (const line of comments) {
    const [, location, attribute] = /^  location (\\d+): (\\w+)/.exec(line) ?? [];
    if (attribute) locations[attribute] = Number(location);
    const [, name, size, at] = /^(\\w+): uniform buffer of (\\d+) bytes, (.*)$/.exec(line) ?? [];
    if (name) buffers.push({ name, at, data: new DataView(new ArrayBuffer(Number(size))), stride: 0 });
    const buffer = buffers.at(-1);
    const [, stride] = /^  \\d+ times, each of (\\d+) bytes/.exec(line) ?? [];
    if (stride) buffer.stride = Number(stride);
    const [, offset, member, type] = /^ +(\\d+)  (\\w+): (\\w+)/.exec(line) ?? [];
    if (!member) continue;
    const put = (value, start) =>
      [value].flat().forEach((x, i) => type === 'u32' ? buffer.data.setUint32(start + i * 4, x, true) : buffer.data.setFloat32(start + i * 4, x, true));
    if (buffer.stride) lights.forEach((light, i) => put(light[member], i * buffer.stride + Number(offset)));
    else if (values[buffer.name][member] !== undefined) put(values[buffer.name][member], Number(offset));
  }
  const attributes = Object.fromEntries(
    Object.entries(geometry.attributes).map(([name, { bytes, byteOffset, byteStride, components, count }]) => {
      const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
      return [name, Float32Array.from({ length: count * components }, (_, i) =>
        view.getFloat32(byteOffset + Math.floor(i / components) * byteStride + (i % components) * 4, true))];
    }),
  );
  const drawn = new Uint8Array(width * height * 4);
  const indices = Uint32Array.from(geometry.indices);
  if (isGl) {
    const gl = new OffscreenCanvas(width, height).getContext('webgl2', { antialias: false });
    const program = gl.createProgram();
    const parts = text.split(/^\\/\\/ -- (?:vertex|fragment) --\\n/m).slice(1);
    const macros = Object.entries(defines).map(([name, value]) => '#define UMBER_' + name + ' ' + value + '\\n').join('');
    parts.forEach((part, i) => {
      const shader = gl.createShader(i === 0 ? gl.VERTEX_SHADER : gl.FRAGMENT_SHADER);
      gl.shaderSource(shader, part.replace('\\n', '\\n' + macros));
      gl.compileShader(shader);
      if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS)) throw new Error(gl.getShaderInfoLog(shader));
      gl.attachShader(program, shader);
    });
    gl.linkProgram(program);
    if (!gl.getProgramParameter(program, gl.LINK_STATUS)) throw new Error(gl.getProgramInfoLog(program));
    gl.useProgram(program);
    buffers.forEach(({ at, data }, i) => {
      const block = gl.getUniformBlockIndex(program, /"(.*)"/.exec(at)[1]);
      gl.uniformBlockBinding(program, block, i);
      gl.bindBufferBase(gl.UNIFORM_BUFFER, i, gl.createBuffer());
      gl.bufferData(gl.UNIFORM_BUFFER, data, gl.STATIC_DRAW);
    });
    for (const [name, location] of Object.entries(locations)) {
      gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer());
      gl.bufferData(gl.ARRAY_BUFFER, attributes[name], gl.STATIC_DRAW);
      gl.enableVertexAttribArray(location);
      gl.vertexAttribPointer(location, name === 'texcoord0' ? 2 : 3, gl.FLOAT, false, 0, 0);
    }
    gl.bindBuffer(gl.ELEMENT_ARRAY_BUFFER, gl.createBuffer());
    gl.bufferData(gl.ELEMENT_ARRAY_BUFFER, indices, gl.STATIC_DRAW);
    gl.uniform4f(gl.getUniformLocation(program, 'umber_target'), width, height, 1, 0);
    gl.enable(gl.DEPTH_TEST);
    gl.enable(gl.CULL_FACE);
    gl.clearColor(0, 0, 0, 1);
    gl.clear(gl.COLOR_BUFFER_BIT | gl.DEPTH_BUFFER_BIT);
    gl.drawElements(gl.TRIANGLES, indices.length, gl.UNSIGNED_INT, 0);
    const upward = new Uint8Array(drawn.length);
    gl.readPixels(0, 0, width, height, gl.RGBA, gl.UNSIGNED_BYTE, upward);
    for (let y = 0; y < height; y++) drawn.set(upward.subarray((height - 1 - y) * width * 4, (height - y) * width * 4), y * width * 4);
    if (gl.getError() !== 0) throw new Error('WebGL refused something');
    gl.getExtension('WEBGL_lose_context').loseContext();
  } else {
    const device = await (await navigator.gpu.requestAdapter()).requestDevice();
    device.pushErrorScope('validation');
    const module = device.createShaderModule({ code: text });
    const names = Object.keys(locations);
    const pipeline = device.createRenderPipeline({
      layout: 'auto',
      vertex: {
        module, entryPoint: 'meshVertex',
        buffers: names.map((name) => ({
          arrayStride: name === 'texcoord0' ? 8 : 12,
          attributes: [{ shaderLocation: locations[name], offset: 0, format: name === 'texcoord0' ? 'float32x2' : 'float32x3' }],
        })),
      },
      fragment: { module, entryPoint: 'meshFragment', targets: [{ format: 'rgba8unorm' }], constants: Object.fromEntries(Object.entries(defines).map(([name, value]) => [name, Number(value)])) },
      primitive: { cullMode: 'back' },
      depthStencil: { format: 'depth32float', depthCompare: 'less', depthWriteEnabled: true },
    });
    const made = (data, usage) => {
      const buffer = device.createBuffer({ size: data.byteLength, usage: usage | GPUBufferUsage.COPY_DST });
      device.queue.writeBuffer(buffer, 0, data);
      return buffer;
    };
    const texture = device.createTexture({ size: [width, height], format: 'rgba8unorm', usage: GPUTextureUsage.RENDER_ATTACHMENT | GPUTextureUsage.COPY_SRC });
    const depth = device.createTexture({ size: [width, height], format: 'depth32float', usage: GPUTextureUsage.RENDER_ATTACHMENT });
    const commands = device.createCommandEncoder();
    const pass = commands.beginRenderPass({
      colorAttachments: [{ view: texture.createView(), loadOp: 'clear', clearValue: [0, 0, 0, 1], storeOp: 'store' }],
      depthStencilAttachment: { view: depth.createView(), depthLoadOp: 'clear', depthClearValue: 1, depthStoreOp: 'discard' },
    });
    pass.setPipeline(pipeline);
    const groups = {};
    for (const { at, data } of buffers) {
      const [, group, binding] = /@group\\((\\d+)\\) @binding\\((\\d+)\\)/.exec(at);
      (groups[group] ??= []).push({ binding: Number(binding), resource: { buffer: made(data, GPUBufferUsage.UNIFORM) } });
    }
    for (const [group, entries] of Object.entries(groups))
      pass.setBindGroup(Number(group), device.createBindGroup({ layout: pipeline.getBindGroupLayout(Number(group)), entries }));
    names.forEach((name, i) => pass.setVertexBuffer(i, made(attributes[name], GPUBufferUsage.VERTEX)));
    pass.setIndexBuffer(made(indices, GPUBufferUsage.INDEX), 'uint32');
    pass.drawIndexed(indices.length);
    pass.end();
    const row = Math.ceil((width * 4) / 256) * 256;
    const read = device.createBuffer({ size: row * height, usage: GPUBufferUsage.COPY_DST | GPUBufferUsage.MAP_READ });
    commands.copyTextureToBuffer({ texture }, { buffer: read, bytesPerRow: row }, [width, height]);
    device.queue.submit([commands.finish()]);
    const error = await device.popErrorScope();
    if (error) throw new Error(error.message);
    await read.mapAsync(GPUMapMode.READ);
    const bytes = new Uint8Array(read.getMappedRange());
    for (let y = 0; y < height; y++) drawn.set(bytes.subarray(y * row, y * row + width * 4), y * width * 4);
    device.destroy();
  }
  const differences = drawn.map((value, i) => Math.abs(value - wanted[i]));
  return {
    colors: new Set(Array.from({ length: width * height }, (_, i) => drawn.slice(i * 4, i * 4 + 3).join())).size,
    most: Math.max(...drawn),
    apart: differences.filter((difference) => difference > 2).length / drawn.length,
  };
};`;

const HOOKS: Record<string, Omit<Bare, 'text'>> = {
  'what a graph makes of light from behind': {
    hooks: compileGraph(readGraph(RIM)).wgsl,
    settings: { edge: 1.5, glow: [0.9, 0.3, 0.2] },
  },
  'vertices that are moved, light in steps, and what is shown in the end': {
    hooks: `struct Settings { height: f32, bands: f32, tint: vec3f }
fn displace(v: Vertex, s: Settings) -> Vertex {
  var out = v;
  out.position += v.normal * s.height * sin(v.position.y * 6 + v.texcoord0.x * 12);
  return out;
}
fn light(s: Surface, l: Light, p: Fragment, settings: Settings) -> vec3f {
  return s.baseColor * l.color * floor(saturate(dot(s.normal, l.direction)) * settings.bands) / settings.bands * 0.3;
}
fn outputColor(c: vec4f, p: Fragment, settings: Settings) -> vec4f {
  return vec4f(c.rgb * mix(settings.tint, vec3f(1), step(0.5, fract(p.screenPosition.x / 9))) + 0.1 * p.viewNormal.z, 1);
}`,
    settings: { height: 0.08, bands: 4, tint: [0.4, 0.9, 1] },
  },
  'a shape that is marched': {
    hooks: `struct Settings { radius: f32 }
fn march(ray: Ray, s: Settings) -> Hit {
  let b = dot(ray.origin, ray.direction);
  let d = b * b - dot(ray.origin, ray.origin) + s.radius * s.radius;
  if d < 0 { return miss(); }
  let at = ray.origin + ray.direction * (-b - sqrt(d));
  return hitAt(at, normalize(at));
}`,
    settings: { radius: 0.85 },
  },
  'a color that is shown as it is': {
    hooks: `struct Settings { gain: f32 }
fn surface(p: Fragment, s: Settings) -> Surface {
  var out = surfaceDefaults(p);
  out.baseColor = s.gain * (0.5 + 0.5 * p.normal);
  return out;
}`,
    settings: { gain: 0.9 },
    defines: { isUnlit: true },
  },
};

describe.each<Backend>(['webgl2', 'webgpu'])('shaders that stand alone on %s', (backend) => {
  const held = testPage({ as: backend });
  beforeAll(() => held.page.evaluate(STAGE));

  test.each(Object.entries(HOOKS))('%s: as the library draws it', async (_, given) => {
    const text = bareShader(given.hooks, backend === 'webgl2' ? 'glsl' : 'wgsl');
    expect(text).not.toContain('import');
    const seen = await held.page.evaluate(([one, on]) => comparedBare(one, on), [
      { ...given, text },
      backend,
    ] as const);
    expect(seen.most).toBe(255); // alpha is
    expect(seen.colors).toBeGreaterThan(60);
    // Edges lie otherwise between pixels by what is rounded.
    expect(seen.apart).toBeLessThan(5e-3);
  });
});
