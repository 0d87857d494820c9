import { readFileSync } from 'node:fs';
import { Scene } from '../../scene/scene.js';
import type { SceneNode } from '../../scene/scene-node.js';
import type { Animation, AnimationTarget } from '../animation.js';
import { Motion } from '../motion.js';
import type { StatesDefinition } from './definition.js';
import { checkStates } from './flatten.js';
import { readStates } from './read-states.js';
import { StateMachine } from './state-machine.js';

/** A gull whose height says which clips it plays: `glide` stands at 0, `flap` at 10, `rest` at 100, `wave` lifts a wing. */
function stage(definition: StatesDefinition): {
  machine: StateMachine;
  height: () => number;
  wing: () => number;
} {
  const scene = new Scene();
  const gull = scene.createNode({ name: 'gull' });
  const wing = scene.createNode({ name: 'wing', parent: gull });
  const still = (name: string, target: AnimationTarget, y: number, duration: number): Animation => ({
    name,
    duration,
    channels: [
      {
        target,
        path: 'translation',
        sampler: {
          interpolation: 'linear',
          components: 3,
          input: Float32Array.of(0, duration),
          output: Float32Array.of(0, y, 0, 0, y, 0),
        },
      },
    ],
  });
  const [body, arm] = [
    { name: 'gull', children: [] },
    { name: 'wing', children: [] },
  ];
  const animations = [
    still('glide', body, 0, 2),
    still('flap', body, 10, 1),
    still('rest', body, 100, 4),
    still('wave', arm, 3, 1),
  ];
  const machine = new StateMachine(new Motion(gull, { animations }), definition);
  const y = (node: SceneNode): number => Math.round(node.readTranslation([0, 0, 0])[1]! * 1e4) / 1e4;
  return { machine, height: () => y(gull), wing: () => y(wing) };
}

const FLIGHT: StatesDefinition = {
  parameters: { climb: { type: 'number' }, startled: { type: 'trigger' }, tired: { type: 'boolean' } },
  layers: [
    {
      name: 'body',
      start: 'ground',
      states: {
        ground: { animation: 'rest' },
        air: {
          start: 'glide',
          states: { glide: { animation: 'glide' }, flap: { animation: 'flap' } },
          transitions: [
            { from: 'glide', to: 'flap', when: [{ parameter: 'climb', above: 0.5 }], fade: 0.5 },
            { from: 'flap', to: 'glide', when: [{ parameter: 'climb', below: 0.2 }], after: 1, fade: 0 },
          ],
        },
      },
      transitions: [
        { from: 'ground', to: 'air', when: [{ parameter: 'startled' }], fade: 1, interruptible: true },
        { from: '*', to: 'ground', when: [{ parameter: 'tired', is: true }], priority: 1, fade: 0 },
      ],
    },
  ],
};

test('conditions lead from state to state, evenly in the time of the fade', () => {
  const { machine, height } = stage(FLIGHT);
  machine.update(0.1);
  expect(height()).toBe(100);
  machine.trigger('startled').update(0.25);
  expect(height()).toBeCloseTo(75, 3);
  expect(machine.get('startled')).toBe(false);
  expect(machine.inspect()[0]).toMatchObject({
    state: 'air/glide',
    transition: { from: 'ground', share: 0.25 },
  });
  machine.update(0.75);
  expect(height()).toBe(0);
  expect(machine.inspect()[0]!.transition).toBeUndefined();
  machine.set('climb', 0.8).update(0.25);
  expect(height()).toBeCloseTo(5, 3);
  machine.update(0.25);
  expect(height()).toBe(10);
});

test('a transition may wait for the clip, and says why it does', () => {
  const { machine, height } = stage(FLIGHT);
  machine.trigger('startled').update(1);
  machine.set('climb', 1).update(0.5);
  machine.set('climb', 0).update(0.25);
  expect(machine.inspect()[0]).toMatchObject({
    state: 'air/flap',
    reasons: [
      { to: 'ground', passed: false, why: 'tired is false, not true' },
      { to: 'air/glide', passed: false, why: '0.50 rounds are played, not 1' },
    ],
  });
  machine.update(0.25);
  expect(height()).toBe(10);
  machine.update(0.01);
  expect(height()).toBe(0);
  expect(machine.inspect()[0]!.reasons.at(-1)).toEqual({
    to: 'air/glide',
    passed: true,
    why: 'all conditions hold',
  });
});

test('what may be interrupted is, from where it stands; priority decides', () => {
  const { machine, height } = stage(FLIGHT);
  machine.trigger('startled').update(0.5);
  expect(height()).toBeCloseTo(50, 3);
  machine.set('climb', 1).update(0.25);
  // Half rest, half glide before: half of each is left, and half is flap.
  expect(height()).toBeCloseTo(0.25 * 100 + 0.5 * 10, 3);
  // This one may not be: what has a higher priority waits for its end.
  machine.set('tired', true).update(0.1);
  expect(machine.inspect()[0]!.state).toBe('air/flap');
  machine.update(0.15);
  machine.update(0.01);
  expect([machine.inspect()[0]!.state, height()]).toEqual(['ground', 100]);
});

test('clips are mixed by a number, their lengths brought together, and by two', () => {
  const { machine, height } = stage({
    parameters: { climb: { type: 'number' }, x: { type: 'number' }, y: { type: 'number', default: 1 } },
    layers: [
      {
        name: 'body',
        start: 'fly',
        states: {
          fly: {
            by: 'climb',
            animations: [
              { animation: 'flap', at: 1 },
              { animation: 'glide', at: 0 },
            ],
          },
        },
      },
      {
        name: 'wing',
        start: 'wave',
        mask: ['wing'],
        states: {
          wave: {
            by: ['x', 'y'],
            animations: [
              { animation: 'wave', at: [0, 1] },
              { animation: 'rest', at: [5, 5] },
            ],
          },
        },
      },
    ],
  });
  for (const [climb, expected] of [
    [-3, 0],
    [0, 0],
    [0.25, 2.5],
    [1, 10],
    [7, 10],
  ] as const) {
    machine.set('climb', climb).update(0.1);
    expect(height()).toBeCloseTo(expected, 4);
  }
  machine.set('climb', 0.5).update(0);
  const [flap, glide] = machine.motion.playbacks;
  // One and two seconds long, they take one and a half.
  expect([flap!.playbackRate, glide!.playbackRate]).toEqual([1 / 1.5, 2 / 1.5]);
});

test('layers lie over one another, and keep to their nodes', () => {
  const { machine, height, wing } = stage({
    layers: [
      { name: 'body', start: 'glide', states: { glide: { animation: 'glide' } } },
      { name: 'hand', start: 'wave', mask: ['wing'], weight: 0.5, states: { wave: { animation: 'wave' } } },
    ],
  });
  machine.update(0.5);
  expect([height(), wing()]).toEqual([0, 1.5]);
});

test('what is wrong with a definition is told with its place and what is near', () => {
  const broken = (change: (definition: StatesDefinition) => void): (() => unknown) => {
    const definition = JSON.parse(JSON.stringify(FLIGHT)) as StatesDefinition;
    change(definition);
    return () => stage(definition);
  };
  const [body] = FLIGHT.layers;
  expect(body).toBeDefined();
  for (const [change, code, message, hint] of [
    [
      (d) => Object.assign(d.layers[0]!.states['ground']!, { animation: 'rst' }),
      'states/animation',
      /state "ground" plays "rst"/,
      /Did you mean "rest"/,
    ],
    [
      (d) => (d.layers[0]!.transitions![0]!.to = 'sea'),
      'states/state',
      /"sea" is no state there/,
      /"ground", "air"/,
    ],
    [
      (d) => (d.layers[0]!.transitions![0]!.when![0]!.parameter = 'starled'),
      'states/parameter',
      /asks for the parameter "starled"/,
      /Did you mean "startled"/,
    ],
    [
      (d) => (d.layers[0]!.transitions![1]!.when![0]!.is = undefined as never),
      'states/condition',
      /does not fit a boolean/,
      /boolean takes is/,
    ],
    [(d) => (d.layers[0]!.start = 'sky'), 'states/state', /the start "sky"/, /"ground"/],
    [(d) => (d.layers = []), 'states/empty', /no layers/, /^$/],
  ] as [(d: StatesDefinition) => void, string, RegExp, RegExp][]) {
    expect(broken(change)).toThrow(
      expect.objectContaining({
        code,
        message: expect.stringMatching(message),
        hint: expect.stringMatching(hint),
      }),
    );
  }
  const { machine } = stage({
    parameters: { wind: { type: 'number' } },
    layers: [
      {
        name: 'body',
        start: 'glide',
        states: { glide: { animation: 'glide' }, lost: { animation: 'rest' } },
      },
    ],
  });
  expect(machine.warnings).toEqual([
    'layer "body": nothing leads to the state "lost"',
    'nothing asks for the parameter "wind"',
  ]);
  expect(() => machine.set('wnd', 1)).toThrow(
    expect.objectContaining({ hint: expect.stringMatching(/Did you mean "wind"/) }),
  );
  expect(() => machine.set('wind', true)).toThrow(/is a number and cannot be true/);
  expect(() => machine.trigger('wind')).toThrow(/no trigger/);
});

test('the schema names what a definition may have', () => {
  const schema = JSON.parse(readFileSync('packages/core/schema/states.schema.json', 'utf8')) as {
    properties: Record<string, unknown>;
    $defs: Record<string, { properties?: Record<string, unknown> }>;
  };
  expect(Object.keys(schema.properties)).toEqual(['$schema', 'parameters', 'layers']);
  const [body] = FLIGHT.layers;
  const known = schema.$defs['transition']!.properties!;
  for (const transition of body!.transitions!)
    for (const key of Object.keys(transition)) expect(known).toHaveProperty(key);
});

test('a parameter of a type that is not there is refused', () => {
  const definition = {
    parameters: { wind: { type: 'yes-no' } },
    layers: [{ name: 'base', start: 'rest', states: { rest: { animation: 'rest' } } }],
  } as unknown as StatesDefinition;
  expect(() => checkStates(definition, ['rest'])).toThrow('the parameter "wind" cannot be a "yes-no"');
});

/** JSON as it is before anybody looked at it. */
type Loose = Record<string, unknown>;

/** Puts a value at a path, or takes away what is there. */
function put(made: Loose, path: string, value: unknown): Loose {
  const names = path.split('/');
  const last = names.pop()!; // one at least
  let at = made;
  for (const name of names) at = at[name] as Loose;
  if (value === undefined) delete at[last];
  else at[last] = value;
  return made;
}

test('a machine read from JSON is checked member by member, with the place and what may be meant', () => {
  const json = (): Loose =>
    JSON.parse(
      JSON.stringify({
        parameters: { wind: { type: 'number', default: 1 } },
        layers: [
          {
            name: 'body',
            start: 'air',
            states: {
              air: { start: 'glide', states: { glide: { animation: 'glide', playbackRate: 2 } } },
              mix: { by: 'wind', animations: [{ animation: 'flap', at: 0 }] },
              plane: { by: ['wind', 'wind'], animations: [{ animation: 'flap', at: [0, 1] }] },
            },
            transitions: [{ from: 'air', to: 'mix', when: [{ parameter: 'wind', above: 2 }], fade: 0.2 }],
          },
        ],
      }),
    ) as Loose;
  expect(readStates(json())).toEqual(json());
  const faults: [path: string, value: unknown, says: RegExp][] = [
    ['layer', [], /has a member "layer"[^]*Did you mean "layers"/],
    ['layers', {}, /layers is an object[^]*Give a list/],
    ['layers', [], /layers has 0 entries[^]*1 or more/],
    [
      'parameters/wind/type',
      'yes-no',
      /parameters.wind.type is the text "yes-no"[^]*number, boolean, trigger/,
    ],
    ['layers/0/start', undefined, /layers.0 lacks "start"/],
    ['layers/0/states/air/states/glide/clip', 'x', /air.states.glide has a member "clip"[^]*animation/],
    ['layers/0/states/mix/animations/0/at', 'low', /mix.animations.0.at is the text "low"[^]*a number/],
    ['layers/0/states/plane/by', ['wind'], /plane.by has 1 entries[^]*takes 2/],
    ['layers/0/states/mix', 'flap', /states.mix is the text "flap"/],
    ['layers/0/transitions/0/fade', null, /transitions.0.fade is null/],
    ['layers/0/transitions/0/when/0/abov', 2, /when.0 has a member "abov"[^]*Did you mean "above"/],
  ];
  for (const [path, value, says] of faults) expect(() => readStates(put(json(), path, value))).toThrow(says);
  expect(() => readStates(5)).toThrow(/the state machine is 5[^]*an object/);
});
