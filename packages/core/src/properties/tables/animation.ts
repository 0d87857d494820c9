import { aboveZero, boolean, given, NAME, number, object, positive, share, string, word } from '../define.js';
import type { Table } from '../property.js';

const DIRECTIONS = ['normal', 'reverse', 'alternate'];
const name = (line: string, names: 'node' | 'animation' | 'parameter' | 'state'): Table[string] =>
  string(line, { names });

/** An animation as its file has it. */
export const ANIMATION_TABLE: Table = {
  name: NAME,
  duration: positive('The latest key of any channel.', { unit: 'seconds', isFixed: true }),
  channels: given('What it moves, each with its keys.', { isFixed: true }),
  extras: given("Data of the user's own; kept in files."),
};

const PLAYED: Table = {
  playbackRate: number('Seconds of the animation a second; below 0 it runs the other way.', { default: 1 }),
  iterations: aboveZero('How many times it is played; there and back are two. At the end its pose stays.', {
    isOpen: false,
    default: Infinity,
  }),
  direction: word('Which way it runs.', DIRECTIONS, { default: 'normal' }),
};

/** What `motion.play` takes. */
export const PLAY_TABLE: Table = {
  ...PLAYED,
  from: number('Where in the animation it begins. Default 0, or the end when it is played backwards.', {
    unit: 'seconds',
  }),
  weight: number('Weights that add up to less than 1 leave the rest to the pose below.', { default: 1 }),
  fade: positive('In which the weight grows from nothing.', { unit: 'seconds', default: 0 }),
  layer: number('Higher layers cover lower ones by their weight; within one, weights are shared.', {
    default: 0,
  }),
  additive: boolean("Adds what differs from the animation's pose at `reference`.", { default: false }),
  reference: number('Where in the animation that pose is.', { unit: 'seconds', default: 0 }),
  mask: given('Nodes whose subtrees it moves; the others keep their pose.'),
  sources: given("All nodes of the animation's file, for their paths."),
  fit: boolean(
    "Whether the model keeps its own proportions where its rest pose differs from the animation's.",
    {
      default: false,
    },
  ),
};

/** What is played, as it may be written to while it plays. */
export const PLAYBACK_TABLE: Table = {
  playbackRate: PLAYED['playbackRate']!,
  iterations: { ...PLAYED['iterations']!, isFixed: true },
  direction: { ...PLAYED['direction']!, isFixed: true },
  weight: { ...PLAY_TABLE['weight']!, isFixed: false },
};

/** What states of a state machine share that play one animation or several. */
export const STATE_TABLE: Table = {
  animation: name('What it plays.', 'animation'),
  ...PLAYED,
};

/** A state that mixes animations by one number or two. */
export const STATE_MIX_TABLE: Table = {
  by: {
    ...name('Which number mixes them, or which two: a list of their names.', 'parameter'),
    or: ['object'],
  },
  animations: given('What is mixed, each with the number where it is played alone: `{ animation, at }`.'),
  ...PLAYED,
};

export const CONDITION_TABLE: Table = {
  parameter: name('Whose value is asked.', 'parameter'),
  is: { ...number('What it must be; a trigger needs none of the three.'), or: ['boolean'] },
  above: number('It must be more.'),
  below: number('It must be less.'),
};

export const TRANSITION_TABLE: Table = {
  from: name('A state or group beside this one, or `*` for any.', 'state'),
  to: name('Where it leads.', 'state'),
  when: { ...given('What must hold, all of it. Left out: nothing.'), of: CONDITION_TABLE },
  after: positive('Rounds of the animation that must have been played: 1 is its end, 0.5 its half.', {
    default: 0,
  }),
  fade: positive('In which one state goes over into the other.', { unit: 'seconds', default: 0.2 }),
  priority: number('Of several that may pass the highest does, then the first.', { default: 0 }),
  interruptible: boolean('Whether another may begin before it is over.', { default: false }),
};

export const PARAMETER_TABLE: Table = {
  type: word('What it holds; a trigger is taken by the transition that it lets pass.', [
    'number',
    'boolean',
    'trigger',
  ]),
  default: { ...number('What it begins with. Left out: 0, or false.'), or: ['boolean'] },
};

/** States with the transitions between them; a state itself, too. */
export const STATE_GROUP_TABLE: Table = {
  start: name('In which it begins.', 'state'),
  states: object('Its states, by name.'),
  transitions: { ...given('From state to state.'), of: TRANSITION_TABLE },
};

export const STATE_LAYER_TABLE: Table = {
  name: NAME,
  weight: share('How much it covers the layers below.', { default: 1 }),
  additive: boolean('Adds to the layers below instead of covering them.', { default: false }),
  mask: given('Names of nodes: it moves what is in their subtrees alone.'),
  ...STATE_GROUP_TABLE,
};

/** A state machine as plain data. */
export const STATES_TABLE: Table = {
  parameters: object('By name.'),
  layers: { ...given('Parallel layers, lower ones first.'), of: STATE_LAYER_TABLE },
};
