import type { CompiledShader } from '@umber-lens/core';

/** The lens's own shaders, in the language of one GPU interface: a page carries no more than it draws with. */
export interface LensShaders {
  mesh: CompiledShader;
  finish: CompiledShader;
}
