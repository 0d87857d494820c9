import type { CompiledGraph } from '@umber-lens/core/graphs';
import type { Material, MaterialShader } from 'umber-lens';
import type { Shaded } from '../logic/graph/shaded.js';

type PreviewShader = MaterialShader<object>;

/** The last one: pictures of nodes and their values are of the same. */
let last: { wgsl: string; file: string; shader: PreviewShader } | undefined;

/** The shader that shows the nodes of a graph. */
export async function previewShader(
  { wgsl }: CompiledGraph,
  { file, sources }: { file: string; sources: Readonly<Record<string, string>> },
): Promise<PreviewShader> {
  if (last?.wgsl !== wgsl || last.file !== file) {
    const { compileMaterialShader } = await import('umber-lens/shaders');
    last = { wgsl, file, shader: compileMaterialShader(wgsl, { file, sources: { ...sources } }) };
  }
  return last.shader;
}

/** Of a material's settings those that a shader takes. */
export function settingsFor(
  { settings, textures }: Pick<PreviewShader, 'settings' | 'textures'>,
  given: Shaded['settings'],
): NonNullable<Material['settings']> {
  const names = new Set([...settings, ...textures].map(({ name }) => name));
  return Object.fromEntries(Object.entries(given ?? {}).filter(([name]) => names.has(name))) as NonNullable<
    Material['settings']
  >;
}
