import { glslLiteral, GlslNames, glslScalar, glslVector } from './glsl-names.js';
import { BOOL, concrete, type Scalar, type Struct, type Type, typeName } from '../types/types.js';
import { type Value } from '../types/values.js';
import { type GlslState } from './glsl-state.js';

export function typeText(glsl: GlslState, type: Type): string {
  switch (type.kind) {
    case 'void':
      return 'void';
    case 'scalar':
      return glslScalar(concrete(type) as Scalar);
    case 'vec':
      return glslVector(type.size, concrete(type.of) as Scalar);
    case 'mat':
      return `mat${type.columns}x${type.rows}`;
    case 'array':
      return `${type.of.kind === 'array' ? rowText(glsl, type.of) : typeText(glsl, type.of)}[${type.count ?? 1}]`;
    case 'struct':
      return structOf(glsl, type).name;
    case 'ptr':
    case 'ref':
      return typeText(glsl, type.of);
    default:
      throw new Error(`no GLSL type for ${typeName(type)}`);
  }
}

/** GLSL ES 3.00 has no arrays of arrays: inner ones are wrapped in structures with a member `a`. */
export function rowText(glsl: GlslState, type: Type): string {
  const key = `wrapped ${type.key}`;
  let name = glsl.loaders.get(key);
  if (!name) {
    name = glsl.names.fresh('umber_row');
    glsl.loaders.set(key, name);
    glsl.structText.push(`struct ${name} { ${typeText(glsl, type)} a; };`);
  }
  return name;
}

export function literalText(glsl: GlslState, value: Value, type: Type): string {
  return glslLiteral(
    value,
    type,
    (t: Type) => typeText(glsl, t),
    (t: Type) => rowText(glsl, t),
  );
}

export function structOf(glsl: GlslState, type: Struct): { name: string; members: string[] } {
  let found = glsl.structs.get(type);
  if (!found) {
    const members = new GlslNames();
    found = {
      name: glsl.names.fresh(type.name.replace(/^__/, '')),
      members: type.members.map((m) => members.fresh(m.name)),
    };
    glsl.structs.set(type, found);
    const body = type.members.map((m, i) => `  ${typeText(glsl, m.type)} ${found!.members[i]};`).join('\n');
    glsl.structText.push(`struct ${found.name} {\n${body}\n};`);
  }
  return found;
}

export function zeroText(glsl: GlslState, type: Type): string {
  const zero = (t: Type): Value =>
    t.kind === 'scalar'
      ? t === BOOL
        ? false
        : 0
      : t.kind === 'vec'
        ? Array.from({ length: t.size }, () => zero(t.of))
        : t.kind === 'mat'
          ? Array.from({ length: t.columns }, () => zero(t.column))
          : t.kind === 'array'
            ? Array.from({ length: t.count ?? 1 }, () => zero(t.of))
            : (t as Struct).members.map((m) => zero(m.type));
  return literalText(glsl, zero(type), type);
}

/** Evaluates a text ahead of the statement at hand, into a variable; its name. */
export function heldIn(glsl: GlslState, name: string, type: Type, text: string): string {
  const fresh = glsl.names.fresh(name);
  glsl.line(`${typeText(glsl, type)} ${fresh} = ${text};`);
  return fresh;
}
