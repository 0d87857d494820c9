/** What effects on a picture of 1280 x 800 cost besides the picture, and the same passes by hand. */
import { box, type Effect, openLens, Scene } from 'umber-lens';
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
  const times = await race(ways, rounds);
  lens.dispose();
  return times;
}

Object.assign(window, { effects });
