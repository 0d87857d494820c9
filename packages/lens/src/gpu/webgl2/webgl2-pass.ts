import { missing, noAttachment, noIndirect } from '#checks';
import type { DeviceBuffer, RenderPass, RenderPassOptions } from '../device.js';
import { levelSize } from '../sizes.js';
import type {
  Webgl2BindGroup,
  Webgl2Buffer,
  Webgl2Pipeline,
  Webgl2Sampler,
  Webgl2Texture,
} from './objects.js';
import { MOST_GROUPS, PassState } from '../pass-state.js';
import { BLOCKS_A_GROUP, type LinkedProgram, type Program } from './shader.js';
import type { Webgl2Timer } from './webgl2-timer.js';
import type { Webgl2Device } from './webgl2-device.js';

const MOST_LOCATIONS = 32;

/**
 * Translates pass calls to GL, leaving out whatever the context holds already. One object serves
 * every pass of a device, so a frame allocates none.
 */
export class Webgl2Pass extends PassState<Webgl2Pipeline, Webgl2BindGroup> implements RenderPass {
  private options: RenderPassOptions | undefined;
  private targetWidth = 0;
  private targetHeight = 0;
  /** -1 when drawing into a texture: rows are kept top first, so the picture is turned over. */
  private flip = -1;
  private boundProgram: Program | undefined;
  private indexBuffer: Webgl2Buffer | undefined;
  /** @internal */
  indexType = 0;
  /** @internal */
  indexBytes = 2;
  private enabledLocations = 0;
  /** Holds no arrays. */
  private noArrays: WebGLVertexArrayObject | undefined;
  private readonly divisors = new Int32Array(MOST_LOCATIONS);
  /** What each texture unit holds; undefined where that is not known. */
  private readonly units: {
    texture: WebGLTexture | null | undefined;
    sampler: WebGLSampler | null | undefined;
  }[] = [];
  private readonly clip = new Float32Array(4);
  private depthWrite = true;
  private writeMask = 15;
  private biasOn = false;
  /** Whether something is drawn in a part of the target alone. */
  private isCut = false;
  private stencil: Webgl2Pipeline['stencil'];
  private blendOn = false;
  private blend: Webgl2Pipeline['blend'];
  private cullFace = 0;
  private clockwise = false;

  constructor(private readonly device: Webgl2Device) {
    super(device.counts);
  }

  begin(options: RenderPassOptions): void {
    const { gl } = this.device;
    const first = (options.colorAttachments[0]?.texture ?? options.depthAttachment?.texture) as
      Webgl2Texture | undefined;
    if (!first) throw noAttachment();
    this.reset(options);
    this.options = options;
    (options.timer as Webgl2Timer | undefined)?.begin();
    this.flip = first.isCanvas ? 1 : -1;
    const level = options.colorAttachments[0]?.level ?? 0;
    this.targetWidth = levelSize(first.width, level);
    this.targetHeight = levelSize(first.height, level);
    this.indexBuffer = undefined;
    gl.bindFramebuffer(
      gl.FRAMEBUFFER,
      this.device.framebuffers.of(options.colorAttachments, options.depthAttachment),
    );
    this.setViewport(0, 0, this.targetWidth, this.targetHeight);
    // Clearing heeds the mask too.
    this.setWriteMask(15);
    for (let i = 0; i < options.colorAttachments.length; i++) {
      const { clearValue } = options.colorAttachments[i]!; // i < length
      if (clearValue) gl.clearBufferfv(gl.COLOR, i, clearValue as Float32List);
    }
    const depthClear = options.depthAttachment?.clearValue;
    if (depthClear !== undefined) {
      const { external } = options.depthAttachment!.texture as Webgl2Texture; // it has a value
      this.setDepthWrite(true);
      clearDepth[0] = depthClear;
      if (external.format === gl.DEPTH_STENCIL) {
        gl.stencilMask(255);
        gl.clearBufferfi(gl.DEPTH_STENCIL, 0, depthClear, 0);
        if (this.stencil) gl.disable(gl.STENCIL_TEST);
        this.stencil = undefined;
      } else gl.clearBufferfv(gl.DEPTH, 0, clearDepth);
    }
  }

  /** Forgets what the context holds, after others have used it. */
  invalidate(): void {
    this.boundPipeline = undefined;
    this.boundProgram = undefined;
    this.units.length = 0;
  }

  setIndexBuffer(buffer: DeviceBuffer, format: 'uint16' | 'uint32'): void {
    const { gl } = this.device;
    this.indexType = format === 'uint16' ? gl.UNSIGNED_SHORT : gl.UNSIGNED_INT;
    this.indexBytes = format === 'uint16' ? 2 : 4;
    if (this.indexBuffer === buffer) return;
    this.indexBuffer = buffer as Webgl2Buffer;
    gl.bindBuffer(gl.ELEMENT_ARRAY_BUFFER, this.indexBuffer.handle);
  }

  setBlendConstant(rgba: ArrayLike<number>): void {
    this.device.gl.blendColor(rgba[0]!, rgba[1]!, rgba[2]!, rgba[3]!); // four by contract
  }

  setViewport(x: number, y: number, width: number, height: number): void {
    this.device.gl.viewport(x, this.flip < 0 ? y : this.targetHeight - y - height, width, height);
  }

  setScissor(x: number, y: number, width: number, height: number): void {
    const { gl } = this.device;
    if (!this.isCut) gl.enable(gl.SCISSOR_TEST);
    this.isCut = true;
    gl.scissor(x, this.flip < 0 ? y : this.targetHeight - y - height, width, height);
  }

  draw(vertexCount: number, instanceCount = 1, firstVertex = 0): void {
    const { gl, counts } = this.device;
    const pipeline = this.apply();
    counts.addDraw(pipeline.topology, vertexCount, instanceCount);
    // What makes its vertices by itself is drawn beside the arrays of others, instead of turning them off and on again.
    if (pipeline.locations === 0) gl.bindVertexArray((this.noArrays ??= gl.createVertexArray()));
    gl.drawArraysInstanced(pipeline.mode, firstVertex, vertexCount, instanceCount);
    if (pipeline.locations === 0) gl.bindVertexArray(null);
  }

  drawIndexed(indexCount: number, instanceCount = 1, firstIndex = 0): void {
    const { gl, counts } = this.device;
    const pipeline = this.apply();
    if (pipeline.locations === 0) this.enable(0);
    counts.addDraw(pipeline.topology, indexCount, instanceCount);
    gl.drawElementsInstanced(
      pipeline.mode,
      indexCount,
      this.indexType,
      firstIndex * this.indexBytes,
      instanceCount,
    );
  }

  drawIndirect(): void {
    throw noIndirect();
  }

  drawIndexedIndirect(): void {
    throw noIndirect();
  }

  pushDebugGroup(): void {}
  popDebugGroup(): void {}

  end(): void {
    const options = this.options!; // set by begin
    this.isOpen = false;
    this.options = undefined;
    if (this.isCut) this.device.gl.disable(this.device.gl.SCISSOR_TEST);
    this.isCut = false;
    this.device.framebuffers.finishPass(options);
    (options.timer as Webgl2Timer | undefined)?.end();
  }

  /** @internal */
  apply(): Webgl2Pipeline {
    const pipeline = this.needPipeline();
    if (pipeline !== this.boundPipeline) this.applyPipeline(pipeline);
    if (this.dirtyGroups !== 0) this.applyGroups(pipeline);
    if (this.dirtySlots !== 0) this.applySlots(pipeline);
    return pipeline;
  }

  private applyPipeline(pipeline: Webgl2Pipeline): void {
    const { gl } = this.device;
    const linked = pipeline.pending.linked();
    if (linked.program !== this.boundProgram) {
      gl.useProgram(linked.program);
      this.boundProgram = linked.program;
    }
    const { clip } = this;
    clip[0] = this.flip;
    clip[1] = this.device.hasClipControl ? 1 : 2;
    clip[2] = this.device.hasClipControl ? 0 : 1;
    gl.uniform4fv(linked.clip, clip);
    if (linked.target) gl.uniform4f(linked.target, this.targetWidth, this.targetHeight, this.flip, 0);
    this.applyRaster(pipeline);
    if (pipeline.locations !== 0) this.enable(pipeline.locations);
    this.bound(pipeline);
  }

  /** @param locations bit i is set where attribute location i is fed */
  private enable(locations: number): void {
    const { gl } = this.device;
    for (let location = 0, bits = locations ^ this.enabledLocations; bits !== 0; location++, bits >>>= 1) {
      if ((bits & 1) === 0) continue;
      if ((locations >>> location) & 1) gl.enableVertexAttribArray(location);
      else gl.disableVertexAttribArray(location);
    }
    this.enabledLocations = locations;
  }

  private applyRaster(pipeline: Webgl2Pipeline): void {
    const { gl } = this.device;
    // Turning the picture over turns the winding over too.
    const clockwise = pipeline.clockwise !== this.flip < 0;
    if (clockwise !== this.clockwise) {
      gl.frontFace(clockwise ? gl.CW : gl.CCW);
      this.clockwise = clockwise;
    }
    if (pipeline.cullFace !== this.cullFace) {
      if (pipeline.cullFace === 0) gl.disable(gl.CULL_FACE);
      else {
        gl.enable(gl.CULL_FACE);
        gl.cullFace(pipeline.cullFace);
      }
      this.cullFace = pipeline.cullFace;
    }
    if (pipeline.depthCompare === 0) gl.disable(gl.DEPTH_TEST);
    else {
      gl.enable(gl.DEPTH_TEST);
      gl.depthFunc(pipeline.depthCompare);
    }
    this.setDepthWrite(pipeline.depthWrite);
    this.setWriteMask(pipeline.writeMask);
    const { bias, stencil } = pipeline;
    if (stencil !== this.stencil) {
      this.stencil = stencil;
      if (stencil) this.applyStencil(stencil);
      else gl.disable(gl.STENCIL_TEST);
    }
    if ((bias !== undefined) !== this.biasOn) {
      this.biasOn = bias !== undefined;
      if (bias) gl.enable(gl.POLYGON_OFFSET_FILL);
      else gl.disable(gl.POLYGON_OFFSET_FILL);
    }
    if (bias) gl.polygonOffset(bias[1], bias[0]);
    if ((pipeline.blend !== undefined) !== this.blendOn) {
      this.blendOn = pipeline.blend !== undefined;
      if (this.blendOn) gl.enable(gl.BLEND);
      else gl.disable(gl.BLEND);
    }
    if (pipeline.blend && pipeline.blend !== this.blend) {
      const [a, b, c, d, color, alpha] = pipeline.blend as [number, number, number, number, number, number];
      gl.blendFuncSeparate(a, b, c, d);
      gl.blendEquationSeparate(color, alpha);
      this.blend = pipeline.blend;
    }
  }

  private applyStencil(stencil: readonly number[]): void {
    const { gl } = this.device;
    const [compare, reference, read, fail, depthFail, pass, write] = stencil as [number, ...number[]];
    gl.enable(gl.STENCIL_TEST);
    gl.stencilFunc(compare, reference!, read!); // seven numbers
    gl.stencilOp(fail!, depthFail!, pass!);
    gl.stencilMask(write!);
  }

  private setDepthWrite(write: boolean): void {
    if (write === this.depthWrite) return;
    this.device.gl.depthMask(write);
    this.depthWrite = write;
  }

  private setWriteMask(mask: number): void {
    if (mask === this.writeMask) return;
    this.device.gl.colorMask((mask & 1) > 0, (mask & 2) > 0, (mask & 4) > 0, (mask & 8) > 0);
    this.writeMask = mask;
  }

  private applyGroups(pipeline: Webgl2Pipeline): void {
    const { gl } = this.device;
    for (let index = 0; index < MOST_GROUPS; index++) {
      const group = this.groups[index];
      if (!group || ((this.dirtyGroups >>> index) & 1) === 0) continue;
      let dynamic = this.groupOffsets[index]!; // index < MOST_GROUPS
      for (let i = 0; i < group.entries.length; i++) {
        const entry = group.entries[i]!; // i < length
        if (!('buffer' in entry)) continue;
        const { handle, size } = entry.buffer as Webgl2Buffer;
        if (!handle) continue;
        const offset = (entry.offset ?? 0) + dynamic;
        gl.bindBufferRange(
          gl.UNIFORM_BUFFER,
          index * BLOCKS_A_GROUP + entry.binding,
          handle,
          offset,
          entry.size ?? size - offset,
        );
        dynamic = 0;
      }
    }
    this.dirtyGroups = 0;
    const { samplers, storage } = pipeline.pending.linked();
    for (let i = 0; i < storage.length; i++) this.bindStorage(pipeline, storage[i]!); // i < length
    for (let i = 0; i < samplers.length; i++) {
      const { unit, texture, sampler } = samplers[i]!; // i < length
      const textureEntry = this.groups[texture[0]]?.byBinding[texture[1]];
      if (!textureEntry || !('texture' in textureEntry)) {
        throw missing(pipeline, 'binding', `a texture at group ${texture[0]}, binding ${texture[1]}`);
      }
      const samplerEntry = sampler && this.groups[sampler[0]]?.byBinding[sampler[1]];
      const { handle, target } = textureEntry.texture as Webgl2Texture;
      const samplerHandle =
        samplerEntry && 'sampler' in samplerEntry ? (samplerEntry.sampler as Webgl2Sampler).handle : null;
      this.bindUnit(unit, target, handle, samplerHandle);
    }
  }

  private bindStorage(pipeline: Webgl2Pipeline, use: LinkedProgram['storage'][number]): void {
    const [group, binding] = use.binding;
    const entry = this.groups[group]?.byBinding[binding];
    const buffer = entry && 'buffer' in entry ? (entry.buffer as Webgl2Buffer) : undefined;
    if (!buffer?.storage) {
      throw missing(pipeline, 'binding', `a storage buffer at group ${group}, binding ${binding}`);
    }
    const { gl } = this.device;
    this.bindUnit(use.unit, gl.TEXTURE_2D, buffer.storage.handle, null);
    gl.uniform1ui(use.length, buffer.size);
  }

  /** @internal */
  bindUnit(unit: number, target: number, texture: WebGLTexture | null, sampler: WebGLSampler | null): void {
    const { gl } = this.device;
    const held = (this.units[unit] ??= { texture: undefined, sampler: undefined });
    if (held.texture !== texture) {
      gl.activeTexture(gl.TEXTURE0 + unit);
      gl.bindTexture(target, texture);
      held.texture = texture;
    }
    if (held.sampler !== sampler) {
      gl.bindSampler(unit, sampler);
      held.sampler = sampler;
    }
  }

  private applySlots(pipeline: Webgl2Pipeline): void {
    const { gl } = this.device;
    for (let slot = 0; slot < pipeline.slots.length; slot++) {
      if (((this.dirtySlots >>> slot) & 1) === 0) continue;
      const layout = pipeline.slots[slot]!; // slot < length
      if (layout.attributes.length === 0) continue;
      const { handle } = this.needVertexBuffer(pipeline, slot) as Webgl2Buffer;
      gl.bindBuffer(gl.ARRAY_BUFFER, handle);
      const base = this.vertexOffsets[slot]!; // slot < MOST_SLOTS
      for (let i = 0; i < layout.attributes.length; i++) {
        const { location, size, type, normalized, integer, offset } = layout.attributes[i]!; // i < length
        if (integer) gl.vertexAttribIPointer(location, size, type, layout.stride, base + offset);
        else gl.vertexAttribPointer(location, size, type, normalized, layout.stride, base + offset);
        if (this.divisors[location] !== layout.divisor) {
          gl.vertexAttribDivisor(location, layout.divisor);
          this.divisors[location] = layout.divisor;
        }
      }
    }
    this.dirtySlots = 0;
  }
}

const clearDepth = new Float32Array(1);
