// What the guides take for granted in their blocks: a page with a lens that looks at a scene, and things in it.
import type * as device_ from 'umber-lens/device';
import type * as umber from 'umber-lens';

declare global {
  const canvas: HTMLCanvasElement;
  const lens: umber.Lens;
  const scene: umber.Scene;
  const camera: umber.SceneNode;
  const device: umber.Device;
  const gpu: GPUDevice;
  /** Things in the scene. */
  const crate: umber.SceneNode;
  const door: umber.SceneNode;
  const sun: umber.SceneNode;
  const crates: umber.SceneNode[];
  const geometry: umber.Geometry;
  const blade: umber.Geometry;
  const coarse: umber.Geometry;
  const quad: umber.Geometry;
  const mesh: umber.Mesh;
  const fine: umber.Mesh;
  const middle: umber.Mesh;
  const rough: umber.Mesh;
  const material: umber.Material;
  const kelp: umber.MaterialShader<
    Record<string, number | ArrayLike<number> | umber.Texture | umber.TextureUse>
  >;
  const tree: umber.MaterialShader<
    Record<string, number | ArrayLike<number> | umber.Texture | umber.TextureUse>
  >;
  const stain: umber.TextureUse;
  const model: umber.Model;
  const other: umber.Model;
  const motion: umber.Motion;
  const animation: umber.Animation;
  const walk: umber.Rig;
  /** Numbers. */
  const delta: number;
  const time: number;
  const width: number;
  const height: number;
  const count: number;
  const instances: number;
  const swing: (door: umber.SceneNode) => void;
  const x: number;
  const y: number;
  const offset: number;
  const offsets: Float32Array;
  const phase: Float32Array;
  const colors: Float32Array;
  const moved: Float32Array;
  const rows: number[];
  const matrices: Float32Array;
  const data: Uint8Array;
  /** Of the page. */
  const banner: HTMLElement;
  const bar: HTMLProgressElement;
  const button: HTMLButtonElement;
  const canvasOrImage: HTMLCanvasElement;
  const signal: AbortSignal;
  const onProgress: () => void;
  const remakeMyBuffers: (device: umber.Device) => void;
  const rebuild: (shader: unknown) => void;
  const placeOf: (i: number, time: number) => [number, number, number];
  const writeMatrix: (out: Float32Array, at: number) => void;
  /** Of the device. */
  const shader: device_.DeviceShader;
  const layout: device_.VertexBufferLayout;
  const uniforms: device_.DeviceBuffer;
  const vertices: device_.DeviceBuffer;
  const texture: umber.DeviceTexture;
  const target: umber.DeviceTexture;
  const depth: umber.DeviceTexture;
  const color: umber.DeviceTexture;
  const normals: umber.DeviceTexture;
  const from: umber.DeviceTexture;
  const to: umber.DeviceTexture;
  const sampler: device_.DeviceSampler;
  const group: device_.DeviceBindGroup;
  const pass: device_.RenderPass;
  const render: device_.RenderPass;
  const colorAttachments: readonly device_.ColorAttachment[];
  const sepia: device_.ModuleWithEntries;
  const vertexText: string;
  const fragmentText: string;
  const text: string;
}
