import { STORAGE_ROW } from '@umber-lens/core/engine';
import type { DeviceBuffer, DevicePipeline, RenderPass, RenderPipelineOptions } from '../device.js';
import { MULTI_DRAW_WORDS, type MultiDraw } from '../multi-draw.js';
import type { Webgl2Buffer, Webgl2Pipeline } from './objects.js';
import type { Webgl2Device } from './webgl2-device.js';
import type { Webgl2Pass } from './webgl2-pass.js';

/** The extension WEBGL_multi_draw. */
export interface MultiDrawExtension {
  multiDrawElementsInstancedWEBGL(
    mode: number,
    counts: Int32Array,
    countsOffset: number,
    type: number,
    offsets: Int32Array,
    offsetsOffset: number,
    instanceCounts: Int32Array,
    instanceCountsOffset: number,
    draws: number,
  ): void;
}

/** Draws of one call: their first instances are uniforms, four in each of 64 vectors. */
const MOST = 256;

/** Where a program takes its instances from. */
interface Places {
  firsts: WebGLUniformLocation | null;
  unit: number;
}

/**
 * Several draws in one call. GL counts instances of each from 0, so the vertex stage asks which draw it is in, and reads its
 * instance from a texture, behind the first one of the draw.
 */
export class Webgl2MultiDraw implements MultiDraw {
  readonly fromStorage = true;
  readonly most = MOST;
  private readonly counts = new Int32Array(MOST);
  private readonly offsets = new Int32Array(MOST);
  private readonly instanceCounts = new Int32Array(MOST);
  private readonly firsts = new Uint32Array(MOST);
  private readonly known = new WeakMap<DevicePipeline, Places>();

  constructor(
    private readonly device: Webgl2Device,
    private readonly extension: MultiDrawExtension,
  ) {}

  pipelineOf(_pipeline: DevicePipeline, options: RenderPipelineOptions): DevicePipeline {
    const [instance, ...rest] = options.vertexBuffers ?? [];
    const location = instance?.attributes[0]?.shaderLocation ?? 0;
    // Nothing is fetched from slot 0: its place stays, so that the others keep theirs.
    const vertexBuffers = [{ arrayStride: 4, stepMode: 'instance' as const, attributes: [] }, ...rest];
    return this.device.makePipeline(
      { ...options, label: `${options.label ?? ''}, several draws`, vertexBuffers },
      { key: `several ${location}`, edit: (text) => readingInstances(text, location) },
    );
  }

  draw(pass: RenderPass, draws: Uint32Array, count: number, instances: DeviceBuffer | undefined): void {
    const { counts, firsts, instanceCounts, offsets } = this;
    const { gl } = this.device;
    const own = pass as Webgl2Pass;
    const pipeline = own.apply();
    const { indexBytes, indexType } = own;
    const { storage } = instances as Webgl2Buffer;
    const places = this.placesOf(pipeline);
    if (!storage) return;
    own.bindUnit(places.unit, gl.TEXTURE_2D, storage.handle, null);
    for (let i = 0; i < count; i++) {
      const at = i * MULTI_DRAW_WORDS;
      counts[i] = draws[at]!; // whole draws, here and below
      instanceCounts[i] = draws[at + 1]!;
      offsets[i] = draws[at + 2]! * indexBytes;
      firsts[i] = draws[at + 3]!;
      this.device.counts.addDraw(pipeline.topology, counts[i]!, instanceCounts[i]!);
    }
    // One call is one draw, and says how many it took along.
    this.device.counts.draws -= count - 1;
    this.device.counts.drawsTogether += count;
    gl.uniform4uiv(places.firsts, firsts, 0, Math.ceil(count / 4) * 4);
    this.extension.multiDrawElementsInstancedWEBGL(
      pipeline.mode,
      counts,
      0,
      indexType,
      offsets,
      0,
      instanceCounts,
      0,
      count,
    );
  }

  private placesOf(pipeline: Webgl2Pipeline): Places {
    let found = this.known.get(pipeline);
    if (!found) {
      const { gl } = this.device;
      const { program, samplers, storage } = pipeline.pending.linked();
      const unit = samplers.length + storage.length;
      gl.uniform1i(gl.getUniformLocation(program, 'umber_instances'), unit);
      found = { firsts: gl.getUniformLocation(program, 'umber_firsts'), unit };
      this.known.set(pipeline, found);
    }
    return found;
  }
}

/** The vertex stage, with the input at a location read from a texture. */
function readingInstances(text: string, location: number): string {
  const input = new RegExp(
    `layout\\(location\\s*=\\s*${location}\\)\\s*in\\s+(?:highp\\s+)?(uint|uvec4)\\s+(\\w+)\\s*;`,
  );
  const [, type, name] = input.exec(text) ?? [];
  if (!name) return text;
  const read = `uniform highp usampler2D umber_instances;uniform highp uvec4 umber_firsts[${MOST / 4}];
uint umber_instance(){int at=int(umber_firsts[gl_DrawID>>2][gl_DrawID&3])+gl_InstanceID;int w=${STORAGE_ROW * 4};return texelFetch(umber_instances,ivec2((at%w)>>2,at/w),0)[at&3];}
#define ${name} ${type === 'uvec4' ? 'uvec4(umber_instance(),0u,0u,1u)' : 'umber_instance()'}
`;
  const end = text.indexOf('\n') + 1;
  return `${text.slice(0, end)}#extension GL_ANGLE_multi_draw : require\n${text.slice(end).replace(input, `\n${read}`)}`;
}
