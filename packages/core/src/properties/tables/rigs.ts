import {
  aboveZero,
  angle,
  boolean,
  callback,
  given,
  number,
  object,
  positive,
  string,
  vector,
  word,
} from '../define.js';
import type { Meant, Property, Table } from '../property.js';

const RIG: Table = {
  keyboard: boolean('Whether keys work while the canvas has the focus.', { default: true }),
  keySpeed: positive('Factor on how fast held keys move and turn.', { default: 1 }),
  label: string('What screen readers call the canvas, where the page does not say it.'),
  resting: boolean('Begins at rest, until something is handed over to it.', { default: false }),
  keys: object('Keys that take the place of the usual ones, by `code` or `key` of keyboard events.'),
};
const TURN = 2 * Math.PI;
const turnSpeed = (usual: number): Property =>
  angle('For a drag across the whole height.', [-TURN, TURN], { default: usual });
const halfLife = (line: string, usual: number): Property =>
  positive(line, { unit: 'seconds', default: usual });
const LETS_GO = 'In which a movement that was let go loses half of its speed; 0 stops at once.';
const element = given('An element on which pointers and keys move it.');

const FREE_LOOK: Table = {
  ...RIG,
  look: word('Whether a drag looks around, or the pointer is locked to it.', ['drag', 'lock'], {
    default: 'drag',
  }),
  turnSpeed: turnSpeed(Math.PI / 2),
  halfLife: halfLife('In which half of a change of speed is done; 0 is at once.', 0.06),
};

/** What rigs and pointer events take, by the function that makes them. */
export const RIG_TABLES: Readonly<Record<string, Table>> = {
  orbitRig: {
    ...RIG,
    target: vector('Point to look at, in the world.', 3, { unit: 'metres', default: [0, 0, 0] }),
    distanceRange: vector('Nearest and farthest distance.', 2, {
      range: [0, Infinity],
      unit: 'metres',
      default: [0.001, 1e6],
    }),
    elevationRange: vector(
      'Lowest and highest elevation above the horizon. Default just short of straight down and up.',
      2,
      { range: [-Math.PI / 2, Math.PI / 2], unit: 'radians' },
    ),
    halfLife: halfLife(LETS_GO, 0.08),
    turnSpeed: turnSpeed(Math.PI),
  },
  planRig: {
    ...RIG,
    side: string('From where it looks.', { default: 'top' }),
    target: vector("Point in the picture's middle, in the world.", 3, {
      unit: 'metres',
      default: [0, 0, 0],
    }),
    height: aboveZero('That the picture is high. Default what the camera shows now.', { unit: 'metres' }),
    heightRange: vector('Lowest and highest `height`.', 2, {
      range: [0, Infinity],
      unit: 'metres',
      default: [0.01, 1e5],
    }),
    distance: aboveZero('From the target to the camera, for cameras with parallel rays.', {
      unit: 'metres',
    }),
    halfLife: halfLife('In which half of a zoom is done.', 0.05),
  },
  flyRig: {
    ...FREE_LOOK,
    speed: positive('How fast it flies; the wheel changes it.', { unit: 'metres / second', default: 4 }),
    boost: positive('Factor on the speed while shift is down.', { default: 4 }),
  },
  walkRig: {
    ...FREE_LOOK,
    speed: positive('How fast it walks.', { unit: 'metres / second', default: 2 }),
    boost: positive('Factor on the speed while shift is down.', { default: 2.5 }),
    height: aboveZero('From the ground to the camera.', { unit: 'metres', default: 1.6 }),
    radius: positive('That is kept from walls.', { unit: 'metres', default: 0.3 }),
    step: positive('Of a step that feet take.', { unit: 'metres', default: 0.35 }),
    slope: angle('Steepest ground that is walked on.', [0, Math.PI / 2], { default: 0.87 }),
    gravity: positive('How fast it falls; 0 keeps the height.', {
      unit: 'metres / second²',
      default: 9.81,
    }),
    jump: positive('That a jump is high; 0: the space bar does nothing.', { unit: 'metres', default: 0 }),
    filter: callback('What is walked on and stood in the way of, by node. Default all that is shown.'),
  },
  followRig: {
    ...RIG,
    offset: vector('From what it follows: to its right, up, and behind it.', 3, {
      unit: 'metres',
      default: [0, 2, 6],
    }),
    lookAt: vector('What is looked at, from what is followed.', 3, { unit: 'metres', default: [0, 1, 0] }),
    turns: boolean('Whether it stays behind what it follows when that turns.', { default: true }),
    halfLife: halfLife('In which half of the way is caught up.', 0.15),
    staysInSight: boolean('Whether it comes nearer where something would stand between.', {
      default: false,
    }),
    element,
  },
  pathRig: {
    ...RIG,
    speed: number('How fast it goes. Default so that the whole way takes 20 seconds.', {
      unit: 'metres / second',
    }),
    lookAt: given("A place, a node, or 'ahead', which is the default."),
    repeats: boolean('Whether it begins anew at the end; closed ways do by themselves.', { default: false }),
    element,
  },
  pointerEvents: {
    filter: callback('Whether a node counts; others are looked through. Default all that are shown.'),
    tolerance: positive('CSS pixels that a pointer may move and still click; for fingers twice that.', {
      unit: 'pixels',
      default: 5,
    }),
  },
};

/** Words of the trade for what rigs call otherwise. */
export const RIG_MEANT: Meant = {
  minDistance: 'distanceRange: [min, max]',
  maxDistance: 'distanceRange: [min, max]',
  minElevation: 'elevationRange: [min, max]',
  maxElevation: 'elevationRange: [min, max]',
  minHeight: 'heightRange: [min, max]',
  maxHeight: 'heightRange: [min, max]',
  inertia: 'halfLife (seconds)',
  damping: 'halfLife (seconds)',
  fov: "yfov of the camera node's camera",
};
