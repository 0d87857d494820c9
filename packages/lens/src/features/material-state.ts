import {
  type BlendFactors,
  type BlendState,
  type DrawState,
  LensError,
  type MaterialBlend,
} from '@umber-lens/core/engine';
import { BLEND_FACTORS, BLEND_OPERATIONS, type BlendComponent, type TextureFormat } from '../gpu/device.js';
import type { Raster } from '../resources/pipeline-store.js';
import { hasStencil } from '../gpu/sizes.js';

const over = { srcFactor: 'one', dstFactor: 'one-minus-src-alpha' } as const;
/** The same for each channel, alpha as what is transparent has it. */
const blendBy = (color: BlendComponent, alpha: BlendComponent = color): NonNullable<Raster['blend']> => ({
  color,
  alpha,
});
const kept = { srcFactor: 'zero', dstFactor: 'one' } as const;
const BLENDS: Readonly<Record<MaterialBlend, NonNullable<Raster['blend']>>> = {
  over: blendBy(over),
  premultiplied: blendBy(over),
  add: blendBy({ srcFactor: 'one', dstFactor: 'one' }, kept),
  multiply: blendBy({ srcFactor: 'dst', dstFactor: 'one-minus-src-alpha' }, kept),
  screen: blendBy({ srcFactor: 'one', dstFactor: 'one-minus-src' }, over),
};

/** How a material's own state has things meet what is there. @throws LensError `material/blend`, `material/stencil` */
export function rasterOf(
  { blend, depthBias, depthBiasSlopeScale, depthCompare, depthWrite, stencil, writeMask }: DrawState,
  usual: Raster,
  depthFormat: TextureFormat,
): Raster {
  if (stencil && !hasStencil(depthFormat))
    throw new LensError('material/stencil', 'the material asks for a stencil, and the lens has none', {
      hint: 'Open it with `openLens(canvas, { stencil: true })`.',
    });
  return {
    ...usual,
    ...(depthCompare ? { compare: depthCompare } : {}),
    ...(depthWrite === undefined ? {} : { write: depthWrite }),
    ...(depthBias === undefined ? {} : { bias: depthBias }),
    ...(depthBiasSlopeScale === undefined ? {} : { biasSlopeScale: depthBiasSlopeScale }),
    ...(writeMask === undefined ? {} : { writeMask }),
    ...(stencil ? { stencil } : {}),
    ...(blend === undefined ? {} : { blend: typeof blend === 'string' ? BLENDS[blend] : factorsOf(blend) }),
  };
}

/** @throws LensError `material/blend` for a word that WebGPU does not have */
function factorsOf({ color, alpha = color }: BlendState): NonNullable<Raster['blend']> {
  return blendBy(componentOf(color), componentOf(alpha));
}

function componentOf({
  srcFactor = 'one',
  dstFactor = 'one-minus-src-alpha',
  operation = 'add',
}: BlendFactors): BlendComponent {
  for (const factor of [srcFactor, dstFactor]) checkWord(factor, BLEND_FACTORS, 'factor');
  checkWord(operation, BLEND_OPERATIONS, 'operation');
  return { srcFactor, dstFactor, operation } as BlendComponent; // both were looked at
}

function checkWord(word: string, words: readonly string[], what: string): void {
  if (!words.includes(word))
    throw new LensError('material/blend', `there is no ${what} "${word}" of blending`, {
      hint: `It is one of ${words.join(', ')}.`,
    });
}
