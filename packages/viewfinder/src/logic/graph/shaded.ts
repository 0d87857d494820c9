import type { Effect, Material, Scene } from '@umber-lens/core/engine';

type ShaderEffect = Extract<Effect, { type: 'shader' }>;

/** What may have a shader of its own, with its settings: a material, or an effect on pictures. */
export type Shaded = Material | ShaderEffect;

const hasShader = (effect: Effect): effect is ShaderEffect => effect.type === 'shader';

/** Everything of a scene and of the finish over it that may be drawn by a shader of one's own. */
export function allShaded(scene: Scene, finish: readonly Effect[]): Set<Shaded> {
  const found = new Set<Shaded>();
  for (const { primitives } of scene.meshes.values())
    for (const { material, overlays = [] } of primitives)
      for (const one of [material, ...overlays]) if (one?.shader) found.add(one);
  for (const list of [finish, ...scene.effects.values()])
    for (const one of list.filter(hasShader)) found.add(one);
  return found;
}

/** The shader effect of a list at a place, where it is one. */
export const shadedEffect = (effect: Effect): Shaded | undefined => (hasShader(effect) ? effect : undefined);
