import {
  type CustomInput,
  LensError,
  type MaterialSetting,
  type MaterialShader,
  STORAGE_ROW,
  FIRST_CUSTOM_LOCATION,
  LOCATION,
} from '@umber-lens/core/engine';
import { SHADER_FEEDS } from './shader-feeds.js';

export interface GlslMaterialShaderOptions {
  /** Name for messages. Default `material.glsl`. */
  file?: string;
}

interface Uniform {
  type: string;
  name: string;
  /** Elements, for arrays. */
  count: number | undefined;
}

/** Values of the frame, by the names under which a shader declares them as uniforms: type and vector of the block. */
const FRAME: Record<string, { type: string; text: string }> = {
  viewProjection: { type: 'mat4', text: 'mat4(umber_f[0], umber_f[1], umber_f[2], umber_f[3])' },
  view: { type: 'mat4', text: 'mat4(umber_f[4], umber_f[5], umber_f[6], umber_f[7])' },
  cameraPosition: { type: 'vec3', text: 'umber_f[8].xyz' },
  exposure: { type: 'float', text: 'umber_f[8].w' },
  time: { type: 'float', text: 'umber_f[10].w' },
  delta: { type: 'float', text: 'umber_f[12].w' },
  size: { type: 'vec2', text: 'umber_f[14].xy' },
};
const FRAME_BLOCK = 'layout(std140) uniform umber_frame { vec4 umber_f[15]; };';
/** The node's world transform, for shaders that declare it as a uniform. */
const OBJECT = 'objectToWorld';
/** Reads the node's transform as the device keeps storage buffers: four words a texel. */
const OBJECT_FROM_SLOT = `precision highp float;
layout(location = ${LOCATION.instance}) in highp uint umber_slot;
uniform highp usampler2D umber_transforms;
vec4 umber_row(int k) {
  int at = int(umber_slot) * 3 + k;
  return uintBitsToFloat(texelFetch(umber_transforms, ivec2(at % ${STORAGE_ROW}, at / ${STORAGE_ROW}), 0));
}
mat4 umber_objectToWorld() {
  return transpose(mat4(umber_row(0), umber_row(1), umber_row(2), vec4(0.0, 0.0, 0.0, 1.0)));
}`;
const TRANSFORMS = {
  umber_transforms: { binding: [0, 4], lengthUniform: 'umber_transforms_bytes' },
} as const;
const COMPONENTS: Record<string, number> = { float: 1, vec2: 2, vec3: 3, vec4: 4 };
const ALIGN: Record<string, number> = {
  float: 4,
  int: 4,
  uint: 4,
  vec2: 8,
  vec3: 16,
  vec4: 16,
  ivec2: 8,
  ivec3: 16,
  ivec4: 16,
  mat3: 16,
  mat4: 16,
};
const SIZE: Record<string, number> = {
  float: 4,
  int: 4,
  uint: 4,
  vec2: 8,
  vec3: 12,
  vec4: 16,
  ivec2: 8,
  ivec3: 12,
  ivec4: 16,
  mat3: 48,
  mat4: 64,
};

/**
 * A material's shader in GLSL ES 3.00, on WebGL2 alone. What it declares is found by reading it: `in`
 * attributes go by the geometry's names (`position`, `normal`, `texcoord0`, `color0` and the author's own),
 * `uniform`s are settings, samplers textures. Uniforms named `viewProjection`, `view`, `camera`, `exposure`, `time`,
 * `delta`, `size` and `objectToWorld` have the frame's and the node's values. The first output is linear colour,
 * alpha multiplied in. `gl_Position` is written with y up and depth 0..1, 1 at the near plane.
 *
 * @throws LensError `material/glsl` for declarations that cannot be served, with the line
 */
export function glslMaterialShader<S = Record<string, unknown>>(
  vertex: string,
  fragment: string,
  options: GlslMaterialShaderOptions = {},
): MaterialShader<S> {
  const { file = 'material.glsl' } = options;
  for (const text of [vertex, fragment] as unknown[])
    if (typeof text !== 'string')
      throw new LensError(
        'shader/text',
        `${file} was given ${text === undefined ? 'nothing' : `a ${typeof text}`} in place of a shader's text`,
        {
          hint: 'glslMaterialShader(vertex, fragment): the GLSL ES 3.00 of both stages.',
        },
      );
  const uniforms = new Map<string, Uniform>();
  for (const [stage, text] of [
    ['vertex', vertex],
    ['fragment', fragment],
  ] as const) {
    for (const uniform of uniformsOf(text, `${file} (${stage})`)) {
      const known = uniforms.get(uniform.name);
      if (known && (known.type !== uniform.type || known.count !== uniform.count))
        throw fault(
          `"${uniform.name}" has one type in the vertex stage and another in the fragment stage`,
          file,
        );
      uniforms.set(uniform.name, uniform);
    }
  }
  const own = [...uniforms.values()].filter(({ name }) => !(name in FRAME) && name !== OBJECT);
  const pictures = own.filter(({ type }) => type === 'sampler2D');
  const settings = own.filter(({ type }) => type !== 'sampler2D');
  const { members, bytes } = layout(settings, file);
  const block = members.length > 0 ? settingsBlock(settings) : '';
  const { text: vertexText, attributes } = withLocations(vertex, file);
  const samplers = Object.fromEntries(
    pictures.map(({ name }, i) => [name, { texture: [2, 1 + i * 2], sampler: [2, 2 + i * 2] } as const]),
  );
  const blocks = { umber_frame: [0, 0], umber_settings: [2, 0] } as Record<string, [number, number]>;
  const stage = (
    text: string,
    kind: 'vertex' | 'fragment',
  ): NonNullable<MaterialShader['glsl']>['vertex'] => ({
    text: rewritten(text, block),
    stage: kind,
    blocks,
    samplers: samplers as never,
    storage: kind === 'vertex' ? (TRANSFORMS as never) : {},
    overrides: {},
  });
  return {
    file,
    feeds: SHADER_FEEDS,
    wgsl: `// GLSL alone: ${file}\n${vertex}\n${fragment}`,
    vertex: '',
    fragment: '',
    resources: [],
    overrides: [],
    outputs: [],
    notInWebgpu: `${file} is written in GLSL, which WebGPU does not take`,
    glsl: { vertex: stage(vertexText, 'vertex'), fragment: stage(fragment, 'fragment') },
    settings: members,
    settingsBytes: bytes,
    instanceSettings: [],
    attributes,
    textures: pictures.map(({ name }, i) => ({
      name,
      binding: 1 + i * 2,
      samplerBinding: 2 + i * 2,
      kind: 'color' as const,
      documentation: '',
    })),
    readsBehind: [],
    layers: 0,
    isMarched: false,
    isTimed: true,
    isGatherable: false,
    isLit: false,
  };
}

function fault(message: string, file: string, line?: number, hint = ''): LensError {
  return new LensError('material/glsl', message, {
    hint,
    where: { file, ...(line === undefined ? {} : { line }) },
  });
}

const UNIFORM = /^[ \t]*uniform\s+(?:(?:highp|mediump|lowp)\s+)?(\w+)\s+(\w+)\s*(?:\[\s*(\d+)\s*\])?\s*;/gm;

function uniformsOf(text: string, file: string): Uniform[] {
  return [...text.matchAll(UNIFORM)].map(({ 1: type = '', 2: name = '', 3: count, index }) => {
    const known = FRAME[name]?.type ?? (name === OBJECT ? 'mat4' : undefined);
    const line = text.slice(0, index).split('\n').length;
    if (known && known !== type)
      throw fault(`the frame's "${name}" is a ${known}, not a ${type}`, file, line);
    if (!known && type !== 'sampler2D' && !(type in SIZE))
      throw fault(
        `a uniform of type ${type} cannot be a setting`,
        file,
        line,
        `Use ${Object.keys(SIZE).join(', ')} or sampler2D.`,
      );
    return { type, name, count: count === undefined ? undefined : Number(count) };
  });
}

/** Places in a block by the rules of std140 (OpenGL ES 3.0, 2.12.6.4). */
function layout(uniforms: Uniform[], file: string): { members: MaterialSetting[]; bytes: number } {
  let at = 0;
  const members = uniforms.map(({ type, name, count }) => {
    if (count !== undefined)
      throw fault(`the uniform "${name}" is an array, which cannot be a setting`, file);
    const align = ALIGN[type]!; // a known type
    at = Math.ceil(at / align) * align;
    const offset = at;
    at += SIZE[type]!; // a known type
    const size = Number(/[234]$/.exec(type)?.[0] ?? 1);
    const isMatrix = type.startsWith('mat');
    const zeros = new Array<number>(isMatrix ? size * size : size).fill(0);
    const of = type.startsWith('i') ? 'i32' : type.startsWith('u') ? 'u32' : 'f32';
    const wgslType = isMatrix ? `mat${size}x${size}<f32>` : size > 1 ? `vec${size}<${of}>` : of;
    return {
      name,
      type: wgslType,
      documentation: '',
      kind: 'number',
      offset,
      default: size > 1 ? zeros : 0,
      hasDefault: false,
    };
  });
  return { members, bytes: Math.ceil(at / 16) * 16 };
}

function settingsBlock(uniforms: Uniform[]): string {
  return `layout(std140) uniform umber_settings { ${uniforms.map(({ type, name }) => `highp ${type} ${name};`).join(' ')} };`;
}

/** Uniforms give way to blocks; lines stay where they are, so that messages name the author's. */
function rewritten(text: string, block: string): string {
  const isUsed = (name: string): boolean =>
    new RegExp(`^[ \\t]*uniform\\s+\\w+\\s+${name}\\s*;`, 'm').test(text);
  const defines = Object.entries(FRAME)
    .filter(([name]) => isUsed(name))
    .map(([name, { text: value }]) => `#define ${name} (${value})\n`);
  if (isUsed(OBJECT)) defines.push(`#define ${OBJECT} umber_objectToWorld()\n`);
  const plain = text.replace(UNIFORM, (whole, type: string, name: string) =>
    (type === 'sampler2D' && !(name in FRAME)) || name in TRANSFORMS ? whole : whole.replace(/[^\n]/g, ' '),
  );
  const end = plain.indexOf('\n') + 1;
  const head = `precision highp float;\n${FRAME_BLOCK}\n${block}\n${defines.join('')}#line 2\n`;
  return plain.slice(0, end) + head + plain.slice(end);
}

/** Gives the vertex stage's inputs their locations, by name. */
function withLocations(text: string, file: string): { text: string; attributes: CustomInput[] } {
  const attributes: CustomInput[] = [];
  const usual: Record<string, number> = { ...LOCATION };
  const located = text.replace(
    /^([ \t]*)in\s+(?:(?:highp|mediump|lowp)\s+)?(\w+)\s+(\w+)\s*;/gm,
    (_, space: string, type: string, name: string, index: number) => {
      const location = name === 'instance' ? undefined : usual[name];
      if (location !== undefined) return `${space}layout(location = ${location}) in ${type} ${name};`;
      const components = COMPONENTS[type];
      if (!components)
        throw fault(
          `the attribute "${name}" cannot be a ${type}`,
          `${file} (vertex)`,
          text.slice(0, index).split('\n').length,
          'Use float, vec2, vec3 or vec4.',
        );
      const own = FIRST_CUSTOM_LOCATION + attributes.length;
      attributes.push({ name, location: own, components });
      return `${space}layout(location = ${own}) in ${type} ${name};`;
    },
  );
  if (!new RegExp(`\\buniform\\s+mat4\\s+${OBJECT}\\b`).test(text)) return { text: located, attributes };
  const end = located.indexOf('\n') + 1;
  return { text: `${located.slice(0, end)}${OBJECT_FROM_SLOT}\n#line 2\n${located.slice(end)}`, attributes };
}
