/**
 * Imports WGSL files in projects of Vite.
 *
 * @module @umber-lens/vite
 */
import { readFileSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { relative } from 'node:path';
import {
  checkWgsl,
  type CompileOptions,
  compileWgsl,
  emitWgsl,
  formatFinding,
  type GlslShader,
  LensError,
  type MaterialShader,
  reflect,
  toGlsl,
} from '@umber-lens/core/engine';
import {
  checkHooks,
  compileFullHooks,
  compileHooks,
  holdsHooks,
  LIBRARY,
  packFullHooks,
  packHooks,
  type ImportedShader,
  materialTypes,
  settingsTypes,
} from '@umber-lens/core/shading';

import { checkGraph, compileGraphText, isGraphName, readShaderSources } from '@umber-lens/core/graphs';

export type { ImportedShader } from '@umber-lens/core/shading';
import type { Plugin } from 'vite';
import { writeTypes } from './write-types.js';

export interface WgslPluginOptions {
  /** Named features that `#if` asks for. */
  features?: string[];
  /** Writes `name.d.wgsl.ts` beside each shader that has settings, for TypeScript's allowArbitraryExtensions. Default true. */
  types?: boolean;
  /** Short names and no spaces in builds. Default true. */
  minify?: boolean;
}

/** Graphs as modules have a name that no other plugin takes for JSON. */
const GRAPH = '\0umber-graph:';
/** The graph that a module is of; undefined for other modules. */
export const graphFileOf = (id: string): string | undefined =>
  id.startsWith(GRAPH) ? id.slice(GRAPH.length).replace(/\.mjs(\?.*)?$/, '') : undefined;
const graphModule = (path: string, query = ''): string => `${GRAPH}${path}.mjs${query}`;

/**
 * Lets modules import `.wgsl` files, and shader graphs (`.graph.json`). Errors show the author's line, of a graph its node; changes replace the
 * running shader without reload.
 */
export function wgsl(options: WgslPluginOptions = {}): Plugin {
  let isBuild = false;
  let root = process.cwd();
  return {
    name: 'umber-lens-wgsl',
    enforce: 'pre',
    configResolved(config) {
      isBuild = config.command === 'build';
      root = config.root;
    },
    async resolveId(source, importer, resolving) {
      const [name, query] = source.split('?') as [string, string?];
      if (!isGraphName(name) || (query !== undefined && query !== 'full')) return undefined;
      const found = await this.resolve(name, importer, { ...resolving, skipSelf: true });
      // Whoever else asked for it, as imported sheets do, may have come by here.
      if (found && graphFileOf(found.id) !== undefined) return found;
      return found && !found.external ? graphModule(found.id, query === undefined ? '' : `?${query}`) : found;
    },
    handleHotUpdate({ file, server }) {
      if (!isGraphName(file)) return undefined;
      const { moduleGraph } = server;
      return ['', '?full'].flatMap((query) => moduleGraph.getModuleById(graphModule(file, query)) ?? []);
    },
    async load(id) {
      const graph = graphFileOf(id);
      const isGraph = graph !== undefined;
      const path = graph ?? id.split('?')[0]!; // split gives at least one part
      if (!isGraph && (!path.endsWith('.wgsl') || id.includes('?raw') || id.includes('?url')))
        return undefined;
      const written = readFileSync(path, 'utf8');
      const sources = await readShaderSources(path, written, (one) =>
        readFile(one, 'utf8').catch(() => undefined),
      );
      for (const imported of Object.keys(sources)) this.addWatchFile(imported);
      let text = written;
      if (isGraph) {
        this.addWatchFile(path);
        const findings = checkGraph(written, { file: path, sources });
        const errors = findings.filter(({ severity }) => severity === 'error');
        const [first] = errors;
        if (first) {
          const { column, line } = first;
          return this.error({
            message: errors.map(formatFinding).join('\n\n'),
            id: path,
            loc: { file: path, line, column: column - 1 },
          });
        }
        for (const doubt of isBuild ? findings : []) this.warn({ message: formatFinding(doubt), id: path });
        text = compileGraphText(written, { file: path, sources }).wgsl;
      }
      const compileOptions: CompileOptions = { file: path, sources, features: options.features ?? [] };
      const minify = isBuild && (options.minify ?? true);
      if (holdsHooks(text, path)) {
        try {
          const { features = [] } = options;
          if (id.includes('?full')) {
            const full = (minify ? packFullHooks : compileFullHooks)(text, {
              file: path,
              sources,
              features,
              minify,
            });
            return { code: `export default ${JSON.stringify(full)};\n`, map: null };
          }
          // Builds carry the library's own text once.
          const material = (minify ? packHooks : compileHooks)(text, {
            file: path,
            sources,
            features,
            minify,
          });
          for (const doubt of isBuild && !isGraph ? checkHooks(text, { file: path, sources, features }) : [])
            this.warn({ message: formatFinding(doubt), id: path });
          if (options.types ?? true) writeTypes(path, materialTypes(material));
          // Effects have no other variants.
          const own = { ...material, file: relative(root, path) };
          return { code: material.effect ? moduleText(own) : moduleText(own, path), map: null };
        } catch (error) {
          if (!(error instanceof LensError)) throw error;
          const { features = [] } = options;
          const findings = checkHooks(text, { file: path, sources, features }).filter(
            ({ severity }) => severity === 'error',
          );
          const { file = path, line = 1, column = 1 } = findings[0] ?? error.where;
          const message = findings.length > 0 ? findings.map(formatFinding).join('\n\n') : error.toString();
          return this.error({ message, id: file, loc: { file, line, column: column - 1 } });
        }
      }
      // Modules of the library may be imported by any.
      const linked: CompileOptions = { ...compileOptions, sources: { ...LIBRARY, ...sources } };
      const errors = checkWgsl(text, linked);
      const first = errors[0];
      if (first) {
        this.error({
          message: errors.map(formatFinding).join('\n\n'),
          id: first.file,
          loc: { file: first.file, line: first.line, column: first.column - 1 },
        });
      }
      const compiled = compile(text, linked, relative(root, path), minify);
      if (options.types ?? true) writeTypes(path, settingsTypes(compiled.reflection.settings));
      return { code: moduleText(compiled), map: null };
    },
  };
}

type Compiled = Omit<ImportedShader, 'onChange'>;

function compile(text: string, options: CompileOptions, file: string, minify: boolean): Compiled {
  const shader = compileWgsl(text, options);
  const reflection = reflect(shader);
  const glsl: Record<string, GlslShader> = {};
  const notInWebgl2: Record<string, string> = {};
  for (const { name } of reflection.entryPoints) {
    try {
      glsl[name] = toGlsl(shader, name);
    } catch (error) {
      if (!(error instanceof LensError)) throw error;
      notInWebgl2[name] = error.message;
    }
  }
  const settings = Object.fromEntries(reflection.settings.map((s) => [s.name, s.default ?? zeroOf(s.type)]));
  return { file, wgsl: emitWgsl(shader, { minify }), glsl, notInWebgl2, reflection, settings };
}

function zeroOf(type: string): number | number[] | boolean {
  const size = /^vec([234])/.exec(type)?.[1];
  if (size) return Array.from({ length: Number(size) }, () => 0);
  return type === 'bool' ? false : 0;
}

/**
 * One object lives through all changes, so whoever holds it has the newest. What scenes with more around them need is
 * a module of its own, `path` with `?full`.
 */
function moduleText(compiled: Compiled | MaterialShader, path?: string): string {
  return `${path === undefined ? '' : "import { SHADER_FEEDS } from 'umber-lens';\n"}const fresh = ${JSON.stringify(compiled)};
const kept = import.meta.hot?.data.kept;
const listeners = kept?.listeners ?? new Set();
const shader = Object.assign(kept?.shader ?? {}, fresh, {
${
  path === undefined
    ? ''
    : `  feeds: SHADER_FEEDS,
  full: async () => (await import(${JSON.stringify(`${path}?full`)})).default,\n`
}  onChange(listener) {
    listeners.add(listener);
    return () => listeners.delete(listener);
  },
});
if (import.meta.hot) {
  import.meta.hot.data.kept = { shader, listeners };
  import.meta.hot.accept();
  if (kept) for (const listener of listeners) listener(shader);
}
export default shader;
`;
}
