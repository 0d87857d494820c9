import type { CustomInput } from '../material/shader-types.js';
import type { HookName, HookOutline } from './hook-outline.js';
import { LOCATION } from './locations.js';

/**
 * What meshes are drawn as: in colour, with or without what scenes may have around them, as a light sees them, or by what their
 * surfaces are; or, bare, by a page that has nothing of the library.
 */
export type Stage = 'plain' | 'full' | 'shadow' | 'surfaces' | 'bare';

/** What is written for each material, and is linked with the `.wgsl` files of the stages. */
export interface MeshStages {
  /** Name of the root among the modules of the library: it holds `meshVertex` and `meshFragment`. */
  root: string;
  /** Text of `umber/hooks.wgsl`: what a vertex brings along and hands over, and the calls of the hooks. */
  hooks: string;
  /** What the stages' `#if` lines ask for. */
  features: string[];
}

/** The module that is written for each material. */
export const HOOKS_FILE = 'umber/hooks.wgsl';

/** A member of what the vertex stage hands over. */
interface Varying {
  name: string;
  type: string;
  isFlat?: boolean;
}

/**
 * How meshes of a material are drawn.
 *
 * @param author the hooks of the material, where it has some
 * @param brought of a bare stage: what vertices bring along besides their position, by the names of `LOCATION`
 */
export function meshStages(
  stage: Stage,
  author?: HookOutline,
  brought: readonly BareInput[] = [],
): MeshStages {
  const hooks = { ...author?.hooks };
  const { attributes = [], instanceSettings = [], features = [] } = author ?? {};
  const isUnlit = stage === 'shadow' || stage === 'surfaces';
  // What looks at the picture behind it has none where there is no picture, and counts as whole.
  if (isUnlit && (features.includes('sceneDepth') || features.includes('sceneColor'))) delete hooks.surface;
  const isFull = stage === 'full';
  const isBare = stage === 'bare';
  const around = stage !== 'plain' && !isBare;
  const inFragment: HookName[] = isUnlit
    ? ['surface', 'march']
    : ['surface', 'march', 'light', 'outputColor'];
  const takes = (type: string): boolean => inFragment.some((name) => hooks[name]?.includes(type));
  const own = [
    ...(takes('Attributes') ? attributes.map((input) => varyingOf(input, false)) : []),
    ...(takes('InstanceSettings') ? instanceSettings.map((input) => varyingOf(input, true)) : []),
  ];
  const hasRows = hooks.march !== undefined || features.includes('objectMatrix');
  const varyings: Varying[] = [
    ...(hooks.march ? [] : surfaceVaryings(features.includes('objectSpace'))),
    ...(hasRows ? ROWS : []),
    ...own,
    ...(isFull ? FULL_VARYINGS : isBare ? [] : [MATERIAL]),
    ...(stage === 'surfaces' ? SURFACE_VARYINGS : []),
  ];
  const output = hooks.outputColor;
  const asked: [feature: string, isAsked: boolean][] = [
    ['fullStage', isFull],
    ['shadowStage', stage === 'shadow'],
    ['surfaceStage', stage === 'surfaces'],
    ['around', around],
    ['bare', isBare],
    ...brought.map((name): [string, boolean] => [`with${name[0]!.toUpperCase()}${name.slice(1)}`, true]), // no name is empty
    ['hooks', author !== undefined],
    ['hookDisplace', hooks.displace !== undefined],
    ['hookSurface', hooks.surface !== undefined],
    ['hookMarch', hooks.march !== undefined],
    ['hookLight', hooks.light !== undefined],
    ['hookOutputColor', output !== undefined],
    ['hookOutputAlone', output !== undefined && !output.includes('vec4f')],
    ['hookOutputSurface', output?.includes('Surface') === true],
    ['objectRows', hasRows],
    ['ownInputs', attributes.length + instanceSettings.length > 0],
    ['ownInstances', instanceSettings.length > 0],
    ['ownVaryings', own.length > 0],
  ];
  return {
    root: ROOTS[stage],
    features: asked.filter(([, isAsked]) => isAsked).map(([feature]) => feature),
    hooks: [
      vertexText(
        isBare ? bareInputs(brought) : meshInputs(around),
        [...attributes, ...instanceSettings],
        around,
      ),
      varyingText(varyings, around),
      ...(author
        ? [...LIBRARY_IMPORTS, ...(isBare ? [] : [SWARM_IMPORT]), authorText(author, hooks, own, !isBare)]
        : []),
    ].join('\n'),
  };
}

/** How pictures are treated by an author's effect. */
export function effectStage(author: HookOutline): MeshStages {
  return {
    root: 'umber/effect.wgsl',
    features: [],
    hooks: ["import { Pixel } from 'umber/pixel.wgsl';", authorText(author, author.hooks, [], false)].join(
      '\n',
    ),
  };
}

const typeOf = ({ components }: CustomInput): string => (components === 1 ? 'f32' : `vec${components}f`);

const varyingOf = (input: CustomInput, isFlat: boolean): Varying => ({
  name: `own_${input.name}`,
  type: typeOf(input),
  isFlat,
});

const surfaceVaryings = (objectSpace: boolean): Varying[] => [
  { name: 'position', type: 'vec3f' },
  { name: 'normal', type: 'vec3f' },
  { name: 'tangent', type: 'vec4f' },
  { name: 'texcoords', type: 'vec4f' },
  { name: 'vertexColor', type: 'vec4f' },
  ...(objectSpace
    ? [
        { name: 'objectPosition', type: 'vec3f' },
        { name: 'objectNormal', type: 'vec3f' },
      ]
    : []),
];

/** The node's world transform, for marched shapes and for those who ask. */
const ROWS: Varying[] = ['row0', 'row1', 'row2'].map((name) => ({ name, type: 'vec4f', isFlat: true }));

const MATERIAL: Varying = { name: 'material', type: 'f32', isFlat: true };

const COPY: Varying = { name: 'copy', type: 'vec3f', isFlat: true };

const FULL_VARYINGS: Varying[] = [{ name: 'node', type: 'vec4f', isFlat: true }, COPY];

/** Places in clip space; that of now without depth. */
const SURFACE_VARYINGS: Varying[] = [
  COPY,
  { name: 'slot', type: 'f32', isFlat: true },
  { name: 'now', type: 'vec3f' },
  { name: 'before', type: 'vec4f' },
];

const ROOTS: Readonly<Record<Stage, string>> = {
  plain: 'umber/mesh.wgsl',
  bare: 'umber/mesh.wgsl',
  full: 'umber/mesh.wgsl',
  shadow: 'umber/shadow.wgsl',
  surfaces: 'umber/surfaces.wgsl',
};

/** What vertices of any page may bring along besides their position. */
export type BareInput = 'normal' | 'tangent' | 'texcoord0' | 'texcoord1' | 'color';

const INPUTS: Readonly<Record<BareInput, string>> = {
  normal: `@location(${LOCATION.normal}) normal: vec3f`,
  tangent: `@location(${LOCATION.tangent}) tangent: vec4f`,
  texcoord0: `@location(${LOCATION.texcoord0}) texcoord0: vec2f`,
  texcoord1: `@location(${LOCATION.texcoord1}) texcoord1: vec2f`,
  color: `@location(${LOCATION.color0}) color: vec4f`,
};
const bareInputs = (brought: readonly BareInput[]): string[] =>
  (Object.keys(INPUTS) as BareInput[]).filter((name) => brought.includes(name)).map((name) => INPUTS[name]);
const meshInputs = (around: boolean): string[] => [
  ...Object.values(INPUTS),
  `@location(${LOCATION.instance}) ${around ? 'code: vec4u' : 'slot: u32'}`,
];

function vertexText(inputs: readonly string[], custom: readonly CustomInput[], around: boolean): string {
  const members = [
    `@location(${LOCATION.position}) position: vec3f`,
    ...inputs,
    ...custom.map((input) => `@location(${input.location}) own_${input.name}: ${typeOf(input)}`),
    ...(around ? [`@location(${LOCATION.bend}) record: f32`] : []),
    '@builtin(vertex_index) index: u32',
  ];
  return `struct MeshVertex {\n${members.map((member) => `  ${member},\n`).join('')}}`;
}

/** @param isInvariant whether depths must be the same to the bit in several pipelines */
function varyingText(varyings: readonly Varying[], isInvariant: boolean): string {
  const members = varyings.map(
    ({ name, type, isFlat }, i) =>
      `  @location(${i}) ${isFlat ? '@interpolate(flat) ' : ''}${name}: ${type},\n`,
  );
  return `struct MeshVarying {
  @builtin(position) ${isInvariant ? '@invariant ' : ''}clip: vec4f,
${members.join('')}}`;
}

const LIBRARY_IMPORTS = [
  "import { Vertex } from 'umber/vertex.wgsl';",
  "import { Fragment, Surface } from 'umber/surface.wgsl';",
  "import { Light } from 'umber/lights.wgsl';",
  "import { Hit, Ray } from 'umber/ray.wgsl';",
];
const SWARM_IMPORT = "import { swarmFloat } from 'umber/swarm.wgsl';";

/** What the stages call of each hook: its parameters by name, and what it gives. */
const CALLS: Record<HookName, { name: string; params: Record<string, string>; gives: string }> = {
  displace: { name: 'displaced', params: { v: 'Vertex' }, gives: 'Vertex' },
  surface: { name: 'surfaceAnswer', params: { p: 'Fragment' }, gives: 'Surface' },
  march: { name: 'marched', params: { ray: 'Ray' }, gives: 'Hit' },
  light: { name: 'lightAnswer', params: { s: 'Surface', l: 'Light', p: 'Fragment' }, gives: 'vec3f' },
  outputColor: {
    name: 'colorAnswer',
    params: { color: 'vec4f', s: 'Surface', p: 'Fragment' },
    gives: 'vec4f',
  },
  effect: { name: 'effectAnswer', params: { p: 'Pixel' }, gives: 'vec4f' },
};

/**
 * An author's settings and inputs as variables of the module, and the calls of the hooks with what each takes.
 *
 * @param hasSwarms whether copies of swarms may bring inputs by instance along
 */
function authorText(
  author: HookOutline,
  hooks: HookOutline['hooks'],
  own: readonly Varying[],
  hasSwarms: boolean,
): string {
  const { attributes, instanceSettings, hasSettings } = author;
  const inputs = [...attributes, ...instanceSettings];
  const built = (type: string, of: readonly CustomInput[]): string =>
    `${type}(${of.map(({ name }) => `own_${name}`).join(', ')})`;
  const names = [
    ...Object.keys(author.hooks),
    ...(hasSettings ? ['Settings'] : []),
    ...(attributes.length > 0 ? ['Attributes'] : []),
    ...(instanceSettings.length > 0 ? ['InstanceSettings'] : []),
  ];
  const calls = (Object.keys(hooks) as HookName[]).map((hook) => {
    const { name, params, gives } = CALLS[hook];
    const values: Record<string, string> = {
      Settings: 'settings',
      Attributes: built('Attributes', attributes),
      InstanceSettings: built('InstanceSettings', instanceSettings),
      ...Object.fromEntries(Object.entries(params).map(([param, type]) => [type, param])),
    };
    const given = (hooks[hook] ?? []).map((type) => values[type]);
    const taken = Object.entries(params).map(([param, type]) => `${param}: ${type}`);
    return `fn ${name}(${taken.join(', ')}) -> ${gives} { return ${hook}(${given.join(', ')}); }`;
  });
  return [
    `import { ${names.join(', ')} } from '${author.file}';`,
    ...(hasSettings ? ['@group(2) @binding(0) var<uniform> settings: Settings;'] : []),
    ...inputs.map((input) => `var<private> own_${input.name}: ${typeOf(input)};`),
    ...(inputs.length > 0
      ? [
          `fn takeInputs(i: MeshVertex) {\n${inputs.map(({ name }) => `  own_${name} = i.own_${name};\n`).join('')}}`,
        ]
      : []),
    ...(hasSwarms && instanceSettings.length > 0 ? [recordText(instanceSettings)] : []),
    ...(own.length > 0
      ? [
          `fn withOwn(given: MeshVarying) -> MeshVarying {\n  var o = given;\n${own.map(({ name }) => `  o.${name} = ${name};\n`).join('')}  return o;\n}`,
          `fn takeVaryings(i: MeshVarying) {\n${own.map(({ name }) => `  ${name} = i.${name};\n`).join('')}}`,
        ]
      : []),
    ...calls,
  ].join('\n');
}

/** Of a swarm's copy, what is its own lies in its record. */
function recordText(inputs: readonly CustomInput[]): string {
  let offset = 0;
  const lines = inputs.map((input) => {
    const parts = Array.from({ length: input.components }, (_, k) => `swarmFloat(at + ${offset + k})`);
    offset += input.components;
    return `  own_${input.name} = ${typeOf(input)}(${parts.join(', ')});\n`;
  });
  return `fn takeRecord(at: u32) {\n${lines.join('')}}`;
}
