import type { CompiledShader } from '../material/shader-types.js';
import { compileEntryPoints, type ShortNames, shortNames } from './compile-entry-points.js';
import { compileStage, FULL_FEATURES, linkedMesh, type LinkedStage } from './compile-hooks.js';

/** A shader of the library's own that materials' shaders resemble, with the short names in it. */
export interface OwnShader {
  shader: CompiledShader;
  names: ShortNames;
}

/** What materials without a shader are drawn with, compiled as pages carry it. */
export const ownMesh = (): OwnShader => compiled(linkedMesh('plain', 'mesh (entry points)'));

/** The same with what scenes may have around them. */
export function ownFullMesh(): OwnShader {
  const { shader, names } = compiled(linkedMesh('full', 'full mesh (entry points)', FULL_FEATURES));
  // It writes as many targets as a pipeline has.
  return { shader: { ...shader, outputs: [] }, names };
}

/** The same as a light sees it. */
export const ownShadow = (): OwnShader =>
  compiled(linkedMesh('shadow', 'shadow (entry points)', FULL_FEATURES));

/** The same by what surfaces are. */
export function ownSurfaces(): OwnShader {
  const { shader, names } = compiled(linkedMesh('surfaces', 'surfaces (entry points)', FULL_FEATURES));
  return { shader: { ...shader, outputs: [] }, names };
}

function compiled(stage: LinkedStage): OwnShader {
  const names = shortNames();
  return {
    shader: compileEntryPoints(compileStage(stage), 'meshVertex', 'meshFragment', true, names),
    names,
  };
}
