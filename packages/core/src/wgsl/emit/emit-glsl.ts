import type {
  CallExpr,
  Expr,
  FunctionDecl,
  GlobalVar,
  IoAttributes,
  Local,
  Statement,
} from '../parse/ast.js';
import { loaded, unparenthesized } from '../check/check-context.js';
import { reachable } from '../check/check.js';
import { exprHasEffects, statementHasEffects } from '../check/effects.js';
import { GlslHelpers } from './glsl-helpers.js';
import { glslLiteral, GlslNames, glslScalar, glslVector } from './glsl-names.js';
import { type Span, WgslFault } from '../parse/source.js';
import {
  BOOL,
  concrete,
  elementScalar,
  F32,
  I32,
  isInteger,
  type Scalar,
  sizeOf,
  strideOf,
  type Struct,
  type TextureType,
  type Type,
  typeName,
  U32,
  VOID,
} from '../types/types.js';
import type { Value } from '../types/values.js';

/** One stage in GLSL ES 3.00, and how its resources are bound. */
export interface GlslShader {
  text: string;
  stage: 'vertex' | 'fragment';
  /** Uniform blocks: their GLSL name to group and binding. */
  blocks: Record<string, [group: number, binding: number]>;
  /** GLSL samplers: which texture and which sampler each combines. */
  samplers: Record<string, { texture: [number, number]; sampler?: [number, number] }>;
  /** Read-only storage buffers, read from `usampler2D` of four words a texel. */
  storage: Record<string, { binding: [number, number]; lengthUniform: string }>;
}

/** Texels in one row of a storage buffer's texture. */
export const STORAGE_ROW = 1024;

/** Where a buffer's data is: a variable, a known offset in bytes, and what is only known at run time. */
interface Place {
  root: GlobalVar;
  offset: number;
  /** GLSL expressions in bytes. */
  dynamic: string[];
  /** GLSL expression in bytes: where a view into the buffer ends, counted from its start. */
  end?: string;
}

/** What a parameter or pointer stands for in one instance of a function. */
type Alias =
  { kind: 'handle'; global: GlobalVar } | { kind: 'buffer'; place: Place } | { kind: 'place'; text: string };

interface Instance {
  decl: FunctionDecl;
  name: string;
  aliases: Map<Local, Alias>;
}

/** Emits one entry point with all it needs. @throws WgslFault for what WebGL2 cannot do, with the place */
export function emitGlsl(entry: FunctionDecl, constants: Record<string, number | boolean> = {}): GlslShader {
  return new GlslEmitter(entry, constants).emit();
}

class GlslEmitter {
  private readonly names = new GlslNames();
  private readonly helpers = new GlslHelpers();
  private readonly structs = new Map<Struct, { name: string; members: string[] }>();
  private readonly structText: string[] = [];
  private readonly globals = new Map<GlobalVar, string>();
  private readonly globalText: string[] = [];
  private readonly instances = new Map<string, Instance>();
  private readonly functionText: string[] = [];
  private readonly loaders = new Map<string, string>();
  private readonly loaderText: string[] = [];
  private readonly blocks: GlslShader['blocks'] = {};
  private readonly samplers: GlslShader['samplers'] = {};
  private readonly storage: GlslShader['storage'] = {};
  private locals = new Map<Local, string>();
  private instance!: Instance;
  private lines: string[] = [];
  private indent = 1;
  private usesTarget = false;

  constructor(
    private readonly entry: FunctionDecl,
    private readonly constants: Record<string, number | boolean>,
  ) {}

  emit(): GlslShader {
    const { entry } = this;
    if (entry.stage !== 'vertex' && entry.stage !== 'fragment') {
      throw this.refuse('WebGL2 has no compute shaders', entry.nameSpan, 'Use WebGPU for this entry point.');
    }
    for (const fn of reachable(entry)) for (const global of fn.uses ?? []) this.refuseGlobal(global);
    const main = this.mainText();
    const head = [
      '#version 300 es',
      'precision highp float;',
      'precision highp int;',
      'precision highp usampler2D;',
    ];
    const samplerKinds = new Set(
      this.globalText
        .map((line) => /^uniform (?:highp )?([iu]?sampler\w+) /.exec(line)?.[1])
        .filter((kind) => kind !== undefined),
    );
    for (const kind of samplerKinds) head.push(`precision highp ${kind};`);
    if (this.usesTarget) head.push('uniform vec4 umber_target;');
    const text = [
      ...head,
      ...this.structText,
      ...this.globalText,
      this.helpers.text(),
      ...this.loaderText,
      ...this.functionText,
      main,
    ];
    const { blocks, samplers, storage } = this;
    return { text: `${text.filter(Boolean).join('\n')}\n`, stage: entry.stage, blocks, samplers, storage };
  }

  private refuse(message: string, span: Span, hint = ''): WgslFault {
    return new WgslFault('webgl2', message, span, hint);
  }

  private refuseGlobal(global: GlobalVar): void {
    const { space, access, type, nameSpan } = global;
    if (space === 'storage' && access !== 'read') {
      throw this.refuse(
        `WebGL2 cannot write to storage, and "${global.name}" is read_write`,
        nameSpan,
        'Make it var<storage, read>, or use WebGPU.',
      );
    }
    if (space === 'immediate') throw this.refuse('WebGL2 has no immediates', nameSpan, 'Use a uniform.');
    if (space === 'workgroup') throw this.refuse('WebGL2 has no workgroups', nameSpan);
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
    if (missing) throw this.refuse(`WebGL2 has no ${missing}`, nameSpan);
  }

  // ---- types

  private typeText = (type: Type): string => {
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
        return `${type.of.kind === 'array' ? this.wrapped(type.of) : this.typeText(type.of)}[${type.count ?? 1}]`;
      case 'struct':
        return this.struct(type).name;
      case 'ptr':
      case 'ref':
        return this.typeText(type.of);
      default:
        throw new Error(`no GLSL type for ${typeName(type)}`);
    }
  };

  /** GLSL ES 3.00 has no arrays of arrays: inner ones are wrapped in structures with a member `a`. */
  private wrapped = (type: Type): string => {
    const key = `wrapped ${type.key}`;
    let name = this.loaders.get(key);
    if (!name) {
      name = this.names.fresh('umber_row');
      this.loaders.set(key, name);
      this.structText.push(`struct ${name} { ${this.typeText(type)} a; };`);
    }
    return name;
  };

  private literal(value: Value, type: Type): string {
    return glslLiteral(value, type, this.typeText, this.wrapped);
  }

  private struct(type: Struct): { name: string; members: string[] } {
    let found = this.structs.get(type);
    if (!found) {
      const members = new GlslNames();
      found = {
        name: this.names.fresh(type.name.replace(/^__/, '')),
        members: type.members.map((m) => members.fresh(m.name)),
      };
      this.structs.set(type, found);
      const body = type.members.map((m, i) => `  ${this.typeText(m.type)} ${found!.members[i]};`).join('\n');
      this.structText.push(`struct ${found.name} {\n${body}\n};`);
    }
    return found;
  }

  // ---- variables of the module

  private global(decl: GlobalVar): string {
    let name = this.globals.get(decl);
    if (name !== undefined) return name;
    name = this.names.fresh(decl.name);
    this.globals.set(decl, name);
    const type = decl.type!;
    const at: [number, number] = [decl.group ?? 0, decl.binding ?? 0];
    if (decl.space === 'uniform') {
      const block = this.names.fresh(`${decl.name}_block`);
      this.blocks[block] = at;
      this.globalText.push(
        `layout(std140) uniform ${block} { uvec4 ${name}[${Math.max(1, Math.ceil(sizeOf(type) / 16))}]; };`,
      );
    } else if (decl.space === 'storage') {
      const lengthUniform = `${name}_bytes`;
      this.storage[name] = { binding: at, lengthUniform };
      this.globalText.push(`uniform highp usampler2D ${name};`, `uniform uint ${lengthUniform};`);
    } else if (decl.form === 'const') {
      this.globalText.push(
        `const ${this.typeText(type)} ${name} = ${this.literal(decl.value!, concrete(type))};`,
      );
    } else if (decl.form === 'override') {
      const given = this.constants[decl.name] ?? this.constants[String(decl.overrideId)];
      if (given === undefined && !decl.init)
        throw this.refuse(`the override "${decl.name}" was not given`, decl.nameSpan);
      const value = given === undefined ? this.expr(decl.init!) : this.literal(given, type);
      this.globalText.push(`const ${this.typeText(type)} ${name} = ${value};`);
    } else {
      const init = decl.init ? this.expr(decl.init) : this.zero(type);
      this.globalText.push(`${this.typeText(type)} ${name} = ${init};`);
    }
    return name;
  }

  private combined(texture: GlobalVar, sampler: GlobalVar | undefined): string {
    const type = texture.type as TextureType;
    const isShadow = sampler?.type?.kind === 'sampler' && sampler.type.comparison;
    const key = sampler ? `${texture.name}_${sampler.name}` : texture.name;
    const known = Object.keys(this.samplers).find((name) => {
      const use = this.samplers[name]!;
      return (
        sameAt(use.texture, texture) &&
        (sampler ? use.sampler !== undefined && sameAt(use.sampler, sampler) : use.sampler === undefined)
      );
    });
    if (known) return known;
    const name = this.names.fresh(key);
    const prefix = type.of === I32 ? 'i' : type.of === U32 ? 'u' : '';
    const shape = {
      '1d': '2D',
      '2d': '2D',
      '2d_array': '2DArray',
      '3d': '3D',
      cube: 'Cube',
      cube_array: 'Cube',
    }[type.dimension];
    this.samplers[name] = {
      texture: [texture.group ?? 0, texture.binding ?? 0],
      ...(sampler ? { sampler: [sampler.group ?? 0, sampler.binding ?? 0] as [number, number] } : {}),
    };
    this.globalText.push(`uniform ${prefix}sampler${shape}${isShadow ? 'Shadow' : ''} ${name};`);
    return name;
  }

  // ---- entry point

  private mainText(): string {
    const { entry } = this;
    const lines: string[] = [];
    const call = this.function(entry, []);
    const args = entry.params.map((param) => {
      const type = param.local!.type;
      const name = this.names.fresh(param.name);
      lines.push(`  ${this.typeText(type)} ${name};`);
      this.eachIo(type, param.io!, name, (path, member, io, span) =>
        lines.push(`  ${path} = ${this.input(member, io, span)};`),
      );
      return name;
    });
    if (entry.returnType === VOID) {
      lines.push(`  ${call}(${args.join(', ')});`);
    } else {
      const result = this.names.fresh('result');
      lines.push(`  ${this.typeText(entry.returnType!)} ${result} = ${call}(${args.join(', ')});`);
      this.eachIo(entry.returnType!, entry.returnIo!, result, (path, member, io, span) =>
        lines.push(`  ${this.output(member, io, span)} = ${path};`),
      );
    }
    return `void main() {\n${lines.join('\n')}\n}`;
  }

  private eachIo(
    type: Type,
    io: IoAttributes,
    path: string,
    visit: (path: string, type: Type, io: IoAttributes, span: Span) => void,
  ): void {
    if (type.kind !== 'struct') {
      visit(path, type, io, this.entry.nameSpan);
      return;
    }
    const { members } = this.struct(type);
    type.members.forEach((m, i) => visit(`${path}.${members[i]}`, m.type, m.io, type.decl!.members[i]!.span));
  }

  private input(type: Type, io: IoAttributes, span: Span): string {
    const { stage } = this.entry;
    switch (io.builtin) {
      case 'vertex_index':
        return 'uint(gl_VertexID)';
      case 'instance_index':
        return 'uint(gl_InstanceID)';
      case 'position':
        this.usesTarget = true;
        return 'vec4(gl_FragCoord.x, umber_target.z > 0.0 ? umber_target.y - gl_FragCoord.y : gl_FragCoord.y, gl_FragCoord.zw)';
      case 'front_facing':
        return 'gl_FrontFacing';
      case undefined:
        break;
      default:
        throw this.refuse(`WebGL2 has no @builtin(${io.builtin})`, span);
    }
    const name = stage === 'vertex' ? this.names.fresh(`umber_in${io.location}`) : `umber_v${io.location}`;
    if (stage === 'vertex')
      this.globalText.push(`layout(location = ${io.location}) in ${this.typeText(type)} ${name};`);
    else this.globalText.push(`${this.interpolation(type, io, span)}in ${this.typeText(type)} ${name};`);
    return name;
  }

  private output(type: Type, io: IoAttributes, span: Span): string {
    switch (io.builtin) {
      case 'position':
        return 'gl_Position';
      case 'frag_depth':
        return 'gl_FragDepth';
      case undefined:
        break;
      default:
        throw this.refuse(`WebGL2 has no @builtin(${io.builtin})`, span);
    }
    if (io.blendSrc !== undefined) throw this.refuse('WebGL2 has no blending by two sources', span);
    if (this.entry.stage === 'fragment') {
      const name = this.names.fresh(`umber_out${io.location}`);
      this.globalText.push(`layout(location = ${io.location}) out ${this.typeText(type)} ${name};`);
      return name;
    }
    const name = `umber_v${io.location}`;
    this.globalText.push(`${this.interpolation(type, io, span)}out ${this.typeText(type)} ${name};`);
    return name;
  }

  private interpolation(type: Type, io: IoAttributes, span: Span): string {
    const [kind, sampling] = io.interpolate ?? [];
    if (kind === 'flat' || isInteger(elementScalar(type)!)) return 'flat ';
    if (kind === 'linear') throw this.refuse('WebGL2 cannot interpolate without perspective', span);
    if (sampling === 'sample') throw this.refuse('WebGL2 cannot interpolate at samples', span);
    return sampling === 'centroid' ? 'centroid ' : '';
  }

  // ---- functions

  /** The GLSL name of a function for these handles and buffer pointers, written out once for each set. */
  private function(decl: FunctionDecl, aliases: (Alias | undefined)[]): string {
    const key = `${decl.name}|${aliases.map((alias) => (alias?.kind === 'handle' ? alias.global.name : alias?.kind === 'buffer' ? `*${alias.place.root.name}` : '')).join(',')}`;
    const known = this.instances.get(key);
    if (known) return known.name;
    const instance: Instance = { decl, name: this.names.fresh(decl.name), aliases: new Map() };
    this.instances.set(key, instance);
    const outer = { locals: this.locals, instance: this.instance, lines: this.lines, indent: this.indent };
    this.locals = new Map();
    this.instance = instance;
    this.lines = [];
    this.indent = 1;
    const params: string[] = [];
    decl.params.forEach((param, i) => {
      const local = param.local!;
      const alias = aliases[i];
      const name = this.names.fresh(param.name);
      if (alias?.kind === 'handle') instance.aliases.set(local, alias);
      else if (alias?.kind === 'buffer') {
        instance.aliases.set(local, {
          kind: 'buffer',
          place: { root: alias.place.root, offset: 0, dynamic: [name] },
        });
        params.push(`int ${name}`);
      } else if (local.type.kind === 'ptr') {
        instance.aliases.set(local, { kind: 'place', text: name });
        params.push(`inout ${this.typeText(local.type.of)} ${name}`);
      } else {
        this.locals.set(local, name);
        params.push(`${this.typeText(local.type)} ${name}`);
      }
    });
    for (const statement of decl.body) this.statement(statement);
    const text = `${this.typeText(decl.returnType!)} ${instance.name}(${params.join(', ')}) {\n${this.lines.join('\n')}\n}`;
    ({ locals: this.locals, instance: this.instance, lines: this.lines, indent: this.indent } = outer);
    // Functions it calls were written before.
    this.functionText.push(text);
    return instance.name;
  }

  private line(text: string): void {
    this.lines.push('  '.repeat(this.indent) + text);
  }

  private inner(act: () => void): void {
    this.indent++;
    act();
    this.indent--;
  }

  private bodyOf(statement: Statement): void {
    if (statement.kind === 'block') for (const inner of statement.body) this.statement(inner);
    else this.statement(statement);
  }

  private statement(statement: Statement): void {
    switch (statement.kind) {
      case 'block':
        this.line('{');
        this.inner(() => this.bodyOf(statement));
        this.line('}');
        return;
      case 'let':
      case 'const':
      case 'var':
        this.declaration(statement);
        return;
      case 'assign':
      case 'step':
        this.line(`${this.simple(statement)};`);
        return;
      case 'phony':
        if (
          statement.value.type!.kind !== 'texture' &&
          statement.value.type!.kind !== 'sampler' &&
          hasCall(statement.value)
        )
          this.line(`${this.expr(statement.value)};`);
        return;
      case 'call': {
        const { call } = statement.call;
        if (call?.kind === 'builtin' && call.name.endsWith('Barrier')) return;
        this.line(`${this.expr(statement.call)};`);
        return;
      }
      case 'if':
        this.line(`if (${this.expr(statement.condition)}) {`);
        this.inner(() => this.bodyOf(statement.then));
        if (statement.otherwise) {
          this.line('} else {');
          this.inner(() => this.bodyOf(statement.otherwise!));
        }
        this.line('}');
        return;
      case 'switch':
        this.switch(statement);
        return;
      case 'loop':
        this.loop(statement);
        return;
      case 'while':
        if (exprHasEffects(statement.condition)) {
          this.line('while (true) {');
          this.inner(() => this.line(`if (!(${this.expr(statement.condition)})) break;`));
        } else this.line(`while (${this.expr(statement.condition)}) {`);
        this.inner(() => this.bodyOf(statement.body));
        this.line('}');
        return;
      case 'for':
        this.for(statement);
        return;
      case 'break':
      case 'continue':
        this.line(`${statement.kind};`);
        return;
      case 'discard':
        this.line('discard;');
        return;
      case 'return':
        this.line(statement.value ? `return ${this.expr(statement.value)};` : 'return;');
        return;
      default:
    }
  }

  private declaration(statement: Statement & { kind: 'let' | 'const' | 'var' }): void {
    const { local, init, name } = statement;
    const type = local!.type;
    if (type.kind === 'ptr') {
      this.instance.aliases.set(local!, this.pointer(init!));
      return;
    }
    if (type.kind === 'texture' || type.kind === 'sampler') {
      this.instance.aliases.set(local!, { kind: 'handle', global: this.handle(init!) });
      return;
    }
    // Constants are written where they are used, unless that would repeat much.
    if (statement.kind === 'const' && type.kind !== 'array' && type.kind !== 'struct') return;
    const value = init ? this.expr(init) : this.zero(type);
    const fresh = this.names.fresh(name);
    this.locals.set(local!, fresh);
    this.line(`${statement.kind === 'const' ? 'const ' : ''}${this.typeText(type)} ${fresh} = ${value};`);
  }

  /** Assignments and steps, which may also stand in the head of a for. */
  private simple(statement: Statement & { kind: 'assign' | 'step' }): string {
    if (statement.kind === 'step') {
      const type = loaded(statement.target.type!);
      const left = exprHasEffects(statement.target)
        ? this.fixedPlace(statement.target)
        : this.place(statement.target);
      return `${left} ${statement.by > 0 ? '+=' : '-='} ${type === U32 ? '1u' : '1'}`;
    }
    const { target, op, value } = statement;
    const isHeld = exprHasEffects(value) || exprHasEffects(target);
    const left = isHeld ? this.fixedPlace(target) : this.place(target);
    if (op === '=') return `${left} = ${this.expr(value)}`;
    if (isHeld) {
      const type = loaded(target.type!);
      const before = this.named('held', type, left);
      return `${left} = ${this.operation(op, before, this.expr(value), type, loaded(value.type!), value)}`;
    }
    const type = loaded(target.type!);
    const plain = ['+', '-', '*'].includes(op) || (op === '/' && !isInteger(elementScalar(type)!));
    if (plain) return `${left} ${op}= ${this.expr(value)}`;
    return `${left} = ${this.operation(op, left, this.expr(value), type, loaded(value.type!), value)}`;
  }

  private switch(statement: Statement & { kind: 'switch' }): void {
    const isSigned = loaded(statement.on.type!) === I32;
    this.line(`switch (${this.expr(statement.on)}) {`);
    this.inner(() => {
      for (const one of statement.cases) {
        for (const selector of one.selectors) {
          this.line(selector ? `case ${this.literal(selector.value!, isSigned ? I32 : U32)}:` : 'default:');
        }
        this.line('{');
        this.inner(() => this.bodyOf(one.body));
        this.inner(() => this.line('break;'));
        this.line('}');
      }
    });
    this.line('}');
  }

  private loop(statement: Statement & { kind: 'loop' }): void {
    const { continuing } = statement;
    if (!continuing) {
      this.line('while (true) {');
      this.inner(() => statement.body.forEach((inner) => this.statement(inner)));
      this.line('}');
      return;
    }
    // The continuing block runs at the start of every round but the first, so that continue reaches
    // it. Names it shares with the body are declared outside of both.
    const first = this.names.fresh('first_round');
    const hoisted = this.hoist(statement.body);
    this.line('{');
    this.inner(() => {
      for (const text of hoisted) this.line(text);
      this.line(`bool ${first} = true;`);
      this.line('while (true) {');
      this.inner(() => {
        this.line(`if (!${first}) {`);
        const body: string[] = [];
        // The body is written before the block that uses its names, and put after it.
        const outer = this.lines;
        this.lines = body;
        statement.body.forEach((inner) => this.hoistedStatement(inner));
        this.lines = outer;
        this.inner(() => {
          continuing.body.forEach((inner) => this.statement(inner));
          if (continuing.breakIf) this.line(`if (${this.expr(continuing.breakIf)}) break;`);
        });
        this.line('}');
        this.line(`${first} = false;`);
        this.lines.push(...body);
      });
      this.line('}');
    });
    this.line('}');
  }

  /** Declares the variables of a loop's body ahead of it. */
  private hoist(body: Statement[]): string[] {
    const lines: string[] = [];
    for (const statement of body) {
      if (statement.kind !== 'let' && statement.kind !== 'var') continue;
      const { local, name } = statement;
      const type = local!.type;
      if (type.kind === 'ptr' || type.kind === 'texture' || type.kind === 'sampler') continue;
      const fresh = this.names.fresh(name);
      this.locals.set(local!, fresh);
      lines.push(`${this.typeText(type)} ${fresh} = ${this.zero(type)};`);
    }
    return lines;
  }

  private hoistedStatement(statement: Statement): void {
    if ((statement.kind === 'let' || statement.kind === 'var') && this.locals.has(statement.local!)) {
      const type = statement.local!.type;
      this.line(
        `${this.locals.get(statement.local!)} = ${statement.init ? this.expr(statement.init) : this.zero(type)};`,
      );
      return;
    }
    this.statement(statement);
  }

  private for(statement: Statement & { kind: 'for' }): void {
    this.line('{');
    this.inner(() => {
      if (statement.init) this.statement(statement.init);
      if (exprHasEffects(statement.condition) || (statement.update && needsLines(statement.update))) {
        this.orderedFor(statement);
        return;
      }
      const condition = statement.condition ? this.expr(statement.condition) : 'true';
      const { update } = statement;
      const step = !update
        ? ''
        : update.kind === 'assign' || update.kind === 'step'
          ? this.simple(update)
          : update.kind === 'call'
            ? this.expr(update.call)
            : '';
      this.line(`for (; ${condition}; ${step}) {`);
      this.inner(() => this.bodyOf(statement.body));
      this.line('}');
    });
    this.line('}');
  }

  /** A for whose head needs statements of its own: the update runs at the start of every later round. */
  private orderedFor(statement: Statement & { kind: 'for' }): void {
    const first = this.names.fresh('first_round');
    this.line(`bool ${first} = true;`);
    this.line('while (true) {');
    this.inner(() => {
      if (statement.update) {
        this.line(`if (!${first}) {`);
        this.inner(() => this.statement(statement.update!));
        this.line('}');
        this.line(`${first} = false;`);
      }
      if (statement.condition) this.line(`if (!(${this.expr(statement.condition)})) break;`);
      this.bodyOf(statement.body);
    });
    this.line('}');
  }

  // ---- places and pointers

  /** The GLSL text of a place that can be written. */
  private place(expr: Expr): string {
    const target = unparenthesized(expr);
    switch (target.kind) {
      case 'name': {
        const decl = target.target!;
        if ('index' in decl) {
          const alias = this.instance.aliases.get(decl);
          if (alias?.kind === 'place') return alias.text;
          return this.locals.get(decl)!;
        }
        return this.global(decl as GlobalVar);
      }
      case 'unary':
        return this.place(target.of);
      case 'member': {
        const via = target.via!;
        const of = this.place(target.of);
        if (via.kind === 'swizzle') return `${of}.${via.components.map((k) => 'xyzw'[k]).join('')}`;
        return `${of}.${this.struct(baseOf(target.of) as Struct).members[via.index]}`;
      }
      case 'index':
        return `${this.place(target.of)}[${this.index(target.index)}]${inRow(target.of)}`;
      default:
        return this.expr(target);
    }
  }

  private index(expr: Expr): string {
    return this.expr(expr);
  }

  private pointer(expr: Expr): Alias {
    const target = unparenthesized(expr);
    if (target.kind === 'name') {
      const known = 'index' in target.target! ? this.instance.aliases.get(target.target) : undefined;
      if (known) return known;
    }
    const isView = target.kind === 'call';
    if (!isView && (target.kind !== 'unary' || target.op !== '&'))
      throw this.refuse('this pointer cannot be followed in WebGL2', expr.span);
    const buffer = this.bufferPlace(isView ? target : target.of);
    if (isView && !buffer) throw this.refuse('WebGL2 can only view buffers that it reads', expr.span);
    if (buffer) {
      if (buffer.dynamic.length > 0) {
        const fresh = this.names.fresh('offset');
        this.line(`int ${fresh} = ${buffer.dynamic.join(' + ')};`);
        return { kind: 'buffer', place: { ...buffer, dynamic: [fresh] } };
      }
      return { kind: 'buffer', place: buffer };
    }
    return { kind: 'place', text: this.fixedPlace((target as { of: Expr }).of) };
  }

  /** Like `place`, but with indices evaluated now. */
  private fixedPlace(expr: Expr): string {
    const target = unparenthesized(expr);
    if (target.kind === 'index') {
      const of = this.fixedPlace(target.of);
      if (target.index.value !== undefined) return `${of}[${this.index(target.index)}]${inRow(target.of)}`;
      const fresh = this.names.fresh('at');
      this.line(`${this.typeText(loaded(target.index.type!))} ${fresh} = ${this.index(target.index)};`);
      return `${of}[${fresh}]${inRow(target.of)}`;
    }
    if (target.kind === 'member' && target.via!.kind === 'member') {
      return `${this.fixedPlace(target.of)}.${this.struct(baseOf(target.of) as Struct).members[target.via!.index]}`;
    }
    return this.place(target);
  }

  /** Where a buffer is read, when an expression names a part of one. */
  private bufferPlace(expr: Expr): Place | undefined {
    const target = unparenthesized(expr);
    switch (target.kind) {
      case 'name': {
        const decl = target.target;
        if (!decl) return undefined;
        if ('index' in decl) {
          const alias = this.instance?.aliases.get(decl);
          return alias?.kind === 'buffer' ? alias.place : undefined;
        }
        const global = decl as GlobalVar;
        return global.space === 'uniform' || global.space === 'storage'
          ? { root: global, offset: 0, dynamic: [] }
          : undefined;
      }
      case 'unary':
        return target.op === '*' || target.op === '&' ? this.bufferPlace(target.of) : undefined;
      case 'member': {
        const base = this.bufferPlace(target.of);
        if (!base) return undefined;
        const type = baseOf(target.of);
        if (type.kind === 'struct') {
          const { index } = target.via as { index: number };
          return { ...base, offset: base.offset + type.members[index]!.offset };
        }
        const components = (target.via as { components: number[] }).components;
        return components.length === 1 ? { ...base, offset: base.offset + components[0]! * 4 } : undefined;
      }
      case 'index': {
        const base = this.bufferPlace(target.of);
        if (!base) return undefined;
        const type = baseOf(target.of);
        const stride =
          type.kind === 'array' ? strideOf(type) : type.kind === 'mat' ? (type.rows === 2 ? 8 : 16) : 4;
        const fixed = target.index.value as number | undefined;
        if (fixed !== undefined) return { ...base, offset: base.offset + fixed * stride };
        const index =
          loaded(target.index.type!) === U32 ? `int(${this.expr(target.index)})` : this.expr(target.index);
        const most = type.kind === 'array' && type.count !== undefined ? type.count - 1 : undefined;
        const bounded = most === undefined ? `max(${index}, 0)` : `clamp(${index}, 0, ${most})`;
        return { ...base, dynamic: [...base.dynamic, `${bounded} * ${stride}`] };
      }
      case 'call': {
        if (target.call?.kind !== 'builtin' || !/^buffer(Array)?View$/.test(target.call.name))
          return undefined;
        const [pointer, offset, size] = target.args;
        const base = this.bufferPlace(pointer!);
        if (!base || !offset) return undefined;
        const fixed = offset.value as number | undefined;
        const place =
          fixed === undefined
            ? { ...base, dynamic: [...base.dynamic, `int(${this.expr(offset)})`] }
            : { ...base, offset: base.offset + fixed };
        return size ? { ...place, end: `(${this.byteOffset(place)} + int(${this.expr(size)}))` } : place;
      }
      default:
        return undefined;
    }
  }

  /** Reads a value out of a buffer, word by word, so that WGSL's layout holds whatever GLSL's is. */
  private load(place: Place, type: Type): string {
    const { root } = place;
    const name = this.global(root);
    const isUniform = root.space === 'uniform';
    const texel = (at: string): string =>
      isUniform
        ? `${name}[${at}]`
        : `texelFetch(${name}, ivec2((${at}) % ${STORAGE_ROW}, (${at}) / ${STORAGE_ROW}), 0)`;
    if (type.kind === 'scalar' || type.kind === 'vec') {
      const n = type.kind === 'vec' ? type.size : 1;
      const letters = 'xyzw';
      let words: string;
      if (place.dynamic.length === 0) {
        const first = (place.offset >> 2) & 3;
        words = `${texel(String(place.offset >> 4))}${n === 4 ? '' : `.${letters.slice(first, first + n)}`}`;
      } else {
        words = `${this.wordLoader(root, n, texel)}(${this.byteOffset(place)})`;
      }
      return this.fromWords(words, type);
    }
    return `${this.loader(root, type)}(${this.byteOffset(place)})`;
  }

  private byteOffset({ offset, dynamic }: Place): string {
    return dynamic.length === 0
      ? String(offset)
      : `(${[...dynamic, ...(offset ? [String(offset)] : [])].join(' + ')})`;
  }

  private fromWords(words: string, type: Type): string {
    const of = elementScalar(type)!;
    if (of === F32) return `uintBitsToFloat(${words})`;
    if (of === I32) return type.kind === 'vec' ? `ivec${type.size}(${words})` : `int(${words})`;
    return words;
  }

  /** A function that gives n words at a byte offset: vectors never straddle texels, except of two words. */
  private wordLoader(root: GlobalVar, n: number, texel: (at: string) => string): string {
    const key = `${root.name} words ${n}`;
    let name = this.loaders.get(key);
    if (!name) {
      name = this.names.fresh(`umber_words_${root.name}`);
      this.loaders.set(key, name);
      const type = n === 1 ? 'uint' : `uvec${n}`;
      const texelText = `uvec4 t = ${texel('at >> 4')};`;
      const rest =
        n === 1
          ? 'return t[(at >> 2) & 3];'
          : n === 2
            ? 'return (at & 8) == 0 ? t.xy : t.zw;'
            : `return t${n === 3 ? '.xyz' : ''};`;
      this.loaderText.push(`${type} ${name}(int at) { ${texelText} ${rest} }`);
    }
    return name;
  }

  /** A function that gives a matrix, an array or a structure at a byte offset. */
  private loader(root: GlobalVar, type: Type): string {
    const key = `${root.name} ${type.key}`;
    const known = this.loaders.get(key);
    if (known) return known;
    const name = this.names.fresh(`umber_load_${root.name}`);
    this.loaders.set(key, name);
    const at = (offset: number): Place => ({ root, offset, dynamic: ['at'] });
    const text = this.typeText(type);
    let body: string;
    if (type.kind === 'mat') {
      const stride = type.rows === 2 ? 8 : 16;
      const columns = Array.from({ length: type.columns }, (_, i) => this.load(at(i * stride), type.column));
      body = `return ${text}(${columns.join(', ')});`;
    } else if (type.kind === 'array') {
      const element = this.load({ root, offset: 0, dynamic: ['at', `i * ${strideOf(type)}`] }, type.of);
      body = `${text} list; for (int i = 0; i < ${type.count ?? 1}; i++) list[i]${type.of.kind === 'array' ? '.a' : ''} = ${element}; return list;`;
    } else {
      const struct = type as Struct;
      body = `return ${text}(${struct.members.map((m) => this.load(at(m.offset), m.type)).join(', ')});`;
    }
    this.loaderText.push(`${text} ${name}(int at) { ${body} }`);
    return name;
  }

  // ---- expressions

  private zero(type: Type): string {
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
    return this.literal(zero(type), type);
  }

  /**
   * Texts of expressions that are evaluated from left to right. GLSL leaves that order open, so where
   * one of them changes memory, it and what stands before it are evaluated ahead, each into a name.
   */
  private ordered(exprs: Expr[], write: (expr: Expr) => string = (e) => this.expr(e)): string[] {
    const last = exprs.findLastIndex(exprHasEffects);
    if (last < 0 || exprs.filter((e) => e.value === undefined).length < 2) return exprs.map(write);
    return exprs.map((expr, i) => {
      const type = loaded(expr.type!);
      const stays =
        i > last ||
        expr.value !== undefined ||
        type.kind === 'ptr' ||
        type.kind === 'texture' ||
        type.kind === 'sampler';
      const text = write(expr);
      if (stays || type === VOID) return text;
      return this.named('held', type, text);
    });
  }

  private named(name: string, type: Type, text: string): string {
    const fresh = this.names.fresh(name);
    this.line(`${this.typeText(type)} ${fresh} = ${text};`);
    return fresh;
  }

  /** `&&` and `||` whose right side changes memory: only evaluated when it counts. */
  private lazy(expr: Expr & { kind: 'binary' }): string {
    const result = this.named('held', BOOL, this.expr(expr.left));
    this.line(`if (${expr.op === '&&' ? '' : '!'}${result}) {`);
    this.inner(() => this.line(`${result} = ${this.expr(expr.right)};`));
    this.line('}');
    return result;
  }

  private expr(expr: Expr): string {
    if (expr.value !== undefined) return this.constant(expr);
    const type = expr.type!;
    if (type.kind === 'ref') {
      const buffer = this.bufferPlace(expr);
      if (buffer) return this.load(buffer, type.of);
    }
    switch (expr.kind) {
      case 'paren':
        return this.expr(expr.of);
      case 'name':
        return this.place(expr);
      case 'unary':
        if (expr.op === '*') return this.place(expr.of);
        if (expr.op === '!')
          return loaded(type) === BOOL ? `(!${this.expr(expr.of)})` : `not(${this.expr(expr.of)})`;
        return `(${expr.op}${this.expr(expr.of)})`;
      case 'binary': {
        if ((expr.op === '&&' || expr.op === '||') && exprHasEffects(expr.right)) return this.lazy(expr);
        const [left = '', right = ''] = this.ordered([expr.left, expr.right]);
        return this.operation(
          expr.op,
          left,
          right,
          loaded(expr.left.type!),
          loaded(expr.right.type!),
          expr.right,
        );
      }
      case 'member': {
        const via = expr.via!;
        const of = this.base(expr.of);
        if (via.kind === 'swizzle') return `${of}.${via.components.map((k) => 'xyzw'[k]).join('')}`;
        return `${of}.${this.struct(baseOf(expr.of) as Struct).members[via.index]}`;
      }
      case 'index':
        return `${this.base(expr.of)}[${this.index(expr.index)}]${inRow(expr.of)}`;
      case 'call':
        return this.call(expr);
      default:
        return '';
    }
  }

  private base(expr: Expr): string {
    const type = loaded(expr.type!);
    if (type.kind !== 'ptr') return this.expr(expr);
    const buffer = this.bufferPlace(expr);
    return buffer ? this.load(buffer, type.of) : this.place(expr);
  }

  private constant(expr: Expr): string {
    const type = concrete(loaded(expr.type!));
    const inner = unparenthesized(expr);
    // Large constants are named once instead of repeated.
    if (inner.kind === 'name' && (type.kind === 'array' || type.kind === 'struct')) {
      const decl = inner.target;
      if (decl && 'index' in decl && this.locals.has(decl)) return this.locals.get(decl)!;
      if (decl && !('index' in decl)) return this.global(decl as GlobalVar);
    }
    return this.literal(expr.value!, type);
  }

  private operation(op: string, a: string, b: string, left: Type, right: Type, rightExpr: Expr): string {
    const of = elementScalar(left)!;
    const isVector = left.kind === 'vec' || right.kind === 'vec';
    const shape = left.kind === 'vec' ? left : right;
    switch (op) {
      case '/':
      case '%': {
        if (of === F32 && op === '/') break;
        if (op === '/' || of !== F32) {
          const divisor = rightExpr.value;
          const isPlain =
            divisor !== undefined &&
            (Array.isArray(divisor) ? divisor : [divisor]).every((v) => v !== 0 && v !== -1);
          if (isPlain && (op === '/' || of === U32)) break;
        }
        // Helpers take operands of one shape.
        const widen = (text: string, type: Type): string =>
          isVector && type.kind === 'scalar' ? `${this.typeText(shape)}(${text})` : text;
        return `${this.helpers.use(op === '/' ? 'umber_div' : 'umber_mod')}(${widen(a, left)}, ${widen(b, right)})`;
      }
      case '<<':
      case '>>':
        return `(${a} ${op} (${b} & 31u))`;
      case '&':
      case '|':
        if (of === BOOL)
          return isVector
            ? `${this.typeText(shape)}(${this.typeText(shape).replace('b', 'i')}(${a}) ${op} ${this.typeText(shape).replace('b', 'i')}(${b}))`
            : `bool(int(${a}) ${op} int(${b}))`;
        break;
      case '==':
      case '!=':
      case '<':
      case '<=':
      case '>':
      case '>=':
        if (isVector) {
          const name = {
            '==': 'equal',
            '!=': 'notEqual',
            '<': 'lessThan',
            '<=': 'lessThanEqual',
            '>': 'greaterThan',
            '>=': 'greaterThanEqual',
          }[op];
          return `${name}(${a}, ${b})`;
        }
        break;
      default:
    }
    return `(${a} ${op} ${b})`;
  }

  private call(expr: CallExpr): string {
    const call = expr.call!;
    if (call.kind === 'construct') return this.construct(expr);
    if (call.kind === 'function') return this.callFunction(expr, call.function);
    return this.builtin(call.name, expr);
  }

  private construct(expr: CallExpr): string {
    const type = expr.type!;
    const text = this.typeText(type);
    if (expr.args.length === 0) return this.zero(type);
    const args = this.ordered(expr.args);
    const from = expr.args.map((arg) => loaded(arg.type!));
    if (type.kind === 'scalar' || type.kind === 'vec') {
      const to = elementScalar(type)!;
      const converted = args.map((arg, i) => {
        const source = elementScalar(from[i]!)!;
        if (source === F32 && to === I32) return `${this.helpers.use('umber_toInt')}(${arg})`;
        if (source === F32 && to === U32) return `${this.helpers.use('umber_toUint')}(${arg})`;
        return arg;
      });
      return `${text}(${converted.join(', ')})`;
    }
    const rows = type.kind === 'array' && type.of.kind === 'array' ? this.wrapped(type.of) : '';
    return `${text}(${args.map((arg) => (rows ? `${rows}(${arg})` : arg)).join(', ')})`;
  }

  private callFunction(expr: CallExpr, decl: FunctionDecl): string {
    const aliases: (Alias | undefined)[] = [];
    const args: string[] = [];
    const values = this.ordered(expr.args, (arg) => {
      const { kind } = loaded(arg.type!);
      return kind === 'texture' || kind === 'sampler' || kind === 'ptr' ? '' : this.expr(arg);
    });
    expr.args.forEach((arg, i) => {
      const type = loaded(arg.type!);
      if (type.kind === 'texture' || type.kind === 'sampler') {
        aliases.push({ kind: 'handle', global: this.handle(arg) });
        return;
      }
      if (type.kind !== 'ptr') {
        aliases.push(undefined);
        args.push(values[i]!);
        return;
      }
      const alias = this.pointer(arg);
      if (alias.kind === 'buffer') {
        aliases.push(alias);
        args.push(this.byteOffset(alias.place));
      } else {
        aliases.push(undefined);
        args.push((alias as { text: string }).text);
      }
    });
    return `${this.function(decl, aliases)}(${args.join(', ')})`;
  }

  private handle(expr: Expr): GlobalVar {
    const target = unparenthesized(expr);
    if (target.kind === 'name' && target.target) {
      if (!('index' in target.target)) return target.target as GlobalVar;
      const alias = this.instance.aliases.get(target.target);
      if (alias?.kind === 'handle') return alias.global;
    }
    throw this.refuse('textures and samplers must be named directly', expr.span);
  }

  private builtin(name: string, expr: CallExpr): string {
    const { args } = expr;
    if (name.startsWith('texture')) return this.texture(name, expr);
    if (name.startsWith('atomic')) throw this.refuse('WebGL2 has no atomics', expr.span);
    if (name === 'arrayLength') return this.arrayLength(expr);
    if (name === 'bufferLength') {
      const place = this.bufferPlace(args[0]!);
      if (!place) throw this.refuse('WebGL2 can only view buffers that it reads', expr.span);
      return this.bufferLength(place.root);
    }
    if (/^(subgroup|quad)/.test(name)) throw this.refuse('WebGL2 has no subgroups', expr.span);
    const texts = this.ordered(args);
    const [a = '', b = '', d = ''] = texts;
    const types = args.map((arg) => loaded(arg.type!));
    const type = expr.type!;
    const of = types[0] ? elementScalar(types[0])! : F32;
    const help = (helper: string): string => `${this.helpers.use(helper)}(${texts.join(', ')})`;
    switch (name) {
      case 'all':
      case 'any':
        return types[0] === BOOL ? a : `${name}(${a})`;
      case 'select':
        // Both sides are evaluated, whichever is chosen.
        if (types[2] === BOOL && args.some(exprHasEffects)) {
          const [x, y] = [0, 1].map((i) => this.named('held', concrete(types[i]!), texts[i]!));
          return `(${d} ? ${y} : ${x})`;
        }
        return types[2] === BOOL ? `(${d} ? ${b} : ${a})` : help('umber_select');
      case 'inverseSqrt':
        return `inversesqrt(${a})`;
      case 'round':
        return `roundEven(${a})`;
      case 'atan2':
        return `atan(${a}, ${b})`;
      case 'saturate':
        return `clamp(${a}, 0.0, 1.0)`;
      case 'fma':
        return `(${a} * ${b} + ${d})`;
      case 'abs':
        return of === U32 ? a : `abs(${a})`;
      case 'faceForward':
        return `faceforward(${a}, ${b}, ${d})`;
      case 'dot': {
        if (of === F32) return `dot(${a}, ${b})`;
        // Whole numbers have no dot of their own: multiplied, then summed by a function.
        const size = (types[0] as { size: number }).size;
        return `${this.intDot(size, of)}(${a}, ${b})`;
      }
      case 'ldexp':
        return help('umber_ldexp');
      case 'quantizeToF16':
        return help('umber_quantize');
      case 'frexp':
      case 'modf':
        return this.split(name, a, type as Struct);
      case 'countOneBits':
      case 'countLeadingZeros':
      case 'countTrailingZeros':
      case 'firstLeadingBit':
      case 'firstTrailingBit':
      case 'reverseBits':
        return help(`umber_${name}`);
      case 'extractBits':
      case 'insertBits':
        return this.perComponent(name, texts, types[0]!);
      case 'bitcast':
        return this.bitcast(a, types[0]!, type);
      case 'pack2x16float':
        return `packHalf2x16(${a})`;
      case 'unpack2x16float':
        return `unpackHalf2x16(${a})`;
      case 'pack2x16snorm':
        return `packSnorm2x16(${a})`;
      case 'pack2x16unorm':
        return `packUnorm2x16(${a})`;
      case 'unpack2x16snorm':
        return `unpackSnorm2x16(${a})`;
      case 'unpack2x16unorm':
        return `unpackUnorm2x16(${a})`;
      default:
    }
    if (/^(un)?pack4x|^dot4/.test(name)) return this.bytes(name, a, b);
    if (name.startsWith('dpdx')) return `dFdx(${a})`;
    if (name.startsWith('dpdy')) {
      this.usesTarget = true;
      return `(dFdy(${a}) * -umber_target.z)`;
    }
    if (name.startsWith('fwidth')) return `fwidth(${a})`;
    return `${name}(${texts.join(', ')})`;
  }

  private intDot(size: number, of: Scalar): string {
    const key = `dot ${size} ${of.key}`;
    let name = this.loaders.get(key);
    if (!name) {
      name = this.names.fresh('umber_dot');
      this.loaders.set(key, name);
      const v = glslVector(size, of);
      this.loaderText.push(
        `${glslScalar(of)} ${name}(${v} a, ${v} b) { return ${[...'xyzw']
          .slice(0, size)
          .map((k) => `a.${k} * b.${k}`)
          .join(' + ')}; }`,
      );
    }
    return name;
  }

  private perComponent(name: string, texts: string[], type: Type): string {
    const helper = this.helpers.use(`umber_${name}`);
    if (type.kind !== 'vec') return `${helper}(${texts.join(', ')})`;
    const key = `${name} ${type.key}`;
    let wrapper = this.loaders.get(key);
    if (!wrapper) {
      wrapper = this.names.fresh(`umber_${name}V`);
      this.loaders.set(key, wrapper);
      const text = this.typeText(type);
      const isInsert = name === 'insertBits';
      const parts = [...'xyzw']
        .slice(0, type.size)
        .map((k) => `${helper}(v.${k}, ${isInsert ? `w.${k}, ` : ''}o, n)`);
      this.loaderText.push(
        `${text} ${wrapper}(${text} v, ${isInsert ? `${text} w, ` : ''}uint o, uint n) { return ${text}(${parts.join(', ')}); }`,
      );
    }
    return `${wrapper}(${texts.join(', ')})`;
  }

  private bytes(name: string, a: string, b: string): string {
    this.helpers.use('umber_bytes');
    switch (name) {
      case 'pack4x8snorm':
        return `umber_word(uvec4(ivec4(floor(0.5 + 127.0 * clamp(${a}, -1.0, 1.0)))))`;
      case 'pack4x8unorm':
        return `umber_word(uvec4(floor(0.5 + 255.0 * clamp(${a}, 0.0, 1.0))))`;
      case 'pack4xI8':
        return `umber_word(uvec4(${a}))`;
      case 'pack4xU8':
        return `umber_word(${a})`;
      case 'pack4xI8Clamp':
        return `umber_word(uvec4(clamp(${a}, -128, 127)))`;
      case 'pack4xU8Clamp':
        return `umber_word(min(${a}, uvec4(255u)))`;
      case 'unpack4x8snorm':
        return `max(vec4(umber_signedBytes(${a})) / 127.0, -1.0)`;
      case 'unpack4x8unorm':
        return `(vec4(umber_bytes(${a})) / 255.0)`;
      case 'unpack4xI8':
        return `umber_signedBytes(${a})`;
      case 'unpack4xU8':
        return `umber_bytes(${a})`;
      case 'dot4U8Packed':
        return `${this.intDot(4, U32)}(umber_bytes(${a}), umber_bytes(${b}))`;
      default:
        return `${this.intDot(4, I32)}(umber_signedBytes(${a}), umber_signedBytes(${b}))`;
    }
  }

  /** frexp and modf give structures. */
  private split(name: string, a: string, type: Struct): string {
    const key = `${name} ${type.key}`;
    let helper = this.loaders.get(key);
    if (!helper) {
      helper = this.names.fresh(`umber_${name}`);
      this.loaders.set(key, helper);
      const struct = this.struct(type).name;
      const of = type.members[0]!.type;
      const text = this.typeText(of);
      if (name === 'modf') {
        this.loaderText.push(
          `${struct} ${helper}(${text} x) { ${text} w = trunc(x); return ${struct}(x - w, w); }`,
        );
      } else {
        const scalar = this.names.fresh('umber_exponent');
        // Exact for normal numbers: the exponent's bits; numbers below are scaled up first.
        this.loaderText.push(
          `int ${scalar}(float x) { if (x == 0.0) return 0; float m = abs(x); int low = 0; if (m < 1.17549435e-38) { m *= 16777216.0; low = -24; } return int((floatBitsToUint(m) >> 23) & 255u) - 126 + low; }`,
        );
        const n = of.kind === 'vec' ? of.size : 1;
        const exponent =
          n === 1
            ? `${scalar}(x)`
            : `ivec${n}(${[...'xyzw']
                .slice(0, n)
                .map((k) => `${scalar}(x.${k})`)
                .join(', ')})`;
        const down =
          n === 1
            ? 'exp2(float(-(e / 2))) * exp2(float(-(e - e / 2)))'
            : `exp2(vec${n}(-(e / 2))) * exp2(vec${n}(-(e - e / 2)))`;
        this.loaderText.push(
          `${struct} ${helper}(${text} x) { ${n === 1 ? 'int' : `ivec${n}`} e = ${exponent}; return ${struct}(x * ${down}, e); }`,
        );
      }
    }
    return `${helper}(${a})`;
  }

  private bitcast(a: string, from: Type, to: Type): string {
    const [x, y] = [elementScalar(from)!, elementScalar(to)!];
    if (x === y) return a;
    if (x === F32) return y === I32 ? `floatBitsToInt(${a})` : `floatBitsToUint(${a})`;
    if (y === F32) return x === I32 ? `intBitsToFloat(${a})` : `uintBitsToFloat(${a})`;
    return `${this.typeText(to)}(${a})`;
  }

  private arrayLength(expr: CallExpr): string {
    const alias = this.pointer(expr.args[0]!);
    if (alias.kind !== 'buffer')
      throw this.refuse('only arrays in storage have a length at run time', expr.span);
    const type = (loaded(expr.args[0]!.type!) as { of: Type }).of;
    const { place } = alias;
    const all = this.bufferLength(place.root);
    const end = place.end ? `min(${all}, uint(${place.end}))` : all;
    return `((${end} - uint(${this.byteOffset(place)})) / ${strideOf(type as never)}u)`;
  }

  /** Bytes of a whole buffer. */
  private bufferLength(root: GlobalVar): string {
    const name = this.global(root);
    return root.space === 'uniform' ? `${sizeOf(root.type!)}u` : this.storage[name]!.lengthUniform;
  }

  // ---- textures

  private texture(name: string, expr: CallExpr): string {
    const at = expr.args.findIndex((arg) => loaded(arg.type!).kind === 'texture');
    const texture = this.handle(expr.args[at]!);
    const type = texture.type as TextureType;
    const isArrayed = type.dimension === '2d_array';
    const rest = expr.args.slice(at + 1);
    const text = (arg: Expr | undefined): string => (arg ? this.expr(arg) : '0');
    const asInt = (arg: Expr | undefined): string =>
      arg && loaded(arg.type!) === U32 ? `int(${text(arg)})` : text(arg);
    const depth = (sampled: string): string => (type.form === 'depth' ? `${sampled}.x` : sampled);
    const n = type.dimension === '3d' || isArrayed ? 3 : 2;
    switch (name) {
      case 'textureDimensions': {
        const size = `textureSize(${this.combined(texture, undefined)}, ${asInt(rest[0])})`;
        return type.dimension === '3d'
          ? `uvec3(${size})`
          : isArrayed
            ? `uvec2(${size}.xy)`
            : `uvec2(${size})`;
      }
      case 'textureNumLayers':
        return `uint(textureSize(${this.combined(texture, undefined)}, 0).z)`;
      case 'textureLoad': {
        const whole = `ivec${isArrayed ? 2 : n}(${text(rest[0])})`;
        const coordinate = isArrayed ? `ivec3(${whole}, ${asInt(rest[1])})` : whole;
        return depth(
          `texelFetch(${this.combined(texture, undefined)}, ${coordinate}, ${asInt(rest[isArrayed ? 2 : 1])})`,
        );
      }
      case 'textureNumLevels':
      case 'textureGather':
      case 'textureGatherCompare':
        throw this.refuse(`WebGL2 has no ${name}`, expr.span);
      default:
    }
    const sampler = this.combined(texture, this.handle(rest[0]!));
    let next = 1;
    let coordinate = text(rest[next++]);
    if (isArrayed) coordinate = `vec3(${coordinate}, float(${text(rest[next++])}))`;
    const last = rest[rest.length - 1]!;
    const hasOffset = loaded(last.type!).kind === 'vec' && elementScalar(loaded(last.type!)) === I32;
    const offset = hasOffset ? `, ${text(last)}` : '';
    const suffix = hasOffset ? 'Offset' : '';
    if (name.startsWith('textureSampleCompare')) {
      const reference = text(rest[next]);
      const size = n === 3 || type.dimension === 'cube' ? 4 : 3;
      const full = `vec${size}(${coordinate}, ${reference})`;
      if (name === 'textureSampleCompareLevel' && size === 3)
        return `textureLod${suffix}(${sampler}, ${full}, 0.0${offset})`;
      if (name === 'textureSampleCompareLevel') {
        const zero = type.dimension === 'cube' ? 'vec3(0.0)' : 'vec2(0.0)';
        return `textureGrad${suffix}(${sampler}, ${full}, ${zero}, ${zero}${offset})`;
      }
      if (hasOffset && size === 4)
        throw this.refuse('WebGL2 has no offsets for comparisons in arrays', expr.span);
      return `texture${suffix}(${sampler}, ${full}${offset})`;
    }
    switch (name) {
      case 'textureSample':
        return depth(`texture${suffix}(${sampler}, ${coordinate}${offset})`);
      case 'textureSampleBias': {
        const bias = text(rest[next]);
        return depth(
          hasOffset
            ? `textureOffset(${sampler}, ${coordinate}${offset}, ${bias})`
            : `texture(${sampler}, ${coordinate}, ${bias})`,
        );
      }
      case 'textureSampleLevel': {
        const level = rest[next]!;
        return depth(
          `textureLod${suffix}(${sampler}, ${coordinate}, ${isInteger(loaded(level.type!)) ? `float(${text(level)})` : text(level)}${offset})`,
        );
      }
      case 'textureSampleBaseClampToEdge':
        return `textureLod(${sampler}, clamp(${coordinate}, 0.5 / vec2(textureSize(${sampler}, 0)), 1.0 - 0.5 / vec2(textureSize(${sampler}, 0))), 0.0)`;
      default:
        return depth(
          `textureGrad${suffix}(${sampler}, ${coordinate}, ${text(rest[next])}, ${text(rest[next + 1])}${offset})`,
        );
    }
  }
}

function sameAt([group, binding]: [number, number], decl: GlobalVar): boolean {
  return group === (decl.group ?? 0) && binding === (decl.binding ?? 0);
}

function hasCall(expr: Expr): boolean {
  switch (expr.kind) {
    case 'call':
      return true;
    case 'paren':
    case 'unary':
    case 'member':
      return hasCall(expr.of);
    case 'binary':
      return hasCall(expr.left) || hasCall(expr.right);
    case 'index':
      return hasCall(expr.of) || hasCall(expr.index);
    default:
      return false;
  }
}

/** Whether a statement cannot be written as a single expression. */
function needsLines(statement: Statement): boolean {
  return statement.kind === 'assign'
    ? exprHasEffects(statement.value) || exprHasEffects(statement.target)
    : statement.kind === 'step'
      ? exprHasEffects(statement.target)
      : statementHasEffects(statement);
}

/** The type behind references and pointers. */
function baseOf(expr: Expr): Type {
  const type = loaded(expr.type!);
  return type.kind === 'ptr' ? type.of : type;
}

/** Inner arrays are wrapped: an element of an array of arrays is reached through its member. */
function inRow(base: Expr): string {
  const type = baseOf(base);
  return type.kind === 'array' && type.of.kind === 'array' ? '.a' : '';
}
