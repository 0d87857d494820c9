import type { FunctionDecl, GlobalVar } from './parse/ast.js';
import { type CheckedModule, checkModule } from './check/check.js';
import { type LinkOptions, linkModules } from './parse/link.js';
import { type Finding, findingOf, type Source, WgslFault, wgslError } from './parse/source.js';

/** A shader that is right: checked, linked, its resources bound. */
export interface Shader {
  file: string;
  checked: CheckedModule;
  /** All texts it is made of, the one that was asked for first. */
  sources: Source[];
}

export interface CompileOptions extends LinkOptions {
  /** Name for messages. Default `shader.wgsl`. */
  file?: string;
  /** Group for resources that name none. Default 0. */
  group?: number;
}

/**
 * Compiles WGSL: parses it with what it imports, checks it whole, and gives resources without
 * `@group` and `@binding` the next free ones.
 *
 * @throws LensError with the first error's file, line and column; the message shows the line
 */
export function compileWgsl(text: string, options: CompileOptions = {}): Shader {
  const { shader, findings } = tryCompileWgsl(text, options);
  if (!shader) throw wgslError(findings);
  return shader;
}

/** Everything that is wrong with a text; empty when it compiles. Never throws for what the text says. */
export function checkWgsl(text: string, options: CompileOptions = {}): Finding[] {
  return tryCompileWgsl(text, options).findings;
}

/** Both: what is wrong, or the shader. */
export function tryCompileWgsl(
  text: string,
  options: CompileOptions,
): { shader?: Shader; findings: Finding[] } {
  const file = options.file ?? 'shader.wgsl';
  try {
    const { module, scopes, sources, faults } = linkModules({ file, text }, options);
    const { checked, findings } = checkModule(module, scopes, faults);
    if (findings.length > 0) return { findings };
    bindResources(checked.globals, options.group ?? 0);
    return { shader: { file, checked, sources }, findings: [] };
  } catch (error) {
    if (error instanceof WgslFault) return { findings: [findingOf(error)] };
    if (error instanceof RangeError) {
      const source = { file, text };
      return {
        findings: [
          findingOf(new WgslFault('nesting', 'the module is nested too deeply', { source, from: 0, to: 1 })),
        ],
      };
    }
    throw error;
  }
}

function bindResources(globals: GlobalVar[], group: number): void {
  const taken = new Set(globals.filter((g) => g.group === group).map((g) => g.binding));
  let next = 0;
  for (const global of globals) {
    const isResource = global.space === 'uniform' || global.space === 'storage' || global.space === 'handle';
    if (!isResource || global.group !== undefined) continue;
    while (taken.has(next)) next++;
    global.group = group;
    global.binding = next;
    taken.add(next);
  }
}

/** The function of this name in the module that was asked for, else in any it imports. */
export function findFunction(shader: Shader, name: string): FunctionDecl | undefined {
  const all = shader.checked.functions.filter((fn) => fn.name === name);
  return all.find((fn) => fn.span.source.file === shader.file) ?? all[0];
}
