import { emitWgsl } from '../wgsl/emit/emit-wgsl.js';
import type { GlslShader } from '../wgsl/emit/glsl-state.js';
import { toGlsl } from '../wgsl/index.js';
import { reachedResources, reflect } from '../wgsl/reflect.js';
import type { Shader } from '../wgsl/compile.js';
import { wordsOf } from '../wgsl/words.js';
import { BARE_LIBRARY } from './bare-library.js';
import { type CompileHooksOptions, compileStage, linkedBare, linkedHooks } from './compile-hooks.js';
import { type HookOutline, outlineHooks } from './hook-outline.js';
import { LIBRARY } from './library.js';
import type { BareInput } from './mesh-stages.js';

/** What WebGL2 takes, and what WebGPU does. */
export type ShaderLanguage = 'glsl' | 'wgsl';

const STAGES = ['vertex', 'fragment'] as const;

/**
 * A module of hooks as a whole shader that stands alone: for pages of any kind, which have nothing of this library. Its comments say what such a page
 * binds, with the places of all numbers. Of a surface's light it has up to four lights and an even sky and ground; it knows no shadows, fog or layers of
 * materials.
 *
 * WGSL is one module; of GLSL the two stages stand behind the lines `// -- vertex --` and `// -- fragment --`, which no stage may hold: each begins with
 * its `#version`.
 *
 * @throws LensError what `checkHooks` finds; `wgsl/webgl2` of what WebGL2 cannot do
 */
export function bareShader(
  text: string,
  language: ShaderLanguage,
  options: CompileHooksOptions = {},
): string {
  const { file = 'material.wgsl' } = options;
  const outline = outlineHooks(text, file, options);
  const isEffect = outline.hooks.effect !== undefined;
  const shader = compileStage(
    isEffect
      ? linkedHooks('plain', text, outline, options)
      : linkedBare(
          { ...LIBRARY, ...BARE_LIBRARY },
          broughtTo(text, outline, options),
          text,
          outline,
          options,
        ),
  );
  const entries = STAGES.map(
    (stage) => `${isEffect ? 'effect' : 'mesh'}${stage[0]!.toUpperCase()}${stage.slice(1)}`, // no name is empty
  );
  const wgsl = spaced(emitWgsl(shader));
  const glsl = language === 'glsl' ? entries.map((entry) => toGlsl(shader, entry)) : [];
  const notes = notesOf(shader, wgsl, file, entries, glsl)
    .map((line) => `// ${line}`.trimEnd())
    .join('\n');
  if (language === 'wgsl') return `${notes}\n\n${wgsl}`;
  const stages = glsl.map((stage, i) => `// -- ${STAGES[i]} --\n${stage.text}`);
  return `${notes}\n\n${stages.join('\n')}`;
}

/** What is asked of vertices besides their position. A marched shape is found without any of it. */
function broughtTo(text: string, outline: HookOutline, options: CompileHooksOptions): BareInput[] {
  const sources = { ...LIBRARY, ...BARE_LIBRARY, ...options.sources };
  const { pairs } = wordsOf(text, outline.file, sources, options.features);
  const holders = [text, ...Object.values(sources)].flatMap((one) =>
    [...one.matchAll(/(\w+)\s*:\s*(?:Fragment|Vertex)\b/g)].map(([, name]) => name),
  );
  const asked = (['tangent', 'texcoord0', 'texcoord1', 'color'] as const).filter((member) =>
    holders.some((name) => pairs.has(`${name}.${member}`)),
  );
  return outline.hooks.march ? [] : ['normal', ...asked];
}

/** Where `#if` lines were, and what they left out, there are only spaces. */
const spaced = (text: string): string => text.replace(/^[ \t]+\n/gm, '').replace(/\n{3,}/g, '\n\n');
const plain = (type: string): string => type.replace(/\b(vec\d|mat\dx\d)<f32>/g, '$1f');

/** What a page binds. */
function notesOf(
  shader: Shader,
  wgsl: string,
  file: string,
  entries: readonly string[],
  glsl: readonly GlslShader[],
): string[] {
  const { entryPoints, instanceSettings, overrides, structs } = reflect(shader);
  const isEffect = entries.includes('effectFragment');
  const out = [
    `${file} as a whole shader: for pages that have nothing of the library it was made with.`,
    ...(isEffect
      ? ['A triangle without attributes covers the picture: three vertices.']
      : ['Shadows, fog, textures of the material and its layers, such as lacquer, are left out.']),
  ];
  const blocks = Object.assign({}, ...glsl.map((stage) => stage.blocks)) as GlslShader['blocks'];
  const samplers = Object.assign({}, ...glsl.map((stage) => stage.samplers)) as GlslShader['samplers'];
  const vertex = entryPoints.find(({ name }) => name === entries[0])!; // it has both
  const inputs = vertex.inputs.filter(({ location }) => location !== undefined);
  if (inputs.length > 0) out.push('', 'Of each vertex:');
  for (const { location, name, type } of inputs) {
    const own = name.replace(/^own_/, '');
    const isOfInstance = own !== name && instanceSettings.some((setting) => setting.name === own);
    out.push(`  location ${location}: ${own}, ${plain(type)}${isOfInstance ? ', of each instance' : ''}`);
  }
  const resources = reachedResources(shader, entries);
  for (const { binding, group, kind, name, size, type } of resources) {
    const at = `@group(${group}) @binding(${binding})`;
    if (kind !== 'uniform') {
      const combined = Object.entries(samplers).filter(
        ([, one]) => one.texture.join() === `${group},${binding}`,
      );
      const named = combined.map(([uniform]) => `uniform "${uniform}"`).join(' and ');
      if (glsl.length === 0 || named !== '') out.push('', `${name}: ${type}, ${named || at}`);
      continue;
    }
    const block = Object.entries(blocks).find(([, at]) => at.join() === `${group},${binding}`)?.[0];
    if (glsl.length > 0 && block === undefined) continue;
    const [, element = type, count] = /^array<(\w+), (\d+)>$/.exec(type) ?? [];
    const struct = structs.find((one) => one.name === element);
    out.push(
      '',
      `${name}: uniform buffer of ${stride(size ?? 0)} bytes, ${block === undefined ? at : `uniform block "${block}"`}`,
    );
    if (struct && count !== undefined) out.push(`  ${count} times, each of ${stride(struct.size)} bytes:`);
    const told = commentsOf(wgsl, struct?.name ?? '');
    for (const member of struct?.members ?? []) {
      const comment = told.get(member.name);
      out.push(
        `  ${String(member.offset).padStart(4)}  ${member.name}: ${plain(member.type)}${comment ? `   ${comment}` : ''}`,
      );
    }
  }
  if (resources.some(({ kind }) => kind === 'uniform'))
    out.push('', 'Numbers before a name are bytes from where the buffer begins; matrices lie by columns.');
  const hasTangents = inputs.some(({ name }) => name === 'tangent');
  const kept = overrides.flatMap(({ name }) => {
    const [, value] = new RegExp(`^override ${name}\\b[^=\\n]*= (\\w+);`, 'm').exec(wgsl) ?? [];
    return value === undefined || (name === 'hasTangent' && !hasTangents) ? [] : [{ name, value }];
  });
  if (kept.length > 0)
    out.push(
      '',
      glsl.length > 0
        ? 'Defined behind the #version line of both stages, where they are to be other:'
        : 'Constants of the pipeline, where they are to be other:',
    );
  for (const { name, value } of kept) {
    const spelt = glsl.length > 0 ? `#define UMBER_${name} ${value}` : `${name} = ${value}`;
    out.push(`  ${spelt}   ${commentOf(name)}`.trimEnd());
  }
  if (glsl.some(({ text }) => text.includes('umber_target')))
    out.push('', 'uniform vec4 umber_target: width and height of what is drawn into, in pixels; 1; 0.');
  return out;
}

const stride = (size: number): number => Math.ceil(size / 16) * 16;

/** What stands at the members of a structure: before them behind `///`, or behind them. */
function commentsOf(wgsl: string, struct: string): Map<string, string> {
  const [, body = ''] = new RegExp(`struct ${struct} \\{\\n([^}]*)\\}`).exec(wgsl) ?? [];
  const out = new Map<string, string>();
  let before = '';
  for (const line of body.split('\n')) {
    const [, comment] = /^\s*\/\/\/?\s*(.*)$/.exec(line) ?? [];
    if (comment !== undefined) {
      before = `${before} ${comment}`.trim();
      continue;
    }
    const [, name, behind = ''] =
      /^\s*(?:@\w+(?:\([^)]*\))?\s*)*(\w+)\s*:[^/]*(?:\/\/\s*(.*))?$/.exec(line) ?? [];
    if (name !== undefined) out.set(name, before || behind.trim().replace(/ {2,}/g, '   '));
    before = '';
  }
  return out;
}

/** What the library's own text says of an override. */
function commentOf(override: string): string {
  const pattern = new RegExp(`^/// (.*)\\noverride ${override}\\b`, 'm');
  for (const text of [...Object.values(BARE_LIBRARY), ...Object.values(LIBRARY)]) {
    const [, comment] = pattern.exec(text) ?? [];
    if (comment !== undefined) return comment;
  }
  return '';
}
