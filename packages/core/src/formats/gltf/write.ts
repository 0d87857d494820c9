import type { Attribute, Geometry, MorphTarget } from '../../geometry/geometry.js';
import { COMPONENT_BYTES } from '../../geometry/geometry.js';
import { LensError } from '../../errors/lens-error.js';
import { emptyBounds, growBounds } from '../../math/bounds.js';
import type { Image, Material, Sampler, Texture, TextureUse } from '../../material/material.js';
import { LAYERS } from '../../material/layers.js';
import { MATERIAL_DEFAULTS } from '../../material/material.js';
import type { Camera, Light, Mesh } from '../../scene/components.js';
import type { AssetNode, ModelAsset } from './asset.js';
import { attributeSemantic, MODES } from './meshes.js';

/** What a model may leave out when it is made for writing. */
export type WritableAsset = Partial<ModelAsset> & Pick<ModelAsset, 'nodes'>;

type Json = Record<string, unknown>;

/**
 * Writes GLB. Meshes, materials and the rest that nodes refer to are found by themselves; shared
 * objects are written once, and vertex bytes shared by several attributes too. The same asset gives
 * the same bytes each time.
 *
 * @throws LensError `gltf/write-image` for an image that holds no encoded bytes
 */
export function writeGlb(asset: WritableAsset): Uint8Array {
  const writer = new Writer(asset);
  const json = writer.document(undefined);
  const binary = writer.binary();
  if (binary.length > 0) json['buffers'] = [{ byteLength: binary.length }];
  const text = pad(encodeText(JSON.stringify(json)), 0x20);
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
export function writeGltf(asset: WritableAsset, name: string): Map<string, Uint8Array> {
  const files = new Map<string, Uint8Array>();
  const writer = new Writer(asset);
  const json = writer.document((image, index, bytes, mimeType) => {
    const ending = mimeType === 'image/jpeg' ? 'jpg' : mimeType.replace('image/', '');
    const file = image.uri ?? `${name}-${image.name ?? index}.${ending}`;
    files.set(file, bytes);
    return file;
  });
  const binary = writer.binary();
  if (binary.length > 0) {
    json['buffers'] = [{ uri: encodeURIComponent(`${name}.bin`), byteLength: binary.length }];
    files.set(`${name}.bin`, binary);
  }
  return new Map([[`${name}.gltf`, encodeText(`${JSON.stringify(json, null, 2)}\n`)], ...files]);
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

const COMPONENT_CODE = { i8: 5120, u8: 5121, i16: 5122, u16: 5123, u32: 5125, f32: 5126 } as const;
const ANIMATED = {
  translation: ['VEC3', 3],
  rotation: ['VEC4', 4],
  scale: ['VEC3', 3],
  weights: ['SCALAR', 1],
} as const;
const ARRAY_BUFFER = 34962;
const ELEMENT_ARRAY_BUFFER = 34963;

/** Gives each object met a number, in the order of meeting. */
class Numbering<T extends object> {
  readonly items: T[] = [];
  private readonly index = new Map<T, number>();

  constructor(first: readonly T[] = []) {
    for (const item of first) this.of(item);
  }

  of(item: T): number {
    let at = this.index.get(item);
    if (at === undefined) {
      at = this.items.push(item) - 1;
      this.index.set(item, at);
    }
    return at;
  }
}

type NameImage = (image: Image, index: number, bytes: Uint8Array, mimeType: string) => string;

class Writer {
  private readonly nodes: Numbering<AssetNode>;
  private readonly meshes: Numbering<Mesh>;
  private readonly materials: Numbering<Material>;
  private readonly textures: Numbering<Texture>;
  private readonly images: Numbering<Image>;
  private readonly samplers: Numbering<Sampler>;
  private readonly cameras: Numbering<Camera>;
  private readonly lights: Numbering<Light>;
  private readonly extensions = new Set<string>();
  private readonly chunks: Uint8Array[] = [];
  private byteCount = 0;
  private readonly views: Json[] = [];
  private readonly accessors: Json[] = [];
  /** Where bytes that are shared have been put. */
  private readonly placed = new Map<Uint8Array, number>();
  private readonly viewOf = new Map<string, number>();
  private readonly attributeOf = new Map<Attribute, number>();
  private readonly indicesOf = new Map<object, number>();
  /** Names of variants, in the order of their numbers. */
  private readonly variants: string[];

  constructor(private readonly asset: WritableAsset) {
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
    const isChild = new Set(asset.nodes.flatMap((node) => node.children));
    const scenes = asset.scenes ?? [{ nodes: asset.nodes.filter((node) => !isChild.has(node)) }];
    // In the order of reference, so that each list is complete when it is written.
    const nodes = each(this.nodes, (node) => this.node(node));
    const meshes = each(this.meshes, (mesh) => this.mesh(mesh));
    const skins = (asset.skins ?? []).map((skin) => this.skin(skin));
    const animations = (asset.animations ?? []).map((animation) => this.animation(animation));
    const materials = each(this.materials, (material) => this.material(material));
    const textures = each(this.textures, (texture) => this.texture(texture));
    const samplers = each(this.samplers, writeSampler);
    const images = each(this.images, (image, i) => this.image(image, i, nameImage));
    const cameras = each(this.cameras, writeCamera);
    const lights = each(this.lights, writeLight);
    const defaultScene = scenes.findIndex((scene) => scene === asset.defaultScene);
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
    const extensions: Json = {};
    if (lights.length > 0) extensions[this.uses('KHR_lights_punctual')] = { lights };
    if (this.variants.length > 0)
      extensions[this.uses('KHR_materials_variants')] = { variants: this.variants.map((name) => ({ name })) };
    json['extensions'] = filledObject(extensions);
    const used = [...new Set([...this.extensions])].sort();
    json['extensionsUsed'] = filled(used);
    json['extensionsRequired'] = filled(used.filter((name) => name === 'KHR_mesh_quantization'));
    json['accessors'] = filled(this.accessors);
    json['bufferViews'] = filled(this.views);
    return clean(json);
  }

  binary(): Uint8Array {
    const out = new Uint8Array(this.byteCount);
    let at = 0;
    for (const chunk of this.chunks) {
      out.set(chunk, at);
      at += (chunk.length + 3) & ~3;
    }
    return out;
  }

  private uses(extension: string): string {
    this.extensions.add(extension);
    return extension;
  }

  private node(node: AssetNode): Json {
    const { name, translation, rotation, scale, matrix, weights, light, extras } = node;
    const isKnown = light && isPunctual(light);
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
      extensions: isKnown
        ? { [this.uses('KHR_lights_punctual')]: { light: this.lights.of(light) } }
        : undefined,
      // The standard has no other lights: what reads our files finds them again.
      extras:
        light && !isKnown ? { ...(extras as object | undefined), umberLight: clean({ ...light }) } : extras,
    });
  }

  private mesh(mesh: Mesh): Json {
    const targetNames = mesh.primitives[0]?.geometry.targets?.map(
      (target, i) => target.name ?? `target ${i}`,
    );
    const extras = targetNames ? { ...(mesh.extras as object | undefined), targetNames } : mesh.extras;
    return clean({
      name: mesh.name,
      primitives: mesh.primitives.map(({ geometry, material, standard = material, variants, extras: own }) =>
        clean({
          ...this.geometry(geometry),
          material: standard && this.materials.of(standard),
          extensions: variants && { [this.uses('KHR_materials_variants')]: this.variantsOf(variants) },
          extras: own,
        }),
      ),
      weights: mesh.weights,
      extras,
    });
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
      indices: indices && this.indices(indices),
      mode: mode && MODES.indexOf(mode),
      targets: targets?.map((target: MorphTarget) => this.attributes(target.attributes)),
    };
  }

  private attributes(attributes: Record<string, Attribute>): Json {
    return Object.fromEntries(
      Object.entries(attributes).map(([name, attribute]) => [
        attributeSemantic(name),
        this.attribute(attribute, name === 'position', name),
      ]),
    );
  }

  private attribute(attribute: Attribute, withBounds: boolean, name: string): number {
    const found = this.attributeOf.get(attribute);
    if (found !== undefined) return found;
    const { bytes, componentType, components, normalized, byteOffset, byteStride, count } = attribute;
    if (componentType !== 'f32' && ['position', 'normal', 'tangent'].includes(name))
      this.uses('KHR_mesh_quantization');
    const accessor = clean({
      bufferView: this.view(bytes, byteStride),
      byteOffset: byteOffset || undefined,
      componentType: COMPONENT_CODE[componentType],
      normalized: normalized || undefined,
      count,
      type: components === 1 ? 'SCALAR' : `VEC${components}`,
      ...(withBounds ? rawBounds(attribute) : {}),
    });
    const index = this.accessors.push(accessor) - 1;
    this.attributeOf.set(attribute, index);
    return index;
  }

  private indices(indices: Uint8Array | Uint16Array | Uint32Array): number {
    const found = this.indicesOf.get(indices);
    if (found !== undefined) return found;
    const bytes = new Uint8Array(indices.buffer, indices.byteOffset, indices.byteLength);
    const index =
      this.accessors.push({
        bufferView: this.addView(this.add(bytes), bytes.length, { target: ELEMENT_ARRAY_BUFFER }),
        componentType: indices.BYTES_PER_ELEMENT === 1 ? 5121 : indices.BYTES_PER_ELEMENT === 2 ? 5123 : 5125,
        count: indices.length,
        type: 'SCALAR',
      }) - 1;
    this.indicesOf.set(indices, index);
    return index;
  }

  /** Plain numbers, for skins and animations. */
  private numbers(values: Float32Array, type: string, components: number, withBounds = false): number {
    const bytes = new Uint8Array(values.buffer, values.byteOffset, values.byteLength);
    const accessor: Json = {
      bufferView: this.addView(this.add(bytes), bytes.length, {}),
      componentType: COMPONENT_CODE.f32,
      count: values.length / components,
      type,
    };
    if (withBounds) Object.assign(accessor, { min: [values[0]], max: [values.at(-1)] });
    return this.accessors.push(accessor) - 1;
  }

  private skin(skin: NonNullable<WritableAsset['skins']>[number]): Json {
    const { name, joints, inverseBindMatrices, skeleton, extras } = skin;
    return clean({
      name,
      joints: joints.map((joint) => this.nodes.of(joint)),
      inverseBindMatrices: inverseBindMatrices && this.numbers(inverseBindMatrices, 'MAT4', 16),
      skeleton: skeleton && this.nodes.of(skeleton),
      extras,
    });
  }

  private animation(animation: NonNullable<WritableAsset['animations']>[number]): Json {
    const samplers: Json[] = [];
    const inputs = new Map<Float32Array, number>();
    const channels = animation.channels.map(({ target, path, sampler }) => {
      let input = inputs.get(sampler.input);
      if (input === undefined) {
        input = this.numbers(sampler.input, 'SCALAR', 1, true);
        inputs.set(sampler.input, input);
      }
      const [type, components] = ANIMATED[path];
      samplers.push({
        input,
        interpolation: sampler.interpolation.toUpperCase(),
        output: this.numbers(sampler.output, type, components),
      });
      return { sampler: samplers.length - 1, target: clean({ node: target && this.nodes.of(target), path }) };
    });
    return clean({ name: animation.name, channels, samplers, extras: animation.extras });
  }

  private material(material: Material): Json {
    const extensions: Json = {};
    if (material.unlit) extensions[this.uses('KHR_materials_unlit')] = {};
    if ((material.emissiveStrength ?? 1) !== 1) {
      extensions[this.uses('KHR_materials_emissive_strength')] = {
        emissiveStrength: material.emissiveStrength,
      };
    }
    const isGlossy = material.glossinessFactor !== undefined;
    if (isGlossy) {
      extensions[this.uses('KHR_materials_pbrSpecularGlossiness')] = clean({
        diffuseFactor: material.baseColorFactor,
        diffuseTexture: this.use(material.baseColorTexture),
        specularFactor: material.specularColorFactor,
        glossinessFactor: material.glossinessFactor,
        specularGlossinessTexture: this.use(material.specularColorTexture),
      });
    }
    for (const layer of LAYERS) {
      const { name, numbers, textures } = layer;
      // The archived extension says these itself.
      if (isGlossy && (name === 'specular' || name === 'ior')) continue;
      const given = clean({
        ...Object.fromEntries(numbers.map(({ key }) => [key, finite(material[key])])),
        ...Object.fromEntries(
          textures.map(({ key, strength }) => [
            key,
            this.use(material[key] as TextureUse | undefined, strength),
          ]),
        ),
      });
      if (Object.keys(given).length > 0) extensions[this.uses(layer.extension)] = given;
    }
    const mode = material.alphaMode ?? MATERIAL_DEFAULTS.alphaMode;
    const pbr = clean({
      baseColorFactor: material.baseColorFactor,
      baseColorTexture: this.use(material.baseColorTexture),
      metallicFactor: material.metallicFactor,
      roughnessFactor: material.roughnessFactor,
      metallicRoughnessTexture: this.use(material.metallicRoughnessTexture),
    });
    return clean({
      name: material.name,
      pbrMetallicRoughness: filledObject(pbr),
      normalTexture: this.use(material.normalTexture, 'scale'),
      occlusionTexture: this.use(material.occlusionTexture, 'strength'),
      emissiveTexture: this.use(material.emissiveTexture),
      emissiveFactor: material.emissiveFactor,
      alphaMode: mode === 'opaque' ? undefined : mode.toUpperCase(),
      alphaCutoff: mode === 'mask' ? material.alphaCutoff : undefined,
      doubleSided: material.doubleSided || undefined,
      extensions: filledObject(extensions),
      extras: material.extras,
    });
  }

  private use(use: TextureUse | undefined, strengthKey?: string): Json | undefined {
    if (!use) return undefined;
    const { transform } = use;
    return clean({
      index: this.textures.of(use.texture),
      texCoord: use.texCoord || undefined,
      ...(strengthKey ? { [strengthKey]: use.strength } : {}),
      extensions: transform && {
        [this.uses('KHR_texture_transform')]: { ...transform },
      },
    });
  }

  private texture(texture: Texture): Json {
    return clean({
      name: texture.name,
      source: this.images.of(texture.image),
      sampler: texture.sampler && this.samplers.of(texture.sampler),
      extras: texture.extras,
    });
  }

  private image(image: Image, index: number, nameImage: NameImage | undefined): Json {
    if (image.content.kind !== 'encoded') {
      throw new LensError('gltf/write-image', `image "${image.name ?? index}" holds no encoded bytes`, {
        hint: 'Encode it as PNG or JPEG before writing.',
      });
    }
    const { bytes, mimeType } = image.content;
    const place = nameImage
      ? { uri: encodeURIComponent(nameImage(image, index, bytes, mimeType)).replace(/%2F/g, '/') }
      : { bufferView: this.addView(this.add(bytes), bytes.length, {}), mimeType };
    return clean({ name: image.name, ...place, extras: image.extras });
  }

  /** A view of shared vertex bytes; one for each stride they are read with. */
  private view(bytes: Uint8Array, byteStride: number): number {
    const offset = this.add(bytes);
    const key = `${offset} ${byteStride}`;
    let view = this.viewOf.get(key);
    if (view === undefined) {
      view = this.addView(offset, bytes.length, { byteStride, target: ARRAY_BUFFER });
      this.viewOf.set(key, view);
    }
    return view;
  }

  private addView(byteOffset: number, byteLength: number, rest: Json): number {
    return (
      this.views.push(clean({ buffer: 0, byteOffset: byteOffset || undefined, byteLength, ...rest })) - 1
    );
  }

  private add(bytes: Uint8Array): number {
    let offset = this.placed.get(bytes);
    if (offset === undefined) {
      offset = this.byteCount;
      this.placed.set(bytes, offset);
      this.chunks.push(bytes);
      this.byteCount += (bytes.length + 3) & ~3;
    }
    return offset;
  }
}

/** Writes every item of a list that may grow while it is written. */
function each<T extends object>(list: Numbering<T>, write: (item: T, index: number) => Json): Json[] {
  const out: Json[] = [];
  for (let i = 0; i < list.items.length; i++) out.push(write(list.items[i]!, i));
  return out;
}

/** Bounds in the stored numbers themselves: integers stay integers (3.6.2.5). */
function rawBounds(attribute: Attribute): Json {
  const { bytes, componentType, byteOffset, byteStride, count } = attribute;
  const view = new DataView(bytes.buffer, bytes.byteOffset + byteOffset);
  const size = COMPONENT_BYTES[componentType];
  const read = {
    i8: (at: number) => view.getInt8(at),
    u8: (at: number) => view.getUint8(at),
    i16: (at: number) => view.getInt16(at, true),
    u16: (at: number) => view.getUint16(at, true),
    u32: (at: number) => view.getUint32(at, true),
    f32: (at: number) => view.getFloat32(at, true),
  }[componentType];
  const bounds = emptyBounds();
  for (let i = 0; i < count; i++) {
    const at = i * byteStride;
    growBounds(bounds, read(at), read(at + size), read(at + 2 * size));
  }
  return { min: bounds.min, max: bounds.max };
}

function writeSampler(sampler: Sampler): Json {
  const { name, magFilter, minFilter, mipmapFilter, wrapS, wrapT } = sampler;
  const wrap = { repeat: 10497, 'clamp-to-edge': 33071, 'mirror-repeat': 33648 } as const;
  const linear = (minFilter ?? 'linear') === 'linear' ? 1 : 0;
  const minify =
    mipmapFilter === 'none'
      ? 9728 + linear
      : 9984 + linear + ((mipmapFilter ?? 'linear') === 'linear' ? 2 : 0);
  return clean({
    name,
    magFilter: magFilter && (magFilter === 'linear' ? 9729 : 9728),
    minFilter: minFilter || mipmapFilter ? minify : undefined,
    wrapS: wrapS && wrap[wrapS],
    wrapT: wrapT && wrap[wrapT],
  });
}

function writeCamera(camera: Camera): Json {
  const { type, name, extras, ...lens } = camera;
  return clean({ type, name, [type]: clean({ ...lens }), extras });
}

/** Whether KHR_lights_punctual has lights of this kind. */
const isPunctual = ({ type }: Light): boolean => ['directional', 'point', 'spot'].includes(type);

function writeLight(light: Light): Json {
  const { innerConeAngle, outerConeAngle, ...rest } = light;
  return clean({
    ...rest,
    spot: light.type === 'spot' ? clean({ innerConeAngle, outerConeAngle }) : undefined,
  });
}

function clean(json: Json): Json {
  return Object.fromEntries(Object.entries(json).filter(([, value]) => value !== undefined));
}

function filled<T>(list: T[]): T[] | undefined {
  return list.length > 0 ? list : undefined;
}

function filledObject(json: Json): Json | undefined {
  return Object.keys(json).length > 0 ? json : undefined;
}

/** JSON has no infinity: what is without limit is left out. */
function finite(value: unknown): unknown {
  return value === Infinity ? undefined : value;
}
