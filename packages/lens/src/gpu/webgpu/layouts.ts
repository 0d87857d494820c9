import { LensError, type ReflectedResource } from '@umber-lens/core/engine';
import type { BindGroupEntry } from '../device.js';
import type { WebgpuBindGroup, WebgpuBuffer, WebgpuSampler, WebgpuTexture } from './objects.js';

/** The resources of one group as a shader wants them. */
export interface GroupLayout {
  readonly handle: GPUBindGroupLayout;
  readonly resources: readonly ReflectedResource[];
  /** Binding of the buffer that `setBindGroup` may move: the first uniform buffer. */
  readonly movable: number | undefined;
}

const VERTEX_AND_FRAGMENT = 3;
const COMPUTE = 4;

/** Layouts by what they hold: shaders that want the same share one, and so do the bind groups made for them. */
export class Layouts {
  private readonly known = new Map<string, GroupLayout>();

  constructor(private readonly gpu: GPUDevice) {}

  /**
   * Layouts by group number.
   *
   * @param stages that see them
   */
  of(resources: readonly ReflectedResource[], stages: 'draw' | 'compute' = 'draw'): GroupLayout[] {
    const groups: GroupLayout[] = [];
    const highest = Math.max(-1, ...resources.map(({ group }) => group));
    for (let group = 0; group <= highest; group++) {
      const own = resources.filter((r) => r.group === group).sort((a, b) => a.binding - b.binding);
      groups.push(this.layout(own, stages === 'compute' ? COMPUTE : VERTEX_AND_FRAGMENT));
    }
    return groups;
  }

  private layout(resources: readonly ReflectedResource[], visibility: number): GroupLayout {
    const told = resources.map(
      ({ binding, kind, type, size, access }) =>
        `${binding} ${kind === 'uniform' ? `uniform ${size}` : `${kind} ${type}${access === 'read_write' ? ' written' : ''}`}`,
    );
    const key = `${visibility === COMPUTE ? 'compute: ' : ''}${told.join('; ')}`;
    let found = this.known.get(key);
    if (!found) {
      const movable = resources.find(({ kind }) => kind === 'uniform')?.binding;
      const handle = this.gpu.createBindGroupLayout({
        label: key,
        entries: resources.map((resource) => ({
          binding: resource.binding,
          visibility,
          ...bindingLayout(resource, resource.binding === movable),
        })),
      });
      found = { handle, resources, movable };
      this.known.set(key, found);
    }
    return found;
  }
}

function bindingLayout(
  { kind, type, access }: ReflectedResource,
  hasDynamicOffset: boolean,
): Omit<GPUBindGroupLayoutEntry, 'binding' | 'visibility'> {
  switch (kind) {
    case 'uniform':
      return { buffer: { type: 'uniform', hasDynamicOffset } };
    case 'storage':
      return { buffer: { type: access === 'read_write' ? 'storage' : 'read-only-storage' } };
    case 'sampler':
      return { sampler: { type: type === 'sampler_comparison' ? 'comparison' : 'filtering' } };
    default: {
      const multisampled = type.includes('multisampled');
      const sampleType = type.startsWith('texture_depth')
        ? 'depth'
        : type.includes('<u32>')
          ? 'uint'
          : type.includes('<i32>')
            ? 'sint'
            : multisampled
              ? 'unfilterable-float'
              : 'float';
      const viewDimension = type.includes('cube') ? 'cube' : type.includes('2d_array') ? '2d-array' : '2d';
      return { texture: { sampleType, multisampled, viewDimension } };
    }
  }
}

/** The GPU's bind group of these entries for a layout; made once for each. @throws LensError `device/missing-binding` */
export function bindGroupFor(
  gpu: GPUDevice,
  group: WebgpuBindGroup,
  layout: GroupLayout,
  pipeline: string,
): GPUBindGroup {
  let made = group.made.get(layout);
  if (!made) {
    made = gpu.createBindGroup({
      label: group.label,
      layout: layout.handle,
      entries: layout.resources.map((wanted) => ({
        binding: wanted.binding,
        resource: resourceOf(group.byBinding[wanted.binding], wanted, pipeline),
      })),
    });
    group.made.set(layout, made);
  }
  return made;
}

function resourceOf(
  entry: BindGroupEntry | undefined,
  wanted: ReflectedResource,
  pipeline: string,
): GPUBindingResource {
  const { kind } = wanted;
  if (entry && 'buffer' in entry && (kind === 'uniform' || kind === 'storage')) {
    const { offset = 0, size } = entry;
    return {
      buffer: (entry.buffer as WebgpuBuffer).handle,
      offset,
      size: size ?? entry.buffer.size - offset,
    };
  }
  if (entry && 'texture' in entry && kind === 'texture') return (entry.texture as WebgpuTexture).view();
  if (entry && 'sampler' in entry && kind === 'sampler') return (entry.sampler as WebgpuSampler).handle;
  const what = kind === 'uniform' || kind === 'storage' ? `a ${kind} buffer` : `a ${kind}`;
  throw new LensError(
    'device/missing-binding',
    `pipeline "${pipeline}" needs ${what} at group ${wanted.group}, binding ${wanted.binding}, for "${wanted.name}"`,
  );
}
