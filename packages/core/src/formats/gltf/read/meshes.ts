import type {
  Attribute,
  ComponentType,
  Geometry,
  Indices,
  MorphTarget,
  PrimitiveMode,
} from '../../../geometry/geometry.js';
import { attributeBounds } from '../../../geometry/geometry.js';
import type { Bounds } from '../../../math/bounds.js';
import type { Material, Texture, TextureUse } from '../../../material/material.js';
import type { Mesh, Primitive } from '../../../scene/components.js';
import { type AccessorData, accessorAttribute, accessorBounds, type Accessors } from './accessors.js';
import type { Cursor } from './cursor.js';
import { readKept } from '../extensions/kept-extensions.js';
import { attributeName, MODES } from '../semantics.js';

/** What a semantic's accessor may be, core specification and KHR_mesh_quantization together. */
const SEMANTICS: Record<
  string,
  { components: number[]; types: ComponentType[]; quantized?: ComponentType[] }
> = {
  POSITION: { components: [3], types: ['f32'], quantized: ['i8', 'u8', 'i16', 'u16'] },
  NORMAL: { components: [3], types: ['f32'], quantized: ['i8', 'i16'] },
  TANGENT: { components: [4], types: ['f32'], quantized: ['i8', 'i16'] },
  TEXCOORD: { components: [2], types: ['f32', 'u8', 'u16'], quantized: ['i8', 'i16'] },
  COLOR: { components: [3, 4], types: ['f32', 'u8', 'u16'] },
  JOINTS: { components: [4], types: ['u8', 'u16'] },
  WEIGHTS: { components: [4], types: ['f32', 'u8', 'u16'] },
};

export function readMeshes(
  root: Cursor,
  accessors: Accessors,
  materials: Material[],
  textures: readonly (Texture | undefined)[],
  variants: readonly string[],
  quantized: boolean,
): Mesh[] {
  return root.list('meshes').map((at) => {
    const primitives = at.object().list('primitives');
    at.need('primitives');
    if (primitives.length === 0) at.fail('missing', 'a mesh needs at least one primitive');
    const names = (at.get('extras')?.value as { targetNames?: unknown } | undefined)?.targetNames;
    const targetNames = Array.isArray(names) ? (names as unknown[]).map(String) : [];
    const mesh: Mesh = {
      ...at.common(),
      primitives: primitives.map((place) => {
        const kept = readKept(place.object(), accessors, textures);
        const primitive = readPrimitive(place, accessors, materials, variants, targetNames, quantized);
        return kept ? { ...primitive, kept } : primitive;
      }),
    };
    const targets = mesh.primitives[0]?.geometry.targets?.length ?? 0;
    mesh.primitives.forEach(({ geometry }, i) => {
      if ((geometry.targets?.length ?? 0) !== targets) {
        primitives[i]!.fail('targets', 'the primitives of a mesh must have equally many morph targets');
      }
    });
    const weights = at.list('weights').map((weight) => weight.asNumber());
    if (at.get('weights') && weights.length !== targets) {
      at.need('weights').fail('length', `${targets} weights are expected, not ${weights.length}`);
    }
    if (targets > 0) mesh.weights = weights.length > 0 ? weights : new Array<number>(targets).fill(0);
    for (const [i, { geometry }] of mesh.primitives.entries()) {
      if (mesh.name !== undefined) {
        geometry.name = mesh.primitives.length > 1 ? `${mesh.name} ${i}` : mesh.name;
      }
    }
    return mesh;
  });
}

function readPrimitive(
  at: Cursor,
  accessors: Accessors,
  materials: Material[],
  variantNames: readonly string[],
  targetNames: string[],
  quantized: boolean,
): Primitive {
  const attributesAt = at.need('attributes').object();
  const attributes: Record<string, Attribute> = {};
  let position: AccessorData | undefined;
  for (const semantic of Object.keys(attributesAt.value as object)) {
    const place = attributesAt.need(semantic);
    const data = accessors.read(place);
    checkSemantic(place, semantic, data, quantized);
    if (semantic === 'POSITION') position = data;
    else if (position && data.count !== position.count) differ(place, semantic, data.count, position.count);
    attributes[attributeName(semantic)] = accessorAttribute(data);
  }
  if (!position) {
    // Allowed by the specification, which leaves it undrawn.
    attributesAt.warn('no-position', 'the primitive has no POSITION and draws nothing');
    attributes['position'] = noVertices();
  }
  const count = position?.count ?? 0;
  for (const semantic of Object.keys(attributesAt.value as object)) {
    const other = attributes[attributeName(semantic)]!; // set above
    if (position && other.count !== count) differ(attributesAt.need(semantic), semantic, other.count, count);
  }
  const modeNumber = at.whole('mode', 0, 6) ?? 4;
  const mode = MODES[modeNumber]!; // 0 to 6 by the check
  const indicesAt = at.get('indices');
  const indices = indicesAt ? readIndices(indicesAt, accessors.read(indicesAt), count) : undefined;
  const material = at.get('material')?.pick(materials, 'material');
  const targets = at
    .list('targets')
    .map((place, i) => readTarget(place.object(), accessors, i, count, targetNames));
  const geometry: Geometry = {
    attributes,
    bounds: position ? boundsOf(position, attributes['position']!) : attributeBounds(noVertices()),
    ...(indices ? { indices } : {}),
    ...(mode === 'triangles' ? {} : { mode }),
    ...(targets.length > 0 ? { targets } : {}),
  };
  checkTextureCoordinates(at, material, attributes);
  warnIncomplete(at, mode, indices?.length ?? count);
  const { extras } = at.common();
  const variants = readVariants(at, materials, variantNames);
  return {
    geometry,
    ...(material ? { material } : {}),
    ...(variants ? { variants } : {}),
    ...(extras === undefined ? {} : { extras }),
  };
}

/** Materials by the names of variants. */
function readVariants(
  at: Cursor,
  materials: Material[],
  names: readonly string[],
): Record<string, Material> | undefined {
  const from = at.extension('KHR_materials_variants');
  if (!from) return undefined;
  const variants: Record<string, Material> = {};
  for (const mapping of from.list('mappings')) {
    const material = mapping.object().need('material').pick(materials, 'material');
    for (const variant of mapping.list('variants')) variants[variant.pick(names, 'variant')] = material;
  }
  return variants;
}

function differ(at: Cursor, semantic: string, count: number, vertices: number): never {
  return at.fail('count', `${semantic} has ${count} elements, but there are ${vertices} vertices`);
}

function noVertices(): Attribute {
  return {
    bytes: new Uint8Array(0),
    componentType: 'f32',
    components: 3,
    normalized: false,
    byteOffset: 0,
    byteStride: 12,
    count: 0,
  };
}

function checkSemantic(at: Cursor, semantic: string, data: AccessorData, quantized: boolean): void {
  if (data.type.startsWith('MAT'))
    at.fail('attribute', `${semantic} is a ${data.type}, which cannot be a vertex attribute`);
  const rule = SEMANTICS[semantic.replace(/_\d+$/, '')];
  if (!rule) {
    if (!semantic.startsWith('_')) at.warn('attribute', `"${semantic}" is not an attribute glTF knows`);
    return;
  }
  if (!rule.components.includes(data.components)) {
    at.fail(
      'attribute',
      `${semantic} cannot be a ${data.type}`,
      `It has ${rule.components.join(' or ')} components.`,
    );
  }
  if (rule.types.includes(data.componentType)) return;
  if (!rule.quantized?.includes(data.componentType)) {
    at.fail('attribute', `${semantic} cannot have component type ${data.componentType}`);
  }
  if (!quantized) {
    at.warn('quantization', `${semantic} is quantised, but the file does not use KHR_mesh_quantization`);
  }
}

/** Indices as u16 or u32; u8 is widened, since not every GPU takes it. Each is looked at. */
function readIndices(at: Cursor, data: AccessorData, vertexCount: number): Indices {
  const { bytes, byteOffset, count, componentType } = data;
  if (data.type !== 'SCALAR' || !['u8', 'u16', 'u32'].includes(componentType)) {
    at.fail(
      'indices',
      `indices cannot be ${data.type} of ${componentType}`,
      'They are SCALAR of u8, u16 or u32.',
    );
  }
  const size = { u8: 1, u16: 2, u32: 4 }[componentType as 'u8' | 'u16' | 'u32'];
  if (data.byteStride !== size) at.fail('indices', 'indices must be tightly packed');
  const start = bytes.byteOffset + byteOffset;
  const indices: Indices =
    size === 4
      ? new Uint32Array(bytes.buffer, start, count)
      : size === 2
        ? new Uint16Array(bytes.buffer, start, count)
        : Uint16Array.from(new Uint8Array(bytes.buffer, start, count));
  let most = 0;
  for (let i = 0; i < count; i++) {
    const index = indices[i]!; // i < count
    if (index > most) most = index;
  }
  if (most >= vertexCount) {
    const i = indices.indexOf(most);
    data.place.fail(
      'index-names-no-vertex',
      `index ${i} is ${most}, but there are ${vertexCount} vertices`,
      'The indices belong to other vertices, or the file is damaged.',
    );
  }
  const restart = size === 2 ? 65535 : 4294967295;
  if (size !== 1 && most === restart) {
    data.place.fail(
      'restart-index',
      `index ${restart} is reserved and names no vertex`,
      'Store the indices as u32.',
    );
  }
  return indices;
}

function boundsOf(data: AccessorData, attribute: Attribute): Bounds {
  const bounds = data.componentType === 'f32' ? accessorBounds(data) : attributeBounds(attribute);
  if (!data.min || !data.max) {
    data.place.warn('no-bounds', 'POSITION has no "min" and "max"; they were computed');
  } else if (data.componentType === 'f32' && !data.isRounded) {
    const differs = (said: number[], is: number[]): boolean =>
      said.some((v, k) => Math.abs(Math.fround(v) - is[k]!) > 1e-6 * Math.max(1, Math.abs(is[k]!)));
    if (differs(data.min, bounds.min) || differs(data.max, bounds.max)) {
      data.place.warn(
        'bounds',
        '"min" and "max" of POSITION are not those of its values, which are used instead',
      );
    }
  }
  return bounds;
}

function readTarget(
  at: Cursor,
  accessors: Accessors,
  i: number,
  count: number,
  names: string[],
): MorphTarget {
  const attributes: Record<string, Attribute> = {};
  for (const semantic of Object.keys(at.value as object)) {
    const place = at.need(semantic);
    const data = accessors.read(place);
    if (data.count !== count) differ(place, semantic, data.count, count);
    if (['POSITION', 'NORMAL', 'TANGENT'].includes(semantic) && data.components !== 3) {
      place.fail('attribute', `${semantic} of a morph target is a VEC3, not a ${data.type}`);
    }
    if (data.type.startsWith('MAT')) place.fail('attribute', `${semantic} cannot be a ${data.type}`);
    attributes[attributeName(semantic)] = accessorAttribute(data);
  }
  return names[i] === undefined ? { attributes } : { name: names[i], attributes };
}

function checkTextureCoordinates(
  at: Cursor,
  material: Material | undefined,
  attributes: Record<string, Attribute>,
): void {
  if (!material) return;
  for (const [name, use] of Object.entries(material) as [string, TextureUse][]) {
    if (!name.endsWith('Texture')) continue;
    const set = `texcoord${use.texCoord ?? 0}`;
    if (!attributes[set]) {
      at.warn(
        'no-texcoord',
        `${name} of material "${material.name ?? ''}" needs ${set}, which the primitive lacks`,
      );
    }
  }
}

function warnIncomplete(at: Cursor, mode: PrimitiveMode, n: number): void {
  const isWhole =
    mode === 'triangles'
      ? n % 3 === 0
      : mode === 'lines'
        ? n % 2 === 0
        : mode.startsWith('triangle')
          ? n >= 3
          : true;
  if (!isWhole) at.warn('incomplete', `${n} vertices do not make whole ${mode}; the rest is not drawn`);
}
