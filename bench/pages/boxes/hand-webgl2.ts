import { attributeFloats, box } from 'umber-lens';
import { link } from '../link.js';
import { COUNT, viewProjection, type Way, writeMatrices } from './motion.js';

/** The boxes in WebGL2 by hand: one instanced draw, or a draw each. */
export function handWebgl2(instanced: boolean): Way {
  const canvas = Object.assign(document.createElement('canvas'), { width: 320, height: 200 });
  const gl = canvas.getContext('webgl2', { antialias: false })!;
  const program = link(gl, VERTEX(instanced), FRAGMENT);
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
  gl.uniformMatrix4fv(gl.getUniformLocation(program, 'viewProjection'), false, viewProjection(false));
  const rows = ['r0', 'r1', 'r2'].map((name) => gl.getUniformLocation(program, name));
  return {
    finish: () => waitFor(gl),
    draws: instanced ? 1 : COUNT,
    frame(time) {
      gl.clear(gl.COLOR_BUFFER_BIT | gl.DEPTH_BUFFER_BIT);
      writeMatrices(matrices, 0, time);
      if (instanced) {
        gl.bufferSubData(gl.ARRAY_BUFFER, 0, matrices);
        gl.drawElementsInstanced(gl.TRIANGLES, 36, gl.UNSIGNED_SHORT, 0, COUNT);
        return;
      }
      for (let o = 0; o < COUNT * 12; o += 12) {
        gl.uniform4fv(rows[0]!, matrices, o, 4);
        gl.uniform4fv(rows[1]!, matrices, o + 4, 4);
        gl.uniform4fv(rows[2]!, matrices, o + 8, 4);
        gl.drawElements(gl.TRIANGLES, 36, gl.UNSIGNED_SHORT, 0);
      }
    },
  };
}

/** Reading a pixel waits for the GPU. */
export function waitFor(gl: WebGL2RenderingContext): void {
  gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, pixel);
}

const pixel = new Uint8Array(4);

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
