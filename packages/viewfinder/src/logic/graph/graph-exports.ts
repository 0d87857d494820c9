import { numbersOf } from './graph-probe.js';
import type { GraphSession } from './graph-session.js';
import type { Shaded } from './shaded.js';

/** What a graph can be carried on as. */
export const EXPORTS = {
  wgsl: { label: 'WGSL', line: 'hooks that stand alone, for pages of this library' },
  whole: { label: 'whole WGSL', line: 'a shader for any page: its comments say what to bind' },
  glsl: { label: 'GLSL', line: 'the same for WebGL2, both stages' },
  material: { label: 'material', line: 'of a sheet, with its settings as they are now' },
  graph: { label: 'graph', line: 'its text' },
} as const;

export type ExportKind = keyof typeof EXPORTS;

export interface ExportedText {
  /** Of a file that would hold it. */
  file: string;
  text: string;
}

/**
 * A graph as it is carried on.
 *
 * @param settings of the material
 * @throws LensError what the compiler finds
 */
export async function exportGraph(
  session: GraphSession,
  kind: ExportKind,
  settings: Shaded['settings'],
): Promise<ExportedText> {
  const { compiled, file, sources, text } = session;
  const name = file
    .split('/')
    .at(-1)!
    .replace(/\.graph\.json$/, ''); // split gives one part at least
  const options = { file, sources: { ...sources } };
  switch (kind) {
    case 'graph':
      return { file: `${name}.graph.json`, text };
    case 'material': {
      const given = numbersOf(settings);
      const material = {
        shader: `${name}.graph.json`,
        ...(Object.keys(given).length > 0 ? { settings: given } : {}),
      };
      return { file: `${name}.json`, text: `${JSON.stringify({ [name]: material }, null, 2)}\n` };
    }
    case 'wgsl': {
      const { standAlone } = await import('@umber-lens/core/shading');
      return { file: `${name}.wgsl`, text: standAlone(compiled.wgsl, options) };
    }
    case 'whole':
    case 'glsl': {
      const { bareShader } = await import('@umber-lens/core/shading');
      const language = kind === 'glsl' ? 'glsl' : 'wgsl';
      return { file: `${name}.${language}`, text: bareShader(compiled.wgsl, language, options) };
    }
  }
}
