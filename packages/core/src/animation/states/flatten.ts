import { LensError } from '../../errors/lens-error.js';
import { nearHint } from '../../errors/near-names.js';
import type {
  ClipState,
  LayerDefinition,
  LineBlendState,
  PlaneBlendState,
  StateGroup,
  StatesDefinition,
  TransitionDefinition,
} from './definition.js';

export type LeafState = ClipState | LineBlendState | PlaneBlendState;

/** A transition between whole paths of states. */
export interface FlatTransition extends TransitionDefinition {
  /** The path of the group that it stands in, with a slash behind it; empty at the top. */
  within: string;
  /** The state that it leads to, groups followed to where they begin. */
  target: string;
}

/** A layer whose groups are paths: `air/glide`. */
export interface FlatLayer {
  definition: LayerDefinition;
  start: string;
  states: Map<string, LeafState>;
  /** In the order in which they are tried. */
  transitions: FlatTransition[];
}

const PARAMETER_TYPES = ['number', 'boolean', 'trigger'];

export interface CheckedStates {
  layers: FlatLayer[];
  /** What is no fault, but is seldom meant. */
  warnings: string[];
}

/**
 * Checks a state machine and lays its groups out flat.
 *
 * @param clips names of the animations that can be played
 * @throws LensError `states/animation`, `states/state`, `states/parameter`, `states/condition`, `states/empty`, each with the place
 */
export function checkStates(definition: StatesDefinition, clips: readonly string[]): CheckedStates {
  const parameters = definition.parameters ?? {};
  for (const [name, { type }] of Object.entries(parameters))
    if (!PARAMETER_TYPES.includes(type))
      fail('parameter-type', `the parameter "${name}" cannot be a "${String(type)}"`, type, PARAMETER_TYPES);
  const warnings: string[] = [];
  const used = new Set<string>();
  const parameter = (name: string, where: string, wanted?: string): void => {
    const found = parameters[name];
    if (!found)
      fail(
        'parameter',
        `${where} asks for the parameter "${name}", which there is not`,
        name,
        Object.keys(parameters),
      );
    if (wanted && found.type !== wanted)
      throw new LensError('states/parameter', `${where} needs a ${wanted}, but "${name}" is a ${found.type}`);
    used.add(name);
  };
  if (definition.layers.length === 0) throw new LensError('states/empty', 'the state machine has no layers');
  const layers = definition.layers.map((layer): FlatLayer => {
    const states = new Map<string, LeafState>();
    const transitions: FlatTransition[] = [];
    const starts = new Map<string, string>();
    const visit = (group: StateGroup, within: string): void => {
      const names = Object.keys(group.states);
      const where = `layer "${layer.name}"${within ? ` in "${within.slice(0, -1)}"` : ''}`;
      const known = (name: string, what: string): void => {
        if (!names.includes(name))
          fail('state', `${where}: ${what} "${name}" is no state there`, name, names);
      };
      known(group.start, 'the start');
      starts.set(within, within + group.start);
      for (const [name, state] of Object.entries(group.states)) {
        const path = within + name;
        if ('states' in state) {
          visit(state, `${path}/`);
          continue;
        }
        states.set(path, state);
        const own =
          'animation' in state ? [state.animation] : state.animations.map(({ animation }) => animation);
        if (own.length === 0)
          throw new LensError('states/empty', `${where}: state "${name}" has no animations`);
        for (const clip of own)
          if (!clips.includes(clip))
            fail(
              'animation',
              `${where}: state "${name}" plays "${clip}", which is no animation`,
              clip,
              clips,
            );
        if ('by' in state)
          for (const by of [state.by].flat()) parameter(by, `${where}: state "${name}"`, 'number');
      }
      for (const transition of group.transitions ?? []) {
        const what = `the transition from "${transition.from}" to "${transition.to}"`;
        if (transition.from !== '*') known(transition.from, `${what}:`);
        known(transition.to, `${what}:`);
        for (const condition of transition.when ?? []) {
          parameter(condition.parameter, `${where}: ${what}`);
          checkCondition(condition, parameters[condition.parameter]!.type, `${where}: ${what}`); // there
        }
        transitions.push({ ...transition, within, target: within + transition.to });
      }
    };
    visit(layer, '');
    const leafOf = (path: string): string => {
      let at = path;
      for (let next = starts.get(`${at}/`); next !== undefined; next = starts.get(`${at}/`)) at = next;
      return at;
    };
    for (const transition of transitions) transition.target = leafOf(transition.target);
    // Sorting keeps the order of those that are alike.
    transitions.sort((a, b) => (b.priority ?? 0) - (a.priority ?? 0));
    const flat = { definition: layer, start: leafOf(starts.get('')!), states, transitions }; // entered by visit
    for (const lost of unreachable(flat))
      warnings.push(`layer "${layer.name}": nothing leads to the state "${lost}"`);
    return flat;
  });
  for (const name of Object.keys(parameters))
    if (!used.has(name)) warnings.push(`nothing asks for the parameter "${name}"`);
  return { layers, warnings };
}

/** Whether a transition may start from a state. */
export function startsFrom({ from, within, target }: FlatTransition, state: string): boolean {
  if (!state.startsWith(within) || state === target) return false;
  if (from === '*') return true;
  return state === within + from || state.startsWith(`${within}${from}/`);
}

function unreachable({ start, states, transitions }: FlatLayer): string[] {
  const reached = new Set([start]);
  for (const state of reached)
    for (const transition of transitions) if (startsFrom(transition, state)) reached.add(transition.target);
  return [...states.keys()].filter((state) => !reached.has(state));
}

function checkCondition(
  { is, above, below }: { is?: boolean | number; above?: number; below?: number },
  type: string,
  where: string,
): void {
  const fits =
    type === 'number'
      ? typeof is !== 'boolean' && (is !== undefined || above !== undefined || below !== undefined)
      : type === 'boolean'
        ? typeof is === 'boolean' && above === undefined && below === undefined
        : is === undefined && above === undefined && below === undefined;
  if (fits) return;
  throw new LensError('states/condition', `${where} has a condition that does not fit a ${type}`, {
    hint: 'A number takes above, below or is; a boolean takes is: true or false; a trigger takes none of them.',
  });
}

function fail(code: string, message: string, name: string, names: readonly string[]): never {
  throw new LensError(`states/${code}`, message, { hint: nearHint(name, names) });
}
