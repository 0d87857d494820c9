import { checkAttachments } from '#checks';
import type * as api from '../device.js';
import type { Framebuffer, Webgl2Texture } from './objects.js';

/** Framebuffers by what is attached to them: made once, and freed with the first of their textures. */
export class Framebuffers {
  constructor(
    private readonly gl: WebGL2RenderingContext,
    private readonly features: ReadonlySet<api.DeviceFeature>,
  ) {}

  /** The framebuffer of these attachments; null is the canvas. Made once and kept. */
  of(
    colors: readonly api.ColorAttachment[],
    depth: api.DepthAttachment | undefined,
  ): WebGLFramebuffer | null {
    const first = (colors[0]?.texture ?? depth?.texture) as Webgl2Texture;
    if (first.isCanvas) return null;
    for (let i = 0; i < first.framebuffers.length; i++) {
      const known = first.framebuffers[i]!; // i < length
      if (
        known.depth === depth?.texture &&
        known.depthLayer === (depth?.layer ?? 0) &&
        known.level === (colors[0]?.level ?? 0) &&
        known.layer === (colors[0]?.layer ?? 0) &&
        sameColors(known.colors, colors)
      )
        return known.handle;
    }
    return this.make(first, colors, depth);
  }

  /** Resolves multisampled attachments and drops what need not be kept. */
  finishPass(options: api.RenderPassOptions): void {
    const { gl } = this;
    const { colorAttachments, depthAttachment } = options;
    for (let i = 0; i < colorAttachments.length; i++) {
      const attachment = colorAttachments[i]!; // i < length
      if (!attachment.resolveTarget) continue;
      // Making a framebuffer binds it, so both are at hand before either is bound.
      const from = this.of(colorAttachments, depthAttachment);
      const to = this.ofOne(attachment.resolveTarget);
      this.copy(from, to, attachment.texture, gl.COLOR_BUFFER_BIT, gl.COLOR_ATTACHMENT0 + i);
    }
    if (
      depthAttachment?.store === false &&
      !(colorAttachments[0]?.texture as Webgl2Texture | undefined)?.isCanvas
    ) {
      gl.bindFramebuffer(gl.READ_FRAMEBUFFER, this.of(colorAttachments, depthAttachment));
      gl.invalidateFramebuffer(gl.READ_FRAMEBUFFER, [
        depthPoint(gl, depthAttachment.texture as Webgl2Texture),
        ...(colorAttachments[0]?.store === false ? [gl.COLOR_ATTACHMENT0] : []),
      ]);
    }
  }

  /** Copies what lies in one framebuffer into another of the same size. */
  copy(
    from: WebGLFramebuffer | null,
    to: WebGLFramebuffer | null,
    { width, height }: api.DeviceTexture,
    what: number = this.gl.COLOR_BUFFER_BIT,
    source?: number,
  ): void {
    const { gl } = this;
    gl.bindFramebuffer(gl.READ_FRAMEBUFFER, from);
    gl.bindFramebuffer(gl.DRAW_FRAMEBUFFER, to);
    if (source !== undefined) gl.readBuffer(source);
    gl.blitFramebuffer(0, 0, width, height, 0, 0, width, height, what, gl.NEAREST);
  }

  /** The framebuffer of a texture alone. */
  ofOne(texture: api.DeviceTexture): WebGLFramebuffer | null {
    const first = texture as Webgl2Texture;
    for (let i = 0; i < first.framebuffers.length; i++) {
      const known = first.framebuffers[i]!; // i < length
      if (!known.depth && known.colors.length === 1 && known.level === 0 && known.layer === 0)
        return known.handle;
    }
    return this.make(first, [{ texture }], undefined);
  }

  private make(
    first: Webgl2Texture,
    colors: readonly api.ColorAttachment[],
    depth: api.DepthAttachment | undefined,
  ): WebGLFramebuffer {
    const { gl } = this;
    const depthTexture = depth?.texture as Webgl2Texture | undefined;
    // Asking GL would wait for all that it was told so far.
    checkAttachments(colors, depthTexture, this.features);
    const handle = gl.createFramebuffer();
    gl.bindFramebuffer(gl.FRAMEBUFFER, handle);
    const attach = (
      point: number,
      texture: Webgl2Texture,
      { level = 0, layer = 0 }: api.Subresource,
    ): void => {
      const { handle: image, renderbuffer, shape, target } = texture;
      if (renderbuffer) gl.framebufferRenderbuffer(gl.FRAMEBUFFER, point, gl.RENDERBUFFER, renderbuffer);
      else if (shape === '2d-array') gl.framebufferTextureLayer(gl.FRAMEBUFFER, point, image, level, layer);
      else gl.framebufferTexture2D(gl.FRAMEBUFFER, point, imageTarget(gl, target, layer), image, level);
    };
    colors.forEach((color, i) => attach(gl.COLOR_ATTACHMENT0 + i, color.texture as Webgl2Texture, color));
    if (depth && depthTexture)
      attach(depthPoint(gl, depthTexture), depthTexture, { layer: depth.layer ?? 0 });
    gl.drawBuffers(colors.map((_, i) => gl.COLOR_ATTACHMENT0 + i));
    const framebuffer: Framebuffer = {
      handle,
      colors: colors.map((c) => c.texture as Webgl2Texture),
      level: colors[0]?.level ?? 0,
      layer: colors[0]?.layer ?? 0,
      depth: depthTexture,
      depthLayer: depth?.layer ?? 0,
    };
    first.framebuffers.push(framebuffer);
    return handle;
  }
}

/** Where depth goes, alone or with a stencil. */
const depthPoint = (gl: WebGL2RenderingContext, { external }: Webgl2Texture): number =>
  external.format === gl.DEPTH_STENCIL ? gl.DEPTH_STENCIL_ATTACHMENT : gl.DEPTH_ATTACHMENT;

/** Each side of a cube has a name of its own. */
export function imageTarget(gl: WebGL2RenderingContext, target: number, layer: number): number {
  return target === gl.TEXTURE_CUBE_MAP ? gl.TEXTURE_CUBE_MAP_POSITIVE_X + layer : target;
}

function sameColors(known: readonly Webgl2Texture[], colors: readonly api.ColorAttachment[]): boolean {
  if (known.length !== colors.length) return false;
  for (let i = 0; i < known.length; i++) if (known[i] !== colors[i]!.texture) return false;
  return true;
}
