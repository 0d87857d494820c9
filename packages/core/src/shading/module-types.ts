import type { MaterialShader } from '../material/shader-types.js';
import { type CompileOptions, compileWgsl } from '../wgsl/compile.js';
import type { GlslShader } from '../wgsl/emit/glsl-state.js';
import { reflect, type Reflection, type ShaderSetting } from '../wgsl/reflect.js';

/** What `import rim from './rim.wgsl'` gives: the shader compiled, so that the page carries no compiler. */
export interface ImportedShader<Settings = Record<string, unknown>> {
  /** Path below the project's root. */
  file: string;
  /** Linked, valid WGSL. */
  wgsl: string;
  /** GLSL ES 3.00 by entry point; what WebGL2 cannot do is told in `notInWebgl2`. */
  glsl: Record<string, GlslShader>;
  notInWebgl2: Record<string, string>;
  reflection: Reflection;
  /** Defaults of the settings, as the file's comments give them. */
  settings: Settings;
  /** Calls back when the file changed while serving; the object is the same, its contents are new. */
  onChange(listener: (shader: ImportedShader<Settings>) => void): () => void;
}

/** Types of the settings, documented by the comments behind the members. */
export function settingsTypes(settings: readonly ShaderSetting[]): string {
  if (settings.length === 0)
    return `import type { ImportedShader } from 'umber-lens';\n\ndeclare const shader: ImportedShader;\nexport default shader;\n`;
  return `import type { ImportedShader } from 'umber-lens';\n\nexport interface Settings {\n${membersText(settings)}\n}\n\ndeclare const shader: ImportedShader<Settings>;\nexport default shader;\n`;
}

/** The same for the shader of a material, whose textures are settings too. */
export function materialTypes({ settings, textures }: MaterialShader): string {
  const pictures = textures.map(
    ({ name, documentation }) =>
      `${documentation ? `  /** ${documentation} */\n` : ''}  ${name}?: Texture | TextureUse;`,
  );
  const members = [membersText(settings), ...pictures].filter(Boolean).join('\n');
  const body = members ? `interface Settings {\n${members}\n}` : 'type Settings = Record<string, never>;';
  return `import type { MaterialShader${pictures.length > 0 ? ', Texture, TextureUse' : ''} } from 'umber-lens';\n\nexport ${body}\n\ndeclare const shader: MaterialShader<Settings>;\nexport default shader;\n`;
}

function membersText(settings: readonly ShaderSetting[]): string {
  const members = settings.map((s) => {
    const notes = [
      s.documentation,
      s.range ? `${s.range[0]} to ${s.range[1]}.` : '',
      s.kind === 'number' ? '' : `A ${s.kind}.`,
    ]
      .filter(Boolean)
      .join(' ');
    const size = Number(/^vec([234])/.exec(s.type)?.[1] ?? 0);
    const type =
      size > 0
        ? `[${Array.from({ length: size }, () => 'number').join(', ')}]`
        : s.type === 'bool'
          ? 'boolean'
          : s.type.startsWith('mat')
            ? 'number[][]'
            : 'number';
    return `${notes ? `  /** ${notes.replace(/\*\//g, '')} */\n` : ''}  ${s.name}: ${type};`;
  });
  return members.join('\n');
}

/** Where the types of a shader file lie, for TypeScript's allowArbitraryExtensions. */
export const typesPath = (path: string): string =>
  path.replace(/\.(wgsl|json)$/, (_, ending: string) => `.d.${ending}.ts`);

/** The settings of a shader with entry points of its own, for `settingsTypes`. @throws LensError */
export const settingsOf = (text: string, options: CompileOptions): ShaderSetting[] =>
  reflect(compileWgsl(text, options)).settings;
