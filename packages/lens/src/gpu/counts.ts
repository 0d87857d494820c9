import type { RenderPipelineOptions } from './device.js';

/** Living objects, and the commands since the last `resetCommands`. */
export class DeviceCounts {
  buffers = 0;
  textures = 0;
  samplers = 0;
  shaders = 0;
  bindGroups = 0;
  pipelines = 0;
  bufferBytes = 0;
  textureBytes = 0;

  draws = 0;
  /** Draws that went out with others, in one call. */
  drawsTogether = 0;
  instances = 0;
  triangles = 0;
  vertices = 0;
  passes = 0;
  pipelineChanges = 0;
  bindGroupChanges = 0;
  vertexBufferChanges = 0;
  bytesUploaded = 0;

  /** Living objects of every kind. */
  get living(): number {
    return this.buffers + this.textures + this.samplers + this.shaders + this.bindGroups + this.pipelines;
  }

  resetCommands(): void {
    this.draws = this.drawsTogether = 0;
    this.instances = 0;
    this.triangles = 0;
    this.vertices = 0;
    this.passes = 0;
    this.pipelineChanges = 0;
    this.bindGroupChanges = 0;
    this.vertexBufferChanges = 0;
    this.bytesUploaded = 0;
  }

  /** Adds one draw; points and lines make no triangles. */
  addDraw(topology: RenderPipelineOptions['topology'], elements: number, instances: number): void {
    this.draws++;
    this.instances += instances;
    this.vertices += elements * instances;
    if (topology === undefined || topology === 'triangle-list')
      this.triangles += Math.floor(elements / 3) * instances;
    else if (topology === 'triangle-strip') this.triangles += Math.max(0, elements - 2) * instances;
  }
}
