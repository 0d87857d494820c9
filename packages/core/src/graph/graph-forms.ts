import {
  ANY,
  either,
  type Form,
  list,
  type Member,
  member,
  type MembersForm,
  NOTHING,
} from '../json/forms.js';
import type { Property } from '../properties/property.js';
import { HOOKS } from '../shading/hook-outline.js';

const value = (property: Omit<Property, 'line'>): Form => ({
  kind: 'value',
  property: { line: '', ...property },
});
const TEXT = value({ type: 'string' });
const NUMBER = value({ type: 'number' });
const TRUTH = value({ type: 'boolean' });
const NUMBERS: Form = list(NUMBER, { least: 1, most: 4 });
const word = (...words: string[]): Form => value({ type: 'word', words });
const map = (of: Form, holds: string): Form => ({ kind: 'map', of, holds });
const form = (
  what: string,
  line: string,
  members: () => Readonly<Record<string, Member>>,
  more: Partial<MembersForm> = {},
): MembersForm => ({ kind: 'members', what, line, members, ...more });

const CALL: MembersForm = form(
  'a call',
  'A call within an input.',
  () => ({
    call: member(
      'An operator, a built-in function of WGSL, a type, a function of the library, of `uses` or of the graph.',
      TEXT,
    ),
    in: member('Its inputs, in order.', list(INPUT)),
  }),
  { needs: ['call'] },
);
/** What stands at an input. */
const INPUT: Form = either(NUMBER, TRUTH, TEXT, NUMBERS, CALL, NOTHING);

const NODE = form(
  'a node',
  'A node of a graph: it computes one value.',
  () => ({
    call: member(
      'An operator, a built-in function of WGSL, a type, a function of the library, of `uses` or of the graph.',
      TEXT,
    ),
    in: member('Its inputs, in order.', list(INPUT)),
    value: member('In place of a call: a value.', INPUT),
    note: member('What it is for: a comment in the WGSL.', TEXT),
    muted: member('Whether it is passed over: it gives its first input as it is.', TRUTH, { default: false }),
  }),
  { needsOne: ['call', 'value'], apart: [['call', 'value']] },
);

const SETTING = form(
  'a setting',
  'A value that is set from outside, without compiling anew.',
  () => ({
    type: member(
      'What it is; `color` is a `vec3f`, `colorWithAlpha` a `vec4f`, both linear light.',
      word('f32', 'i32', 'u32', 'vec2f', 'vec3f', 'vec4f', 'color', 'colorWithAlpha'),
    ),
    value: member('What it begins with. Left out: 0, of colors white.', either(NUMBER, TEXT, NUMBERS)),
    range: member('Lowest and highest.', list(NUMBER, { length: 2 })),
    note: member('What it is for.', TEXT),
  }),
  { needs: ['type'] },
);

const TEXTURE = form('a texture', 'A texture that is set from outside.', () => ({
  holds: member('`color` is read as linear light, `data` as it is.', word('color', 'data'), {
    default: 'color',
  }),
  shape: member('Its shape.', word('2d', 'cube', '2d-array'), { default: '2d' }),
  note: member('What it is for.', TEXT),
}));

const PLACE = list(NUMBER, { length: 2 });

const FUNCTION = form(
  'a function',
  'A part of a graph that is used many times, or a function in WGSL.',
  () => ({
    takes: member('Types of what it takes, by name.', map(TEXT, 'types')),
    nodes: member('Its nodes, by name.', map(NODE, 'nodes')),
    gives: member('What it gives.', INPUT),
    code: member('The whole function in WGSL, of the same name.', TEXT),
    note: member('What it is for.', TEXT),
    layout: member('Where its nodes, and what it takes, stand in the editor, by name.', map(PLACE, 'places')),
  }),
  { needsOne: ['gives', 'code'], apart: [['gives', 'code']] },
);

/** Objects are looked at once what stands in them is known: calls, code, or members of what the hook gives. */
const OUT: Form = either(NUMBER, TRUTH, TEXT, NUMBERS, map(ANY, 'inputs'));

const HOOK_LINES: Readonly<Record<keyof typeof HOOKS, string>> = {
  displace: 'Members of the vertex that are other than the geometry has them.',
  surface: 'Members of the surface that are other than the material says.',
  march: 'Members of the hit: `position`, `normal`, `isHit`.',
  light: 'The answer to one light.',
  outputColor: 'The color in the end.',
  effect: 'The color of a pixel.',
};

const HOOKS_FORM = form('the hooks', 'What the graph gives, by hook.', () =>
  Object.fromEntries(
    (Object.keys(HOOKS) as (keyof typeof HOOKS)[]).map((name) => [
      name,
      member(
        `${HOOK_LINES[name]} A call, or \`{ "code": ... }\` with the whole hook in WGSL, takes the place of all.`,
        OUT,
      ),
    ]),
  ),
);

/** A whole graph. */
export const GRAPH_FORM: MembersForm = form(
  'a graph',
  'A shader as a graph, in JSON with comments and trailing commas.',
  () => ({
    graph: member('Version of the form.', value({ type: 'number', isWhole: true, range: [1, 1] })),
    $schema: member('Address of the schema, for editors.', TEXT),
    note: member('What it is for: a comment at the top of the WGSL.', TEXT),
    uses: member('WGSL files whose functions it calls, relative to it.', list(TEXT)),
    settings: member('Values that are set from outside, by name.', map(SETTING, 'settings')),
    instanceSettings: member('Those that each instance has for itself.', map(SETTING, 'settings')),
    attributes: member('Types of attributes of the geometry, by name.', map(TEXT, 'types')),
    textures: member('Textures that are set from outside, by name.', map(TEXTURE, 'textures')),
    declarations: member('Declarations in WGSL that functions build on.', list(TEXT)),
    functions: member('Functions of the graph, by name.', map(FUNCTION, 'functions')),
    nodes: member('Its nodes, by name.', map(NODE, 'nodes')),
    hooks: member('What it gives, by hook.', HOOKS_FORM),
    layout: member('Where nodes stand in the editor, by name.', map(PLACE, 'places')),
    frames: member(
      'Frames about nodes, by what they are called.',
      map(
        form('a frame', 'A frame about nodes.', () => ({
          nodes: member('Names of the nodes.', list(TEXT)),
          note: member('What it says.', TEXT),
        })),
        'frames',
      ),
    ),
    notes: member(
      'Texts beside nodes.',
      list(
        form('a note', 'A text beside nodes.', () => ({
          text: member('What it says.', TEXT),
          at: member('Where it stands.', PLACE),
        })),
      ),
    ),
    extras: member('What others put there: nothing is done with it.', ANY),
  }),
  { needs: ['graph', 'hooks'] },
);
