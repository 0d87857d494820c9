import { type CallExpr, type Expr, type FunctionDecl, type GlobalVar } from '../parse/ast.js';
import { loaded, unparenthesized } from '../check/check-context.js';
import { type GlslState, type Alias, type Instance } from './glsl-state.js';
import { typeText } from './glsl-types.js';
import { writeStatement } from './glsl-statements.js';
import { pointerOf } from './glsl-places.js';
import { byteOffset } from './glsl-buffers.js';
import { exprText, orderedTexts } from './glsl-expressions.js';

/** The GLSL name of a function for these handles and buffer pointers, written out once for each set. */
export function functionName(glsl: GlslState, decl: FunctionDecl, aliases: (Alias | undefined)[]): string {
  const key = `${decl.name}|${aliases.map((alias) => (alias?.kind === 'handle' ? alias.global.name : alias?.kind === 'buffer' ? `*${alias.place.root.name}` : '')).join(',')}`;
  const known = glsl.instances.get(key);
  if (known) return known.name;
  const instance: Instance = { decl, name: glsl.names.fresh(decl.name), aliases: new Map() };
  glsl.instances.set(key, instance);
  const outer = { locals: glsl.locals, instance: glsl.instance, lines: glsl.lines, indent: glsl.indent };
  glsl.locals = new Map();
  glsl.instance = instance;
  glsl.lines = [];
  glsl.indent = 1;
  const params: string[] = [];
  decl.params.forEach((param, i) => {
    const local = param.local!;
    const alias = aliases[i];
    const name = glsl.names.fresh(param.name);
    if (alias?.kind === 'handle') instance.aliases.set(local, alias);
    else if (alias?.kind === 'buffer') {
      instance.aliases.set(local, {
        kind: 'buffer',
        place: { root: alias.place.root, offset: 0, dynamic: [name], isWhole: false },
      });
      params.push(`int ${name}`);
    } else if (local.type.kind === 'ptr') {
      instance.aliases.set(local, { kind: 'place', text: name });
      params.push(`inout ${typeText(glsl, local.type.of)} ${name}`);
    } else {
      glsl.locals.set(local, name);
      params.push(`${typeText(glsl, local.type)} ${name}`);
    }
  });
  for (const statement of decl.body) writeStatement(glsl, statement);
  const text = `${typeText(glsl, decl.returnType!)} ${instance.name}(${params.join(', ')}) {\n${glsl.lines.join('\n')}\n}`;
  ({ locals: glsl.locals, instance: glsl.instance, lines: glsl.lines, indent: glsl.indent } = outer);
  // Functions it calls were written before.
  glsl.functionText.push(text);
  return instance.name;
}

export function callFunctionText(glsl: GlslState, expr: CallExpr, decl: FunctionDecl): string {
  const aliases: (Alias | undefined)[] = [];
  const args: string[] = [];
  const values = orderedTexts(glsl, expr.args, (arg) => {
    const { kind } = loaded(arg.type!);
    return kind === 'texture' || kind === 'sampler' || kind === 'ptr' ? '' : exprText(glsl, arg);
  });
  expr.args.forEach((arg, i) => {
    const type = loaded(arg.type!);
    if (type.kind === 'texture' || type.kind === 'sampler') {
      aliases.push({ kind: 'handle', global: handleOf(glsl, arg) });
      return;
    }
    if (type.kind !== 'ptr') {
      aliases.push(undefined);
      args.push(values[i]!);
      return;
    }
    const alias = pointerOf(glsl, arg);
    if (alias.kind === 'buffer') {
      aliases.push(alias);
      args.push(byteOffset(alias.place));
    } else {
      aliases.push(undefined);
      args.push((alias as { text: string }).text);
    }
  });
  return `${functionName(glsl, decl, aliases)}(${args.join(', ')})`;
}

export function handleOf(glsl: GlslState, expr: Expr): GlobalVar {
  const target = unparenthesized(expr);
  if (target.kind === 'name' && target.target) {
    if (!('index' in target.target)) return target.target as GlobalVar;
    const alias = glsl.instance.aliases.get(target.target);
    if (alias?.kind === 'handle') return alias.global;
  }
  throw glsl.refuse('textures and samplers must be named directly', expr.span);
}
