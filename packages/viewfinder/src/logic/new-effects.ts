import { type Effect, LIGHT_EFFECTS, PICTURE_EFFECTS } from '@umber-lens/core/engine';

/** What effects are added with: enough to be seen. Those that need files or code of the page are left out. */
const NEW_EFFECTS: readonly Effect[] = [
  { type: 'bloom' },
  { type: 'depth-of-field', focus: 5 },
  { type: 'ambient-occlusion' },
  { type: 'screen-space-reflections' },
  { type: 'motion-blur' },
  { type: 'temporal-antialiasing' },
  { type: 'outline' },
  { type: 'drop-shadow', stdDeviation: 3 },
  { type: 'blur', stdDeviation: 2 },
  { type: 'brightness', amount: 1.2 },
  { type: 'contrast', amount: 1.2 },
  { type: 'saturate', amount: 1.2 },
  { type: 'hue-rotate', angle: 0.3 },
  { type: 'grayscale' },
  { type: 'sepia', amount: 0.5 },
  { type: 'invert' },
  { type: 'opacity', amount: 0.6 },
  { type: 'sharpen' },
  { type: 'chromatic-aberration' },
  { type: 'lens-distortion' },
  { type: 'film-grain' },
  { type: 'smooth-edges' },
  { type: 'dither' },
];

/** Types of effects that can be added to a picture's finish, or to a node. */
export const newEffects = (list: 'finish' | 'effects'): string[] =>
  NEW_EFFECTS.filter(({ type }) => list === 'finish' || !PICTURE_EFFECTS.includes(type)).map(
    ({ type }) => type,
  );

/** A list with one effect more: those on light stand before those on what is shown, others come last. */
export function withEffect(effects: readonly Effect[], type: string): Effect[] {
  const added = NEW_EFFECTS.find((one) => one.type === type);
  if (!added) return [...effects];
  const isOnLight = LIGHT_EFFECTS.includes(added.type);
  const shown = effects.findIndex((one) => !LIGHT_EFFECTS.includes(one.type));
  const at = isOnLight && shown >= 0 ? shown : effects.length;
  return effects.toSpliced(at, 0, { ...added });
}
