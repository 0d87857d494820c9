import type { PlanPart } from './frame-plan.js';

/** Draws what is opaque first, and copies it, where shaders ask what lies behind them. */
export const BEHIND_PASSES: PlanPart = {
  addPasses({ depth, device, drawn, formats, graph, picture, shape }, painter) {
    const { width, height, isDeferred } = shape;
    const color = graph.texture('behind color', { width, height, format: formats.color });
    const behindDepth = graph.texture('behind depth', { width, height, format: formats.depth });
    // What was lit before stays.
    const clear = isDeferred ? {} : { clear: painter.clear };
    const isMultisampled = drawn !== picture;
    graph.pass({
      name: 'behind',
      isScene: true,
      colors: [
        isMultisampled ? { texture: drawn, resolve: color, ...clear } : { texture: picture, ...clear },
      ],
      depth: { texture: depth, ...(isDeferred ? {} : { clear: 0 }) },
      run: (pass) => painter.drawBefore(pass),
    });
    graph.pass({
      name: 'copy behind',
      reads: isMultisampled ? [depth] : [depth, picture],
      writes: isMultisampled ? [behindDepth] : [behindDepth, color],
      run: () => {
        if (!isMultisampled) device.copyTexture(graph.of(picture), graph.of(color));
        device.copyDepth(graph.of(depth), graph.of(behindDepth));
      },
    });
    return [
      { binding: 2, texture: behindDepth },
      { binding: 3, texture: color },
    ];
  },
};
