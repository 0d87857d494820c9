import type { Attribute, Geometry, MorphTarget } from '../../../geometry/geometry.js';
import { LensError } from '../../../errors/lens-error.js';
import {
  encodedOf,
  type Image,
  type Material,
  type Sampler,
  type Texture,
} from '../../../material/material.js';
import type { Camera, Light, Mesh, Primitive } from '../../../scene/components.js';
import type { AnimatedProperty } from '../../../animation/animation.js';
import type { AssetNode, ModelAsset } from '../../asset/asset.js';
import { levelExtras } from '../../asset/levels.js';
import { rootsOf } from '../../asset/roots.js';
import { instanceAttributes } from '../extensions/instances.js';
import { isPunctual, ownLight, writeLight } from '../extensions/lights.js';
import { writeKept } from '../extensions/kept-extensions.js';
import { PictureFiles } from './picture-files.js';
import { attributeSemantic, MODES } from '../semantics.js';
import { pointerOf } from '../extensions/pointers.js';
import type { ViewPacker } from './packed-views.js';
import { clean, each, filled, filledObject, type Json, Numbering } from './json.js';
import { type MaterialPlaces, writeMaterial, writeSampler } from './materials.js';
import { typeOf, WrittenBuffers } from './buffers.js';

/** How a model is written. */
export interface WriteOptions {
  /**
   * Packs the bytes of vertices, indices and clips (EXT_meshopt_compression): `MeshoptEncoder` of the package meshoptimizer,
   * once it is ready. Left out: they are written as they are.
   */
  compress?: ViewPacker;
  /**
   * Geometries that are written packed (KHR_draco_mesh_compression), with what comes out of them again. Left out: none is.
   */
  packed?: ReadonlyMap<Geometry, PackedGeometry>;
  /** GLB: hears of each picture, which then is a file beside the model instead of a part of it. */
  separate?: (file: string, bytes: Uint8Array) => void;
}

/** A geometry packed by Draco. */
export interface PackedGeometry {
  bytes: Uint8Array;
  /** Its attributes' numbers in the packed bytes, by name. */
  ids: Record<string, number>;
  /** As it is unpacked: accessors tell of it. */
  unpacked: Geometry;
}

/** What a model may leave out when it is made for writing. */
export type WritableAsset = Partial<ModelAsset> & Pick<ModelAsset, 'nodes'>;

/**
 * Writes GLB. Meshes, materials and the rest that nodes refer to are found by themselves; shared
 * objects are written once, and vertex bytes shared by several attributes too. The same asset gives
 * the same bytes each time.
 *
 * @throws LensError `gltf/write-image` for an image that holds no encoded bytes
 */
export function writeGlb(asset: WritableAsset, options: WriteOptions = {}): Uint8Array {
  const { separate } = options;
  const names = new PictureFiles();
  const writer = new Writer(asset, options);
  const json = writer.document(
    separate &&
      ((image, index, bytes, mimeType) => {
        const file = names.nameOf(image, index, mimeType);
        separate(file, bytes);
        return file;
      }),
  );
  const binary = writer.to.binary();
  json['buffers'] = writer.to.buffers(undefined, binary.length);
  const text = pad(encodeText(JSON.stringify(json, asArrays)), 0x20);
  const body = pad(binary, 0);
  const total = 12 + 8 + text.length + (body.length > 0 ? 8 + body.length : 0);
  const out = new Uint8Array(total);
  const view = new DataView(out.buffer);
  [0x46546c67, 2, total, text.length, 0x4e4f534a].forEach((word, i) => view.setUint32(i * 4, word, true));
  out.set(text, 20);
  if (body.length > 0) {
    view.setUint32(20 + text.length, body.length, true);
    view.setUint32(24 + text.length, 0x004e4942, true);
    out.set(body, 28 + text.length);
  }
  return out;
}

/**
 * Writes a `.gltf` with its buffer and images as files beside it: file name to bytes, the document
 * itself under `${name}.gltf`.
 */
export function writeGltf(
  asset: WritableAsset,
  name: string,
  options: WriteOptions = {},
): Map<string, Uint8Array> {
  const files = new Map<string, Uint8Array>();
  const names = new PictureFiles(name);
  const writer = new Writer(asset, options);
  const json = writer.document((image, index, bytes, mimeType) => {
    const file = names.nameOf(image, index, mimeType);
    files.set(file, bytes);
    return file;
  });
  const binary = writer.to.binary();
  json['buffers'] = writer.to.buffers(encodeURIComponent(`${name}.bin`), binary.length);
  if (binary.length > 0) files.set(`${name}.bin`, binary);
  return new Map([[`${name}.gltf`, encodeText(`${JSON.stringify(json, asArrays, 2)}\n`)], ...files]);
}

declare class TextEncoder {
  encode(text: string): Uint8Array;
}

function encodeText(text: string): Uint8Array {
  return new TextEncoder().encode(text);
}

function pad(bytes: Uint8Array, fill: number): Uint8Array {
  const out = new Uint8Array((bytes.length + 3) & ~3).fill(fill);
  out.set(bytes);
  return out;
}

const ANIMATED = {
  translation: ['VEC3', 3],
  rotation: ['VEC4', 4],
  scale: ['VEC3', 3],
  weights: ['SCALAR', 1],
} as const;
/** Extensions without which a file cannot be read. */
const REQUIRED = [
  'KHR_mesh_quantization',
  'EXT_meshopt_compression',
  'KHR_draco_mesh_compression',
  'EXT_mesh_gpu_instancing',
  'EXT_texture_webp',
  'EXT_texture_avif',
  'KHR_texture_basisu',
];
/** Pictures that only an extension may name. */
const NEWER_PICTURES: Readonly<Record<string, string>> = {
  'image/webp': 'EXT_texture_webp',
  'image/avif': 'EXT_texture_avif',
  'image/ktx2': 'KHR_texture_basisu',
};

type NameImage = (image: Image, index: number, bytes: Uint8Array, mimeType: string) => string;

class Writer implements MaterialPlaces {
  private readonly nodes: Numbering<AssetNode>;
  private readonly meshes: Numbering<Mesh>;
  private readonly materials: Numbering<Material>;
  readonly textures: Numbering<Texture>;
  private readonly images: Numbering<Image>;
  private readonly samplers: Numbering<Sampler>;
  private readonly cameras: Numbering<Camera>;
  private readonly lights: Numbering<Light>;
  private readonly extensions = new Set<string>();
  readonly to: WrittenBuffers;
  private readonly packed: WriteOptions['packed'];
  /** Names of variants, in the order of their numbers. */
  private readonly variants: string[];

  constructor(
    private readonly asset: WritableAsset,
    { compress, packed }: WriteOptions,
  ) {
    this.packed = packed;
    this.to = new WrittenBuffers(compress, (extension) => this.uses(extension));
    this.variants = [...(asset.variants ?? [])];
    this.nodes = new Numbering(asset.nodes);
    this.meshes = new Numbering(asset.meshes);
    this.materials = new Numbering(asset.materials);
    this.textures = new Numbering(asset.textures);
    this.images = new Numbering(asset.images);
    this.samplers = new Numbering(asset.samplers);
    this.cameras = new Numbering(asset.cameras);
    this.lights = new Numbering(asset.lights?.filter(isPunctual));
  }

  document(nameImage: NameImage | undefined): Json {
    const { asset } = this;
    const scenes = asset.scenes ?? [{ nodes: rootsOf(asset.nodes) }];
    // In the order of reference, so that each list is complete when it is written.
    const nodes = each(this.nodes, (node) => this.node(node));
    const extensions = this.kept(asset.kept);
    const meshes = each(this.meshes, (mesh) => this.mesh(mesh));
    const skins = (asset.skins ?? []).map((skin) => this.skin(skin));
    const animations = (asset.animations ?? []).map((animation) => this.animation(animation));
    const materials = each(this.materials, (material) => writeMaterial(material, this));
    const textures = each(this.textures, (texture) => this.texture(texture));
    const samplers = each(this.samplers, writeSampler);
    const images = each(this.images, (image, i) => this.image(image, i, nameImage));
    const cameras = each(this.cameras, writeCamera);
    const lights = each(this.lights, writeLight);
    const defaultScene = scenes.findIndex((scene) => scene === asset.defaultScene);
    if (this.to.packed?.used) this.uses('EXT_meshopt_compression');
    const json: Json = {
      asset: clean({
        version: '2.0',
        generator: asset.generator ?? 'Umber Lens',
        copyright: asset.copyright,
      }),
      scene: scenes.length > 0 ? Math.max(0, defaultScene) : undefined,
      scenes: scenes.map((scene) =>
        clean({
          name: scene.name,
          nodes: filled(scene.nodes.map((node) => this.nodes.of(node))),
          extras: scene.extras,
        }),
      ),
      nodes: filled(nodes),
      meshes: filled(meshes),
      skins: filled(skins),
      animations: filled(animations),
      materials: filled(materials),
      textures: filled(textures),
      samplers: filled(samplers),
      images: filled(images),
      cameras: filled(cameras),
      extras: asset.extras,
    };
    if (lights.length > 0) extensions[this.uses('KHR_lights_punctual')] = { lights };
    if (this.variants.length > 0)
      extensions[this.uses('KHR_materials_variants')] = { variants: this.variants.map((name) => ({ name })) };
    json['extensions'] = filledObject(extensions);
    const used = [...new Set([...this.extensions])].sort();
    json['extensionsUsed'] = filled(used);
    json['extensionsRequired'] = filled(used.filter((name) => REQUIRED.includes(name)));
    json['accessors'] = filled(this.to.accessors);
    json['bufferViews'] = filled(this.to.views);
    return clean(json);
  }

  /** Notes that an extension is used. */
  readonly uses = (extension: string): string => {
    this.extensions.add(extension);
    return extension;
  };

  private node(node: AssetNode): Json {
    const { name, translation, rotation, scale, matrix, weights, light } = node;
    const isKnown = light && isPunctual(light);
    const extensions: Json = {};
    if (isKnown) extensions[this.uses('KHR_lights_punctual')] = { light: this.lights.of(light) };
    if (node.levels)
      extensions[this.uses('MSFT_lod')] = { ids: node.levels.map((level) => this.nodes.of(level.node)) };
    if (node.instances) {
      const attributes = instanceAttributes(node.instances).map(([key, values, components]) => [
        key,
        this.to.numbers(values, ...typeOf(components)),
      ]);
      extensions[this.uses('EXT_mesh_gpu_instancing')] = {
        attributes: Object.fromEntries(attributes) as Json,
      };
    }
    if (node.visible === false) extensions[this.uses('KHR_node_visibility')] = { visible: false };
    return clean({
      name,
      children: filled(node.children.map((child) => this.nodes.of(child))),
      translation,
      rotation,
      scale,
      matrix,
      mesh: node.mesh && this.meshes.of(node.mesh),
      camera: node.camera && this.cameras.of(node.camera),
      skin: node.skin && (this.asset.skins ?? []).indexOf(node.skin),
      weights,
      extensions: filledObject(extensions),
      extras: ownExtras(node, light && !isKnown ? { umberLight: ownLight(light) } : undefined),
    });
  }

  private mesh(mesh: Mesh): Json {
    const targetNames = mesh.primitives[0]?.geometry.targets?.map(
      (target, i) => target.name ?? `target ${i}`,
    );
    const extras = targetNames ? { ...(mesh.extras as object | undefined), targetNames } : mesh.extras;
    return clean({
      name: mesh.name,
      primitives: mesh.primitives.map((primitive) => this.primitive(primitive)),
      weights: mesh.weights,
      extras,
    });
  }

  private primitive({ extras, geometry, kept, material, standard = material, variants }: Primitive): Json {
    // Numbered ahead of those of variants: the usual one comes first.
    const number = standard && this.materials.of(standard);
    const extensions = this.kept(kept);
    if (variants) extensions[this.uses('KHR_materials_variants')] = this.variantsOf(variants);
    const packed = this.packed?.get(geometry);
    if (packed)
      extensions[this.uses('KHR_draco_mesh_compression')] = {
        bufferView: this.to.bytesView(packed.bytes),
        attributes: Object.fromEntries(
          Object.entries(packed.ids).map(([name, id]) => [attributeSemantic(name), id]),
        ),
      };
    return clean({
      ...(packed ? this.packedGeometry(packed.unpacked) : this.geometry(geometry)),
      material: number,
      extensions: filledObject(extensions),
      extras,
    });
  }

  private kept(kept: Record<string, unknown> | undefined): Json {
    return writeKept(
      kept,
      this.uses,
      (bytes) => this.to.bytesView(bytes),
      (texture) => this.textures.of(texture),
    );
  }

  private packedGeometry({ attributes, indices }: Geometry): Json {
    return {
      attributes: Object.fromEntries(
        Object.entries(attributes).map(([name, attribute]) => [
          attributeSemantic(name),
          this.to.packedAttribute(attribute, name === 'position'),
        ]),
      ),
      indices: indices && this.to.packedIndices(indices),
    };
  }

  /** One mapping a material. */
  private variantsOf(variants: Record<string, Material>): Json {
    const byMaterial = new Map<Material, number[]>();
    for (const [name, material] of Object.entries(variants)) {
      let number = this.variants.indexOf(name);
      if (number < 0) number = this.variants.push(name) - 1;
      const numbers = byMaterial.get(material);
      if (numbers) numbers.push(number);
      else byMaterial.set(material, [number]);
    }
    return {
      mappings: [...byMaterial].map(([material, numbers]) => ({
        material: this.materials.of(material),
        variants: numbers,
      })),
    };
  }

  private geometry(geometry: Geometry): Json {
    const { attributes, indices, mode, targets } = geometry;
    return {
      attributes: this.attributes(attributes),
      indices: indices && this.to.indices(indices),
      mode: mode && MODES.indexOf(mode),
      targets: targets?.map((target: MorphTarget) => this.attributes(target.attributes, true)),
    };
  }

  private attributes(attributes: Record<string, Attribute>, isTarget = false): Json {
    return Object.fromEntries(
      Object.entries(attributes).map(([name, attribute]) => [
        attributeSemantic(name),
        this.to.attribute(attribute, name === 'position', name, isTarget),
      ]),
    );
  }

  private skin(skin: NonNullable<WritableAsset['skins']>[number]): Json {
    const { name, joints, inverseBindMatrices, skeleton, extras } = skin;
    return clean({
      name,
      joints: joints.map((joint) => this.nodes.of(joint)),
      inverseBindMatrices: inverseBindMatrices && this.to.numbers(inverseBindMatrices, 'MAT4', 16),
      skeleton: skeleton && this.nodes.of(skeleton),
      extras,
    });
  }

  private animation(animation: NonNullable<WritableAsset['animations']>[number]): Json {
    const samplers: Json[] = [];
    const inputs = new Map<Float32Array, number>();
    const channels = animation.channels.map(({ target, path, property, sampler }) => {
      let input = inputs.get(sampler.input);
      if (input === undefined) {
        input = this.to.numbers(sampler.input, 'SCALAR', 1, true);
        inputs.set(sampler.input, input);
      }
      const [type, components] = path === 'property' ? typeOf(sampler.components) : ANIMATED[path];
      samplers.push({
        input,
        interpolation: sampler.interpolation.toUpperCase(),
        output:
          property?.names[0] === 'visible'
            ? this.to.flags(sampler.output)
            : this.to.numbers(sampler.output, type, components),
      });
      const goal = property ? this.pointed(property) : { node: target && this.nodes.of(target), path };
      return { sampler: samplers.length - 1, target: clean(goal) };
    });
    return clean({ name: animation.name, channels, samplers, extras: animation.extras });
  }

  private pointed(property: AnimatedProperty): Json {
    const { owner } = property;
    const pointer = pointerOf(property, {
      node: this.nodes.find(owner),
      material: this.materials.find(owner),
      light: this.lights.find(owner),
      camera: this.cameras.find(owner),
    });
    if (pointer === undefined)
      throw new LensError(
        'gltf/write-animation',
        `"${property.names.join('.')}" has no place in a glTF file`,
        {
          hint: 'Animate what the standard has, of materials, lights, cameras and nodes that the file holds.',
        },
      );
    return { path: 'pointer', extensions: { [this.uses('KHR_animation_pointer')]: { pointer } } };
  }

  private texture(texture: Texture): Json {
    const encoded = encodedOf(texture.image);
    const newer = encoded && NEWER_PICTURES[encoded.mimeType];
    const source = this.images.of(texture.image);
    return clean({
      name: texture.name,
      ...(newer ? { extensions: { [this.uses(newer)]: { source } } } : { source }),
      sampler: texture.sampler && this.samplers.of(texture.sampler),
      extras: texture.extras,
    });
  }

  private image(image: Image, index: number, nameImage: NameImage | undefined): Json {
    const encoded = encodedOf(image);
    if (!encoded) {
      throw new LensError('gltf/write-image', `image "${image.name ?? index}" holds no encoded bytes`, {
        hint: 'Encode it as PNG or JPEG before writing.',
      });
    }
    const { bytes, mimeType } = encoded;
    const place = nameImage
      ? { uri: encodeURIComponent(nameImage(image, index, bytes, mimeType)).replace(/%2F/g, '/') }
      : { bufferView: this.to.bytesView(bytes), mimeType };
    return clean({ name: image.name, ...place, extras: image.extras });
  }
}

/** What the standard has no place for: what reads our files finds it again. */
function ownExtras({ extras, levels, mesh }: AssetNode, own: object | undefined): unknown {
  if (!levels && !own) return extras;
  return { ...(extras as object | undefined), ...own, ...(levels ? levelExtras(levels, mesh) : {}) };
}

function writeCamera(camera: Camera): Json {
  const { type, name, extras, ...lens } = camera;
  return clean({ type, name, [type]: clean({ ...lens }), extras });
}

/** JSON has no typed arrays: colors may be such. */
const asArrays = (_key: string, value: unknown): unknown =>
  ArrayBuffer.isView(value) ? Array.from(value as unknown as ArrayLike<number>) : value;
