import { LensError, nearest, type Reflection } from '@umber-lens/core/engine';
import type { ComputeShader } from './compute.js';
import type { ShaderOptions, VertexBufferLayout, VertexFormat } from './device.js';

/** What the import of a `.wgsl` file, or the compiler, knows of a module with entry points. */
export interface ModuleWithEntries {
  file?: string;
  wgsl: string;
  glsl: Record<string, NonNullable<ShaderOptions['glsl']>['vertex']>;
  notInWebgl2?: Record<string, string>;
  reflection: Pick<Reflection, 'entryPoints' | 'resources'>;
}

/**
 * What `createShader` takes, out of a module with entry points.
 *
 * @param names of the entry points; may be left out where there is one a stage
 * @throws LensError `shader/entry`
 */
export function stagesOf(
  module: ModuleWithEntries,
  names: { vertex?: string; fragment?: string } = {},
): ShaderOptions {
  const { entryPoints, resources } = module.reflection;
  const find = (stage: 'vertex' | 'fragment'): (typeof entryPoints)[number] => {
    const all = entryPoints.filter((entry) => entry.stage === stage);
    const wanted = names[stage];
    const found =
      wanted === undefined ? (all.length === 1 ? all[0] : undefined) : all.find((e) => e.name === wanted);
    if (found) return found;
    throw new LensError(
      'shader/entry',
      `${module.file ?? 'the module'} has ${wanted === undefined ? `${all.length} ${stage} entry points` : `no ${stage} entry point "${wanted}"`}`,
      { hint: `It has ${all.map((e) => e.name).join(', ') || 'none'}: name one.` },
    );
  };
  const [vertex, fragment] = [find('vertex'), find('fragment')];
  const used = new Set([...vertex.resources, ...fragment.resources]);
  const [v, f] = [module.glsl[vertex.name], module.glsl[fragment.name]];
  const reasons = [vertex.name, fragment.name].flatMap((name) => module.notInWebgl2?.[name] ?? []);
  return {
    ...(module.file === undefined ? {} : { label: module.file }),
    wgsl: module.wgsl,
    vertex: vertex.name,
    fragment: fragment.name,
    resources: resources.filter(({ name }) => used.has(name)),
    outputs: fragment.outputs.flatMap(({ location, type }) =>
      location === undefined ? [] : [{ location, type }],
    ),
    ...(v && f ? { glsl: { vertex: v, fragment: f } } : {}),
    ...(reasons.length > 0 ? { notInWebgl2: reasons.join('\n') } : {}),
  };
}

/**
 * What `createPipeline` of a device's compute takes, out of a module with an entry point that computes.
 *
 * @param name of the entry point; may be left out where there is one
 * @throws LensError `shader/entry`
 */
export function computeOf(
  module: Pick<ModuleWithEntries, 'file' | 'wgsl' | 'reflection'>,
  name?: string,
): ComputeShader {
  const { entryPoints, resources } = module.reflection;
  const all = entryPoints.filter(({ stage }) => stage === 'compute');
  const found = name === undefined && all.length === 1 ? all[0] : all.find((entry) => entry.name === name);
  if (!found) {
    const what =
      name === undefined
        ? `${all.length} entry points that compute`
        : `no entry point "${name}" that computes`;
    throw new LensError('shader/entry', `${module.file ?? 'the module'} has ${what}`, {
      hint: `It has ${all.map((entry) => entry.name).join(', ') || 'none'}${all.length > 1 ? ': name one' : ''}.`,
    });
  }
  return {
    ...(module.file === undefined ? {} : { label: module.file }),
    wgsl: module.wgsl,
    entry: found.name,
    resources: resources.filter((resource) => found.resources.includes(resource.name)),
  };
}

const BYTES = { '8': 1, '16': 2, '32': 4 } as const;

/**
 * A vertex buffer's layout by the names of the vertex stage's inputs: values stand one behind the other in the
 * order given.
 *
 *     vertexLayout(shader, { position: 'float32x3', uv: 'float32x2' })
 *
 * @throws LensError `shader/input` for names that the shader does not have
 */
export function vertexLayout(
  module: Pick<ModuleWithEntries, 'reflection' | 'file'>,
  formats: Readonly<Record<string, VertexFormat>>,
  options: { stepMode?: 'vertex' | 'instance'; entry?: string } = {},
): VertexBufferLayout {
  const entry = module.reflection.entryPoints.find(
    ({ stage, name }) => stage === 'vertex' && (options.entry === undefined || name === options.entry),
  );
  const inputs = (entry?.inputs ?? []).filter(({ location }) => location !== undefined);
  let offset = 0;
  const attributes = Object.entries(formats).map(([name, format]) => {
    const input = inputs.find((one) => one.name === name);
    if (input?.location === undefined) {
      const names = inputs.map((one) => one.name);
      const near = nearest(name, names);
      throw new LensError('shader/input', `${module.file ?? 'the shader'} has no vertex input "${name}"`, {
        hint: near ? `Did you mean "${near}"?` : `It has ${names.join(', ') || 'none'}.`,
      });
    }
    const [, bits = '32', count = '1'] = /(8|16|32)(?:x(\d))?$/.exec(format) ?? [];
    const attribute = { shaderLocation: input.location, format, offset };
    offset += (BYTES[bits as '8'] * Number(count) + 3) & ~3;
    return attribute;
  });
  return { arrayStride: offset, attributes, ...(options.stepMode ? { stepMode: options.stepMode } : {}) };
}
