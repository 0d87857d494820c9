import { LensError } from '../errors/lens-error.js';
import { nearest, nearHint } from '../errors/near-names.js';
import { type HookName, HOOKS } from '../shading/hook-outline.js';
import { LIBRARY } from '../shading/library.js';
import { outlineWgsl } from '../wgsl/outline.js';
import { resolvePath } from '../wgsl/parse/link.js';
import type { Graph, GraphFunction, GraphNode, GraphSetting } from './document.js';
import { type Environment, environmentOf } from './environment.js';
import { colorNumbers, type Expression, numberText } from './expression.js';
import type { GraphFault, GraphSpot } from './faults.js';
import type { doubtsOf } from './meaning.js';
import { type Meaning } from './meaning.js';
import { HOOK_ARGUMENTS, identifiersFor, isBuiltin, isIdentifier, isType, TAKEN } from './names.js';
import { LIBRARY_NODES } from './node-table.js';
import { inFlow } from './order.js';
import { type Argument, Scope, type Worked } from './scope.js';
import {
  concrete,
  F32,
  type Known,
  partOf,
  shownType,
  type Signature,
  type Struct,
  structOf,
  textureType,
  type Type,
  typeNamed,
} from './types.js';
import { conversionRank, vec } from '../wgsl/types/types.js';
import { calledBy, codeOf, inputsOfNode, inputsWithin, outputsOf, type Path } from './walk.js';

export interface CompileGraphOptions {
  /** Its name, for messages; what it uses is relative to it. Default `shader.graph.json`. */
  file?: string;
  /** Texts of the WGSL files that it uses, by path. */
  sources?: Readonly<Record<string, string>>;
}

/** A graph in WGSL. */
export interface CompiledGraph {
  /** A module of hooks, as one would write it by hand: one `let` a node, with its name. */
  wgsl: string;
  /** By line of it, from 0: which node or output stands there. */
  lines: readonly (GraphSpot | undefined)[];
  /** Of each node what it gives, as WGSL has it: `vec3f`. Nodes of functions as `function/node`. */
  types: ReadonlyMap<string, string>;
  /** Of each node what it is called in the WGSL. */
  names: ReadonlyMap<string, string>;
  /** What is right and seldom meant. */
  warnings: readonly GraphFault[];
}

/**
 * Compiles a graph into a module of hooks in readable WGSL, which `compileMaterialShader`, the plugin for Vite and the command line take
 * as one that was written by hand. Inputs without a value have their default: nothing is undefined.
 *
 * @throws LensError `graph/faults` for what `checkGraph` tells as an error
 */
export function compileGraph(graph: Graph, options: CompileGraphOptions = {}): CompiledGraph {
  const { compiled, faults } = tryCompileGraph(graph, options);
  const errors = faults.filter(({ severity }) => severity === 'error');
  const [first] = errors;
  if (first) {
    const told = errors.map(
      ({ hint, path, summary }) => `${path.join('/')}: ${summary}${hint ? `\n  hint: ${hint}` : ''}`,
    );
    throw new LensError(
      'graph/faults',
      errors.length === 1 ? told[0]! : `${errors.length} things are wrong in the graph:\n${told.join('\n')}`,
      {
        where: { file: options.file ?? 'shader.graph.json', pointer: `/${first.path.join('/')}` },
        cause: errors,
      },
    );
  }
  return compiled;
}

/** The same with everything that is wrong beside it; what is wrong stands in the WGSL as 0. */
export function tryCompileGraph(
  graph: Graph,
  options: CompileGraphOptions = {},
): { compiled: CompiledGraph; faults: GraphFault[] } {
  const compiler = new GraphCompiler(graph, options);
  const compiled = compiler.compile();
  return { compiled, faults: compiler.faults };
}

const SETTING_TYPES: Readonly<Record<GraphSetting['type'], string>> = {
  f32: 'f32',
  i32: 'i32',
  u32: 'u32',
  vec2f: 'vec2f',
  vec3f: 'vec3f',
  vec4f: 'vec4f',
  color: 'vec3f',
  colorWithAlpha: 'vec4f',
};

const INDENT = '  ';
/** Hooks whose outputs are members of a structure. */
const BY_MEMBERS = { surface: 'Surface', displace: 'Vertex', march: 'Hit' } as const;

class GraphCompiler {
  readonly faults: GraphFault[] = [];
  private readonly lines: { text: string; spot: GraphSpot | undefined }[] = [];
  private readonly types = new Map<string, string>();
  private readonly names = new Map<string, string>();
  private readonly file: string;
  private readonly called: Set<string>;
  private readonly textures: Map<string, Type>;
  private readonly isEffect: boolean;
  private readonly importLines: string[] = [];
  /** Names that come from files, and not from the library. */
  private readonly fromFiles = new Set<string>();

  constructor(
    private readonly graph: Graph,
    private readonly options: CompileGraphOptions,
  ) {
    this.file = options.file ?? 'shader.graph.json';
    this.called = calledBy(graph);
    this.isEffect = graph.hooks.effect !== undefined;
    this.textures = new Map(
      Object.entries(graph.textures ?? {}).map(([name, { shape = '2d' }]) => [name, textureType(shape)]),
    );
  }

  private fault(
    severity: GraphFault['severity'],
    code: string,
    path: Path,
    summary: string,
    hint: string,
    more: Partial<GraphFault> = {},
  ): void {
    this.faults.push({ severity, code, path, summary, hint, ...more });
  }

  private line(text: string, spot?: GraphSpot): void {
    for (const one of text.split('\n')) this.lines.push({ text: one, spot });
  }

  compile(): CompiledGraph {
    const { graph } = this;
    this.checkNames();
    if (graph.note) for (const one of graph.note.split('\n')) this.line(`// ${one}`.trimEnd());
    this.header();
    const environment = this.environment();
    const functions = new Map<string, Signature>(environment.functions);
    const known: Known = {
      functions,
      structs: new Map([...environment.structs, ...this.ownStructs(environment)]),
    };
    this.functions(known, functions);
    this.hooks(known);
    // What is wrong may be why nothing names them.
    if (!this.faults.some(({ severity }) => severity === 'error')) this.tellIdle();
    while (this.lines.at(-1)?.text === '') this.lines.pop();
    return {
      wgsl: `${this.lines.map(({ text }) => text).join('\n')}\n`,
      lines: this.lines.map(({ spot }) => spot),
      types: this.types,
      names: this.names,
      warnings: this.faults.filter(({ severity }) => severity === 'warning'),
    };
  }

  /** Names that mean something else already, or that WGSL does not take. */
  private checkNames(): void {
    const { attributes, functions, hooks, instanceSettings, nodes, settings, textures } = this.graph;
    for (const name of Object.keys(nodes ?? {}))
      if (TAKEN.has(name))
        this.fault(
          'error',
          'graph/name-taken',
          ['nodes', name],
          `a node cannot be called "${name}"`,
          `"@${name}" is what hooks are given. Call it otherwise.`,
          { isKey: true, node: name },
        );
    for (const [group, named] of Object.entries({
      settings,
      instanceSettings,
      attributes,
      textures,
      functions,
    }))
      for (const name of Object.keys(named ?? {})) {
        const isTaken = group === 'functions' && (isBuiltin(name) || isType(name) || name in HOOKS);
        if (!isIdentifier(name) || isTaken)
          this.fault(
            'error',
            'graph/name-taken',
            [group, name],
            `"${name}" cannot be a name in WGSL here`,
            'Use letters and digits, and no word of the language.',
            { isKey: true },
          );
      }
    for (const name of Object.keys(hooks))
      if (!(name in HOOKS))
        this.fault(
          'error',
          'graph/hook',
          ['hooks', name],
          `there is no hook "${name}"`,
          nearHint(name, Object.keys(HOOKS)),
          { isKey: true },
        );
      else if (name !== 'effect' && this.isEffect)
        this.fault(
          'error',
          'graph/hook',
          ['hooks', name],
          `an effect on pictures has no "${name}"`,
          'Put hooks of materials into a graph of their own.',
          { isKey: true },
        );
    if (Object.keys(hooks).length === 0)
      this.fault(
        'error',
        'graph/no-hook',
        ['hooks'],
        'the graph gives nothing',
        `Give one or more of ${Object.keys(HOOKS).join(', ')}.`,
      );
  }

  // What stands before the functions: imports, settings, textures, declarations.

  private header(): void {
    const { declarations = [], textures = {} } = this.graph;
    for (const [from, names] of this.imports())
      this.importLines.push(`import { ${names.join(', ')} } from '${from}';`);
    for (const one of this.importLines) this.line(one);
    this.gap();
    this.structOf('Settings', this.graph.settings, 'settings');
    this.structOf('InstanceSettings', this.graph.instanceSettings, 'instanceSettings');
    const attributes = Object.entries(this.graph.attributes ?? {});
    if (attributes.length > 0) {
      this.line(
        `struct Attributes {\n${attributes.map(([name, type]) => `${INDENT}${name}: ${type},`).join('\n')}\n}\n`,
      );
    }
    for (const [name, { holds, note, shape = '2d' }] of Object.entries(textures)) {
      const comment = [holds ?? (note ? 'color' : ''), note ?? ''].filter(Boolean).join('   ');
      this.line(
        `var ${name}: texture_${shape.replace('-', '_')}<f32>;${comment ? ` // ${oneLine(comment)}` : ''}`,
      );
      this.line(`var ${name}Sampler: sampler;`);
    }
    this.gap();
    for (const [i, code] of declarations.entries()) {
      if (/^\s*$/.test(code))
        this.fault('warning', 'graph/empty', ['declarations', i], 'a declaration is empty', 'Take it away.');
      this.line(code);
    }
    this.gap();
  }

  private gap(): void {
    if (this.lines.length > 0 && this.lines.at(-1)!.text !== '') this.line('');
  }

  private imports(): [from: string, names: string[]][] {
    const { functions = {} } = this.graph;
    const found = new Map<string, string[]>();
    const isOwn = (name: string): boolean => Object.hasOwn(functions, name);
    const seen = this.fromFiles;
    for (const [i, from] of (this.graph.uses ?? []).entries()) {
      const { sources = {} } = this.options;
      const text = sources[from] ?? sources[resolvePath(this.file, from)] ?? LIBRARY[from];
      if (text === undefined) {
        this.fault(
          'error',
          'graph/uses',
          ['uses', i],
          `there is no file ${from}`,
          'Addresses are relative to the graph.',
        );
        continue;
      }
      const outline = outlineWgsl(text, from);
      const others = [...text.matchAll(/\b(?:const|alias|override)\s+(\w+)/g)].map(([, name]) => ({
        name: name!,
      })); // it matched
      const names = [...outline.functions, ...outline.structs, ...others]
        .map(({ name }) => name)
        .filter((name) => this.called.has(name) && !isOwn(name));
      for (const name of names) seen.add(name);
      if (names.length > 0) found.set(from, names);
      else
        this.fault(
          'warning',
          'graph/unused',
          ['uses', i],
          `nothing of ${from} is called`,
          'Take it away, or call one of its functions.',
        );
    }
    for (const [from, names] of Object.entries(LIBRARY_NODES)) {
      const wanted = names.filter((name) => this.called.has(name) && !isOwn(name) && !seen.has(name));
      // A node may be called as a function is: what counts is what is called.
      if (wanted.length > 0) found.set(from, wanted);
    }
    return [...found];
  }

  private structOf(
    name: string,
    members: Readonly<Record<string, GraphSetting>> | undefined,
    group: string,
  ): void {
    const entries = Object.entries(members ?? {});
    if (entries.length === 0) return;
    const width = Math.max(...entries.map(([key, { type }]) => key.length + SETTING_TYPES[type].length)) + 3;
    this.line(`struct ${name} {`);
    for (const [key, setting] of entries) {
      const comment = this.settingComment(setting, [group, key]);
      const row = `${key}: ${SETTING_TYPES[setting.type]},`;
      this.line(`${INDENT}${comment ? row.padEnd(width) : row}${comment ? ` // ${comment}` : ''}`);
    }
    this.line('}\n');
  }

  /** What stands behind a setting: its range, its kind, what it begins with, what it is for. */
  private settingComment({ note, range, type, value }: GraphSetting, path: Path): string {
    const isColor = type === 'color' || type === 'colorWithAlpha';
    const size =
      type === 'color' ? 3 : type === 'colorWithAlpha' ? 4 : Number(/^vec([234])/.exec(type)?.[1] ?? 1);
    const numbers = this.settingNumbers(
      value ?? (isColor ? new Array<number>(size).fill(1) : 0),
      size,
      type,
      path,
    );
    const begin =
      typeof value === 'string' && /^#[0-9a-f]{6}$/i.test(value)
        ? value
        : numbers.length === 1
          ? numberText(numbers[0]!) // one
          : `[${numbers.map((one) => numberText(one)).join(', ')}]`;
    if (range && range[0] > range[1])
      this.fault(
        'error',
        'graph/setting',
        [...path, 'range'],
        `a range goes from ${range[0]} to ${range[1]}`,
        'Give the lower end first.',
      );
    const kind = range ? `${numberText(range[0])}..${numberText(range[1])}` : isColor ? 'color' : '';
    return oneLine([kind, `= ${begin}`, note ? `  ${note}` : ''].filter(Boolean).join(' '));
  }

  private settingNumbers(
    value: number | readonly number[] | string,
    size: number,
    type: string,
    path: Path,
  ): number[] {
    const given =
      typeof value === 'string' ? colorNumbers(value) : typeof value === 'number' ? [value] : [...value];
    const numbers = given && given.length === 1 && size > 1 ? new Array<number>(size).fill(given[0]!) : given; // one
    const whole = numbers && size === 4 && numbers.length === 3 ? [...numbers, 1] : numbers;
    if (whole && whole.length === size && whole.every((one) => Number.isFinite(one))) return whole;
    this.fault(
      'error',
      'graph/setting',
      [...path, 'value'],
      `a ${type} cannot begin with ${JSON.stringify(value)}`,
      size === 1
        ? 'Give a number.'
        : `Give ${size} numbers${type.startsWith('color') ? ', or "#rrggbb"' : ''}.`,
    );
    return new Array<number>(size).fill(0);
  }

  private environment(): Environment {
    // All of the library, whatever is called: so it is looked at once.
    const library = Object.entries(LIBRARY_NODES).map(
      ([from, names]) =>
        `import { ${names.filter((name) => !this.fromFiles.has(name)).join(', ')} } from '${from}';`,
    );
    const own = this.importLines.filter((line) => !/from 'umber\//.test(line));
    const text = [...library, ...own, ...(this.graph.declarations ?? [])].join('\n');
    const environment = environmentOf(text, this.isEffect, this.file, this.options.sources);
    const { fault } = environment;
    if (fault) this.fault('error', 'graph/code', ['declarations'], fault.summary, fault.hint);
    return environment;
  }

  /** Structures of what is set from outside, by what the graph says of them. */
  private ownStructs({ structs }: Environment): [string, Struct][] {
    const { attributes = {}, instanceSettings = {}, settings = {} } = this.graph;
    const typesOf = (group: Readonly<Record<string, GraphSetting>>): [string, string][] =>
      Object.entries(group).map(([name, { type }]) => [name, SETTING_TYPES[type]]);
    const groups: [string, [string, string][]][] = [
      ['Settings', typesOf(settings)],
      ['InstanceSettings', typesOf(instanceSettings)],
      ['Attributes', Object.entries(attributes)],
    ];
    return groups.map(([name, members]) => {
      const known = members.flatMap(([member, type]) => {
        const found = typeNamed(type, structs);
        return found ? [{ name: member, type: found }] : [];
      });
      return [name, structOf(name, known)];
    });
  }

  // Functions of the graph.

  private functions(known: Known, functions: Map<string, Signature>): void {
    const all = Object.entries(this.graph.functions ?? {});
    const calls = (held: GraphFunction): string[] => {
      const names = new Set<string>();
      for (const node of Object.values(held.nodes ?? {})) {
        if (node.call !== undefined) names.add(node.call);
        for (const { input } of inputsOfNode(node, [])) if (isCallOf(input)) names.add(input.call);
      }
      for (const { input } of inputsWithin(held.gives, [])) if (isCallOf(input)) names.add(input.call);
      for (const [word] of (held.code ?? '').matchAll(/\w+/g)) names.add(word);
      return [...names].filter((name) => Object.hasOwn(this.graph.functions ?? {}, name));
    };
    const { cycle, order } = inFlow(
      all.map(([name]) => name),
      (name) =>
        calls(this.graph.functions![name]!).filter(
          (other) => other !== name || this.graph.functions![name]!.code === undefined,
        ), // one of them
    );
    if (cycle)
      this.fault(
        'error',
        'graph/cycle',
        ['functions', cycle[0]!],
        `functions call each other in a ring: ${[...cycle, cycle[0]].join(', ')}`,
        'Take one of the calls away.',
        { function: cycle[0]! },
      );
    for (const name of order) {
      const held = this.graph.functions![name]!; // one of them
      if (held.note) for (const one of held.note.split('\n')) this.line(`/// ${one}`.trimEnd());
      if (held.code !== undefined) {
        this.line(held.code.trim(), { function: name });
        this.signatureOfCode(name, held.code, known, functions);
        this.line('');
        continue;
      }
      this.graphFunction(name, held, known, functions);
    }
  }

  /** What a function that is written in WGSL takes and gives, by its first line. */
  private signatureOfCode(name: string, code: string, known: Known, functions: Map<string, Signature>): void {
    const path = ['functions', name, 'code'];
    const outline = outlineWgsl(code, this.file);
    const fn = outline.functions.find((one) => one.name === name);
    const [finding] = outline.findings;
    if (finding || !fn) {
      this.fault(
        'error',
        'graph/code',
        path,
        finding
          ? `line ${finding.line} of the code: ${finding.message}`
          : `the code of "${name}" is no function of that name`,
        finding?.hint ?? `Begin it with fn ${name}(...).`,
        { function: name },
      );
      return;
    }
    const params = fn.params.map((param) => ({
      name: param.name,
      type: typeNamed(param.type, known.structs),
    }));
    functions.set(name, { name, params, result: typeNamed(fn.type, known.structs) });
  }

  private graphFunction(
    name: string,
    held: GraphFunction,
    known: Known,
    functions: Map<string, Signature>,
  ): void {
    const args = new Map<string, Argument>();
    const params: Signature['params'] = [];
    if (!this.isEffect) args.set('frame', { text: 'frame', type: known.structs.get('Frame') });
    for (const [param, typeName] of Object.entries(held.takes ?? {})) {
      const type = typeNamed(typeName, known.structs);
      const path = ['functions', name, 'takes', param];
      if (!type)
        this.fault(
          'error',
          'graph/type',
          path,
          `there is no type "${typeName}"`,
          'Such as f32, vec2f, vec3f, vec4f.',
          { function: name },
        );
      if (!isIdentifier(param))
        this.fault(
          'error',
          'graph/name-taken',
          path,
          `"${param}" cannot be a name in WGSL`,
          'Use letters and digits.',
          { isKey: true, function: name },
        );
      args.set(param, { text: param, type });
      if (type) params.push({ name: param, type });
    }
    const nodes = held.nodes ?? {};
    const idents = this.identsOf(nodes, [...args.keys()]);
    const scope = new Scope(nodes, {
      known,
      args,
      textures: this.textures,
      of: name,
      idents,
      faults: this.faults,
    });
    const order = this.workAll(scope, nodes, name);
    const { expression, uses } = scope.output(held.gives ?? null, ['functions', name, 'gives']);
    const type = expression.type && concrete(expression.type);
    functions.set(name, { name, params, result: type });
    const reached = this.reached(uses, scope.worked);
    this.tellUnused(nodes, reached, name);
    const takes = Object.entries(held.takes ?? {}).map(([param, text]) => `${param}: ${text}`);
    this.line(`fn ${name}(${takes.join(', ')}) -> ${type ? shownType(type) : 'f32'} {`, { function: name });
    for (const node of order)
      if (reached.has(node)) this.emitNode(node, nodes[node]!, scope.worked.get(node)!, name); // of these nodes
    this.line(`${INDENT}return ${expression.text};`, { function: name });
    this.line('}\n');
    for (const [node, { expression: own }] of scope.worked)
      if (own.type) this.types.set(`${name}/${node}`, shownType(own.type));
    for (const [node, ident] of idents) this.names.set(`${name}/${node}`, ident);
  }

  private identsOf(nodes: Readonly<Record<string, GraphNode>>, args: readonly string[]): Map<string, string> {
    const { functions = {}, textures = {} } = this.graph;
    const names = Object.keys(textures);
    const called = [...this.called].filter((name) => isIdentifier(name));
    // What is called in the function would be hidden by a value of its name.
    return identifiersFor(Object.keys(nodes), [
      ...TAKEN,
      'out',
      ...args,
      ...called,
      ...Object.keys(functions),
      ...names,
      ...names.map((name) => `${name}Sampler`),
    ]);
  }

  /** Works all nodes out, those first that others name. @returns their order */
  private workAll(scope: Scope, nodes: Readonly<Record<string, GraphNode>>, of?: string): string[] {
    const above = of === undefined ? [] : ['functions', of];
    const names = Object.keys(nodes);
    const referredBy = (name: string): string[] => {
      const found: string[] = [];
      for (const { input } of inputsOfNode(nodes[name]!, []))
        // one of them
        if (typeof input === 'string' && input.startsWith('@')) {
          const text = input.slice(1);
          const own = names.includes(text) ? text : longestOf(text, nodes);
          if (own !== undefined) found.push(own);
        }
      return found;
    };
    const { cycle, order } = inFlow(names, referredBy);
    if (cycle)
      this.fault(
        'error',
        'graph/cycle',
        [...above, 'nodes', cycle[0]!],
        cycle.length === 1
          ? `"${cycle[0]}" names itself`
          : `nodes name each other in a ring: ${[...cycle, cycle[0]].join(', ')}`,
        'Take one of the links away.',
        { node: cycle[0]!, ...(of === undefined ? {} : { function: of }) },
      );
    for (const name of order) scope.work(name, [...above, 'nodes', name]);
    return order;
  }

  private reached(from: Iterable<string>, worked: ReadonlyMap<string, Worked>): Set<string> {
    const found = new Set<string>();
    const open = [...from];
    for (let name = open.pop(); name !== undefined; name = open.pop()) {
      if (found.has(name)) continue;
      found.add(name);
      open.push(...(worked.get(name)?.uses ?? []));
    }
    return found;
  }

  private tellUnused(
    nodes: Readonly<Record<string, GraphNode>>,
    used: ReadonlySet<string>,
    of?: string,
  ): void {
    for (const name of Object.keys(nodes))
      if (!used.has(name))
        this.fault(
          'warning',
          'graph/unused',
          [...(of === undefined ? [] : ['functions', of]), 'nodes', name],
          `nothing names "${name}"`,
          'Name it in an output, or take it away.',
          {
            isKey: true,
            node: name,
            ...(of === undefined ? {} : { function: of }),
          },
        );
  }

  /** Settings and textures that nothing asks for. */
  private tellIdle(): void {
    const { attributes, instanceSettings, settings, textures } = this.graph;
    const text = this.lines.map((one) => one.text).join('\n');
    const held = { settings: 'settings', instanceSettings: 'instance', attributes: 'attributes' } as const;
    for (const [group, names] of Object.entries({ settings, instanceSettings, attributes }))
      for (const name of Object.keys(names ?? {})) {
        const word = held[group as keyof typeof held];
        // Hooks in WGSL call them as they like.
        if (
          text.includes(`${word}.${name}`) ||
          Object.values(this.graph.hooks).some((hook) => codeOf(hook) !== undefined)
        )
          continue;
        this.fault(
          'warning',
          'graph/unused',
          [group, name],
          `nothing names "@${word}.${name}"`,
          'Name it in a node, or take it away.',
          { isKey: true },
        );
      }
    for (const name of Object.keys(textures ?? {}))
      if (!new RegExp(`\\(${name}\\b`).test(text))
        this.fault(
          'warning',
          'graph/unused',
          ['textures', name],
          `nothing reads the texture "${name}"`,
          'Read it in a node, or take it away.',
          { isKey: true },
        );
  }

  private emitNode(name: string, { note }: GraphNode, { expression, ident }: Worked, of?: string): void {
    const spot: GraphSpot = { node: name, ...(of === undefined ? {} : { function: of }) };
    if (note) for (const one of note.split('\n')) this.line(`${INDENT}// ${one}`.trimEnd(), spot);
    this.line(`${INDENT}let ${ident} = ${expression.text};`, spot);
  }

  // Hooks.

  private hooks(known: Known): void {
    const nodes = this.graph.nodes ?? {};
    const hooks = Object.entries(this.graph.hooks).filter(([name]) => name in HOOKS) as [HookName, unknown][];
    const idents = this.identsOf(nodes, []);
    const args = this.argumentsOf(known);
    const scope = new Scope(nodes, { known, args, textures: this.textures, idents, faults: this.faults });
    const order = this.workAll(scope, nodes);
    const used = new Set<string>();
    for (const [name, hook] of hooks) {
      const code = codeOf(hook);
      if (code !== undefined) {
        this.line(code.trim(), { hook: name });
        this.line('');
        continue;
      }
      for (const one of this.hook(name, hook, scope, order, known)) used.add(one);
    }
    this.tellUnused(nodes, used);
    for (const [node, { expression }] of scope.worked)
      if (expression.type) this.types.set(node, shownType(expression.type));
    for (const [node, ident] of idents) this.names.set(node, ident);
  }

  /** What inputs know beside nodes. */
  private argumentsOf(known: Known): Map<string, Argument> {
    const args = new Map<string, Argument>();
    const struct = (name: string): Type | undefined => known.structs.get(name);
    const hooks = Object.keys(this.graph.hooks) as HookName[];
    for (const hook of hooks)
      for (const [name, type] of Object.entries(HOOK_ARGUMENTS[hook] ?? {}))
        args.set(name, { text: name, type: type === 'vec4f' ? vec(4, F32) : struct(type) });
    if (this.graph.settings)
      args.set('settings', {
        text: 'settings',
        type: struct('Settings'),
        members: meaningsOf(this.graph.settings),
      });
    if (this.graph.instanceSettings)
      args.set('instance', {
        text: 'instance',
        type: struct('InstanceSettings'),
        members: meaningsOf(this.graph.instanceSettings),
      });
    if (this.graph.attributes) args.set('attributes', { text: 'attributes', type: struct('Attributes') });
    if (!this.isEffect) args.set('frame', { text: 'frame', type: struct('Frame') });
    return args;
  }

  /** @returns the nodes that it takes */
  private hook(
    name: HookName,
    hook: unknown,
    scope: Scope,
    order: readonly string[],
    known: Known,
  ): Set<string> {
    const outputs = outputsOf(hook, name).map((one) => ({ ...one, ...scope.output(one.input, one.path) }));
    const reached = this.reached(
      outputs.flatMap(({ uses }) => [...uses]),
      scope.worked,
    );
    const args = new Set(outputs.flatMap((output) => [...output.args]));
    for (const node of reached) for (const one of scope.worked.get(node)?.args ?? []) args.add(one);
    const own: Readonly<Record<string, string>> = HOOK_ARGUMENTS[name];
    for (const arg of args)
      if (!(arg in own) && arg in ALL_ARGUMENTS) this.tellMissing(name, arg, reached, scope, outputs);
    const whole = outputs.length === 1 && outputs[0]!.member === undefined ? outputs[0] : undefined; // one
    const takes: string[] = [];
    for (const [arg, type] of Object.entries(own)) {
      if (arg === 'defaults') continue;
      const isTaken =
        args.has(arg) ||
        (name === 'surface' && (!whole || args.has('defaults'))) ||
        (name === 'displace' && !whole);
      if (isTaken) takes.push(`${arg}: ${type}`);
    }
    // An effect, or a color in the end, may ask for nothing.
    if (args.has('settings')) takes.push('settings: Settings');
    if (args.has('instance')) takes.push('instance: InstanceSettings');
    if (args.has('attributes')) takes.push('attributes: Attributes');
    const { gives } = HOOKS[name];
    this.line(`fn ${name}(${takes.join(', ')}) -> ${gives} {`, { hook: name });
    if (args.has('defaults') && name === 'surface')
      this.line(`${INDENT}let defaults = surfaceDefaults(p);`, { hook: name });
    for (const node of order)
      if (reached.has(node)) this.emitNode(node, scope.nodes[node]!, scope.worked.get(node)!); // of these nodes
    if (whole) this.emitWhole(name, whole, known);
    else this.emitMembers(name, outputs, args.has('defaults'), known);
    this.line('}\n');
    return reached;
  }

  private tellMissing(
    hook: HookName,
    arg: string,
    reached: ReadonlySet<string>,
    scope: Scope,
    outputs: readonly { args: Set<string>; path: Path; member?: string }[],
  ): void {
    const node = [...reached].find((one) => scope.worked.get(one)?.args.has(arg));
    const output = outputs.find(({ args }) => args.has(arg));
    const has = Object.keys(HOOK_ARGUMENTS[hook]).map((one) => `"@${one}"`);
    this.fault(
      'error',
      'graph/argument',
      node === undefined ? (output?.path ?? ['hooks', hook]) : ['nodes', node],
      `${hook} is not given "@${arg}"`,
      `It has ${has.join(', ')}. "@${arg}" is given to ${(Object.keys(HOOK_ARGUMENTS) as HookName[]).filter((one) => arg in HOOK_ARGUMENTS[one]).join(', ')}.`,
      node === undefined ? {} : { node },
    );
  }

  private emitWhole(
    name: HookName,
    { expression, path }: { expression: Expression; path: Path },
    known: Known,
  ): void {
    const { gives } = HOOKS[name];
    const wanted = typeNamed(gives, known.structs);
    const text = this.fitted(expression, wanted, path, `what ${name} gives`);
    this.line(`${INDENT}return ${text};`, { hook: name });
  }

  /** Members of a surface, a vertex or a hit, over what they are anyway. */
  private emitMembers(
    name: HookName,
    outputs: readonly { member?: string; expression: Expression; path: Path }[],
    hasDefaults: boolean,
    known: Known,
  ): void {
    const struct = name in BY_MEMBERS ? BY_MEMBERS[name as keyof typeof BY_MEMBERS] : undefined;
    if (!struct) {
      this.fault(
        'error',
        'graph/output',
        ['hooks', name],
        `${name} gives one value, a ${HOOKS[name].gives}`,
        `Write "${name}": "@name".`,
      );
      return;
    }
    const type = known.structs.get(struct);
    const begin = {
      surface: hasDefaults ? 'defaults' : 'surfaceDefaults(p)',
      displace: 'v',
      march: 'miss()',
    }[name as keyof typeof BY_MEMBERS];
    this.line(`${INDENT}var out = ${begin};`, { hook: name });
    if (name === 'march' && !outputs.some(({ member }) => member === 'isHit'))
      this.line(`${INDENT}out.isHit = true;`, { hook: name });
    for (const { expression, member = '', path } of outputs) {
      const wanted = type && partOf(type, member);
      if (type && !wanted) {
        const names = type.kind === 'struct' ? type.members.map((one) => one.name) : [];
        const near = nearest(member, names);
        this.fault(
          'error',
          'graph/output',
          path,
          `a ${struct.toLowerCase()} has no "${member}"`,
          near === undefined ? `It has ${names.slice(0, 12).join(', ')}.` : `Did you mean "${near}"?`,
          { isKey: true },
        );
        continue;
      }
      const text = this.fitted(expression, wanted, path, `"${member}" of a ${struct.toLowerCase()}`);
      if (member === 'normal')
        for (const { code, hint, summary } of normalDoubts(name, expression.meaning))
          this.fault('warning', code, path, summary, hint);
      this.line(`${INDENT}out.${member} = ${text};`, { hook: name, member });
    }
    this.line(`${INDENT}return out;`, { hook: name });
  }

  /** An output as its place takes it: numbers count for all parts of a vector. */
  private fitted(expression: Expression, wanted: Type | undefined, path: Path, what: string): string {
    const { number, text, type } = expression;
    if (!type || !wanted || conversionRank(type, wanted) >= 0) return text;
    if (number !== undefined && wanted.kind === 'vec') return `vec${wanted.size}f(${text})`;
    const size = wanted.kind === 'vec' ? wanted.size : 1;
    const own = type.kind === 'vec' ? type.size : 1;
    const parts = 'xyzw'.slice(0, size);
    const hint =
      own > size
        ? expression.reference === undefined
          ? `Take its "${parts}".`
          : `Write "${expression.reference}.${parts}".`
        : own === 1
          ? `Put ${shownType(wanted)} about it.`
          : `Put ${shownType(wanted)} about it, with the parts that are missing.`;
    this.fault(
      'error',
      'graph/type',
      path,
      `${what} is a ${shownType(wanted)}, and this is a ${shownType(concrete(type))}`,
      hint,
    );
    return text;
  }
}

const ALL_ARGUMENTS: Readonly<Record<string, unknown>> = Object.assign(
  {},
  ...Object.values(HOOK_ARGUMENTS),
) as Record<string, unknown>;

const isCallOf = (input: unknown): input is { call: string } =>
  typeof input === 'object' && input !== null && 'call' in input && typeof input.call === 'string';

const oneLine = (text: string): string => text.replace(/\s*\n\s*/g, ' ');

/** The longest beginning of a name with points that is a node. */
function longestOf(text: string, nodes: Readonly<Record<string, GraphNode>>): string | undefined {
  for (let at = text.lastIndexOf('.'); at > 0; at = text.lastIndexOf('.', at - 1))
    if (Object.hasOwn(nodes, text.slice(0, at))) return text.slice(0, at);
  return undefined;
}

/** What settings may be. */
const meaningsOf = (settings: Readonly<Record<string, GraphSetting>>): Record<string, Meaning> =>
  Object.fromEntries(
    Object.entries(settings).map(([name, { range, type, value = 0 }]) => [
      name,
      type.startsWith('color')
        ? { low: 0 }
        : {
            ...(range ? { low: range[0], high: range[1] } : {}),
            ...(typeof value === 'number' ? { usual: value } : {}),
          },
    ]),
  );

/** A normal that is none. */
function normalDoubts(hook: HookName, meaning: Meaning): ReturnType<typeof doubtsOf> {
  const space = hook === 'surface' ? 'world' : 'object';
  const doubts: ReturnType<typeof doubtsOf> = [];
  if (meaning.space !== undefined && meaning.space !== space)
    doubts.push({
      code: 'graph/spaces',
      summary: `the normal is in ${meaning.space} space, and is taken in ${space} space`,
      hint: `Give one of ${space} space.`,
    });
  if (meaning.isDirection && meaning.isUnit === false)
    doubts.push({
      code: 'graph/length',
      summary: "the normal's length is not 1",
      hint: 'Put normalize before it.',
    });
  return doubts;
}
