import type { Backend, InstanceSettings, Material, NodeOptions } from 'umber-lens';
import { testPage } from './stage.js';

const stage = testPage({ webgpu: true });

interface Shot {
  wgsl: string;
  backend: Backend;
  /** Of the plane in the middle, 2 x 2 metres, seen straight from the front. */
  settings?: Material['settings'];
  material?: Omit<Material, 'shader' | 'settings'>;
  attributes?: Record<string, { values: number[]; components: 1 | 2 | 3 | 4 }>;
  instances?: InstanceSettings[];
  nodes?: NodeOptions[];
  time?: number;
  antialias?: boolean;
}

/** A picture of 8 x 8 pixels, two metres wide and high, through a parallel camera on +Z. */
async function shoot(shot: Shot): Promise<{ pixels: number[][]; draws: number }> {
  return stage.page.evaluate(async (given) => {
    const { attributeFrom, compileMaterialShader, openLens, plane, Scene, axisAngle } = umber;
    const lens = await openLens(undefined, { backend: given.backend, antialias: given.antialias ?? false });
    const scene = new Scene({ clearColor: [0, 0, 0, 1] });
    const geometry = plane({ width: 2, depth: 2 });
    for (const [name, { values, components }] of Object.entries(given.attributes ?? {}))
      geometry.attributes[name] = attributeFrom(new Float32Array(values), components);
    const shader = compileMaterialShader(given.wgsl, { file: 'test.wgsl' });
    const material = { ...given.material, shader, settings: given.settings ?? {} };
    const places: (InstanceSettings | undefined)[] = given.instances ?? [undefined];
    places.forEach((settings, i) =>
      scene.createNode({
        rotation: axisAngle([1, 0, 0], Math.PI / 2),
        translation: [places.length > 1 ? i - (places.length - 1) / 2 : 0, 0, 0],
        scale: [1 / places.length, 1, 1],
        mesh: { geometry, material },
        ...(settings ? { settings } : {}),
      }),
    );
    for (const node of given.nodes ?? []) scene.createNode(node);
    const cameraNode = scene.createNode({
      translation: [0, 0, 5],
      camera: { type: 'orthographic', xmag: 1, ymag: 1, znear: 0, zfar: 10 },
    });
    const target = lens.createTarget({ width: 8, height: 8 });
    lens.setTime(given.time ?? 0, 0);
    lens.draw(scene, cameraNode, { target });
    const bytes = await target.read();
    const pixels = Array.from({ length: 64 }, (_, i) => [...bytes.slice(i * 4, i * 4 + 4)]);
    const { draws } = lens.ledger;
    lens.dispose();
    return { pixels, draws };
  }, shot);
}

/** sRGB bytes of linear numbers. */
const bytesOf = (...rgb: number[]): number[] =>
  rgb.map((c) => Math.round(255 * (c <= 0.0031308 ? 12.92 * c : 1.055 * c ** (1 / 2.4) - 0.055)));
const near = (pixel: number[] | undefined, wanted: number[]): void =>
  wanted.forEach((c, k) => expect(Math.abs(pixel![k]! - c)).toBeLessThanOrEqual(1));

describe.each<Backend>(['webgpu', 'webgl2'])('on %s', (backend) => {
  test('a final colour that asks for no light is shown as given, with settings and their defaults', async () => {
    const wgsl = `struct Settings {
      tint: vec3f, // color = #ff8000
      gain: f32, // 0..4 = 0.5
      turn: mat3x3f,
      steps: u32, // = 3
    }
    fn outputColor(s: Settings) -> vec4f {
      return vec4f(s.tint * s.gain * f32(s.steps) / 3 + s.turn[2] * 0.1, 1);
    }`;
    const settings = { gain: 0.25, turn: [0, 0, 0, 0, 0, 0, 1, 2, 3] };
    const { pixels } = await shoot({ wgsl, backend, settings });
    const green = ((0x80 / 255 + 0.055) / 1.055) ** 2.4;
    near(pixels[27], bytesOf(0.25 + 0.1, green * 0.25 + 0.2, 0.3));
  });

  test('displace moves vertices in the geometry own space, before the node places them', async () => {
    const wgsl = `fn displace(v: Vertex) -> Vertex {
      var out = v;
      out.position.x = v.position.x * 0.5 + 0.5;
      return out;
    }
    fn outputColor(p: Fragment) -> vec4f { return vec4f(p.objectPosition.x * 0.5 + 0.5, 1, 0, 1); }`;
    const { pixels } = await shoot({ wgsl, backend });
    expect(pixels[24 + 1]).toEqual([0, 0, 0, 255]);
    // The right half shows the whole plane, whose own x runs from -1 to 1.
    near(pixels[24 + 4], bytesOf(0.125, 1, 0));
    near(pixels[24 + 7], bytesOf(0.875, 1, 0));
  });

  test('places and directions are those of their spaces; the screen counts from the upper left', async () => {
    const wgsl = `fn outputColor(p: Fragment) -> vec4f {
      let ok = vec4f(
        f32(distance(p.normal, vec3f(0, 0, 1)) < 1e-3 && distance(p.viewNormal, vec3f(0, 0, 1)) < 1e-3),
        f32(distance(p.objectNormal, vec3f(0, 1, 0)) < 1e-3 && abs(p.viewPosition.z + 5) < 1e-3),
        f32(distance(p.toCamera, vec3f(0, 0, 1)) < 1e-3 && abs(p.position.z) < 1e-3),
        1);
      return select(vec4f(0, 0, 0, 1), ok, all(p.screenSize == vec2f(8)) && p.screenPosition.y < 4);
    }`;
    const { pixels } = await shoot({ wgsl, backend });
    expect(pixels[3]).toEqual([255, 255, 255, 255]);
    expect(pixels[60]).toEqual([0, 0, 0, 255]);
  });

  test('the node itself is known: its place and its axes', async () => {
    const wgsl = `fn outputColor(p: Fragment) -> vec4f {
      let origin = p.objectToWorld[3];
      let up = p.objectToWorld * vec4f(0, 1, 0, 0);
      return vec4f(origin.x + 0.5, up.z, f32(distance(p.objectToWorld * vec4f(p.objectPosition, 1), p.position) < 1e-4), 1);
    }`;
    const { pixels } = await shoot({ wgsl, backend, instances: [{}, {}] });
    // Two planes, half a metre left and right of the middle, whose own up looks at the camera.
    near(pixels[25], bytesOf(0, 1, 1));
    near(pixels[30], bytesOf(1, 1, 1));
  });

  test('attributes of the geometry come by name, between vertices in proportion', async () => {
    const wgsl = `struct Attributes { heat: f32, tint: vec3f }
    fn outputColor(a: Attributes) -> vec4f { return vec4f(a.tint * a.heat, 1); }`;
    const attributes = {
      heat: { values: [0.5, 0.5, 0.5, 0.5], components: 1 as const },
      tint: { values: [1, 0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0], components: 3 as const },
    };
    const { pixels } = await shoot({ wgsl, backend, attributes });
    near(pixels[27], bytesOf(0.5, 0, 0));
  });

  test('nodes that differ in instance settings alone are one draw, each with its own', async () => {
    const wgsl = `struct InstanceSettings {
      tint: vec3f, // color = #ffffff
      share: f32, // 0..1 = 1
    }
    fn outputColor(i: InstanceSettings) -> vec4f { return vec4f(i.tint * i.share, 1); }`;
    const instances = [{ tint: [1, 0, 0] }, { tint: [0, 1, 0], share: 0.5 }];
    const { pixels, draws } = await shoot({ wgsl, backend, instances });
    expect(draws).toBe(1);
    near(pixels[25], bytesOf(1, 0, 0));
    near(pixels[30], bytesOf(0, 0.5, 0));
  });

  test('surface is lit like any other, light answers each light, and time is told', async () => {
    const light: NodeOptions = { light: { type: 'directional', intensity: Math.PI } };
    const lit = `fn surface(p: Fragment) -> Surface {
      var s = surfaceDefaults(p);
      s.baseColor = vec3f(0.5, 0, 0);
      s.metallic = 0;
      s.roughness = 1;
      s.emissive = vec3f(0, 0, frame.time);
      return s;
    }`;
    const first = await shoot({ wgsl: lit, backend, nodes: [light], time: 0.25 });
    // The diffuse part of a face turned to the light, 0.5 * (1 - 0.04), and a highlight of the same light.
    const [red, , blue] = first.pixels[27]!;
    expect(red).toBeGreaterThan(bytesOf(0.48)[0]! - 1);
    expect(red).toBeLessThan(bytesOf(0.56)[0]!);
    near(
      [0, 0, blue!],
      [0, 0, bytesOf(0.25 + 0.0125)[0]!].map((x, k) => (k < 2 ? 0 : x)),
    );
    const stepped = `fn light(s: Surface, l: Light) -> vec3f {
      return vec3f(0.25) * step(0.5, dot(s.normal, l.direction)) * l.color / 3.14159265;
    }`;
    const two = [light, { ...light, rotation: [0, 1, 0, 0] }, light];
    const second = await shoot({ wgsl: stepped, backend, nodes: two });
    near(second.pixels[27], bytesOf(0.5, 0.5, 0.5));
  });

  test('textures are settings', async () => {
    const wgsl = `var bark: texture_2d<f32>; // color The bark
    var barkSampler: sampler;
    var heights: texture_2d<f32>; // data
    fn outputColor(p: Fragment) -> vec4f {
      return vec4f(textureSample(bark, barkSampler, p.texcoord0).rg, textureLoad(heights, vec2i(0, 0), 0).b, 1);
    }`;
    const pixel = await stage.page.evaluate(
      async ([text, name]) => {
        const { compileMaterialShader, openLens, plane, Scene, axisAngle } = umber;
        const lens = await openLens(undefined, { backend: name as Backend, antialias: false });
        const scene = new Scene();
        const texture = (...data: number[]): { image: { content: never } } => ({
          image: { content: { kind: 'pixels', width: 1, height: 1, data: new Uint8Array(data) } as never },
        });
        const material = {
          shader: compileMaterialShader(text!),
          settings: { bark: texture(128, 255, 0, 255), heights: texture(0, 0, 128, 255) },
        };
        scene.createNode({
          rotation: axisAngle([1, 0, 0], Math.PI / 2),
          mesh: { geometry: plane({ width: 2, depth: 2 }), material },
        });
        const cameraNode = scene.createNode({
          translation: [0, 0, 5],
          camera: { type: 'orthographic', xmag: 1, ymag: 1, znear: 0, zfar: 10 },
        });
        const target = lens.createTarget({ width: 2, height: 2 });
        lens.draw(scene, cameraNode, { target });
        const out = [...(await target.read()).slice(0, 4)];
        lens.dispose();
        return out;
      },
      [wgsl, backend],
    );
    near(pixel, [128, 255, bytesOf(128 / 255)[0]!, 255]);
  });

  test.each([true, false])('depth and colour of what lies behind, antialias %s', async (antialias) => {
    const wgsl = `fn outputColor(p: Fragment) -> vec4f {
      let behind = sceneDepth(p.screenPosition);
      return vec4f((p.depth - behind) * 10, sceneColor(p.screenPosition).g, f32(behind > 0), 1);
    }`;
    const pixels = await stage.page.evaluate(
      async ([text, name, smooth]) => {
        const { compileMaterialShader, openLens, plane, Scene, axisAngle } = umber;
        const lens = await openLens(undefined, { backend: name as Backend, antialias: smooth as boolean });
        const scene = new Scene();
        const upright = axisAngle([1, 0, 0], Math.PI / 2);
        scene.createNode({
          rotation: upright,
          mesh: {
            geometry: plane({ width: 2, depth: 2 }),
            material: { shader: compileMaterialShader(text as string) },
          },
        });
        // One metre of ten behind, on the left half.
        scene.createNode({
          rotation: upright,
          translation: [-1, 0, -1],
          mesh: {
            geometry: plane({ width: 2, depth: 2 }),
            material: { unlit: true, baseColorFactor: [0, 0.5, 0, 1] },
          },
        });
        const cameraNode = scene.createNode({
          translation: [0, 0, 5],
          camera: { type: 'orthographic', xmag: 1, ymag: 1, znear: 0, zfar: 10 },
        });
        const target = lens.createTarget({ width: 8, height: 8 });
        lens.draw(scene, cameraNode, { target });
        const bytes = await target.read();
        lens.dispose();
        return [25, 30].map((i) => [...bytes.slice(i * 4, i * 4 + 4)]);
      },
      [wgsl, backend, antialias] as const,
    );
    // Depth falls by a tenth for each metre of ten.
    near(pixels[0], bytesOf(1, 0.5, 1));
    near(pixels[1], [255, 0, 0, 255]);
  });
});

test.each([
  ['fn surfac(p: Fragment) -> Surface { return surfaceDefaults(p); }', /none of the hooks/],
  ['fn surface(p: Vertex) -> Surface { var s: Surface; return s; }', /"surface" cannot take a Vertex/],
  ['fn light(s: Surface) -> vec4f { return vec4f(); }', /"light" must give a vec3f/],
  [
    'struct Settings { on: bool } fn outputColor(s: Settings) -> vec4f { return vec4f(); }',
    /"on" cannot be a bool/,
  ],
  [
    'fn outputColor(p: Fragment) -> vec4f { return vec4f(p.norml, 1); }',
    /rim\.wgsl:1:[\s\S]*Did you mean "normal"/,
  ],
  [
    'struct Attributes { n: vec2i } fn outputColor(a: Attributes) -> vec4f { return vec4f(); }',
    /cannot be a vec2i/,
  ],
])('%s is refused with its place', async (wgsl, message) => {
  const told = await stage.page.evaluate((text) => {
    try {
      umber.compileMaterialShader(text, { file: 'rim.wgsl' });
      return '';
    } catch (error) {
      return (error as InstanceType<typeof umber.LensError>).toString();
    }
  }, wgsl);
  expect(told).toMatch(message);
});

test.each<[Backend, string]>([
  ['webgpu', 'perspective'],
  ['webgl2', 'perspective'],
  ['webgpu', 'orthographic'],
  ['webgl2', 'orthographic'],
])('a marched ball is the same as one of triangles, mixed by depth: %s, %s', async (backend, kind) => {
  const wgsl = `fn march(ray: Ray) -> Hit {
      let b = dot(ray.origin, ray.direction);
      let d = b * b - dot(ray.origin, ray.origin) + 1;
      if d < 0 { return miss(); }
      let at = ray.origin - ray.direction * (b + sqrt(d));
      return hitAt(at, at);
    }`;
  const pictures = await stage.page.evaluate(
    async ([text, name, camera]) => {
      const { box, compileMaterialShader, fullScreen, icosphere, openLens, Scene } = umber;
      const lens = await openLens(undefined, { backend: name as Backend });
      const out: number[][] = [];
      for (const how of ['triangles', 'box', 'full screen']) {
        const scene = new Scene({ clearColor: [0.1, 0.1, 0.1, 1] });
        const look = {
          metallicFactor: 0,
          roughnessFactor: 0.4,
          baseColorFactor: [0.8, 0.3, 0.2, 1] as never,
        };
        scene.createNode({
          translation: [0.3, 0.1, 0],
          rotation: [0, 0.6, 0, 0.8],
          scale: [1.4, 1, 0.8],
          mesh:
            how === 'triangles'
              ? { geometry: icosphere({ radius: 1, subdivisions: 5 }), material: look }
              : {
                  geometry: how === 'box' ? box({ width: 2.3, height: 2.3, depth: 2.3 }) : fullScreen(),
                  material: { ...look, shader: compileMaterialShader(text!) },
                },
        });
        // A pillar through it, half of it in front.
        scene.createNode({
          translation: [-0.3, 0, 0.7],
          mesh: { geometry: box({ width: 0.3, height: 4, depth: 0.6 }), material: { metallicFactor: 0 } },
        });
        scene.createNode({ rotation: [-0.3, 0.2, 0, 0.9], light: { type: 'directional', intensity: 3 } });
        const cameraNode = scene.createNode({
          translation: [0, 0.5, 4],
          camera:
            camera === 'perspective'
              ? { type: 'perspective', yfov: 0.8, znear: 0.1 }
              : { type: 'orthographic', xmag: 2, ymag: 2, znear: 0.1, zfar: 20 },
        });
        const target = lens.createTarget({ width: 64, height: 64 });
        lens.draw(scene, cameraNode, { target });
        out.push([...(await target.read())]);
      }
      lens.dispose();
      return out;
    },
    [wgsl, backend, kind] as const,
  );
  const [triangles, inBox, everywhere] = pictures;
  expect(inBox).toEqual(everywhere);
  let sum = 0;
  let off = 0;
  for (let i = 0; i < 64 * 64 * 4; i += 4) {
    const d = Math.max(...[0, 1, 2].map((k) => Math.abs(triangles![i + k]! - inBox![i + k]!)));
    sum += d;
    if (d > 24) off++;
  }
  // Edges differ: triangles have four samples a pixel there, and the marched ball one.
  expect(sum / 4096).toBeLessThan(4);
  expect(off).toBeLessThan(200);
});

test('raw GLSL has its attributes, uniforms and textures found by name, on WebGL2 alone', async () => {
  const out = await stage.page.evaluate(async () => {
    const { attributeFrom, glslMaterialShader, LensError, openLens, plane, Scene, axisAngle } = umber;
    const shader = glslMaterialShader(
      `#version 300 es
      in vec3 position;
      in float heat;
      uniform mat4 viewProjection;
      uniform mat4 objectToWorld;
      uniform float time;
      out float warmth;
      void main() { warmth = heat * time; gl_Position = viewProjection * objectToWorld * vec4(position, 1.0); }`,
      `#version 300 es
      uniform vec3 tint;
      uniform float gain;
      uniform mat3 turn;
      uniform sampler2D bark;
      in highp float warmth;
      out highp vec4 result;
      void main() { result = vec4((turn * tint) * gain * warmth + texture(bark, vec2(0.5)).b, 1.0); }`,
      { file: 'kelp.glsl' },
    );
    const read = async (backend: Backend): Promise<number[] | string> => {
      const told: string[] = [];
      const lens = await openLens(undefined, {
        backend,
        onMessage: (message) => void told.push(message.message),
      });
      const scene = new Scene();
      const geometry = plane({ width: 2, depth: 2 });
      geometry.attributes['heat'] = attributeFrom(new Float32Array(4).fill(0.5), 1);
      const pixels = { kind: 'pixels' as const, width: 1, height: 1, data: new Uint8Array([0, 0, 0, 255]) };
      const settings = {
        tint: [1, 0.5, 0.25],
        gain: 0.5,
        turn: [0, 1, 0, 0, 0, 1, 1, 0, 0],
        bark: { image: { content: pixels } },
      };
      const material = { shader, settings };
      scene.createNode({ rotation: axisAngle([1, 0, 0], Math.PI / 2), mesh: { geometry, material } });
      const cameraNode = scene.createNode({
        translation: [0, 0, 5],
        camera: { type: 'orthographic', xmag: 1, ymag: 1, znear: 0, zfar: 10 },
      });
      const target = lens.createTarget({ width: 2, height: 2 });
      lens.setTime(2);
      try {
        lens.draw(scene, cameraNode, { target });
        const pixel = [...(await target.read()).slice(0, 4)];
        return told.find((text) => text.includes('no WGSL')) ?? pixel;
      } catch (error) {
        return error instanceof LensError ? error.toString() : String(error);
      } finally {
        lens.dispose();
      }
    };
    return { gl: await read('webgl2'), gpu: await read('webgpu') };
  });
  // Columns of the matrix move x to y, y to z and z to x.
  near(out.gl as number[], bytesOf(0.125, 0.5, 0.25));
  expect(out.gpu).toMatch(/kelp\.glsl is written in GLSL, which WebGPU does not take[\s\S]*webgl2/);
});
