import { interleave, torus } from 'umber-lens';
import { openDevice, stagesOf, vertexLayout } from 'umber-lens/device';
import { optionsOf } from '../example.js';
import source from './bare-metal.wgsl';
import { ropePicture } from './rope-picture.js';

// A textured, lit, turning shape by the device alone: no scene, no lens.
const canvas = document.querySelector('canvas')!; // in the page
[canvas.width, canvas.height] = [innerWidth * devicePixelRatio, innerHeight * devicePixelRatio];
const { device } = await openDevice(canvas, optionsOf(new URLSearchParams(location.search)));
const target = device.canvasTexture!; // there is one for a canvas
const { width, height } = target;

const ring = torus({ radius: 0.6, tubeRadius: 0.28, rings: 96, sides: 48 });
const indices = Uint32Array.from(ring.indices!); // a torus has them
const vertexBuffer = device.createBuffer({
  usage: 'vertex',
  data: interleave(ring, ['position', 'normal', 'texcoord0']),
});
const indexBuffer = device.createBuffer({ usage: 'index', data: indices });
const uniforms = device.createBuffer({ usage: 'uniform', size: 80 });
const texture = device.createTexture({ ...ropePicture(256), format: 'rgba8unorm-srgb', mipmaps: true });
const depth = device.createTexture({ width, height, format: 'depth32float', renderable: true });
const group = device.createBindGroup({
  entries: [
    { binding: 0, buffer: uniforms },
    { binding: 1, texture },
    { binding: 2, sampler: device.createSampler({ maxAnisotropy: 4 }) },
  ],
});
const pipeline = device.createRenderPipeline({
  shader: device.createShader(stagesOf(source)),
  vertexBuffers: [vertexLayout(source, { position: 'float32x3', normal: 'float32x3', uv: 'float32x2' })],
  cullMode: 'back',
  depth: { format: 'depth32float', compare: 'greater', write: true },
  targets: [{ format: target.format }],
});

const scene = new Float32Array(20);
requestAnimationFrame(function frame(now: number): void {
  const [s, c] = [Math.sin(now / 1900), Math.cos(now / 1900)];
  scene.set([c, s * 0.6, -s * 0.8, 0, 0, 0.8, 0.6, 0, s, -c * 0.6, c * 0.8, 0, 0, 0, 0, 1]);
  scene.set([0.48, 0.6, 0.64, width / height], 16);
  device.writeBuffer(uniforms, 0, scene);
  const pass = device.beginRenderPass({
    colorAttachments: [{ texture: target, clearValue: [0.1, 0.085, 0.075, 1] }],
    depthAttachment: { texture: depth, clearValue: 0 },
  });
  pass.setPipeline(pipeline);
  pass.setBindGroup(0, group);
  pass.setVertexBuffer(0, vertexBuffer);
  pass.setIndexBuffer(indexBuffer, 'uint32');
  pass.drawIndexed(indices.length);
  pass.end();
  device.submit();
  requestAnimationFrame(frame);
});
