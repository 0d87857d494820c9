/** What it costs to make the lit pipeline, and the first frame, on both interfaces. */
import { box, type Material, openLens, Scene } from 'umber-lens';
import { link } from './link.js';
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
    const scene = new Scene();
    const material: Material = { unlit: true };
    scene.createNode({ mesh: { geometry: box(), material } });
    scene.createNode({ light: { type: 'directional', intensity: 3 } });
    const camera = scene.createNode({
      translation: [0, 0, 3],
      camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
    });
    const target = lens.createTarget({ width: 320, height: 200 });
    const frame = async (): Promise<number> => {
      const start = performance.now();
      lens.draw(scene, camera, { target });
      await target.read();
      return performance.now() - start;
    };
    out[`${backend} frame`] = await frame();
    // The interface is at work by now, so what the first lit frame takes beyond the next is its pipeline.
    material.unlit = false;
    out[`${backend} ours`] = (await frame()) - (await frame());
    lens.dispose();
  }
  const gl = document.createElement('canvas').getContext('webgl2')!;
  link(gl, VERTEX, '#version 300 es\nprecision highp float;\nout vec4 c;\nvoid main() { c = vec4(1.0); }');
  gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4));
  gl.bindBuffer(gl.UNIFORM_BUFFER, gl.createBuffer());
  gl.bufferData(gl.UNIFORM_BUFFER, 4096, gl.STATIC_DRAW);
  gl.bindBufferBase(gl.UNIFORM_BUFFER, 0, gl.getParameter(gl.UNIFORM_BUFFER_BINDING) as WebGLBuffer);
  const frame = (fragment: string): number => {
    const start = performance.now();
    gl.useProgram(link(gl, VERTEX, fragment));
    gl.drawArrays(gl.TRIANGLES, 0, 3);
    if (gl.getError() !== gl.NO_ERROR) throw new Error('the page by hand draws nothing');
    gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4));
    return performance.now() - start;
  };
  out['webgl2 hand'] = frame(LIT_BY_HAND);
  return out;
}

Object.assign(window, { pipelines });
