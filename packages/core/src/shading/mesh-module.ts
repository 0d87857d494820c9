import type { CustomInput } from '../material/shader-types.js';
import { type HookName, type HookOutline } from './hook-outline.js';
import { LOCATION } from './locations.js';

/**
 * Entry points that draw meshes, with an author's hooks where there are any. The text of a WGSL module.
 *
 * @param isFull with what scenes may have around them: environments, fog, other tone curves
 */
export function meshModule(author?: HookOutline, isFull = false): string {
  const hooks = author?.hooks ?? {};
  const { attributes = [], instanceSettings = [], features = [] } = author ?? {};
  const fragmentHooks = [hooks.surface, hooks.march, hooks.light, hooks.outputColor].filter(
    (hook) => hook !== undefined,
  );
  const inFragment = (type: string): boolean => fragmentHooks.some((takes) => takes.includes(type));
  const custom = [
    ...customVaryings(inFragment('Attributes') && !hooks.march ? attributes : [], false),
    ...customVaryings(inFragment('InstanceSettings') ? instanceSettings : [], true),
  ];
  const varyings = hooks.march
    ? [...ROWS, ...custom]
    : [
        ...usualVaryings(features.includes('objectSpace')),
        ...(features.includes('objectMatrix') ? ROWS : []),
        ...custom,
      ];
  varyings.push(...(isFull ? [NODE, COPY] : [MATERIAL]));
  return [
    ...LIBRARY_IMPORTS,
    ...(isFull ? FULL_IMPORTS : []),
    ...(author ? [`import { ${authorNames(author).join(', ')} } from '${author.file}';`] : []),
    'override isUnlit = false;',
    ...(isFull ? ['override isGathered = false;'] : []),
    'override hasNormal = true;',
    ...(author?.hasSettings ? ['@group(2) @binding(0) var<uniform> settings: Settings;'] : []),
    vertexInput([...attributes, ...instanceSettings], isFull),
    varyingStruct(varyings, isFull),
    vertexEntry(author, varyings, false, isFull),
    shadeFunction(author, custom, isFull),
    hooks.march ? marchEntry(author!, varyings, custom) : fragmentEntry(author, varyings, custom),
  ].join('\n');
}

/**
 * Entry points that draw meshes as a light sees them: depth alone. Hooks that move vertices, cut holes or march shapes
 * have their part in it. The text of a WGSL module.
 */
export function shadowModule(author?: HookOutline): string {
  const hooks = author?.hooks ?? {};
  const { attributes = [], instanceSettings = [], features = [] } = author ?? {};
  const takes = [...(hooks.surface ?? []), ...(hooks.march ?? [])];
  const custom = [
    ...customVaryings(takes.includes('Attributes') && !hooks.march ? attributes : [], false),
    ...customVaryings(takes.includes('InstanceSettings') ? instanceSettings : [], true),
  ];
  const varyings = hooks.march
    ? [...ROWS, ...custom]
    : [
        ...usualVaryings(features.includes('objectSpace')),
        ...(features.includes('objectMatrix') ? ROWS : []),
        ...custom,
      ];
  varyings.push(MATERIAL_AND_MARK);
  // What looks at the picture behind it has none here, and counts as whole.
  const isCut = !features.includes('sceneDepth') && !features.includes('sceneColor');
  const surface = `let s = ${surfaceCall(isCut ? hooks.surface : undefined, { ...ownValues(author), Fragment: 'p' })};`;
  const shade = `fn shade(p: Fragment${custom.map(({ name, type }) => `, ${name}: ${type}`).join('')}) {
  if isMask {
    ${surface}
    if coverage(s.alpha) < 0 { discard; }
  }
}`;
  return [
    ...LIBRARY_IMPORTS,
    CLIPPING_IMPORT,
    BEND_IMPORT,
    SWARM_IMPORT,
    ...(author ? [`import { ${authorNames(author).join(', ')} } from '${author.file}';`] : []),
    'override hasNormal = true;',
    // Else from the camera: depths ahead of the picture.
    'override isFromLight = true;',
    ...(author?.hasSettings ? ['@group(2) @binding(0) var<uniform> settings: Settings;'] : []),
    vertexInput([...attributes, ...instanceSettings], true),
    varyingStruct(varyings, true),
    vertexEntry(author, varyings, true),
    hooks.march ? marchedShadow(author!, varyings) : shade + fragmentEntry(author, varyings, custom, true),
  ].join('\n');
}

/**
 * Adds light to what the surfaces of a picture are made of, once a pixel. The text of a WGSL module: group 1 holds the three
 * targets that full fragments gather into, and their depth.
 *
 * @public compiled by scripts/compile-shaders.mjs
 */
export function deferredModule(): string {
  return [
    ...LIBRARY_IMPORTS.filter((line) => /frame\.wgsl|surface\.wgsl|lights\.wgsl/.test(line)),
    "import { rayThrough } from 'umber/ray.wgsl';",
    ...FULL_IMPORTS.filter((line) =>
      /layered|fog|tone|shadows|useShadows|clusters|area|lights\.wgsl/.test(line),
    ),
    `@group(1) @binding(0) var gatheredBase: texture_2d<f32>;
@group(1) @binding(1) var gatheredNormal: texture_2d<f32>;
@group(1) @binding(2) var gatheredEmissive: texture_2d<f32>;
@group(1) @binding(3) var gatheredDepth: texture_depth_2d;
@vertex fn deferredVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f {
  return vec4f(vec2f(vec2u(i & 1, i >> 1) * 4) - 1, 0, 1);
}
@fragment fn deferredFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let pixel = vec2i(at.xy);
  let depth = textureLoad(gatheredDepth, pixel, 0);
  if depth == 0 { discard; }
  let base = textureLoad(gatheredBase, pixel, 0);
  let normal = textureLoad(gatheredNormal, pixel, 0);
  let own = textureLoad(gatheredEmissive, pixel, 0);
  // The place on the pixel's ray that has this depth.
  let ray = rayThrough(at.xy);
  let a = frame.viewProjection * vec4f(ray.origin, 1);
  let b = frame.viewProjection * vec4f(ray.direction, 0);
  let t = (depth * a.w - a.z) / (b.z - depth * b.w);
  var p: Fragment;
  p.position = ray.origin + ray.direction * t;
  p.toCamera = -ray.direction;
  p.normal = normalize(normal.xyz);
  p.isFront = true;
  var s: Surface;
  s.baseColor = base.rgb;
  s.occlusion = base.a;
  s.normal = p.normal;
  s.roughness = normal.a;
  s.metallic = select(own.a, own.a - 2, own.a > 1.5);
  s.emissive = own.rgb;
  s.alpha = 1;
  let node = vec4f(select(1.0, 0.0, own.a > 1.5), 1, 0, 0);
  let layered = layeredOf(s, p);
  var color = allAround(layered, s, p, node.y);
${clustered(false)}
    color += layeredShine(layered, s, l);
  }
  color += ownLight(layered, s);
  return present(throughFog(color, p.position, p.toCamera), 1);
}`,
  ].join('\n');
}

function marchedShadow(author: HookOutline, varyings: readonly Varying[]): string {
  const march = call('march', author.hooks.march ?? [], {
    ...ownValues(author),
    Ray: 'rayInObject(m, rayThrough(at.xy))',
  });
  return `@fragment fn meshFragment(
  ${[...varyings.map(located), '@builtin(position) at: vec4f'].join(',\n  ')},
) -> @builtin(frag_depth) f32 {
${ownMaterial(false, true)}  let m = transpose(mat3x4f(row0, row1, row2));
  let hit = ${march};
  if !hit.isHit { discard; }
${cutAt('m * vec4f(hit.position, 1)', false)}
  return depthOf(m * vec4f(hit.position, 1));
}`;
}

const LIBRARY_IMPORTS = [
  "import { frame, toCameraFrom } from 'umber/frame.wgsl';",
  "import { objectToWorld, transforms, SLOT_BITS, materialOf, receivesShadow, castsShadow } from 'umber/transforms.wgsl';",
  "import { Vertex, worldNormal, worldTangent } from 'umber/vertex.wgsl';",
  "import { Fragment, Surface } from 'umber/surface.wgsl';",
  "import { surfaceDefaults, baseColorAt, coverage, hasColor, isMask, materialNumber } from 'umber/material.wgsl';",
  "import { hasTangent } from 'umber/normal-map.wgsl';",
  "import { shadingOf, shine, ambient } from 'umber/lighting.wgsl';",
  "import { Light, lightAt } from 'umber/lights.wgsl';",
  "import { toneMap } from 'umber/color.wgsl';",
  "import { rayThrough, rayInObject, depthOf } from 'umber/ray.wgsl';",
];

const CLIPPING_IMPORT = "import { isClipped, cutMark, isCutAway } from 'umber/clipping.wgsl';";
const BEND_IMPORT = "import { bend, isBent } from 'umber/bend.wgsl';";
const SWARM_IMPORT = "import { copyOf, swarmFloat, isSwarm, isOfOtherLevel } from 'umber/swarm.wgsl';";

const FULL_IMPORTS = [
  CLIPPING_IMPORT,
  BEND_IMPORT,
  SWARM_IMPORT,
  "import { allAround, layeredOf, layeredShine, ownLight, useEnvironment } from 'umber/layered.wgsl';",
  "import { throughFog, fogOverGiven } from 'umber/fog.wgsl';",
  "import { present, presentGiven } from 'umber/tone.wgsl';",
  "import { shadowAt } from 'umber/shadows.wgsl';",
  "import { inspected, isInspected, isWire, marked, showsQuantity } from 'umber/inspect.wgsl';",
  "import { cellAt, lightCountAt, lightNumber, sourceOf } from 'umber/clusters.wgsl';",
  "import { lightFrom } from 'umber/lights.wgsl';",
  "import { isElsewhere } from 'umber/peel.wgsl';",
  "import { isPointed, pointed } from 'umber/pointed.wgsl';",
  "import { areaAsPoint, areaShine, isArea } from 'umber/area.wgsl';",
  'override useShadows = false;',
];

function authorNames({ hooks, hasSettings, attributes, instanceSettings }: HookOutline): string[] {
  return [
    ...Object.keys(hooks),
    ...(hasSettings ? ['Settings'] : []),
    ...(attributes.length > 0 ? ['Attributes'] : []),
    ...(instanceSettings.length > 0 ? ['InstanceSettings'] : []),
  ];
}

interface Varying {
  name: string;
  type: string;
  /** What the vertex stage hands over. */
  from: string;
  isFlat?: boolean;
}

const typeOf = ({ components }: CustomInput): string => (components === 1 ? 'f32' : `vec${components}f`);

function customVaryings(inputs: readonly CustomInput[], isFlat: boolean): Varying[] {
  return inputs.map((input) => ({
    name: `own_${input.name}`,
    type: typeOf(input),
    from: `${isFlat ? '' : 'i.'}own_${input.name}`,
    isFlat,
  }));
}

function usualVaryings(objectSpace: boolean): Varying[] {
  return [
    { name: 'position', type: 'vec3f', from: 'world' },
    { name: 'normal', type: 'vec3f', from: 'worldNormal(m, v.normal)' },
    { name: 'tangent', type: 'vec4f', from: 'worldTangent(m, v.tangent)' },
    { name: 'texcoords', type: 'vec4f', from: 'vec4f(v.texcoord0, v.texcoord1)' },
    { name: 'vertexColor', type: 'vec4f', from: 'v.color' },
    ...(objectSpace
      ? [
          { name: 'objectPosition', type: 'vec3f', from: 'i.position' },
          { name: 'objectNormal', type: 'vec3f', from: 'i.normal' },
        ]
      : []),
  ];
}

/** 1 when shadows fall on the node; how much it is larger than its geometry; its slot; and its material. */
const NODE: Varying = {
  name: 'node',
  type: 'vec4f',
  from: 'vec4f(f32(receivesShadow(slot)), length(m[0]), f32(slot & SLOT_BITS), f32(materialOf(slot) | cutMark(slot & SLOT_BITS)))',
  isFlat: true,
};

/** Of a swarm's copy: the pixels that its level covers, from one share to the other, and its record. */
const COPY: Varying = { name: 'copy', type: 'vec3f', from: 'copy', isFlat: true };

/** The material alone. */
const MATERIAL: Varying = { name: 'own', type: 'f32', from: 'f32(materialOf(slot))', isFlat: true };
/** And whether the node is cut. */
const MATERIAL_AND_MARK: Varying = {
  ...MATERIAL,
  from: 'f32(materialOf(slot) | cutMark(slot & SLOT_BITS))',
};

/** The node's world transform, for marched shapes and for those who ask. */
const ROWS: Varying[] = [0, 1, 2].map((k) => ({
  name: `row${k}`,
  type: 'vec4f',
  from: `vec4f(m[0].${'xyz'[k]}, m[1].${'xyz'[k]}, m[2].${'xyz'[k]}, m[3].${'xyz'[k]})`,
  isFlat: true,
}));

function vertexInput(custom: CustomInput[], isFull: boolean): string {
  const own = custom.map((input) => `  @location(${input.location}) own_${input.name}: ${typeOf(input)},`);
  return `struct MeshVertex {
  @location(${LOCATION.position}) position: vec3f,
  @location(${LOCATION.normal}) normal: vec3f,
  @location(${LOCATION.tangent}) tangent: vec4f,
  @location(${LOCATION.texcoord0}) texcoord0: vec2f,
  @location(${LOCATION.texcoord1}) texcoord1: vec2f,
  @location(${LOCATION.color0}) color: vec4f,
  @location(${LOCATION.instance}) ${isFull ? 'code: vec4u' : 'slot: u32'},
${own.join('\n')}${isFull ? `\n  @location(${LOCATION.bend}) record: f32,` : ''}
  @builtin(vertex_index) index: u32,
}`;
}

const located = ({ name, type, isFlat }: Varying, i: number): string =>
  `@location(${i}) ${isFlat ? '@interpolate(flat) ' : ''}${name}: ${type}`;

/** @param isInvariant whether depths must be the same to the bit in several pipelines */
function varyingStruct(varyings: Varying[], isInvariant: boolean): string {
  return `struct MeshVarying {
  @builtin(position) ${isInvariant ? '@invariant ' : ''}clip: vec4f,
${varyings.map((varying, i) => `  ${located(varying, i)},`).join('\n')}
}`;
}

/** A call of a hook, its arguments found by their types. */
function call(name: HookName, takes: readonly string[], values: Record<string, string>): string {
  return `${name}(${takes.map((type) => values[type]).join(', ')})`;
}

const SHADOW_CLIP = `  if isFromLight {
    // What lies before a map of parallel rays is flattened onto its near side.
    if frame.isParallel > 0.5 { clip.z = min(clip.z, clip.w); }
    if !castsShadow(slot) { clip = vec4f(0, 0, -1, 1); }
  }`;

function vertexEntry(
  author: HookOutline | undefined,
  varyings: Varying[],
  isShadow = false,
  isFull = false,
): string {
  const displace = author?.hooks.displace;
  const hasSwarms = isFull || isShadow;
  const built = (type: string, inputs: CustomInput[], of: string): string =>
    `${type}(${inputs.map(({ name }) => `${of}own_${name}`).join(', ')})`;
  const moved = displace
    ? `  v = ${call('displace', displace, {
        Vertex: 'v',
        Settings: 'settings',
        Attributes: built('Attributes', author.attributes, 'i.'),
        InstanceSettings: built('InstanceSettings', author.instanceSettings, ''),
      })};`
    : '';
  const ofInstance = author?.instanceSettings ?? [];
  return `@vertex fn meshVertex(i: MeshVertex) -> MeshVarying {
  let slot = ${hasSwarms ? 'i.code.x' : 'i.slot'};
  ${hasSwarms ? 'var m: mat4x3f;\n  if !isBent { m = objectToWorld(slot & SLOT_BITS); }' : 'let m = objectToWorld(slot & SLOT_BITS);'}
${ofInstance.map(({ name }) => `  ${hasSwarms ? 'var' : 'let'} own_${name} = i.own_${name};`).join('\n')}
  var v: Vertex;
  v.position = i.position;
  v.normal = i.normal;
  v.tangent = i.tangent;
  v.texcoord0 = i.texcoord0;
  v.texcoord1 = i.texcoord1;
  v.color = select(vec4f(1), i.color, hasColor);
  v.index = i.index;
  v.objectToWorld = m;
${displace ? '  materialNumber = materialOf(slot);' : ''}
${hasSwarms ? `  if isBent {\n    v = bend(v, u32(i.record), slot & SLOT_BITS);\n    m = v.objectToWorld;\n  }\n${copyText(ofInstance, isFull)}` : ''}
${moved}
  let world = m * vec4f(v.position, 1);
  ${author?.hooks.march || isShadow || isFull ? 'var' : 'let'} clip = frame.viewProjection * vec4f(world, 1);
${isShadow ? SHADOW_CLIP : ''}
${isFull ? '  if isWire { clip.z *= 1.002; }\n  // Who points leaves things out by what says that they throw no shadow.\n  if isPointed && !castsShadow(slot) { clip = vec4f(0, 0, -1, 1); }' : ''}
${hasSwarms ? '  if isSwarm && !isThere { clip = vec4f(0, 0, -1, 1); }' : ''}
${author?.hooks.march ? '  // Only the pixels count that the geometry covers: neither end of the view may cut it.\n  clip.z = 0.5 * clip.w;' : ''}
  return MeshVarying(clip, ${varyings.map(({ from }) => from).join(', ')});
}`;
}

/** In the vertex stage: which copy of a swarm it is, with what is its own. */
function copyText(ofInstance: readonly CustomInput[], isFull: boolean): string {
  let offset = 0;
  const values = ofInstance.map(({ name, components }) => {
    const parts = Array.from({ length: components }, (_, k) => `swarmFloat(c.settings + ${offset + k})`);
    offset += components;
    return `    own_${name} = ${components === 1 ? parts[0]! : `vec${components}f(${parts.join(', ')})`};`; // one component
  });
  return `  var isThere = true;
  ${isFull ? 'var copy = vec3f(1, 0, 0);' : ''}
  if isSwarm {
    let c = copyOf(i.code, i.index, m);
    m = c.objectToWorld;
    v.objectToWorld = m;
    v.index = c.vertex;
    v.instance = c.number;
    v.color *= c.tint;
${values.join('\n')}
    ${isFull ? 'copy = vec3f(c.shares, f32(c.number));\n    isThere = c.isShown;' : 'isThere = c.isShown && c.shares.x >= 0.5 && c.shares.y < 0.5;'}
  }`;
}

/** The colour of a place: the author's hooks, and light. */
function shadeFunction(author: HookOutline | undefined, custom: readonly Varying[], isFull: boolean): string {
  const hooks = author?.hooks ?? {};
  const values = {
    ...ownValues(author),
    Fragment: 'p',
    Surface: 's',
    Light: 'l',
    vec4f: 'vec4f(color, alpha)',
  };
  // A final colour that takes no lit colour needs no light at all, and is shown as given.
  const final = hooks.outputColor;
  const isShownAsGiven = final !== undefined && !final.includes('vec4f');
  const body = isShownAsGiven
    ? `${final.includes('Surface') ? `  let s = ${surfaceCall(hooks.surface, values)};\n` : ''}  let given = ${call('outputColor', final, values)};
  let alpha = coverage(given.a);
  ${returnGiven('given.rgb', 'alpha', isFull)};`
    : litBody(hooks, values, isFull);
  return `fn shade(p: Fragment${isFull ? ', node: vec4f' : ''}${custom.map(({ name, type }) => `, ${name}: ${type}`).join('')}) -> vec4f {
${isFull ? inspection(hooks, values) : ''}${body}
}`;
}

/** The author's own structures, out of what the vertex stage handed over. */
function ownValues(author: HookOutline | undefined): Record<string, string> {
  const built = (type: string, inputs: readonly CustomInput[] = []): string =>
    `${type}(${inputs.map(({ name }) => `own_${name}`).join(', ')})`;
  return {
    Settings: 'settings',
    Attributes: built('Attributes', author?.attributes),
    InstanceSettings: built('InstanceSettings', author?.instanceSettings),
  };
}

/** @param hasMark whether a mark of what is cut lies above the number */
const ownMaterial = (isFull: boolean, hasMark = isFull): string =>
  `  materialNumber = u32(${isFull ? 'node.w' : 'own'})${hasMark ? ' & 63' : ''};\n`;

/** Leaves out what planes have taken away. */
const cutAt = (place: string, isFull: boolean): string =>
  `  if isClipped && isCutAway(${place}, u32(${isFull ? 'node.w' : 'own'})) { discard; }`;

const PLACE = '@builtin(position) place: vec4f';
const AT = '  let at = vec4f(place.xy + frame.origin, place.zw);\n';

/** In place of the colour, where whatever covers a pixel is asked what it is. */
const pointedAs = (wrap: (answer: string) => string): string => `  if isPointed {
    if seen.a < 0.002 { discard; }
    return ${wrap('pointed(p.position, p.normal, p.texcoord0, p.isFront, node.z, copy.z)')};
  }`;

const shadeCall = (custom: readonly Varying[], isFull: boolean): string =>
  `shade(${['p', ...(isFull ? ['node'] : []), ...custom.map(({ name }) => name)].join(', ')})`;

function fragmentEntry(
  author: HookOutline | undefined,
  varyings: readonly Varying[],
  custom: readonly Varying[],
  isShadow = false,
): string {
  const features = author?.features ?? [];
  const isFull = varyings.includes(NODE);
  const screen = features.includes('screenSpace');
  const params = [
    ...varyings.map(located),
    '@builtin(front_facing) isFront: bool',
    ...(isFull ? [PLACE] : screen ? ['@builtin(position) at: vec4f'] : []),
  ];
  return `${isFull ? SEEN : ''}@fragment fn meshFragment(
  ${params.join(',\n  ')},
)${isShadow ? '' : isFull ? ' -> Seen' : ' -> @location(0) vec4f'} {
${ownMaterial(isFull, isFull || isShadow)}${isFull ? AT : ''}  let side = select(-1.0, 1.0, isFront);
  var p: Fragment;
  p.position = position;
  p.toCamera = toCameraFrom(position);
  if hasNormal { p.normal = normalize(normal) * side; } else {
    // Screen-space derivatives span the face; their order follows the target's own y.
    let n = normalize(cross(dpdx(position), dpdy(position)));
    p.normal = faceForward(n, -p.toCamera, n);
  }
  if hasTangent { p.tangent = vec4f(normalize(tangent.xyz), tangent.w) * side; }
${author ? '  p.viewPosition = (frame.view * vec4f(position, 1)).xyz;\n  p.viewNormal = (frame.view * vec4f(p.normal, 0)).xyz;' : ''}
  p.texcoord0 = texcoords.xy;
  p.texcoord1 = texcoords.zw;
  p.color = vertexColor;
  p.isFront = isFront;
${features.includes('objectSpace') ? '  p.objectPosition = objectPosition;\n  p.objectNormal = normalize(objectNormal);' : ''}
${features.includes('objectMatrix') ? '  p.objectToWorld = transpose(mat3x4f(row0, row1, row2));' : ''}
${screen ? '  p.screenPosition = at.xy;\n  p.screenSize = frame.size;\n  p.depth = at.z;' : ''}
${isFull || isShadow ? cutAt('position', isFull) : ''}
${isFull ? gathered(author) : ''}
  ${isShadow ? '' : isFull ? 'let seen = ' : 'return '}${shadeCall(custom, isFull)};
${isFull ? `  if isElsewhere(at) { discard; }\n  if isSwarm && isOfOtherLevel(at.xy, copy.xy, copy.z) { discard; }\n${pointedAs((answer) => `Seen(${answer}, vec4f(), vec4f())`)}\n  return Seen(seen, vec4f(), vec4f());` : ''}
}`;
}

/** What full fragments write: a colour, or in three targets what a surface is made of. */
const SEEN = `struct Seen {
  @location(0) color: vec4f,
  @location(1) normal: vec4f,
  @location(2) emissive: vec4f,
}
`;

/** What a surface is made of, for light that is added later: see `deferredModule`. */
const gathered = (author: HookOutline | undefined): string => `  if isGathered {
    let s = ${surfaceCall(author?.hooks.surface, { ...ownValues(author), Fragment: 'p' })};
    if coverage(s.alpha) < 0 { discard; }
    if isSwarm && isOfOtherLevel(at.xy, copy.xy, copy.z) { discard; }
    return Seen(vec4f(s.baseColor, s.occlusion), vec4f(s.normal, s.roughness), vec4f(s.emissive, s.metallic + 2 * (1 - node.x)));
  }`;

/** A shape found by marching: the geometry only says which pixels are asked. */
function marchEntry(author: HookOutline, varyings: readonly Varying[], custom: readonly Varying[]): string {
  const { hooks, features } = author;
  const isFull = varyings.includes(NODE);
  const march = call('march', hooks.march ?? [], {
    ...ownValues(author),
    Ray: 'rayInObject(m, rayThrough(at.xy))',
  });
  return `struct Marched {
  @location(0) color: vec4f,
  @builtin(frag_depth) depth: f32,
}
@fragment fn meshFragment(
  ${[...varyings.map(located), isFull ? PLACE : '@builtin(position) at: vec4f'].join(',\n  ')},
) -> Marched {
${ownMaterial(isFull)}${isFull ? AT : ''}  let m = transpose(mat3x4f(row0, row1, row2));
  let hit = ${march};
  if !hit.isHit { discard; }
  var p: Fragment;
  p.position = m * vec4f(hit.position, 1);
  p.normal = normalize(worldNormal(m, hit.normal));
  p.toCamera = toCameraFrom(p.position);
  p.viewPosition = (frame.view * vec4f(p.position, 1)).xyz;
  p.viewNormal = (frame.view * vec4f(p.normal, 0)).xyz;
  p.color = vec4f(1);
  p.isFront = true;
  let depth = depthOf(p.position);
${features.includes('objectSpace') ? '  p.objectPosition = hit.position;\n  p.objectNormal = normalize(hit.normal);' : ''}
${features.includes('objectMatrix') ? '  p.objectToWorld = m;' : ''}
${features.includes('screenSpace') ? '  p.screenPosition = at.xy;\n  p.screenSize = frame.size;\n  p.depth = depth;' : ''}
${isFull ? `${cutAt('p.position', true)}\n  let seen = ${shadeCall(custom, true)};\n${pointedAs((answer) => `Marched(${answer}, depth)`)}\n  return Marched(seen, depth);` : `  return Marched(${shadeCall(custom, false)}, depth);`}
}`;
}

const surfaceCall = (hook: readonly string[] | undefined, values: Record<string, string>): string =>
  hook ? call('surface', hook, values) : 'surfaceDefaults(p)';

/** Lights that reach the place, each with its shadow. */
const clustered = (hasHook: boolean): string => `  let cell = cellAt(p.position);
  for (var k = 0u; k < lightCountAt(cell); k++) {
    let number = lightNumber(cell, k);
    let source = sourceOf(number);
    let isWide = isArea(source);
    var l: Light;
    if isWide { l = ${hasHook ? 'areaAsPoint(source, number, p)' : 'Light(normalize(source.position - p.position), vec3f(), number)'}; }
    else { l = lightFrom(source, number, p.position); }
    var reaches = 1.0;
    if useShadows && node.x > 0.5 { reaches = shadowAt(source, p.position, p.normal, l.direction); }
    l.color *= reaches;${hasHook ? '' : '\n    if isWide { color += areaShine(layered, s, p, source) * reaches; continue; }'}`;

/** A single quantity in place of the light. */
function inspection(hooks: HookOutline['hooks'], values: Record<string, string>): string {
  return `  if isInspected && showsQuantity() {
    let seen = ${surfaceCall(hooks.surface, values)};
    return presentGiven(inspected(seen, p), max(coverage(seen.alpha), 1));
  }
`;
}

/** Gives back a colour that is shown as it was given: only the air before it changes it. */
const returnGiven = (color: string, alpha: string, isFull: boolean): string =>
  isFull
    ? `if isInspected { return marked(${color}, ${alpha}); }
  return presentGiven(fogOverGiven(${color}, p.position, p.toCamera), ${alpha})`
    : `return vec4f(${color} * ${alpha}, ${alpha})`;

function litBody(hooks: HookOutline['hooks'], values: Record<string, string>, isFull: boolean): string {
  const answer = hooks.light
    ? call('light', hooks.light, values)
    : isFull
      ? 'layeredShine(layered, s, l)'
      : 'shine(shading, l)';
  // The last hook has its say whether there is light or not.
  const unlit = hooks.outputColor
    ? `  if isUnlit {
    let color = s.baseColor;
    let alpha = coverage(s.alpha);
    let given = ${call('outputColor', hooks.outputColor, values)};
    ${returnGiven('given.rgb', 'coverage(given.a)', isFull)};
  }`
    : hooks.surface
      ? `  if isUnlit { ${returnGiven('s.baseColor', 'coverage(s.alpha)', isFull)}; }`
      : '';
  const plainUnlit =
    hooks.surface || hooks.outputColor
      ? ''
      : `  if isUnlit {
    let base = baseColorAt(p);
    let a = coverage(base.a);
    ${returnGiven('base.rgb', 'a', isFull)};
  }`;
  const final = hooks.outputColor
    ? `  let given = ${call('outputColor', hooks.outputColor, values)};
  color = given.rgb;
  alpha = coverage(given.a);`
    : '';
  return `${plainUnlit}
  let s = ${surfaceCall(hooks.surface, values)};
${unlit}
  var alpha = coverage(s.alpha);
${
  isFull
    ? '  let layered = layeredOf(s, p);\n  var color = allAround(layered, s, p, node.y);'
    : '  let shading = shadingOf(s, p);\n  var color = ambient(shading) * s.occlusion;'
}
${isFull ? clustered(hooks.light !== undefined) : '  for (var k = 0u; k < frame.lightCount; k++) {\n    let l = lightAt(k, p.position);'}
    color += ${answer};
  }
  color += ${isFull ? 'ownLight(layered, s)' : 's.emissive'};
${final}
${isFull ? '  if isInspected { return marked(color, alpha); }\n' : ''}  return ${isFull ? 'present(throughFog(color, p.position, p.toCamera), alpha)' : 'vec4f(toneMap(color * frame.exposure) * alpha, alpha)'};`;
}
