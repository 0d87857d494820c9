/**
 * A state machine as plain data, as it may stand in a JSON file (schema: `states.schema.json` of this package). States
 * play animations, transitions lead from one to another when their conditions hold.
 */
export interface StatesDefinition {
  /** By name; `trigger` ones are taken by the transition that they let pass. */
  parameters?: Record<string, ParameterDefinition>;
  /** Parallel layers, lower ones first. */
  layers: LayerDefinition[];
}

export interface ParameterDefinition {
  type: 'number' | 'boolean' | 'trigger';
  /** Default 0, or false. */
  default?: number | boolean;
}

export interface LayerDefinition extends StateGroup {
  name: string;
  /** How much it covers the layers below, 0 to 1. Default 1. */
  weight?: number;
  /** Adds to the layers below instead of covering them. */
  additive?: boolean;
  /** Names of nodes: the layer moves what is in their subtrees alone. */
  mask?: string[];
}

/** States with the transitions between them. */
export interface StateGroup {
  /** Name of the state in which it begins. */
  start: string;
  states: Record<string, StateDefinition>;
  transitions?: TransitionDefinition[];
}

/** One animation; several, mixed by one number or two; or a group of states. */
export type StateDefinition = ClipState | LineBlendState | PlaneBlendState | StateGroup;

interface Played {
  /** Seconds of the animation a second. Default 1. */
  playbackRate?: number;
  /** How many times it is played; there and back are two. Default without end. */
  iterations?: number;
  /** Default `normal`. */
  direction?: 'normal' | 'reverse' | 'alternate';
}

export interface ClipState extends Played {
  animation: string;
}

/** Mixes the two animations beside a number. Their lengths are brought together, so that steps stay in step. */
export interface LineBlendState extends Played {
  /** Name of a number parameter. */
  by: string;
  animations: { animation: string; at: number }[];
}

/** Mixes animations by how near they are to a place (weights of one over the squared distance: Shepard, 1968). */
export interface PlaneBlendState extends Played {
  by: [x: string, y: string];
  animations: { animation: string; at: [x: number, y: number] }[];
}

export interface TransitionDefinition {
  /** A state or a group beside this one, or `*` for any. */
  from: string;
  to: string;
  /** All must hold. Left out: none. */
  when?: Condition[];
  /** Rounds of the animation that must have been played first: 1 is its end, 0.5 its half. Default 0. */
  after?: number;
  /** Seconds in which one state goes over into the other. Default 0.2. */
  fade?: number;
  /** Of several that may pass the highest does, then the first. Default 0. */
  priority?: number;
  /** Whether another one may begin before it is over. Default false. */
  interruptible?: boolean;
}

/** What must hold of a parameter. */
export interface Condition {
  parameter: string;
  /** A boolean or a number that is just this; a trigger needs none of the three. */
  is?: boolean | number;
  above?: number;
  below?: number;
}
