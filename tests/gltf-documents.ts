/** Documents and assets that the tests of reading, writing and refusing glTF begin with. */
import { readFileSync } from 'node:fs';
import {
  box,
  withTangents,
  facing,
  type Material,
  type ModelAsset,
  readGltf,
  sphere,
  axisAngle,
  type WritableAsset,
} from '@umber-lens/core/engine';

export const text = (value: unknown): Uint8Array =>
  new TextEncoder().encode(typeof value === 'string' ? value : JSON.stringify(value));
export const base64 = (bytes: ArrayBufferView): string =>
  Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength).toString('base64');
export const asset = { version: '2.0' };

/** A document whose one buffer holds the given arrays one after the other, a view each. */
export function documentOf(
  arrays: ArrayBufferView[],
  rest: Record<string, unknown>,
): Record<string, unknown> {
  const chunks = arrays.map((a) => new Uint8Array(a.buffer, a.byteOffset, a.byteLength));
  let at = 0;
  const bufferViews = chunks.map((chunk) => {
    const view = { buffer: 0, byteOffset: at, byteLength: chunk.length };
    at += (chunk.length + 3) & ~3;
    return view;
  });
  const whole = new Uint8Array(at);
  chunks.forEach((chunk, i) => whole.set(chunk, bufferViews[i]!.byteOffset));
  return {
    asset,
    buffers: [{ byteLength: at, uri: `data:application/octet-stream;base64,${base64(whole)}` }],
    bufferViews,
    ...rest,
  };
}

export const TRIANGLE = new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]);
export const positions = {
  bufferView: 0,
  componentType: 5126,
  count: 3,
  type: 'VEC3',
  min: [0, 0, 0],
  max: [1, 1, 0],
};
export const triangle = (more: Record<string, unknown> = {}): Record<string, unknown> =>
  documentOf([TRIANGLE], {
    accessors: [positions],
    meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
    nodes: [{ mesh: 0 }],
    scenes: [{ nodes: [0] }],
    scene: 0,
    ...more,
  });

export const read = (document: unknown, options = {}): Promise<ModelAsset> =>
  readGltf(text(document), { file: 'test.gltf', ...options });
export const onlyPrimitive = (model: ModelAsset): ModelAsset['meshes'][0]['primitives'][0] =>
  model.meshes[0]!.primitives[0]!;

/** Everything the writer knows, by the standard body's validator and by our own reader. */
export function richAsset(): WritableAsset {
  const png = readFileSync(new URL('./fixtures/pixel.png', import.meta.url));
  const texture = {
    name: 'tint',
    image: {
      name: 'pixel',
      content: { kind: 'encoded' as const, mimeType: 'image/png', bytes: new Uint8Array(png) },
    },
    sampler: {
      magFilter: 'nearest' as const,
      minFilter: 'linear' as const,
      mipmapFilter: 'nearest' as const,
      wrapS: 'clamp-to-edge' as const,
      wrapT: 'mirror-repeat' as const,
    },
  };
  const material: Material = {
    name: 'glaze',
    baseColorFactor: [0.5, 0.25, 0.125, 0.5],
    baseColorTexture: { texture, transform: { offset: [0.5, 0.25], rotation: 0.5, scale: [2, 3] } },
    metallicFactor: 0.5,
    roughnessFactor: 0.25,
    metallicRoughnessTexture: { texture },
    normalTexture: { texture, strength: 0.5 },
    occlusionTexture: { texture, strength: 0.75 },
    emissiveFactor: [1, 0.5, 0],
    emissiveStrength: 4,
    alphaMode: 'mask',
    alphaCutoff: 0.25,
    doubleSided: true,
    extras: { glazed: true },
  };
  const mesh = {
    name: 'pot',
    primitives: [
      { geometry: withTangents(box()), material },
      { geometry: sphere(), material: { name: 'flat', unlit: true } },
    ],
  };
  const child = { name: 'twin', children: [], mesh, scale: [1, 2, -1] as [number, number, number] };
  const top = {
    name: 'top',
    children: [child],
    mesh,
    rotation: axisAngle([0, 1, 0], 1),
    translation: [1, 2, 3] as [number, number, number],
    extras: [1, 'two'],
  };
  const camera = {
    name: 'camera',
    children: [],
    camera: { type: 'perspective' as const, yfov: 0.5, znear: 0.25, zfar: 50, aspectRatio: 2 },
  };
  const flat = {
    name: 'plan',
    children: [],
    camera: { type: 'orthographic' as const, xmag: 2, ymag: 3, znear: 0, zfar: 9 },
  };
  const lamp = {
    name: 'lamp',
    children: [],
    rotation: facing([0, -1, 0]),
    light: {
      type: 'spot' as const,
      color: [1, 0.5, 0.25] as [number, number, number],
      intensity: 8,
      range: 5,
      innerConeAngle: 0.25,
      outerConeAngle: 0.5,
    },
  };
  const animation = {
    name: 'spin',
    duration: 2,
    channels: [
      {
        target: top,
        path: 'translation' as const,
        sampler: {
          interpolation: 'linear' as const,
          input: new Float32Array([0, 2]),
          output: new Float32Array([0, 0, 0, 1, 1, 1]),
          components: 3,
        },
      },
    ],
  };
  return {
    nodes: [top, child, camera, flat, lamp],
    scenes: [{ name: 'all', nodes: [top, camera, flat, lamp] }],
    animations: [animation],
  };
}
