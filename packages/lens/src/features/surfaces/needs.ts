import type { Effect } from '@umber-lens/core/engine';

/** How many targets of surfaces.wgsl an effect reads, by its type (of `asksSurfaces` in wants.ts some): normals; what is mirrored besides; velocities besides. */
const TARGETS: Readonly<Record<string, number>> = {
  'ambient-occlusion': 1,
  'screen-space-reflections': 2,
  'motion-blur': 3,
  'temporal-antialiasing': 3,
};

/** Those of effects of one's own, by what they ask for. */
const OWN_TARGETS: Readonly<Record<string, number>> = { effectNormal: 1, effectVelocity: 3, effectThings: 4 };

/** An effect, or what is taken for one. */
type Given = { type?: string; sees?: number; shader?: { effect?: { inputs?: readonly string[] } } } | null;

/** The same of a list; with bits of things besides there are four. 0: none is read. */
export function surfaceTargets(finish: readonly Effect[]): number {
  let most = 0;
  for (const effect of finish as readonly Given[]) {
    most = Math.max(most, TARGETS[effect?.type ?? ''] ?? 0, effect?.sees === undefined ? 0 : 4);
    for (const input of effect?.shader?.effect?.inputs ?? []) most = Math.max(most, OWN_TARGETS[input] ?? 0);
  }
  return most;
}
