import type { Animation, Skin } from '../../animation/animation.js';
import type { Warning } from '../../errors/lens-error.js';
import type { Image, Material, Sampler, Texture } from '../../material/material.js';
import type { Camera, Light, Mesh } from '../../scene/components.js';

/**
 * A model file as objects that refer to each other: no indices to follow. Meshes and materials are
 * the scene's own kinds, so placing an asset copies nothing.
 */
export interface ModelAsset {
  /** `glTF` or the name of another format read into the same shape. */
  format: string;
  generator?: string;
  copyright?: string;
  scenes: AssetScene[];
  /** The scene to show; undefined when the file names none and has none. */
  defaultScene?: AssetScene;
  /** All nodes, those outside every scene included, in the file's order. */
  nodes: AssetNode[];
  meshes: Mesh[];
  materials: Material[];
  /** Names of variants, in the file's order (KHR_materials_variants). */
  variants: string[];
  textures: Texture[];
  images: Image[];
  samplers: Sampler[];
  cameras: Camera[];
  lights: Light[];
  skins: Skin<AssetNode>[];
  animations: Animation<AssetNode>[];
  extensionsUsed: string[];
  extensionsRequired: string[];
  /** What is wrong without spoiling the picture. */
  warnings: Warning[];
  /** Extensions that are kept for others, by name (EXT_structural_metadata): views are bytes, and textures objects. */
  kept?: Record<string, unknown>;
  extras?: unknown;
}

export interface AssetScene {
  name?: string;
  /** Root nodes. */
  nodes: AssetNode[];
  extras?: unknown;
}

export interface AssetNode {
  name?: string;
  children: AssetNode[];
  translation?: [number, number, number];
  rotation?: [number, number, number, number];
  scale?: [number, number, number];
  /** Column-major 4x4, in place of the three above. */
  matrix?: number[];
  mesh?: Mesh;
  camera?: Camera;
  light?: Light;
  /** Left out: true. Hides what is below it too (KHR_node_visibility). */
  visible?: boolean;
  skin?: Skin<AssetNode>;
  /** Coarser placeholders for its mesh, each with more metres that it is wrong by (MSFT_lod). */
  levels?: AssetLevel[];
  /** Copies of its mesh, in its own space, in place of the mesh alone (EXT_mesh_gpu_instancing). */
  instances?: AssetInstances;
  /** Weights of the mesh's morph targets, in place of the mesh's own. */
  weights?: number[];
  extras?: unknown;
}

/** Where copies of a mesh stand: flat arrays, copy after copy. */
export interface AssetInstances {
  count: number;
  /** 3 a copy, metres; 4: unit quaternions xyzw; 3. Left out: none is moved, turned or scaled. */
  translations?: Float32Array;
  rotations?: Float32Array;
  scales?: Float32Array;
  /** Attributes of the file's own, by their names there. */
  own: Record<string, { components: number; values: Float32Array }>;
}

/** What stands for a node's mesh where it is small on the screen. */
export interface AssetLevel {
  /** Carries the mesh; outside of every scene. */
  node: AssetNode;
  /** Metres that it differs by from the node's own mesh at most; undefined where the file does not say. */
  error?: number;
  /** Share of the picture's height that the mesh covers at least, for the level before this one to be drawn. */
  coverage?: number;
}

/** An asset of these nodes, all of which its one scene shows; lists that are not given are empty. */
export function assetFrom(
  format: string,
  nodes: AssetNode[],
  lists: Partial<Omit<ModelAsset, 'format' | 'scenes' | 'defaultScene'>> & {
    roots?: AssetNode[];
    name?: string;
  },
): ModelAsset {
  const { roots = nodes, name, ...rest } = lists;
  const scene: AssetScene = { nodes: roots, ...(name ? { name } : {}) };
  return {
    format,
    scenes: [scene],
    defaultScene: scene,
    nodes,
    meshes: [],
    materials: [],
    variants: [],
    textures: [],
    images: [],
    samplers: [],
    cameras: [],
    lights: [],
    skins: [],
    animations: [],
    extensionsUsed: [],
    extensionsRequired: [],
    warnings: [],
    ...rest,
  };
}
