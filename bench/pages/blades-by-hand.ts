import { link } from './link.js';

/** The same bed of blades as one would write it by hand, for one interface each, without a library. */
export interface ByHand {
  /** Draws one frame for an camera. @returns milliseconds of script */
  frame(camera: Camera): number;
  /** Waits until the GPU is done. */
  done(): Promise<void>;
  dispose(): void;
}

export interface Camera {
  /** Column-major, world to clip, depth 0..1 reversed. */
  viewProjection: Float32Array;
  /** Six planes, pointing inwards. */
  planes: Float32Array;
  position: ArrayLike<number>;
  /** Pixels that a metre is high at distance 1. */
  pixelsAtOne: number;
}

export interface Bed {
  /** 3 a copy. */
  translations: Float32Array;
  /** Nearest first: position (3) and normal (3) a vertex, indices, and the least pixels of a copy. */
  levels: { vertices: Float32Array; indices: Uint16Array; pixels: number }[];
  /** Around one copy, metres. */
  radius: number;
  /** Pixels below which copies are thinned, and the least share. */
  thin: number;
  least: number;
  width: number;
  height: number;
}

/** Squares of ground with the copies in them, shuffled, so that the first so many stand for all. */
interface Tile {
  x: number;
  y: number;
  z: number;
  radius: number;
  first: number;
  count: number;
}

function tilesOf({ translations, radius }: Bed): { tiles: Tile[]; places: Float32Array } {
  const count = translations.length / 3;
  const side = 4 * Math.sqrt(Math.max(1, 1024 / (count / 14400)) / 16);
  const cells = new Map<string, number[]>();
  for (let i = 0; i < count; i++) {
    const key = `${Math.floor(translations[i * 3]! / side)} ${Math.floor(translations[i * 3 + 2]! / side)}`;
    const cell = cells.get(key);
    if (cell) cell.push(i);
    else cells.set(key, [i]);
  }
  const places = new Float32Array(count * 4);
  const tiles: Tile[] = [];
  let at = 0;
  let seed = 1;
  for (const members of cells.values()) {
    for (let i = members.length - 1; i > 0; i--) {
      seed = (seed * 48271) % 2147483647;
      const j = seed % (i + 1);
      [members[i], members[j]] = [members[j]!, members[i]!];
    }
    const tile = { x: 0, y: 0, z: 0, radius: 0, first: at, count: members.length };
    for (const i of members) {
      places.set(translations.subarray(i * 3, i * 3 + 3), at++ * 4);
      tile.x += translations[i * 3]! / members.length;
      tile.z += translations[i * 3 + 2]! / members.length;
    }
    tile.y = 0.5;
    tile.radius = side * 0.75 + radius;
    tiles.push(tile);
  }
  return { tiles, places };
}

const SHADE = `
vec3 lit(vec3 n, vec3 base) {
  float d = abs(dot(n, normalize(vec3(-0.3, 1.0, 0.2))));
  vec3 c = base * d * 3.0 / 3.14159;
  return c / (1.0 + c);
}`;

/** WebGL2: tiles in view are chosen by script, a draw each at the level of their distance. */
export function bladesOnWebgl2(bed: Bed): ByHand {
  const { levels, width, height } = bed;
  const { tiles, places } = tilesOf(bed);
  const canvas = new OffscreenCanvas(width, height);
  const gl = canvas.getContext('webgl2', { antialias: false, depth: true })!;
  const program = link(
    gl,
    `#version 300 es
layout(location=0) in vec3 position; layout(location=1) in vec3 normal; layout(location=2) in vec4 place;
uniform mat4 viewProjection; uniform float wider; out vec3 n;
void main() { n = normal; gl_Position = viewProjection * vec4(position * vec3(wider, 1.0, wider) + place.xyz, 1.0); }`,
    `#version 300 es
precision highp float; in vec3 n; out vec4 color;${SHADE}
void main() { color = vec4(sqrt(lit(normalize(n), vec3(0.8))), 1.0); }`,
  );
  gl.useProgram(program);
  const where = gl.getUniformLocation(program, 'viewProjection');
  const wider = gl.getUniformLocation(program, 'wider');
  const copies = gl.createBuffer();
  gl.bindBuffer(gl.ARRAY_BUFFER, copies);
  gl.bufferData(gl.ARRAY_BUFFER, places, gl.STATIC_DRAW);
  const meshes = levels.map(({ vertices, indices }) => {
    const array = gl.createVertexArray();
    gl.bindVertexArray(array);
    gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer());
    gl.bufferData(gl.ARRAY_BUFFER, vertices, gl.STATIC_DRAW);
    for (const [location, offset] of [
      [0, 0],
      [1, 12],
    ] as const) {
      gl.enableVertexAttribArray(location);
      gl.vertexAttribPointer(location, 3, gl.FLOAT, false, 24, offset);
    }
    gl.bindBuffer(gl.ELEMENT_ARRAY_BUFFER, gl.createBuffer());
    gl.bufferData(gl.ELEMENT_ARRAY_BUFFER, indices, gl.STATIC_DRAW);
    gl.enableVertexAttribArray(2);
    gl.vertexAttribDivisor(2, 1);
    return { array, count: indices.length };
  });
  gl.enable(gl.DEPTH_TEST);
  gl.depthFunc(gl.GREATER);
  gl.clearDepth(0);
  return {
    frame({ viewProjection, planes, position, pixelsAtOne }) {
      const start = performance.now();
      gl.clear(gl.COLOR_BUFFER_BIT | gl.DEPTH_BUFFER_BIT);
      gl.uniformMatrix4fv(where, false, viewProjection);
      const chosen: { tile: Tile; count: number; wider: number }[][] = levels.map(() => []);
      for (const tile of tiles) {
        if (isOutside(planes, tile)) continue;
        const distance = Math.hypot(tile.x - position[0]!, tile.y - position[1]!, tile.z - position[2]!);
        const pixels = (2 * bed.radius * pixelsAtOne) / Math.max(distance - tile.radius, 1e-3);
        const share = Math.max(bed.least, Math.min(1, (pixels / bed.thin) ** 2));
        const level = levels.findIndex(({ pixels: least }) => pixels >= least);
        chosen[level]!.push({ tile, count: Math.ceil(tile.count * share), wider: share ** -0.5 });
      }
      chosen.forEach((own, level) => {
        if (own.length === 0) return;
        const { array, count } = meshes[level]!;
        gl.bindVertexArray(array);
        gl.bindBuffer(gl.ARRAY_BUFFER, copies);
        for (const { tile, count: instances, wider: factor } of own) {
          gl.uniform1f(wider, factor);
          gl.vertexAttribPointer(2, 4, gl.FLOAT, false, 16, tile.first * 16);
          gl.drawElementsInstanced(gl.TRIANGLES, count, gl.UNSIGNED_SHORT, 0, instances);
        }
      });
      return performance.now() - start;
    },
    done() {
      gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4));
      return Promise.resolve();
    },
    dispose() {
      gl.getExtension('WEBGL_lose_context')?.loseContext();
    },
  };
}

function isOutside(planes: Float32Array, { x, y, z, radius }: Tile): boolean {
  for (let p = 0; p < 24; p += 4)
    if (planes[p]! * x + planes[p + 1]! * y + planes[p + 2]! * z + planes[p + 3]! < -radius) return true;
  return false;
}

/** The interface's own numbers. */
const USAGE = { COPY_DST: 8, INDEX: 16, VERTEX: 32, UNIFORM: 64, STORAGE: 128, INDIRECT: 256 } as const;

/** WebGPU: tiles are chosen by a compute pass, which writes the places of copies and the numbers of an indirect draw a level. */
export async function bladesOnWebgpu(bed: Bed): Promise<ByHand> {
  const { levels, width, height } = bed;
  const { tiles, places } = tilesOf(bed);
  const adapter = (await navigator.gpu.requestAdapter())!;
  const device = await adapter.requestDevice();
  const buffer = (data: Float32Array | Uint32Array | Uint16Array, usage: number): GPUBuffer => {
    const made = device.createBuffer({
      size: Math.ceil(data.byteLength / 16) * 16,
      usage: usage | USAGE.COPY_DST,
    });
    const padded = new Uint8Array(Math.ceil(data.byteLength / 4) * 4);
    padded.set(new Uint8Array(data.buffer, data.byteOffset, data.byteLength));
    device.queue.writeBuffer(made, 0, padded);
    return made;
  };
  const count = places.length / 4;
  const tileValues = new Float32Array(tiles.length * 8);
  const tileWords = new Uint32Array(tileValues.buffer);
  tiles.forEach(({ x, y, z, radius, first, count: n }, i) => {
    tileValues.set([x, y, z, radius], i * 8);
    tileWords.set([first, n], i * 8 + 4);
  });
  const module = device.createShaderModule({
    code: `
struct Camera { viewProjection: mat4x4f, planes: array<vec4f, 6>, position: vec3f, size: f32, pixels: vec4f, thin: f32, least: f32, capacity: u32, tiles: u32 }
struct Tile { sphere: vec4f, first: u32, count: u32 }
@group(0) @binding(0) var<uniform> camera: Camera;
@group(0) @binding(1) var<storage, read> tiles: array<Tile>;
@group(0) @binding(2) var<storage, read> places: array<vec4f>;
@group(0) @binding(3) var<storage, read_write> chosen: array<vec4f>;
@group(0) @binding(4) var<storage, read_write> draws: array<atomic<u32>>;
@compute @workgroup_size(64) fn choose(@builtin(global_invocation_id) id: vec3u) {
  if id.x >= camera.tiles { return; }
  let tile = tiles[id.x];
  for (var p = 0; p < 6; p++) { if dot(camera.planes[p], vec4f(tile.sphere.xyz, 1)) < -tile.sphere.w { return; } }
  let pixels = camera.size / max(distance(tile.sphere.xyz, camera.position) - tile.sphere.w, 1e-3);
  let ratio = pixels / camera.thin;
  let share = clamp(ratio * ratio, camera.least, 1);
  var level = 0u;
  while level < ${levels.length - 1}u && pixels < camera.pixels[level] { level++; }
  let n = u32(ceil(f32(tile.count) * share));
  let at = atomicAdd(&draws[level * 5 + 1], n);
  for (var i = 0u; i < n; i++) {
    chosen[level * camera.capacity + at + i] = vec4f(places[tile.first + i].xyz, inverseSqrt(share));
  }
}
struct Varying { @builtin(position) at: vec4f, @location(0) normal: vec3f }
@group(0) @binding(0) var<uniform> drawn: Camera;
@vertex fn vertex(@location(0) position: vec3f, @location(1) normal: vec3f, @location(2) place: vec4f) -> Varying {
  return Varying(drawn.viewProjection * vec4f(position * vec3f(place.w, 1, place.w) + place.xyz, 1), normal);
}
@fragment fn fragment(v: Varying) -> @location(0) vec4f {
  let c = vec3f(0.8) * abs(dot(normalize(v.normal), normalize(vec3f(-0.3, 1, 0.2)))) * 3 / 3.14159;
  return vec4f(sqrt(c / (1 + c)), 1);
}`,
  });
  const usage = USAGE;
  const cameraBuffer = device.createBuffer({ size: 224, usage: usage.UNIFORM | usage.COPY_DST });
  const chosen = device.createBuffer({
    size: count * 16 * levels.length,
    usage: usage.STORAGE | usage.VERTEX,
  });
  const numbers = new Uint32Array(levels.length * 5);
  levels.forEach(({ indices }, i) => (numbers[i * 5] = indices.length));
  const draws = buffer(numbers, usage.STORAGE | usage.INDIRECT);
  const choose = device.createComputePipeline({ layout: 'auto', compute: { module, entryPoint: 'choose' } });
  const chooseGroup = device.createBindGroup({
    layout: choose.getBindGroupLayout(0),
    entries: [
      cameraBuffer,
      buffer(tileValues, usage.STORAGE),
      buffer(places, usage.STORAGE),
      chosen,
      draws,
    ].map((one, binding) => ({ binding, resource: { buffer: one } })),
  });
  const format = 'rgba8unorm' as const;
  const pipeline = device.createRenderPipeline({
    layout: 'auto',
    vertex: {
      module,
      entryPoint: 'vertex',
      buffers: [
        {
          arrayStride: 24,
          attributes: [
            { shaderLocation: 0, format: 'float32x3', offset: 0 },
            { shaderLocation: 1, format: 'float32x3', offset: 12 },
          ],
        },
        {
          arrayStride: 16,
          stepMode: 'instance',
          attributes: [{ shaderLocation: 2, format: 'float32x4', offset: 0 }],
        },
      ],
    },
    fragment: { module, entryPoint: 'fragment', targets: [{ format }] },
    depthStencil: { format: 'depth32float', depthCompare: 'greater', depthWriteEnabled: true },
  });
  const group = device.createBindGroup({
    layout: pipeline.getBindGroupLayout(0),
    entries: [{ binding: 0, resource: { buffer: cameraBuffer } }],
  });
  const attachment = (of: GPUTextureFormat): GPUTextureView =>
    device.createTexture({ size: [width, height], format: of, usage: 16 }).createView();
  const [color, depth] = [attachment(format), attachment('depth32float')];
  const meshes = levels.map(({ vertices, indices }) => ({
    vertices: buffer(vertices, usage.VERTEX),
    indices: buffer(indices, usage.INDEX),
  }));
  const cameraValues = new Float32Array(56);
  const cameraWords = new Uint32Array(cameraValues.buffer);
  return {
    frame({ viewProjection, planes, position, pixelsAtOne }) {
      const start = performance.now();
      cameraValues.set(viewProjection);
      cameraValues.set(planes, 16);
      cameraValues.set([position[0]!, position[1]!, position[2]!, 2 * bed.radius * pixelsAtOne], 40);
      cameraValues.set(
        levels.map(({ pixels }) => pixels),
        44,
      );
      cameraValues.set([bed.thin, bed.least], 48);
      cameraWords.set([count, tiles.length], 50);
      device.queue.writeBuffer(cameraBuffer, 0, cameraValues);
      device.queue.writeBuffer(draws, 0, numbers);
      const encoder = device.createCommandEncoder();
      const compute = encoder.beginComputePass();
      compute.setPipeline(choose);
      compute.setBindGroup(0, chooseGroup);
      compute.dispatchWorkgroups(Math.ceil(tiles.length / 64));
      compute.end();
      const pass = encoder.beginRenderPass({
        colorAttachments: [{ view: color, loadOp: 'clear', storeOp: 'store' }],
        depthStencilAttachment: {
          view: depth,
          depthClearValue: 0,
          depthLoadOp: 'clear',
          depthStoreOp: 'discard',
        },
      });
      pass.setPipeline(pipeline);
      pass.setBindGroup(0, group);
      meshes.forEach(({ vertices, indices }, level) => {
        pass.setVertexBuffer(0, vertices);
        pass.setVertexBuffer(1, chosen, level * count * 16);
        pass.setIndexBuffer(indices, 'uint16');
        pass.drawIndexedIndirect(draws, level * 20);
      });
      pass.end();
      device.queue.submit([encoder.finish()]);
      return performance.now() - start;
    },
    done: () => device.queue.onSubmittedWorkDone(),
    dispose: () => device.destroy(),
  };
}
