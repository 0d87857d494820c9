import { LensError } from '../errors/lens-error.js';
import { linearFromSrgb, srgbFromLinear } from '../math/srgb.js';
import { linkHooks } from '../shading/check-hooks.js';
import { type HookName, HOOKS } from '../shading/hook-outline.js';
import type { FunctionDecl } from '../wgsl/parse/ast.js';
import { prepare } from '../wgsl/parse/link.js';
import { outlineWgsl } from '../wgsl/outline.js';
import { reflect, type ShaderSetting } from '../wgsl/reflect.js';
import type {
  Graph,
  GraphFunction,
  GraphHook,
  GraphInput,
  GraphValue,
  GraphSetting,
  GraphTexture,
} from './document.js';
import { HOOK_ARGUMENTS, TAKEN } from './names.js';
import { LIBRARY_NODES } from './node-table.js';
import { BodyReader, commentAbove, type Facts, plainComment, StaysCode } from './read-body.js';
import { shownType } from './types.js';

export interface GraphOfOptions {
  /** Its name, for messages. Default `shader.wgsl`. */
  file?: string;
  /** Texts of the modules that it imports, by path. */
  sources?: Readonly<Record<string, string>>;
}

/**
 * A module of hooks that was written by hand as a graph: values and expressions become nodes, functions with loops or branches stay whole, with
 * their code. Compiled again it computes the same.
 *
 * @throws LensError what `checkHooks` finds; `graph/features` for a module with `#if`
 */
export function graphOf(wgsl: string, options: GraphOfOptions = {}): Graph {
  const { file = 'shader.wgsl', sources = {} } = options;
  const feature = /^[ \t]*#if\b.*$/m.exec(wgsl);
  if (feature)
    throw new LensError('graph/features', 'a module with #if is several shaders, and no graph', {
      where: { file, line: wgsl.slice(0, feature.index).split('\n').length, column: 1 },
      hint: 'Take one of its parts.',
    });
  return new Reader(wgsl, file, sources).read();
}

class Reader {
  private readonly nodes: Record<string, GraphValue> = {};
  private readonly functionNames = new Set<string>();
  private readonly textures: Record<string, GraphTexture> = {};

  constructor(
    private readonly wgsl: string,
    private readonly file: string,
    private readonly sources: Readonly<Record<string, string>>,
  ) {}

  read(): Graph {
    const { file, wgsl } = this;
    const shader = linkHooks(wgsl, { file, sources: { ...this.sources } });
    const { instanceSettings, settings } = reflect(shader);
    const outline = outlineWgsl(wgsl, file);
    const own = shader.checked.functions.filter(({ span }) => span.source.file === file);
    for (const { name } of own) this.functionNames.add(name);
    for (const { comment, name, type } of outline.variables) {
      const [, holds = '', note = ''] = /^(color|data)?\b\s*(.*)$/.exec(comment) ?? [];
      if (!type.startsWith('texture_')) continue;
      this.textures[name] = {
        ...(holds === '' ? {} : { holds: holds as 'color' | 'data' }),
        ...(type.startsWith('texture_cube')
          ? { shape: 'cube' }
          : type.startsWith('texture_2d_array')
            ? { shape: '2d-array' }
            : {}),
        ...(note ? { note } : {}),
      };
    }
    const functions: Record<string, GraphFunction> = {};
    const hooks: Partial<Record<HookName, GraphHook>> = {};
    for (const fn of own.sort((a, b) => a.span.from - b.span.from)) {
      if (fn.name in HOOKS) hooks[fn.name as HookName] = this.hook(fn);
      else functions[fn.name] = this.function(fn);
    }
    const attributes = outline.structs.find(({ name }) => name === 'Attributes')?.members ?? [];
    const note = /^(?:[ \t]*\/\/[^\n]*\n)+(?=\s*\n|\s*(?:import|struct))/.exec(wgsl)?.[0];
    const declarations = this.declarations(shader.checked.order);
    const uses = this.uses();
    return {
      graph: 1,
      ...(note ? { note: plainComment(note) } : {}),
      ...(uses.length > 0 ? { uses } : {}),
      ...(settings.length > 0 ? { settings: settingsOf(settings) } : {}),
      ...(instanceSettings.length > 0 ? { instanceSettings: settingsOf(instanceSettings) } : {}),
      ...(attributes.length > 0
        ? { attributes: Object.fromEntries(attributes.map(({ name, type }) => [name, type])) }
        : {}),
      ...(Object.keys(this.textures).length > 0 ? { textures: this.textures } : {}),
      ...(declarations.length > 0 ? { declarations } : {}),
      ...(Object.keys(functions).length > 0 ? { functions } : {}),
      nodes: this.nodes,
      hooks,
    };
  }

  /** Modules that it imports from, but for those that graphs know anyway. */
  private uses(): string[] {
    const { imports } = prepare({ file: this.file, text: this.wgsl }, []);
    return [...new Set(imports.filter(({ from }) => !(from in LIBRARY_NODES)).map(({ from }) => from))];
  }

  /** Constants, structures and aliases that are its own, as they are written. */
  private declarations(
    order: readonly {
      kind: string;
      name: string;
      span: { source: { file: string }; from: number; to: number };
    }[],
  ): string[] {
    const found: { from: number; text: string }[] = [];
    for (const decl of order) {
      const { kind, name, span } = decl;
      if (span.source.file !== this.file || kind === 'fn') continue;
      if (['Settings', 'InstanceSettings', 'Attributes'].includes(name) || name in this.textures) continue;
      const isSampler = Object.keys(this.textures).some((texture) => name === `${texture}Sampler`);
      if (isSampler) continue;
      const text = this.wgsl.slice(span.from, span.to).trim();
      found.push({ from: span.from, text: kind === 'struct' || text.endsWith(';') ? text : `${text};` });
    }
    return found.sort((a, b) => a.from - b.from).map(({ text }) => text);
  }

  private codeOf({ span }: FunctionDecl): string {
    return this.wgsl.slice(span.from, span.to).trim();
  }

  private hook(fn: FunctionDecl): GraphHook {
    const name = fn.name as HookName;
    const before = new Set(Object.keys(this.nodes));
    const args = new Map<string, string>();
    const wanted: Readonly<Record<string, string>> = {
      ...HOOK_ARGUMENTS[name],
      settings: 'Settings',
      instance: 'InstanceSettings',
      attributes: 'Attributes',
    };
    for (const { local, name: param } of fn.params) {
      const type = shownType(local!.type); // checked
      const arg = Object.entries(wanted).find(([key, one]) => one === type && key !== 'defaults')?.[0];
      if (arg === undefined) return { code: this.codeOf(fn) };
      args.set(param, arg);
    }
    try {
      return new BodyReader(fn, args, this.nodes, this.facts(), name).output() as GraphHook;
    } catch (error) {
      if (!(error instanceof StaysCode)) throw error;
      for (const node of Object.keys(this.nodes)) if (!before.has(node)) delete this.nodes[node];
      return { code: this.codeOf(fn) };
    }
  }

  private function(fn: FunctionDecl): GraphFunction {
    const nodes: Record<string, GraphValue> = {};
    const note = commentAbove(this.wgsl, fn.span.from);
    const more = note ? { note } : {};
    try {
      const takes: Record<string, string> = {};
      for (const { local, name } of fn.params) {
        const { type } = local!; // checked
        if (!['scalar', 'vec', 'mat', 'struct'].includes(type.kind) || TAKEN.has(name)) throw new StaysCode();
        takes[name] = shownType(type);
      }
      const args = new Map(fn.params.map(({ name }) => [name, name]));
      const gives = new BodyReader(fn, args, nodes, this.facts(), undefined).output() as GraphInput;
      return { takes, ...(Object.keys(nodes).length > 0 ? { nodes } : {}), gives, ...more };
    } catch (error) {
      if (!(error instanceof StaysCode)) throw error;
      return { code: this.codeOf(fn), ...more };
    }
  }

  private facts(): Facts {
    return { wgsl: this.wgsl, textures: new Set(Object.keys(this.textures)) };
  }
}

function settingsOf(settings: readonly ShaderSetting[]): Record<string, GraphSetting> {
  return Object.fromEntries(
    settings.map(({ default: usual, documentation, kind, name, range, type }) => {
      const plain = type.replace(/<f32>$/, 'f');
      const isColor = kind === 'color';
      const own =
        isColor && plain === 'vec3f' ? 'color' : isColor && plain === 'vec4f' ? 'colorWithAlpha' : plain;
      if (!/^(f32|i32|u32|vec[234]f|color|colorWithAlpha)$/.test(own))
        throw new LensError(
          'graph/setting',
          `the setting "${name}" is a ${type}, which a graph does not have`,
          { hint: 'Use f32, i32, u32, or a vector of f32.' },
        );
      const plainValue = typeof usual === 'boolean' ? Number(usual) : usual;
      const value = isColor && Array.isArray(plainValue) ? (colorText(plainValue) ?? plainValue) : plainValue;
      return [
        name,
        {
          type: own as GraphSetting['type'],
          ...(value === undefined
            ? isColor
              ? { value: new Array<number>(own === 'color' ? 3 : 4).fill(0) }
              : {}
            : { value }),
          ...(range ? { range } : {}),
          ...(documentation ? { note: documentation } : {}),
        },
      ];
    }),
  );
}

/** A linear color as `#rrggbb`; undefined where eight bits do not say it. */
function colorText(linear: readonly number[]): string | undefined {
  if (linear.length !== 3) return undefined;
  const bytes = linear.map((one) => Math.round(srgbFromLinear(one) * 255));
  const isExact = bytes.every(
    (byte, i) => byte >= 0 && byte <= 255 && Math.abs(linearFromSrgb(byte / 255) - linear[i]!) < 1e-5, // as many
  );
  return isExact ? `#${bytes.map((byte) => byte.toString(16).padStart(2, '0')).join('')}` : undefined;
}
