import type { Meant, Table } from './property.js';
import {
  ANIMATION_TABLE,
  CONDITION_TABLE,
  PARAMETER_TABLE,
  PLAY_TABLE,
  PLAYBACK_TABLE,
  STATE_GROUP_TABLE,
  STATE_LAYER_TABLE,
  STATE_MIX_TABLE,
  STATE_TABLE,
  STATES_TABLE,
  TRANSITION_TABLE,
} from './tables/animation.js';
import {
  BACKDROP_TABLE,
  CLIPPING_TABLE,
  FOG_TABLE,
  IMAGE_LIGHT_TABLE,
  LIGHT_MEANT,
  LIGHT_TABLE,
  SCENE_TABLE,
  SHADOW_TABLE,
} from './tables/light.js';
import { EFFECT_TABLE, TRANSFER_TABLE } from './tables/effect.js';
import {
  MATERIAL_MEANT,
  MATERIAL_TABLE,
  SAMPLER_TABLE,
  TEXTURE_TRANSFORM_TABLE,
  TEXTURE_USE_TABLE,
} from './tables/material.js';
import {
  CAMERA_MEANT,
  CAMERA_TABLE,
  MESH_TABLE,
  NODE_MEANT,
  NODE_TABLE,
  PRIMITIVE_TABLE,
} from './tables/node.js';
import { RIG_MEANT, RIG_TABLES } from './tables/rigs.js';
import { SHAPE_TABLES, SWARM_LEVEL_TABLE, SWARM_TABLE } from './tables/shapes.js';
import { CULLING_TABLE, LENS_TABLE, LOOK_TABLE, VIEW_TABLE } from './tables/view.js';

/** A kind of thing that has members of its own. */
export interface Kind {
  /** What it is, in a line. */
  line: string;
  table: Table;
  meant?: Meant;
  /** Whether its members are read once, when something is made of it; rows may say otherwise. */
  isFixed?: boolean;
}

const kind = (line: string, table: Table, meant?: Meant): Kind => ({
  line,
  table,
  ...(meant ? { meant } : {}),
});

/** What something is made of. */
const made = (line: string, table: Table, meant?: Meant): Kind => ({
  ...kind(line, table, meant),
  isFixed: true,
});

/** Every kind of thing, with its members: one row for each, and nowhere else. */
export const KINDS = {
  scene: kind('What is around the nodes of a scene.', SCENE_TABLE),
  node: kind('A node of a scene: where it is, and what it carries.', NODE_TABLE, NODE_MEANT),
  mesh: made('What a node draws.', MESH_TABLE),
  primitive: made('A geometry with its material.', PRIMITIVE_TABLE),
  material: kind('What surfaces are made of, as glTF 2.0 has it.', MATERIAL_TABLE, MATERIAL_MEANT),
  textureUse: kind("A texture in one of a material's places.", TEXTURE_USE_TABLE),
  textureTransform: kind('How a texture lies on a surface.', TEXTURE_TRANSFORM_TABLE),
  sampler: made('How the texels of a texture are read.', SAMPLER_TABLE),
  camera: kind('A camera of a node.', CAMERA_TABLE, CAMERA_MEANT),
  light: kind('A light of a node.', LIGHT_TABLE, LIGHT_MEANT),
  shadow: kind('How a light throws shadows.', SHADOW_TABLE),
  imageLight: kind('Light from all around, by an image: `scene.imageLight`.', IMAGE_LIGHT_TABLE),
  backdrop: kind('A panorama behind everything: `scene.backdrop`.', BACKDROP_TABLE),
  fog: kind('Air between the camera and things: `scene.fog`.', FOG_TABLE),
  clipping: kind('Planes that cut things open: `scene.clipping`.', CLIPPING_TABLE),
  look: kind('How light becomes a picture: `lens.look`.', LOOK_TABLE),
  view: kind('How a lens draws: `lens.view`.', VIEW_TABLE),
  effect: kind('An effect: `lens.view.finish`, `node.effects`.', EFFECT_TABLE),
  transfer: kind('What a channel of a component-transfer becomes.', TRANSFER_TABLE),
  culling: kind('What is left out before it is drawn: `lens.view.culling`.', CULLING_TABLE),
  lens: made('What `openLens` takes.', LENS_TABLE),
  animation: kind('An animation of a file.', ANIMATION_TABLE),
  play: made('What `motion.play` takes.', PLAY_TABLE),
  playback: kind('An animation that is played.', PLAYBACK_TABLE),
  states: made('A state machine as data.', STATES_TABLE),
  stateLayer: made('A layer of a state machine.', STATE_LAYER_TABLE),
  state: made('A state that plays something.', STATE_TABLE),
  stateMix: made('A state that mixes animations.', STATE_MIX_TABLE),
  stateGroup: made('States with the transitions between them.', STATE_GROUP_TABLE),
  transition: made('A way from one state to another.', TRANSITION_TABLE),
  condition: made('What must hold for a transition.', CONDITION_TABLE),
  parameter: made('A value that conditions ask.', PARAMETER_TABLE),
  swarm: made('What `new Swarm` takes.', SWARM_TABLE),
  swarmLevel: made('A level of detail of a swarm.', SWARM_LEVEL_TABLE),
} as const satisfies Readonly<Record<string, Kind>>;

export type KindName = keyof typeof KINDS;

/** What functions take that make a shape or a rig, by their names. */
export const OPTION_KINDS: Readonly<Record<string, Kind>> = Object.fromEntries([
  ...Object.entries(SHAPE_TABLES).map(([name, table]) => [name, made(`What \`${name}\` takes.`, table)]),
  ...Object.entries(RIG_TABLES).map(([name, table]) => [
    name,
    made(`What \`${name}\` takes.`, table, RIG_MEANT),
  ]),
]);
