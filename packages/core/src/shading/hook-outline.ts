import { LensError } from '../errors/lens-error.js';
import type { CustomInput } from '../material/shader-types.js';
import { type Outline, type OutlineName, outlineWgsl } from '../wgsl/outline.js';
import { wgslError } from '../wgsl/parse/source.js';
import { wordsOf } from '../wgsl/words.js';
import { FIRST_CUSTOM_LOCATION, LOCATIONS } from './locations.js';

/** What an author's module of hooks holds. */
export interface HookOutline {
  file: string;
  hooks: Partial<Record<HookName, readonly string[]>>;
  hasSettings: boolean;
  attributes: CustomInput[];
  instanceSettings: CustomInput[];
  /** Textures and samplers, in the order of their bindings, which begin at 1 of group 2. */
  variables: Outline['variables'];
  /** Parts of the library that it asks for by naming what is in them. */
  features: string[];
  /** Layers that it gives a surface. */
  layers: LayerFeature[];
  /** Whether it asks what time it is, or may. */
  isTimed: boolean;
}

export type HookName = keyof typeof HOOKS;

/** The functions that a module may define: what they may take, in any order, and what they give. */
export const HOOKS = {
  displace: { takes: ['Vertex'], gives: 'Vertex' },
  surface: { takes: ['Fragment'], gives: 'Surface' },
  march: { takes: ['Ray'], gives: 'Hit' },
  light: { takes: ['Surface', 'Light', 'Fragment'], gives: 'vec3f' },
  outputColor: { takes: ['vec4f', 'Surface', 'Fragment'], gives: 'vec4f' },
  effect: { takes: ['Pixel'], gives: 'vec4f' },
} as const;
const OWN = ['Settings', 'InstanceSettings', 'Attributes'];

/** Words whose use asks for a part of the library. */
const ASKS: [feature: string, words: readonly string[]][] = [
  ['objectSpace', ['objectPosition', 'objectNormal']],
  ['objectMatrix', ['objectToWorld']],
  ['screenSpace', ['screenPosition', 'screenSize', 'depth', 'sceneDepth', 'sceneColor', 'distanceBehind']],
  ['sceneDepth', ['sceneDepth', 'distanceBehind']],
  ['sceneColor', ['sceneColor']],
];

/** The same of effects. */
const EFFECT_ASKS: typeof ASKS = [
  ['effectSecond', ['secondAt']],
  ['effectBefore', ['beforeAt']],
  ['effectDepth', ['depthAt', 'distanceAt']],
  ['effectNormal', ['normalAt']],
  ['effectVelocity', ['velocityAt']],
  ['effectThings', ['maskAt']],
];

/** Layers that hooks may give a surface: those whose members they name. */
type LayerFeature =
  'clearcoat' | 'sheen' | 'specular' | 'transmission' | 'iridescence' | 'anisotropy' | 'diffuseTransmission';

/** How the members of a surface begin that belong to a layer. */
const LAYERS: [layer: LayerFeature, beginnings: readonly string[]][] = [
  ['clearcoat', ['clearcoat']],
  ['sheen', ['sheen']],
  ['specular', ['specular', 'ior']],
  ['transmission', ['transmission', 'thickness', 'dispersion', 'attenuation']],
  ['iridescence', ['iridescence']],
  ['anisotropy', ['anisotropy']],
  ['diffuseTransmission', ['diffuseTransmission']],
];

/** What an author's module may import of the author's, and what its `#if` lines ask for. */
export interface HookSources {
  sources?: Readonly<Record<string, string>>;
  features?: readonly string[];
}

/**
 * Reads which hooks a module defines and what they take.
 *
 * @throws LensError `material/no-hook`, `material/hook`, `material/attribute`, with the place
 */
export function outlineHooks(
  text: string,
  file: string,
  { sources, features }: HookSources = {},
): HookOutline {
  const outline = outlineWgsl(text, file);
  const hooks: HookOutline['hooks'] = {};
  for (const fn of outline.functions) {
    if (!(fn.name in HOOKS)) continue;
    const name = fn.name as HookName;
    const { takes, gives } = HOOKS[name];
    const allowed: string[] = [...takes, ...OWN];
    for (const param of fn.params) {
      if (allowed.includes(plain(param.type))) continue;
      throw fault(
        file,
        param,
        'material/hook',
        `"${name}" cannot take a ${param.type}`,
        `It may take ${allowed.join(', ')}, in any order.`,
      );
    }
    if (plain(fn.type) !== gives)
      throw fault(
        file,
        fn,
        'material/hook',
        `"${name}" must give a ${gives}`,
        `Write fn ${name}(...) -> ${gives}.`,
      );
    hooks[name] = fn.params.map((p) => plain(p.type));
  }
  if (Object.keys(hooks).length === 0) {
    // What could not be read may well have been one.
    if (outline.findings.length > 0) throw wgslError(outline.findings);
    throw new LensError('material/no-hook', `${file} defines none of the hooks of a shader material`, {
      hint: `Define one or more of ${Object.keys(HOOKS).join(', ')}.`,
      where: { file },
    });
  }
  if (hooks.effect) {
    const other = outline.functions.find(({ name }) => name in HOOKS && name !== 'effect');
    const perVertex = outline.structs.find(
      ({ name }) => name === 'Attributes' || name === 'InstanceSettings',
    );
    if (other)
      throw fault(
        file,
        other,
        'material/hook',
        `an effect on pictures has no "${other.name}"`,
        'Put hooks of materials into a module of their own.',
      );
    if (perVertex)
      throw fault(
        file,
        perVertex,
        'material/hook',
        `an effect on pictures has no ${perVertex.name}`,
        'Use Settings.',
      );
  }
  const vertexHook = hooks.march && outline.functions.find(({ name }) => name === 'displace');
  if (vertexHook) {
    throw fault(
      file,
      vertexHook,
      'material/hook',
      'a shape that is marched has no vertices to displace',
      'Define one of march and displace.',
    );
  }
  const onVertices = outline.functions
    .find(({ name }) => name === 'march')
    ?.params.find(({ type }) => plain(type) === 'Attributes');
  if (onVertices) {
    throw fault(
      file,
      onVertices,
      'material/hook',
      'a shape that is marched has no vertices, and so no attributes',
      'Give values to march by Settings or InstanceSettings.',
    );
  }
  const struct = (name: string): OutlineName[] => outline.structs.find((s) => s.name === name)?.members ?? [];
  let next = FIRST_CUSTOM_LOCATION;
  const inputs = (name: string): CustomInput[] =>
    struct(name).map((member) => {
      const components = ['f32', 'vec2f', 'vec3f', 'vec4f'].indexOf(plain(member.type)) + 1;
      if (components === 0)
        throw fault(
          file,
          member,
          'material/attribute',
          `"${member.name}" of ${name} cannot be a ${member.type}`,
          'Use f32, vec2f, vec3f or vec4f.',
        );
      if (next === LOCATIONS)
        throw fault(
          file,
          member,
          'material/attribute',
          `there is no room for "${member.name}"`,
          `Attributes and InstanceSettings have ${LOCATIONS - FIRST_CUSTOM_LOCATION} members together at most.`,
        );
      return { name: member.name, location: next++, components };
    });
  const attributes = inputs('Attributes');
  const instanceSettings = inputs('InstanceSettings');
  for (const member of struct('Settings')) {
    if (plain(member.type) === 'bool')
      throw fault(
        file,
        member,
        'material/setting',
        `the setting "${member.name}" cannot be a bool`,
        'Use u32: 0 or 1.',
      );
  }
  const { members, names, pairs, whole } = wordsOf(text, file, sources, features);
  const layers = LAYERS.filter(([, beginnings]) =>
    [...members].some((member) =>
      // Of a member of its own that is called iorOfGlass nothing follows.
      beginnings.some((begin) => (begin === 'ior' ? member === begin : member.startsWith(begin))),
    ),
  ).map(([layer]) => layer);
  const asked = (hooks.effect ? EFFECT_ASKS : ASKS).filter(([, words]) =>
    words.some((word) => members.has(word) || names.has(word)),
  );
  return {
    file,
    hooks,
    hasSettings: struct('Settings').length > 0,
    attributes,
    instanceSettings,
    variables: outline.variables.filter(({ type }) => /^(texture|sampler)/.test(type)),
    layers: hooks.effect ? [] : layers,
    features: [
      ...asked.map(([feature]) => feature),
      ...(layers.length > 0 && !hooks.effect ? ['layers'] : []),
    ],
    // Whoever hands all of the frame on may ask for the time elsewhere.
    isTimed:
      (hooks.effect !== undefined && (members.has('time') || members.has('delta'))) ||
      pairs.has('frame.time') ||
      pairs.has('frame.delta') ||
      whole.has('frame'),
  };
}

const plain = (type: string): string => type.replace(/^(vec[234])<f32>$/, '$1f');

function fault(
  file: string,
  { line, column }: OutlineName,
  code: string,
  message: string,
  hint: string,
): LensError {
  return new LensError(code, message, { hint, where: { file, line, column } });
}
