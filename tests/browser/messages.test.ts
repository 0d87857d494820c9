import type { Backend } from 'umber-lens';
import { testPage } from './stage.js';

const stage = testPage({ webgpu: true });

const HOOKS = `struct Settings {
  edge: f32, // = 2
  glow: vec3f,
}
struct Attributes { offset: f32 }
var bark: texture_2d<f32>; // The bark
fn outputColor(s: Settings, a: Attributes) -> vec4f {
  return vec4f(s.glow * s.edge + textureLoad(bark, vec2i(), 0).rgb * a.offset, 1);
}`;

/** What is said of a scene with one mesh. `make` runs in the page and gives what is drawn. */
async function said(backend: Backend, make: string): Promise<string[]> {
  return stage.page.evaluate(
    async ([name, text, hooks]) => {
      const told: string[] = [];
      const lens = await umber.openLens(undefined, {
        backend: name as Backend,
        onMessage: (message) => told.push(message.toString()),
      });
      const scene = new umber.Scene();
      const camera = scene.createNode({
        translation: [0, 0, 5],
        camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
      });

      new Function('umber', 'scene', 'hooks', text!)(umber, scene, hooks);
      const target = lens.createTarget({ width: 4, height: 4 });
      lens.draw(scene, camera, { target });
      lens.draw(scene, camera, { target });
      lens.dispose();
      return told;
    },
    [backend, make, HOOKS] as const,
  );
}

const SHADER = `const shader = umber.compileMaterialShader(hooks, { file: 'kelp.wgsl' });
  const geometry = umber.box();
  geometry.name = 'leaf';
  const white = { image: { content: { kind: 'pixels', width: 1, height: 1, data: new Uint8Array(4) } } };
  const offset = (n, k) => umber.attributeFrom(new Float32Array(n * k), k);`;

const CASES: [string, string, RegExp[]][] = [
  [
    'a bent mesh with hand-written GLSL',
    `const geometry = { ...umber.box(), name: 'crab' };
     geometry.targets = [{ name: 'swell', attributes: { position: umber.attributeFrom(new Float32Array(72), 3) } }];
     const node = scene.createNode({ mesh: { geometry, material: { shader: umber.glslMaterialShader('#version 300 es\\nin vec3 position;\\nvoid main() { gl_Position = vec4(position, 1.0); }', '#version 300 es\\nprecision mediump float;\\nout vec4 color;\\nvoid main() { color = vec4(1.0); }') } } });
     umber.poseNode(node, { weights: [1] });`,
    [/written in GLSL by hand and cannot bend geometry "crab"[\s\S]*hooks in WGSL/],
  ],
  [
    'an attribute that the geometry lacks',
    `${SHADER} geometry.attributes.ofset = offset(24, 1);
     scene.createNode({ name: 'kelp', mesh: { geometry, material: { shader, settings: { glow: [1, 1, 1], bark: white } } } });`,
    [
      /kelp\.wgsl reads the attribute "offset", which geometry "leaf" of node "kelp" lacks[\s\S]*Did you mean "ofset"/,
    ],
  ],
  [
    'a custom attribute of the wrong length, and of the wrong size',
    `${SHADER} geometry.attributes.offset = offset(7, 2);
     scene.createNode({ mesh: { geometry, material: { shader, settings: { glow: [1, 1, 1], bark: white } } } });`,
    [
      /"offset"[\s\S]*has 2 numbers a vertex, and[\s\S]*reads 1/,
      /"offset"[\s\S]*has 7 values for 24 vertices/,
    ],
  ],
  [
    'a setting never given, one of the wrong length, one that does not exist, a texture setting without one',
    `${SHADER} geometry.attributes.offset = offset(24, 1);
     scene.createNode({ mesh: { geometry, material: { name: 'kelp', shader, settings: { edge: [1, 2], egde: 2 } } } });`,
    [
      /material "kelp" has no setting "egde"[\s\S]*Did you mean "edge"/,
      /"edge" of material "kelp" takes a number, not 2 numbers/,
      /material "kelp" was never given "glow"[\s\S]*default in the shader/,
      /material "kelp" has no texture for "bark"/,
    ],
  ],
  [
    'a setting that is NaN',
    `${SHADER} geometry.attributes.offset = offset(24, 1);
     scene.createNode({ mesh: { geometry, material: { shader, settings: { edge: 1, glow: [0, NaN, 0], bark: white } } } });`,
    [/the material with kelp\.wgsl has a number that is NaN in "glow"/],
  ],
  [
    'a factor that is NaN',
    `scene.createNode({ light: { type: 'directional' } });
     scene.createNode({ mesh: { geometry: umber.box(), material: { name: 'rust', metallicFactor: 0, roughnessFactor: NaN } } });`,
    [/material "rust" has a number that is NaN in "roughnessFactor"/],
  ],
  [
    'a lit material without any light',
    `scene.createNode({ name: 'crate', mesh: { geometry: umber.box(), material: { name: 'wood', metallicFactor: 0 } } });`,
    [/nothing lights the scene, so material "wood" on node "crate" is black[\s\S]*Add a light/],
  ],
  [
    'an environment without intensity as the only light',
    `scene.imageLight = { panorama: umber.skyPanorama({ height: 8 }), intensity: 0 };
     scene.createNode({ name: 'crate', mesh: { geometry: umber.box(), material: { name: 'wood', metallicFactor: 0 } } });`,
    [
      /image light of the scene has intensity 0, so material "wood" on node "crate" is black[\s\S]*intensity to 1/,
    ],
  ],
  [
    'two materials of one name',
    `scene.createNode({ light: { type: 'directional' } });
     for (let i = 0; i < 2; i++) scene.createNode({ mesh: { geometry: umber.box(), material: { name: 'wood', metallicFactor: 0 } } });`,
    [/two materials are named "wood"/],
  ],
  [
    'a texture without coordinates',
    `const geometry = umber.geometryFrom({ position: [0, 0, 0, 1, 0, 0, 0, 1, 0] });
     const texture = { image: { content: { kind: 'pixels', width: 1, height: 1, data: new Uint8Array(4) } } };
     scene.createNode({ name: 'flag', mesh: { geometry, material: { unlit: true, baseColorTexture: { texture } } } });`,
    [/has a baseColorTexture, but the geometry of node "flag" has no texcoord0/],
  ],
];

describe.each<Backend>(['webgpu', 'webgl2'])('on %s', (backend) => {
  test.each(CASES)('%s', async (_, make, messages) => {
    const told = await said(backend, make);
    expect(told).toHaveLength(messages.length);
    messages.forEach((message, i) => expect(told[i]).toMatch(message));
  });

  test('a scene that is right says nothing', async () => {
    const right = `scene.createNode({ light: { type: 'directional' } });
      scene.createNode({ mesh: { geometry: umber.box(), material: { name: 'wood', metallicFactor: 0 } } });`;
    expect(await said(backend, right)).toEqual([]);
  });

  test.each([
    ['vec4u', 1, /target 0 of pipeline "kelp" is rgba8unorm, which cannot hold the vec4<u32>/],
    ['vec4f', 2, /has a target 1, which its shader does not write/],
    ['vec4f', 0, /@location\(0\) goes nowhere/],
  ])('a pipeline whose targets cannot hold %s in %s targets', async (type, count, message) => {
    const told = await stage.page.evaluate(
      async ([name, output, n]) => {
        const lens = await umber.openLens(undefined, { backend: name as Backend });
        const shader = lens.device.createShader({
          label: 'kelp',
          ...umber.compileModule(
            `@vertex fn v() -> @builtin(position) vec4f { return vec4f(); }
             @fragment fn f() -> @location(0) ${output} { return ${output}(); }`,
            { vertex: 'v', fragment: 'f' },
          ),
        });
        try {
          const targets = Array.from({ length: n as number }, () => ({ format: 'rgba8unorm' as const }));
          lens.device.createRenderPipeline({ label: 'kelp', shader, targets });
          return '';
        } catch (error) {
          return String(error);
        } finally {
          lens.dispose();
        }
      },
      [backend, type, count] as const,
    );
    expect(told).toMatch(message);
  });
});

test('what WebGPU itself refuses is told with our labels', async () => {
  const told = await stage.page.evaluate(async () => {
    const heard: string[] = [];
    const lens = await umber.openLens(undefined, {
      backend: 'webgpu',
      onError: (error) => heard.push(`${error.code} ${error.message}`),
    });
    const { device } = lens;
    const small = device.createTexture({
      label: 'small',
      width: 2,
      height: 2,
      format: 'rgba8unorm',
      renderable: true,
    });
    const large = device.createTexture({
      label: 'large',
      width: 4,
      height: 4,
      format: 'rgba8unorm',
      renderable: true,
    });
    const pass = device.beginRenderPass({
      label: 'mixed sizes',
      colorAttachments: [
        { texture: small, clearValue: [0, 0, 0, 0] },
        { texture: large, clearValue: [0, 0, 0, 0] },
      ],
    });
    pass.end();
    device.submit();
    await (device as InstanceType<typeof umber.WebgpuDevice>).gpu.queue.onSubmittedWorkDone();
    lens.dispose();
    return heard;
  });
  expect(told[0]).toMatch(/device\/validation[\s\S]*(small|large|mixed sizes)/);
});

test('what WebGPU refuses about a draw names the node, the material and the pass', async () => {
  const told = await stage.page.evaluate(async () => {
    const heard: string[] = [];
    const lens = await umber.openLens(undefined, {
      backend: 'webgpu',
      onError: (error) => heard.push(`${error.code} ${error.message}`),
    });
    const scene = new umber.Scene();
    scene.createNode({ light: { type: 'ambient', intensity: Math.PI } });
    const camera = scene.createNode({ camera: { type: 'perspective', yfov: 0.8, znear: 0.1 } });
    camera.setTranslation(0, 0, 5);
    const wood = { name: 'wood' };
    const geometry = umber.box();
    const quay = scene.createNode({ name: 'quay' });
    scene.createNode({ parent: quay, name: 'crate', mesh: { primitives: [{ geometry, material: wood }] } });
    scene.createNode({
      parent: quay,
      name: 'second crate',
      mesh: { primitives: [{ geometry, material: wood }] },
    });
    const target = lens.createTarget({ width: 16, height: 16 });
    // A draw past the end of its indices, which only the GPU's own checks can see.
    const encoder = GPURenderPassEncoder.prototype;
    const { drawIndexed } = encoder;
    encoder.drawIndexed = function (count, instances): undefined {
      drawIndexed.call(this, count, instances, 1e6);
    };
    try {
      lens.draw(scene, camera, { target });
      await (lens.device as InstanceType<typeof umber.WebgpuDevice>).gpu.queue.onSubmittedWorkDone();
    } finally {
      encoder.drawIndexed = drawIndexed;
    }
    lens.dispose();
    return heard;
  });
  expect(told[0]).toMatch(/^device\/validation/);
  expect(told[0]).toContain('node "quay/crate" and 1 more, material "wood"');
  expect(told[0]).toContain('"scene"');
});
