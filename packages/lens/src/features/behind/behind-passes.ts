import type { PlanPart } from '../../frame/frame-plan.js';
import { BINDING_BEHIND_COLOR, BINDING_BEHIND_DEPTH } from '../../compiled/layouts.js';

/** Draws what is opaque first, and copies it, where shaders ask what lies behind them. */
export const BEHIND_PASSES: PlanPart = {
  addPasses(plan, painter) {
    const { depth, device, drawn, formats, graph, picture, shape } = plan;
    const { width, height } = shape;
    const color = graph.texture('behind color', { width, height, format: formats.color });
    const behindDepth = graph.texture('behind depth', { width, height, format: formats.depth });
    const isMultisampled = drawn !== picture;
    graph.pass({
      name: 'behind',
      isScene: true,
      ...plan.attach(isMultisampled ? color : undefined),
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
      { binding: BINDING_BEHIND_DEPTH, texture: behindDepth },
      { binding: BINDING_BEHIND_COLOR, texture: color },
    ];
  },
};
