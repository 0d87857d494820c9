/** What it costs to make the lit pipeline, and the first frame, on both interfaces. */
import { box, type Material, openLens, Scene } from 'umber-lens';
import { LIT_BY_HAND } from './lit-by-hand.js';

const VERTEX = `#version 300 es
layout(location = 0) in vec3 position;
layout(location = 1) in vec3 normal;
uniform mat4 viewProjection;
out vec3 n;
void main() { n = normal; gl_Position = viewProjection * vec4(position, 1.0); }`;

async function pipelines(): Promise<Record<string, number>> {
  const out: Record<string, number> = {};
  for (const backend of ['webgl2', 'webgpu'] as const) {
    const lens = await openLens(undefined, { backend });
    const { device } = lens;
    const create = device.createRenderPipeline.bind(device);
    let making = 0;
    device.createRenderPipeline = (options) => {
      const start = performance.now();
      const made = create(options);
      if (options.label === 'lit') making += performance.now() - start;
      return made;
    };
    const scene = new Scene();
    const material: Material = { unlit: true };
    scene.createNode({ mesh: { geometry: box(), material } });
    scene.createNode({ light: { type: 'directional', intensity: 3 } });
    const eye = scene.createNode({
      translation: [0, 0, 3],
      camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
    });
    const target = lens.createTarget({ width: 320, height: 200 });
    const start = performance.now();
    lens.draw(scene, eye, target);
    await target.read();
    out[`${backend} frame`] = performance.now() - start;
    // The interface is at work by now, so this is the pipeline alone.
    material.unlit = false;
    lens.draw(scene, eye, target);
    await target.read();
    out[`${backend} ours`] = making;
    lens.dispose();
  }
  const gl = document.createElement('canvas').getContext('webgl2')!;
  link(gl, '#version 300 es\nprecision highp float;\nout vec4 c;\nvoid main() { c = vec4(1.0); }');
  gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4));
  const start = performance.now();
  link(gl, LIT_BY_HAND);
  out['webgl2 hand'] = performance.now() - start;
  return out;
}

function link(gl: WebGL2RenderingContext, fragment: string): void {
  const program = gl.createProgram();
  for (const [type, text] of [
    [gl.VERTEX_SHADER, VERTEX],
    [gl.FRAGMENT_SHADER, fragment],
  ] as const) {
    const shader = gl.createShader(type)!;
    gl.shaderSource(shader, text);
    gl.compileShader(shader);
    gl.attachShader(program, shader);
  }
  gl.linkProgram(program);
  if (!gl.getProgramParameter(program, gl.LINK_STATUS)) throw new Error(gl.getProgramInfoLog(program) ?? '');
}

Object.assign(window, { pipelines });
