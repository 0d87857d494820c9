/** What effects and cards on a picture of 1280 x 800 cost, and the same by hand. */
import { box, card, type Effect, type Lens, openLens, pixelCamera, Scene, type SceneNode } from 'umber-lens';
import { race } from '../measure.js';
import { link } from './link.js';

const [WIDTH, HEIGHT] = [1280, 800];
const DEVIATION = 4;

const EFFECTS: Record<string, Effect[]> = {
  blur: [{ type: 'blur', stdDeviation: DEVIATION }],
  'color-matrix': [
    {
      type: 'color-matrix',
      values: [0.4, 0.5, 0.1, 0, 0, 0.3, 0.6, 0.1, 0, 0, 0.2, 0.5, 0.3, 0, 0, 0, 0, 0, 1, 0],
    },
  ],
  'eight color effects': Array.from({ length: 8 }, (_, i): Effect => ({ type: 'hue-rotate', angle: i })),
  'drop-shadow': [{ type: 'drop-shadow', stdDeviation: DEVIATION }],
  morphology: [{ type: 'morphology', radius: 3 }],
  convolve: [{ type: 'convolve', kernelMatrix: [0, -1, 0, -1, 5, -1, 0, -1, 0] }],
  blend: [
    { type: 'offset', dx: 4, dy: 4 },
    { type: 'blend', mode: 'multiply' },
  ],
  bloom: [{ type: 'bloom' }],
  sharpen: [{ type: 'sharpen' }],
  'smooth-edges': [{ type: 'smooth-edges' }],
  'chromatic-aberration': [{ type: 'chromatic-aberration' }],
  'film-grain': [{ type: 'film-grain' }],
  dither: [{ type: 'dither' }],
  'light-shafts': [{ type: 'light-shafts', from: [0, 0, -10] }],
  'ambient-occlusion': [{ type: 'ambient-occlusion' }],
  'screen-space-reflections': [{ type: 'screen-space-reflections', maxRoughness: 1 }],
  'motion-blur': [{ type: 'motion-blur' }],
  'temporal-antialiasing': [{ type: 'temporal-antialiasing' }],
  'temporal-antialiasing of half the resolution': [{ type: 'temporal-antialiasing', resolution: 0.5 }],
};

const CORNER = `#version 300 es
void main() { gl_Position = vec4(vec2(uvec2(gl_VertexID & 1, gl_VertexID >> 1) * 4u) - 1.0, 0.0, 1.0); }`;

const BLUR = `#version 300 es
precision highp float;
uniform sampler2D picture;
uniform ivec2 way;
uniform float deviation;
out vec4 color;
void main() {
  ivec2 size = textureSize(picture, 0);
  ivec2 pixel = ivec2(gl_FragCoord.xy);
  int reach = int(ceil(deviation * 3.0));
  vec4 sum = vec4(0.0);
  float weights = 0.0;
  for (int i = -reach; i <= reach; i++) {
    float weight = exp(-0.5 * float(i * i) / (deviation * deviation));
    weights += weight;
    ivec2 at = pixel + way * i;
    if (any(lessThan(at, ivec2(0))) || any(greaterThanEqual(at, size))) continue;
    sum += weight * texelFetch(picture, at, 0);
  }
  color = sum / weights;
}`;

const MATRIX = `#version 300 es
precision highp float;
uniform sampler2D picture;
uniform mat4 factors;
out vec4 color;
void main() {
  vec4 c = texelFetch(picture, ivec2(gl_FragCoord.xy), 0);
  if (c.a > 0.0) c.rgb /= c.a;
  c = clamp(factors * c, 0.0, 1.0);
  color = vec4(c.rgb * c.a, c.a);
}`;

/** Full-screen passes with nothing around them. @returns what draws a blur, and a matrix */
function byHand(): { blur: () => void; matrix: () => void } {
  const canvas = Object.assign(document.createElement('canvas'), { width: WIDTH, height: HEIGHT });
  const gl = canvas.getContext('webgl2', { antialias: false })!; // this browser has it
  const blur = link(gl, CORNER, BLUR);
  const matrix = link(gl, CORNER, MATRIX);
  const textures = [0, 1].map(() => {
    const texture = gl.createTexture();
    gl.bindTexture(gl.TEXTURE_2D, texture);
    gl.texStorage2D(gl.TEXTURE_2D, 1, gl.RGBA8, WIDTH, HEIGHT);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
    return texture;
  });
  const between = gl.createFramebuffer();
  gl.bindFramebuffer(gl.FRAMEBUFFER, between);
  gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, textures[1]!, 0);
  const place = (name: string): WebGLUniformLocation | null => gl.getUniformLocation(blur, name);
  const [way, deviation] = [place('way'), place('deviation')];
  const factors = gl.getUniformLocation(matrix, 'factors');
  const pixel = new Uint8Array(4);
  const draw = (from: number, to: WebGLFramebuffer | null): void => {
    gl.bindFramebuffer(gl.FRAMEBUFFER, to);
    gl.bindTexture(gl.TEXTURE_2D, textures[from]!);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
  };
  const finish = (): void => gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, pixel);
  return {
    blur() {
      gl.useProgram(blur);
      gl.uniform1f(deviation, DEVIATION);
      gl.uniform2i(way, 1, 0);
      draw(0, between);
      gl.uniform2i(way, 0, 1);
      draw(1, null);
      finish();
    },
    matrix() {
      gl.useProgram(matrix);
      gl.uniformMatrix4fv(factors, false, [0.4, 0.3, 0.2, 0, 0.5, 0.6, 0.5, 0, 0.1, 0.1, 0.3, 0, 0, 0, 0, 1]);
      draw(0, null);
      finish();
    },
  };
}

/** Cards that all move in each frame. */
const CARDS = 10_000;
const placeOf = (i: number, time: number): [x: number, y: number] => [
  ((i * 37) % WIDTH) + 8 * Math.sin(time + i),
  ((i * 91) % HEIGHT) + 8 * Math.cos(time + i),
];

/** Ten thousand cards of one texture. @returns draws a frame of them */
async function cards(lens: Lens): Promise<() => Promise<void>> {
  const target = lens.createTarget({ width: WIDTH, height: HEIGHT });
  const scene = new Scene({ clearColor: [0, 0, 0, 1] });
  const camera = pixelCamera(scene, target);
  const content = { kind: 'pixels' as const, width: 4, height: 4, data: new Uint8Array(64).fill(200) };
  const mesh = card({ texture: { image: { content } } });
  const nodes: SceneNode[] = Array.from({ length: CARDS }, () => scene.createNode({ mesh }));
  let time = 0;
  await lens.load(scene);
  return async () => {
    time += 0.1;
    for (let i = 0; i < CARDS; i++) {
      const [x, y] = placeOf(i, time);
      nodes[i]!.setTranslation(x, y, 0);
    }
    lens.draw(scene, camera, { target });
    await target.read();
  };
}

const ENCODE = `#version 300 es
precision highp float;
uniform sampler2D picture;
out vec4 color;
void main() {
  vec4 seen = texelFetch(picture, ivec2(gl_FragCoord.xy), 0);
  vec3 straight = clamp(seen.rgb / max(seen.a, 1e-6), 0.0, 1.0);
  vec3 curve = 1.055 * pow(straight, vec3(1.0 / 2.4)) - 0.055;
  color = vec4(mix(straight * 12.92, curve, step(0.0031308, straight)) * seen.a, seen.a);
}`;

/**
 * The same by one instanced draw.
 *
 * @param isLinear whether light is added up as light, as the lens does it: in a picture of half floats, which a pass encodes
 */
function cardsByHand(isLinear: boolean): () => void {
  const canvas = Object.assign(document.createElement('canvas'), { width: WIDTH, height: HEIGHT });
  const gl = canvas.getContext('webgl2', { antialias: false })!; // this browser has it
  const program = link(
    gl,
    `#version 300 es
layout(location = 0) in vec2 place;
out vec2 uv;
void main() {
  uv = vec2(gl_VertexID & 1, gl_VertexID >> 1);
  vec2 at = (place + uv * 4.0) / vec2(${WIDTH}.0, ${HEIGHT}.0) * 2.0 - 1.0;
  gl_Position = vec4(at.x, -at.y, 0.0, 1.0);
}`,
    `#version 300 es
precision highp float;
uniform sampler2D picture;
in vec2 uv;
out vec4 color;
void main() { color = texture(picture, uv); }`,
  );
  const texture = gl.createTexture();
  gl.bindTexture(gl.TEXTURE_2D, texture);
  const format = isLinear ? gl.SRGB8_ALPHA8 : gl.RGBA;
  gl.texImage2D(gl.TEXTURE_2D, 0, format, 4, 4, 0, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(64).fill(200));
  gl.generateMipmap(gl.TEXTURE_2D);
  const encode = link(gl, CORNER, ENCODE);
  const shown = isLinear ? halfFloatTarget(gl) : undefined;
  const places = new Float32Array(CARDS * 2);
  const buffer = gl.createBuffer();
  gl.bindBuffer(gl.ARRAY_BUFFER, buffer);
  gl.bufferData(gl.ARRAY_BUFFER, places, gl.DYNAMIC_DRAW);
  gl.enableVertexAttribArray(0);
  gl.vertexAttribPointer(0, 2, gl.FLOAT, false, 8, 0);
  gl.vertexAttribDivisor(0, 1);
  gl.blendFunc(gl.ONE, gl.ONE_MINUS_SRC_ALPHA);
  const pixels = new Uint8Array(WIDTH * HEIGHT * 4);
  let time = 0;
  return () => {
    time += 0.1;
    for (let i = 0; i < CARDS; i++) places.set(placeOf(i, time), i * 2);
    gl.bufferSubData(gl.ARRAY_BUFFER, 0, places);
    gl.useProgram(program);
    gl.enable(gl.BLEND);
    gl.bindTexture(gl.TEXTURE_2D, texture);
    gl.bindFramebuffer(gl.FRAMEBUFFER, shown?.framebuffer ?? null);
    gl.clear(gl.COLOR_BUFFER_BIT);
    gl.drawArraysInstanced(gl.TRIANGLE_STRIP, 0, 4, CARDS);
    if (shown) {
      gl.useProgram(encode);
      gl.disable(gl.BLEND);
      gl.bindTexture(gl.TEXTURE_2D, shown.texture);
      gl.bindFramebuffer(gl.FRAMEBUFFER, null);
      gl.drawArrays(gl.TRIANGLES, 0, 3);
    }
    gl.readPixels(0, 0, WIDTH, HEIGHT, gl.RGBA, gl.UNSIGNED_BYTE, pixels);
  };
}

function halfFloatTarget(gl: WebGL2RenderingContext): {
  texture: WebGLTexture;
  framebuffer: WebGLFramebuffer;
} {
  gl.getExtension('EXT_color_buffer_float');
  const texture = gl.createTexture();
  gl.bindTexture(gl.TEXTURE_2D, texture);
  gl.texStorage2D(gl.TEXTURE_2D, 1, gl.RGBA16F, WIDTH, HEIGHT);
  const framebuffer = gl.createFramebuffer();
  gl.bindFramebuffer(gl.FRAMEBUFFER, framebuffer);
  gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, texture, 0);
  return { texture, framebuffer };
}

/** Sixteen small things, each blurred by itself. */
async function blurredNodes(
  lens: Lens,
  target: ReturnType<Lens['createTarget']>,
): Promise<() => Promise<void>> {
  const scene = new Scene();
  const geometry = box({ width: 0.2, height: 0.2, depth: 0.2 });
  for (let i = 0; i < 16; i++)
    scene.createNode({
      translation: [((i % 4) - 1.5) * 0.35, (Math.floor(i / 4) - 1.5) * 0.35, 0],
      mesh: { geometry, material: { unlit: true } },
      effects: [{ type: 'blur', stdDeviation: DEVIATION }],
    });
  const camera = scene.createNode({
    translation: [0, 0, 3],
    camera: { type: 'perspective', yfov: 0.6, znear: 0.1 },
  });
  await lens.load(scene);
  return async () => {
    lens.draw(scene, camera, { target });
    await target.read();
  };
}

async function effects(rounds: number): Promise<Record<string, number>> {
  const lens = await openLens(document.createElement('canvas'), {
    backend: 'webgl2',
    pixelRatio: 1,
    antialias: false,
  });
  const target = lens.createTarget({ width: WIDTH, height: HEIGHT });
  const scene = new Scene();
  scene.createNode({ mesh: { geometry: box(), material: { unlit: true } } });
  const camera = scene.createNode({
    translation: [0, 0, 3],
    camera: { type: 'perspective', yfov: 0.6, znear: 0.1 },
  });
  const frame = (finish: Effect[]) => async (): Promise<void> => {
    lens.draw(scene, camera, { target, finish });
    await target.read();
  };
  const ways: Record<string, () => void | Promise<void>> = { plain: frame([]) };
  for (const [name, finish] of Object.entries(EFFECTS)) {
    lens.view.finish = finish;
    await lens.load(scene);
    ways[name] = frame(finish);
  }
  lens.view.finish = [];
  const hand = byHand();
  ways['blur by hand'] = hand.blur;
  ways['matrix by hand'] = hand.matrix;
  ways['sixteen blurred nodes'] = await blurredNodes(lens, target);
  ways['cards'] = await cards(lens);
  ways['cards by hand'] = cardsByHand(false);
  ways['cards by hand, linear'] = cardsByHand(true);
  const times = await race(ways, rounds);
  lens.dispose();
  return times;
}

Object.assign(window, { effects });
