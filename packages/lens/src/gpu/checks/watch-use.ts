import { LensError } from '@umber-lens/core/engine';
import type {
  BindGroupEntry,
  BindGroupOptions,
  DeviceBindGroup,
  DeviceBuffer,
  DevicePipeline,
  DeviceShader,
  DeviceTexture,
  RenderPassOptions,
  RenderPipelineOptions,
  ShaderOptions,
  TextureOptions,
} from '../device.js';

// What things were made of, for verdicts on how they are used. Both interfaces are held to WebGPU's rules, in one wording.
const gone = new WeakSet<object>();
const shaders = new WeakMap<DeviceShader, ShaderOptions>();
const pipelines = new WeakMap<DevicePipeline, RenderPipelineOptions>();
const groups = new WeakMap<DeviceBindGroup, readonly BindGroupEntry[]>();
const textures = new WeakMap<DeviceTexture, TextureOptions>();

export const watchPipeline = (pipeline: DevicePipeline, options: RenderPipelineOptions): void =>
  void pipelines.set(pipeline, options);
/** To be called when something was disposed of. */
export const watchGone = (thing: object): void => void gone.add(thing);
export const watchTexture = (texture: DeviceTexture, options: TextureOptions): void =>
  void textures.set(texture, options);
export const watchGroup = (group: DeviceBindGroup, { entries }: BindGroupOptions): void =>
  void groups.set(group, entries);
export const watchShader = (shader: DeviceShader, options: ShaderOptions): void =>
  void shaders.set(shader, options);

/** @throws LensError `device/attribute` for an attribute that the shader reads and nothing feeds */
export function checkInputs(options: RenderPipelineOptions): void {
  const text = shaders.get(options.shader)?.glsl?.vertex.text;
  if (!text) return;
  const fed = new Set(
    (options.vertexBuffers ?? []).flatMap(({ attributes }) => attributes.map((a) => a.shaderLocation)),
  );
  for (const [, location] of text.matchAll(/layout\(location ?= ?(\d+)\) ?in /g)) {
    if (fed.has(Number(location))) continue;
    throw new LensError(
      'device/attribute',
      `pipeline "${options.label ?? ''}" feeds no @location(${location}), which its vertex stage reads`,
      { hint: `Add an attribute with shaderLocation: ${location} to one of its vertexBuffers.` },
    );
  }
}

/** @throws LensError `device/disposed` */
export function checkAlive(thing: DeviceBuffer | DeviceTexture, use: string): void {
  if (!gone.has(thing)) return;
  throw new LensError(
    'device/disposed',
    `${thing.kind} "${thing.label}" was disposed of, and cannot be ${use}`,
    {
      hint: 'Make it anew, or keep it until the last use.',
    },
  );
}

/** @throws LensError `device/disposed`, `device/not-renderable`, `device/clear` */
export function checkPass({ colorAttachments, depthAttachment, label = '' }: RenderPassOptions): void {
  for (const { clearValue, texture } of colorAttachments) {
    checkAttachment(texture, label);
    if (clearValue && clearValue.length < 4)
      throw new LensError(
        'device/clear',
        `the clearValue of pass "${label}" has ${clearValue.length} numbers`,
        {
          hint: 'Give four: red, green, blue and alpha.',
        },
      );
  }
  if (depthAttachment) checkAttachment(depthAttachment.texture, label);
}

function checkAttachment(texture: DeviceTexture, label: string): void {
  checkAlive(texture, `drawn into by pass "${label}"`);
  const options = textures.get(texture);
  // The canvas was made by nobody.
  if (!options || options.renderable === true || (options.sampleCount ?? 1) > 1) return;
  throw new LensError(
    'device/not-renderable',
    `pass "${label}" cannot draw into texture "${texture.label}", which is not renderable`,
    { hint: 'Create it with renderable: true.' },
  );
}

/** Whether a pipeline's targets are those of the pass. @throws LensError `device/pass-format` */
export function checkFits(pipeline: DevicePipeline, pass: RenderPassOptions | undefined): void {
  const options = pipelines.get(pipeline);
  if (!options || !pass) return;
  const { depth, sampleCount = 1, targets = [{ format: 'rgba8unorm' }] } = options;
  const drawn = pass.colorAttachments.map(({ texture }) => texture);
  const [first = pass.depthAttachment?.texture] = drawn;
  const wanted = targets.map(({ format }) => format).join(', ');
  const given = drawn.map(({ format }) => format).join(', ');
  const refuse = (what: string, hint: string): never => {
    throw new LensError(
      'device/pass-format',
      `pipeline "${pipeline.label}" does not fit pass "${pass.label ?? ''}": ${what}`,
      {
        hint,
      },
    );
  };
  if (drawn.length > 0 && wanted !== given)
    refuse(
      `it writes ${wanted || 'no color'}, and the pass has ${given}`,
      'Give the pipeline targets of the formats of the pass.',
    );
  if (depth && depth.format !== pass.depthAttachment?.texture.format)
    refuse(
      `it takes depth as ${depth.format}, and the pass has ${pass.depthAttachment?.texture.format ?? 'none'}`,
      'Give the pass a depthAttachment of that format, or the pipeline no depth.',
    );
  if (!depth && pass.depthAttachment)
    refuse(
      'the pass has depth, and it says nothing of it',
      "Give the pipeline depth: { format, compare: 'always', write: false }.",
    );
  if (first && first.sampleCount !== sampleCount)
    refuse(
      `it has ${sampleCount} samples a pixel, and the pass has ${first.sampleCount}`,
      'Give both the same sampleCount.',
    );
}

/** @throws LensError `device/disposed`, `device/feedback` for reading what the pass draws into */
export function checkGroup(group: DeviceBindGroup, pass: RenderPassOptions | undefined): void {
  const entries = groups.get(group);
  if (!entries) return;
  for (const entry of entries) {
    if ('buffer' in entry) checkAlive(entry.buffer, 'bound');
    if (!('texture' in entry)) continue;
    checkAlive(entry.texture, 'bound');
    const isDrawn =
      pass?.colorAttachments.some(({ texture }) => texture === entry.texture) ||
      pass?.depthAttachment?.texture === entry.texture;
    if (!pass || !isDrawn || entry.texture.mipLevelCount > 1 || entry.texture.layers > 1) continue;
    throw new LensError(
      'device/feedback',
      `pass "${pass.label ?? ''}" draws into texture "${entry.texture.label}" and reads it at binding ${entry.binding}`,
      { hint: 'Copy it first (copyTexture), or draw into another texture and exchange the two.' },
    );
  }
}

/** Whether buffers are as large as the shader says. @throws LensError `device/binding-size` */
export function checkBindings(
  pipeline: DevicePipeline,
  bound: readonly (DeviceBindGroup | undefined)[],
): void {
  const options = pipelines.get(pipeline);
  const resources = options && shaders.get(options.shader)?.resources;
  for (const { binding, group, kind, name, size = 0 } of resources ?? []) {
    const found = bound[group];
    const entry = found && groups.get(found)?.find((one) => one.binding === binding);
    if (!entry || !('buffer' in entry) || (kind !== 'uniform' && kind !== 'storage')) continue;
    const there = entry.size ?? entry.buffer.size - (entry.offset ?? 0);
    if (there >= size) continue;
    throw new LensError(
      'device/binding-size',
      `"${name}" of pipeline "${pipeline.label}" takes ${size} bytes, and buffer "${entry.buffer.label}" gives it ${there}`,
      { hint: 'Structures are padded: reflect(shader).structs tells offsets and sizes.' },
    );
  }
}

/** @throws LensError `device/read-depth` */
export function depthCannotBeRead({ label }: DeviceTexture): LensError {
  return new LensError(
    'device/read-depth',
    `WebGL2 cannot read depths back, as those of texture "${label}"`,
    {
      hint: 'Draw them into a texture of r32float, and read that.',
    },
  );
}
