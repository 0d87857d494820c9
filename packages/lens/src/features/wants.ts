import type { Effect } from '@umber-lens/core/engine';
import { MOST_LIGHTS } from '../compiled/layouts.js';
import type { Facts } from './feature.js';

const hasEffect = ({ settings }: Facts, type: Effect['type']): boolean =>
  settings.finish.some((effect: Effect | null) => effect?.type === type);

/** An effect, or what is taken for one. */
type Given = { type?: string; sees?: number; shader?: { effect?: { inputs?: readonly string[] } } } | null;

const isOfThings = (effect: Given): boolean =>
  effect?.sees !== undefined || effect?.shader?.effect?.inputs?.includes('effectThings') === true;
/** How much they ask is for `surfaceTargets`. */
const asksSurfaces = (effect: Given): boolean =>
  /-(occlusion|reflections|blur|antialiasing)$/.test(effect?.type ?? '') ||
  isOfThings(effect) ||
  /Normal|Vel/.test(`${effect?.shader?.effect?.inputs}`);

type Wants = (facts: Facts) => boolean;

const isShaded = ({ settings }: Facts): boolean => settings.show === 'shaded';

/**
 * When a picture has which feature. While it has none, it is drawn with plain shaders; the first that it has loads what draws them,
 * all at once.
 */
export const WANTS = {
  areaLights: ({ lights }) => lights.some(({ light }) => light?.type === 'area'),
  backdrop: ({ scene }) => scene.backdrop !== undefined,
  clipping: ({ scene }) => scene.clipping !== undefined,
  debugViews: (facts) => !isShaded(facts),
  // Single quantities are looked at as they are drawn.
  deferred: (facts) => facts.settings.renderPath === 'deferred' && isShaded(facts),
  exposure: (facts) => Boolean(facts.settings.look.automaticExposure) && isShaded(facts),
  fog: ({ scene }) => scene.fog !== undefined,
  imageLight: ({ scene }) => scene.imageLight !== undefined,
  keptDepth: ({ settings: { part } }) => part !== undefined && (part.keptDepth || part.keepsDepth),
  layers: (facts) => facts.scene.effects.size > 0 && isShaded(facts),
  look: ({ settings: { look } }) =>
    (look.toneMapping ?? 'soft') !== 'soft' || (look.whiteBalance ?? 6504) !== 6504,
  manyLights: ({ lights }) => lights.length > MOST_LIGHTS,
  materialLayers: ({ layers }) => layers !== 0,
  metres: ({ target }) => target?.metres !== undefined,
  occlusion: (facts) => hasEffect(facts, 'ambient-occlusion') && isShaded(facts),
  peeled: (facts) => facts.settings.look.transparency === 'peeled' && isShaded(facts),
  prepass: (facts) => facts.settings.renderPath === 'prepass' && isShaded(facts),
  probes: ({ scene }) => scene.probes.length > 0,
  reflections: (facts) => hasEffect(facts, 'screen-space-reflections') && isShaded(facts),
  samples: ({ target }) => target?.samples !== undefined,
  surfaces: (facts) => facts.settings.finish.some(asksSurfaces) && isShaded(facts),
  shadows: ({ lights }) => lights.some(({ light }) => Boolean(light?.shadow)),
  things: ({ lights, settings }) =>
    lights.some(({ light }) => light?.sees !== undefined) || settings.finish.some(isOfThings),
} satisfies Record<string, Wants>;

const ALL: readonly Wants[] = Object.values(WANTS);

/** Whether plain shaders draw all of a picture. */
export const isPlain = (facts: Facts): boolean => !ALL.some((wants) => wants(facts));
