import type { Effect } from '@umber-lens/core/engine';

/** How many targets of surfaces.wgsl an effect reads, by its type: normals; what is mirrored besides; velocities besides. */
const TARGETS: Readonly<Record<string, number>> = {
  'ambient-occlusion': 1,
  'screen-space-reflections': 2,
  'motion-blur': 3,
  'temporal-antialiasing': 3,
};

/** The same of a list; 0: none is read. */
export function surfaceTargets(finish: readonly Effect[]): number {
  let most = 0;
  for (const effect of finish as readonly (Effect | null)[]) {
    const inputs = (effect as { shader?: { effect?: { inputs?: readonly string[] } } } | null)?.shader?.effect
      ?.inputs;
    most = Math.max(
      most,
      TARGETS[effect?.type ?? ''] ?? 0,
      inputs?.includes('effectVelocity') ? 3 : inputs?.includes('effectNormal') ? 1 : 0,
    );
  }
  return most;
}
