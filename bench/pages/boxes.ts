/** 20,000 moving boxes, drawn three ways in one page: the same matrices, the same light, the same picture. */
import { attributeFloats, box, facing, openLens, Scene } from 'umber-lens';

const COUNT = 20_000;
const SIDE = 142;

interface Way {
  /** Script of one frame; the GPU may go on. */
  frame(time: number): void;
  gl: WebGL2RenderingContext;
  draws: number;
}

const VERTEX = (instanced: boolean): string => `#version 300 es
layout(location = 0) in vec3 position;
layout(location = 1) in vec3 normal;
${['r0', 'r1', 'r2'].map((r, i) => (instanced ? `layout(location = ${2 + i}) in vec4 ${r};` : `uniform vec4 ${r};`)).join('\n')}
uniform mat4 viewProjection;
out vec3 n;
void main() {
  vec4 p = vec4(position, 1.0);
  n = vec3(dot(r0.xyz, normal), dot(r1.xyz, normal), dot(r2.xyz, normal));
  gl_Position = viewProjection * vec4(dot(r0, p), dot(r1, p), dot(r2, p), 1.0);
}`;
const FRAGMENT = `#version 300 es
precision highp float;
in vec3 n;
out vec4 color;
void main() { color = vec4(vec3(0.1 + 0.9 * max(0.0, dot(normalize(n), vec3(0.48, 0.8, 0.36)))), 1.0); }`;

function canvas(): HTMLCanvasElement {
  const made = document.createElement('canvas');
  made.width = 320;
  made.height = 200;
  return made;
}

/** What one box does: bob and turn about Y. */
const height = (i: number, time: number): number => Math.sin(time + i * 0.1);
const turn = (i: number, time: number): number => time * 0.5 + i;
const placeX = (i: number): number => ((i % SIDE) - SIDE / 2) * 1.5;
const placeZ = (i: number): number => -Math.floor(i / SIDE) * 1.5;

async function ourWay(): Promise<Way> {
  const made = canvas();
  const lens = await openLens(made, { backend: 'webgl2', pixelRatio: 1, antialias: false });
  const scene = new Scene();
  const [geometry, material] = [box(), {}];
  const nodes = Array.from({ length: COUNT }, (_, i) =>
    scene.createNode({ translation: [placeX(i), 0, placeZ(i)], mesh: { geometry, material } }),
  );
  scene.createNode({ rotation: facing([-0.48, -0.8, -0.36]), light: { type: 'directional', intensity: 3 } });
  const camera = { type: 'perspective', yfov: 1.2, znear: 0.1 } as const;
  const eye = scene.createNode({ translation: [0, 60, 60], rotation: facing([0, -0.5, -1]), camera });
  const target = lens.createTarget({ width: 320, height: 200 });
  return {
    gl: made.getContext('webgl2')!,
    get draws() {
      return lens.ledger.draws;
    },
    frame(time) {
      for (let i = 0; i < COUNT; i++) {
        const node = nodes[i]!;
        const half = turn(i, time) / 2;
        node.setTranslation(placeX(i), height(i, time), placeZ(i));
        node.setRotation(0, Math.sin(half), 0, Math.cos(half));
      }
      lens.draw(scene, eye, target);
    },
  };
}

function handWritten(instanced: boolean): Way {
  const gl = canvas().getContext('webgl2', { antialias: false })!;
  const program = gl.createProgram();
  for (const [type, text] of [
    [gl.VERTEX_SHADER, VERTEX(instanced)],
    [gl.FRAGMENT_SHADER, FRAGMENT],
  ] as const) {
    const shader = gl.createShader(type)!;
    gl.shaderSource(shader, text);
    gl.compileShader(shader);
    gl.attachShader(program, shader);
  }
  gl.linkProgram(program);
  gl.useProgram(program);
  const geometry = box();
  for (const [location, name] of ['position', 'normal'].entries()) {
    gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer());
    gl.bufferData(gl.ARRAY_BUFFER, attributeFloats(geometry.attributes[name]!), gl.STATIC_DRAW);
    gl.enableVertexAttribArray(location);
    gl.vertexAttribPointer(location, 3, gl.FLOAT, false, 0, 0);
  }
  gl.bindBuffer(gl.ELEMENT_ARRAY_BUFFER, gl.createBuffer());
  gl.bufferData(gl.ELEMENT_ARRAY_BUFFER, geometry.indices!, gl.STATIC_DRAW);
  const matrices = new Float32Array(COUNT * 12);
  if (instanced) {
    gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer());
    gl.bufferData(gl.ARRAY_BUFFER, matrices.byteLength, gl.DYNAMIC_DRAW);
    for (let row = 0; row < 3; row++) {
      gl.enableVertexAttribArray(2 + row);
      gl.vertexAttribPointer(2 + row, 4, gl.FLOAT, false, 48, row * 16);
      gl.vertexAttribDivisor(2 + row, 1);
    }
  }
  gl.enable(gl.DEPTH_TEST);
  gl.enable(gl.CULL_FACE);
  const f = 1 / Math.tan(0.6);
  const tilt = Math.atan(0.5);
  const [s, c] = [Math.sin(tilt), Math.cos(tilt)];
  // Perspective times a look down by the tilt from (0, 60, 60).
  const [ty, tz] = [-(c * 60 - s * 60), -(s * 60 + c * 60)];
  const viewProjection = [f / 1.6, 0, 0, 0, 0, f * c, -s, -s, 0, -f * s, -c, -c, 0, f * ty, -tz - 0.2, -tz];
  gl.uniformMatrix4fv(gl.getUniformLocation(program, 'viewProjection'), false, viewProjection);
  const rows = ['r0', 'r1', 'r2'].map((name) => gl.getUniformLocation(program, name));
  return {
    gl,
    draws: instanced ? 1 : COUNT,
    frame(time) {
      gl.clear(gl.COLOR_BUFFER_BIT | gl.DEPTH_BUFFER_BIT);
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
        if (instanced) continue;
        gl.uniform4fv(rows[0]!, matrices, o, 4);
        gl.uniform4fv(rows[1]!, matrices, o + 4, 4);
        gl.uniform4fv(rows[2]!, matrices, o + 8, 4);
        gl.drawElements(gl.TRIANGLES, 36, gl.UNSIGNED_SHORT, 0);
      }
      if (!instanced) return;
      gl.bufferSubData(gl.ARRAY_BUFFER, 0, matrices);
      gl.drawElementsInstanced(gl.TRIANGLES, 36, gl.UNSIGNED_SHORT, 0, COUNT);
    },
  };
}

export interface BoxesResult {
  [way: string]: { script: number; whole: number; draws: number };
}

/** Medians over rounds in which the three take turns. */
export async function boxes(rounds: number): Promise<BoxesResult> {
  const ways: Record<string, Way> = {
    ours: await ourWay(),
    loop: handWritten(false),
    instanced: handWritten(true),
  };
  const samples: Record<string, { script: number[]; whole: number[] }> = {};
  const pixel = new Uint8Array(4);
  for (let round = -8; round < rounds; round++) {
    for (const [name, way] of Object.entries(ways)) {
      const start = performance.now();
      way.frame(round * 0.016);
      const scripted = performance.now();
      // Reading a pixel waits for the GPU.
      way.gl.readPixels(0, 0, 1, 1, way.gl.RGBA, way.gl.UNSIGNED_BYTE, pixel);
      const done = performance.now();
      if (round < 0) continue;
      const sample = (samples[name] ??= { script: [], whole: [] });
      sample.script.push(scripted - start);
      sample.whole.push(done - start);
    }
  }
  const middle = (list: number[]): number => list.sort((a, b) => a - b)[list.length >> 1]!;
  const result: BoxesResult = {};
  for (const [name, { script, whole }] of Object.entries(samples)) {
    result[name] = { script: middle(script), whole: middle(whole), draws: ways[name]!.draws };
  }
  return result;
}

Object.assign(window, { boxes });
