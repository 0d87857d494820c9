import type { FunctionDecl, IoAttributes } from '../parse/ast.js';
import { reachable } from '../check/check-entry-points.js';
import { type Span } from '../parse/source.js';
import { elementScalar, isInteger, type Type, VOID } from '../types/types.js';
import { type GlslShader, GlslState } from './glsl-state.js';
import { structOf, typeText } from './glsl-types.js';
import { refuseGlobal } from './glsl-globals.js';
import { functionName } from './glsl-functions.js';

/** Emits one entry point with all it needs. @throws WgslFault for what WebGL2 cannot do, with the place */
export function emitGlsl(entry: FunctionDecl, constants: Record<string, number | boolean> = {}): GlslShader {
  const glsl = new GlslState(entry, constants);
  if (entry.stage !== 'vertex' && entry.stage !== 'fragment') {
    throw glsl.refuse('WebGL2 has no compute shaders', entry.nameSpan, 'Use WebGPU for this entry point.');
  }
  for (const fn of reachable(entry)) for (const global of fn.uses ?? []) refuseGlobal(glsl, global);
  const main = mainText(glsl);
  const head = [
    '#version 300 es',
    'precision highp float;',
    'precision highp int;',
    'precision highp usampler2D;',
  ];
  const samplerKinds = new Set(
    glsl.globalText
      .map((line) => /^uniform (?:highp )?([iu]?sampler\w+) /.exec(line)?.[1])
      .filter((kind) => kind !== undefined),
  );
  for (const kind of samplerKinds) head.push(`precision highp ${kind};`);
  if (glsl.usesTarget) head.push('uniform vec4 umber_target;');
  const text = [
    ...head,
    ...glsl.structText,
    ...glsl.globalText,
    glsl.helpers.text(),
    ...glsl.loaderText,
    ...glsl.functionText,
    main,
  ];
  const { blocks, samplers, storage, overrides } = glsl;
  return {
    text: `${text.filter(Boolean).join('\n')}\n`,
    stage: entry.stage,
    blocks,
    samplers,
    storage,
    overrides,
  };
}

function mainText(glsl: GlslState): string {
  const { entry } = glsl;
  const lines: string[] = [];
  const call = functionName(glsl, entry, []);
  const args = entry.params.map((param) => {
    const type = param.local!.type;
    const name = glsl.names.fresh(param.name);
    lines.push(`  ${typeText(glsl, type)} ${name};`);
    eachIo(glsl, type, param.io!, name, (path, member, io, span) =>
      lines.push(`  ${path} = ${inputText(glsl, member, io, span)};`),
    );
    return name;
  });
  if (entry.returnType === VOID) {
    lines.push(`  ${call}(${args.join(', ')});`);
  } else {
    const result = glsl.names.fresh('result');
    lines.push(`  ${typeText(glsl, entry.returnType!)} ${result} = ${call}(${args.join(', ')});`);
    eachIo(glsl, entry.returnType!, entry.returnIo!, result, (path, member, io, span) =>
      lines.push(`  ${outputText(glsl, member, io, span)} = ${path};`),
    );
  }
  return `void main() {\n${lines.join('\n')}\n}`;
}

function eachIo(
  glsl: GlslState,
  type: Type,
  io: IoAttributes,
  path: string,
  visit: (path: string, type: Type, io: IoAttributes, span: Span) => void,
): void {
  if (type.kind !== 'struct') {
    visit(path, type, io, glsl.entry.nameSpan);
    return;
  }
  const { members } = structOf(glsl, type);
  type.members.forEach((m, i) => visit(`${path}.${members[i]}`, m.type, m.io, type.decl!.members[i]!.span));
}

function inputText(glsl: GlslState, type: Type, io: IoAttributes, span: Span): string {
  const { stage } = glsl.entry;
  switch (io.builtin) {
    case 'vertex_index':
      return 'uint(gl_VertexID)';
    case 'instance_index':
      return 'uint(gl_InstanceID)';
    case 'position':
      glsl.usesTarget = true;
      return 'vec4(gl_FragCoord.x, umber_target.z > 0.0 ? umber_target.y - gl_FragCoord.y : gl_FragCoord.y, gl_FragCoord.zw)';
    case 'front_facing':
      return 'gl_FrontFacing';
    case undefined:
      break;
    default:
      throw glsl.refuse(`WebGL2 has no @builtin(${io.builtin})`, span);
  }
  const name = stage === 'vertex' ? glsl.names.fresh(`umber_in${io.location}`) : `umber_v${io.location}`;
  if (stage === 'vertex')
    glsl.globalText.push(`layout(location = ${io.location}) in ${typeText(glsl, type)} ${name};`);
  else glsl.globalText.push(`${interpolationText(glsl, type, io, span)}in ${typeText(glsl, type)} ${name};`);
  return name;
}

function outputText(glsl: GlslState, type: Type, io: IoAttributes, span: Span): string {
  switch (io.builtin) {
    case 'position':
      if (io.invariant) glsl.globalText.push('invariant gl_Position;');
      return 'gl_Position';
    case 'frag_depth':
      return 'gl_FragDepth';
    case undefined:
      break;
    default:
      throw glsl.refuse(`WebGL2 has no @builtin(${io.builtin})`, span);
  }
  if (io.secondSource !== undefined) throw glsl.refuse('WebGL2 has no blending by two sources', span);
  if (glsl.entry.stage === 'fragment') {
    const name = glsl.names.fresh(`umber_out${io.location}`);
    glsl.globalText.push(`layout(location = ${io.location}) out ${typeText(glsl, type)} ${name};`);
    return name;
  }
  const name = `umber_v${io.location}`;
  glsl.globalText.push(`${interpolationText(glsl, type, io, span)}out ${typeText(glsl, type)} ${name};`);
  return name;
}

function interpolationText(glsl: GlslState, type: Type, io: IoAttributes, span: Span): string {
  const [kind, sampling] = io.interpolate ?? [];
  if (kind === 'flat' || isInteger(elementScalar(type)!)) return 'flat ';
  if (kind === 'linear') throw glsl.refuse('WebGL2 cannot interpolate without perspective', span);
  if (sampling === 'sample') throw glsl.refuse('WebGL2 cannot interpolate at samples', span);
  return sampling === 'centroid' ? 'centroid ' : '';
}
