import { type GlobalVar } from '../parse/ast.js';
import { concrete, I32, sizeOf, type TextureType, U32 } from '../types/types.js';
import { type GlslState } from './glsl-state.js';
import { literalText, typeText, zeroText } from './glsl-types.js';
import { exprText } from './glsl-expressions.js';

export function refuseGlobal(glsl: GlslState, global: GlobalVar): void {
  const { space, access, type, nameSpan } = global;
  if (space === 'storage' && access !== 'read') {
    throw glsl.refuse(
      `WebGL2 cannot write to storage, and "${global.name}" is read_write`,
      nameSpan,
      'Make it var<storage, read>, or use WebGPU.',
    );
  }
  if (space === 'immediate') throw glsl.refuse('WebGL2 has no immediates', nameSpan, 'Use a uniform.');
  if (space === 'workgroup') throw glsl.refuse('WebGL2 has no workgroups', nameSpan);
  if (type?.kind !== 'texture') return;
  const missing =
    type.form === 'storage'
      ? 'storage textures'
      : type.form.endsWith('multisampled')
        ? 'sampled multisampled textures'
        : type.form === 'external'
          ? 'external textures'
          : type.dimension === '1d'
            ? 'one-dimensional textures'
            : type.dimension === 'cube_array'
              ? 'arrays of cubes'
              : '';
  if (missing) throw glsl.refuse(`WebGL2 has no ${missing}`, nameSpan);
}

export function globalName(glsl: GlslState, decl: GlobalVar): string {
  let name = glsl.globals.get(decl);
  if (name !== undefined) return name;
  name = glsl.names.fresh(decl.name);
  glsl.globals.set(decl, name);
  const type = decl.type!;
  const at: [number, number] = [decl.group ?? 0, decl.binding ?? 0];
  if (decl.space === 'uniform') {
    const block = glsl.names.fresh(`${decl.name}_block`);
    glsl.blocks[block] = at;
    glsl.globalText.push(
      `layout(std140) uniform ${block} { uvec4 ${name}[${Math.max(1, Math.ceil(sizeOf(type) / 16))}]; };`,
    );
  } else if (decl.space === 'storage') {
    const lengthUniform = `${name}_bytes`;
    glsl.storage[name] = { binding: at, lengthUniform };
    glsl.globalText.push(`uniform highp usampler2D ${name};`, `uniform uint ${lengthUniform};`);
  } else if (decl.form === 'const') {
    glsl.globalText.push(
      `const ${typeText(glsl, type)} ${name} = ${literalText(glsl, decl.value!, concrete(type))};`,
    );
  } else if (decl.form === 'override') {
    const given = glsl.constants[decl.name] ?? glsl.constants[String(decl.overrideId)];
    if (given === undefined && !decl.init)
      throw glsl.refuse(`the override "${decl.name}" was not given`, decl.nameSpan);
    const line = (value: string): string => `const ${typeText(glsl, type)} ${name} = ${value};`;
    if (given !== undefined) glsl.globalText.push(line(literalText(glsl, given, type)));
    else {
      // Left open: a line ahead that defines the macro gives another value than the default.
      const macro = `UMBER_${name}`;
      glsl.overrides[decl.name] = macro;
      const value = exprText(glsl, decl.init!); // refused above without
      // Whoever defines it writes plain numbers, which GLSL does not convert by itself.
      const plain = typeText(glsl, type);
      const converted = plain === 'bool' ? macro : `${plain}(${macro})`;
      glsl.globalText.push(`#ifndef ${macro}`, `#define ${macro} ${value}`, '#endif', line(converted));
    }
  } else {
    const init = decl.init ? exprText(glsl, decl.init) : zeroText(glsl, type);
    glsl.globalText.push(`${typeText(glsl, type)} ${name} = ${init};`);
  }
  return name;
}

export function combinedSampler(glsl: GlslState, texture: GlobalVar, sampler: GlobalVar | undefined): string {
  const type = texture.type as TextureType;
  const isShadow = sampler?.type?.kind === 'sampler' && sampler.type.comparison;
  const key = sampler ? `${texture.name}_${sampler.name}` : texture.name;
  const known = Object.keys(glsl.samplers).find((name) => {
    const use = glsl.samplers[name]!;
    return (
      sameAt(use.texture, texture) &&
      (sampler ? use.sampler !== undefined && sameAt(use.sampler, sampler) : use.sampler === undefined)
    );
  });
  if (known) return known;
  const name = glsl.names.fresh(key);
  const prefix = type.of === I32 ? 'i' : type.of === U32 ? 'u' : '';
  const shape = {
    '1d': '2D',
    '2d': '2D',
    '2d_array': '2DArray',
    '3d': '3D',
    cube: 'Cube',
    cube_array: 'Cube',
  }[type.dimension];
  glsl.samplers[name] = {
    texture: [texture.group ?? 0, texture.binding ?? 0],
    ...(sampler ? { sampler: [sampler.group ?? 0, sampler.binding ?? 0] as [number, number] } : {}),
  };
  glsl.globalText.push(`uniform ${prefix}sampler${shape}${isShadow ? 'Shadow' : ''} ${name};`);
  return name;
}

/** Bytes of a whole buffer. */
export function bufferLengthText(glsl: GlslState, root: GlobalVar): string {
  const name = globalName(glsl, root);
  return root.space === 'uniform' ? `${sizeOf(root.type!)}u` : glsl.storage[name]!.lengthUniform;
}

function sameAt([group, binding]: [number, number], decl: GlobalVar): boolean {
  return group === (decl.group ?? 0) && binding === (decl.binding ?? 0);
}
