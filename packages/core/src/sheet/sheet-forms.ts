import { TRANSFER_TABLE, EFFECT_TABLE } from '../properties/tables/effect.js';
import { aboveZero, number, string, vector, whole, word } from '../properties/define.js';
import {
  BACKDROP_TABLE,
  CLIPPING_TABLE,
  FOG_TABLE,
  IMAGE_LIGHT_TABLE,
  LIGHT_MEANT,
  LIGHT_TABLE,
  SCENE_TABLE,
} from '../properties/tables/light.js';
import {
  MATERIAL_MEANT,
  MATERIAL_TABLE,
  SAMPLER_TABLE,
  TEXTURE_USE_TABLE,
} from '../properties/tables/material.js';
import { CAMERA_MEANT, CAMERA_TABLE, MESH_TABLE, NODE_TABLE } from '../properties/tables/node.js';
import { SHAPE_TABLES } from '../properties/tables/shapes.js';
import { LOOK_TABLE, VIEW_TABLE } from '../properties/tables/view.js';
import type { Property } from '../properties/property.js';
import {
  type AddressKind,
  ANY,
  either,
  type Form,
  list,
  type Member,
  type MembersForm,
  member,
  membersOf,
} from '../json/forms.js';

const value = (property: Property): Form => ({ kind: 'value', property });
const name = (of: 'texture' | 'material' | 'model' | 'node'): Form => ({ kind: 'name', of });
const address = (of: AddressKind): Form => ({ kind: 'address', of });
const map = (of: Form, holds: string): Form => ({ kind: 'map', of, holds });

/** An object whose members are put together when they are first asked for. */
function object(
  what: string,
  line: string,
  make: () => Record<string, Member>,
  more: Partial<Omit<MembersForm, 'kind' | 'what' | 'line' | 'members'>> = {},
): MembersForm {
  let members: Record<string, Member> | undefined;
  return { kind: 'members', what, line, members: () => (members ??= make()), ...more };
}

const numbers = (line: string, length: number): Form => value(vector(line, length));
const EXTRAS = ANY;
/** Values for a shader's settings: numbers, several, or the name of a texture. */
const SETTINGS = map(
  either(
    value(number('A number.')),
    value({ line: 'Several.', type: 'numbers' }),
    name('texture'),
    value({ line: 'A truth.', type: 'boolean' }),
  ),
  'values',
);

/** Lists and points that tables leave open, by shape. */
const SHAPE_LISTS: Readonly<Record<string, Readonly<Record<string, Form>>>> = {
  lathe: { profile: list(numbers('Radius and height.', 2), { least: 2 }) },
  tube: { path: list(numbers('A point.', 3), { least: 2 }) },
  convexHull: { points: list(numbers('A point.', 3), { least: 4 }) },
};

const SHAPES = Object.keys(SHAPE_TABLES) as (keyof typeof SHAPE_TABLES)[];

const SHAPE = member('Which shape it has.', value(word('Which shape it has.', SHAPES)));

const TEXTURE_USE = object(
  'a use of a texture',
  "A texture in one of a material's places.",
  () => ({
    ...membersOf(TEXTURE_USE_TABLE, { texture: name('texture') }),
  }),
  { needs: ['texture'] },
);

const TEXTURES = Object.fromEntries(
  Object.entries(MATERIAL_TABLE)
    .filter(([, { type }]) => type === 'texture')
    .map(([key]) => [key, either(name('texture'), TEXTURE_USE)]),
);

const BLEND = either(
  value(MATERIAL_TABLE['blend']!), // it has one
  object(
    'a blend',
    'How colors meet, by factors.',
    () => ({
      color: member('Of red, green and blue.', FACTORS),
      alpha: member('Of alpha. Default as `color`.', FACTORS),
    }),
    { needs: ['color'] },
  ),
);
const FACTORS = object('factors', 'Factors of what comes and of what is there.', () => ({
  srcFactor: member('Of what comes.', value(string('Of what comes.')), { default: 'one' }),
  dstFactor: member('Of what is there.', value(string('Of what is there.')), {
    default: 'one-minus-src-alpha',
  }),
  operation: member('What is done with both.', value(string('What is done with both.')), { default: 'add' }),
}));

/** A material in a sheet. */
export const MATERIAL_FORM = object(
  'a material',
  'What surfaces are made of, as glTF 2.0 has it.',
  () => ({
    ...membersOf(MATERIAL_TABLE, {
      ...TEXTURES,
      name: undefined,
      kept: undefined,
      blend: BLEND,
      shader: address('shader'),
      settings: SETTINGS,
      extras: EXTRAS,
    }),
  }),
  { meant: MATERIAL_MEANT },
);

const MATERIAL = either(name('material'), MATERIAL_FORM);

/** A shape with its material: what it takes depends on which one it is. */
export const PRIMITIVE_FORMS: Readonly<Record<string, MembersForm>> = Object.fromEntries(
  SHAPES.map((shape) => [
    shape,
    object(
      /^[aeiou]/.test(shape) ? `an ${shape}` : `a ${shape}`,
      `A ${shape}.`,
      () => ({
        shape: SHAPE,
        ...membersOf(SHAPE_TABLES[shape], SHAPE_LISTS[shape] ?? {}),
        material: member("What it is made of. Left out: glTF's default material.", MATERIAL),
        overlays: member(
          'Materials that it is drawn with once more, over the first, in order.',
          list(MATERIAL),
        ),
      }),
      {
        needs: [
          'shape',
          ...Object.keys(SHAPE_LISTS[shape] ?? {}),
          ...(shape === 'polyhedron' ? ['kind'] : []),
        ],
      },
    ),
  ]),
);

/** What has a shape that there is not. */
const NO_SHAPE = object(
  'a mesh',
  'A shape with its material.',
  () => ({ shape: SHAPE, material: member('', ANY) }),
  {
    needs: ['shape'],
  },
);
const byShape = (given: Readonly<Record<string, unknown>>): MembersForm =>
  PRIMITIVE_FORMS[given['shape'] as string] ?? NO_SHAPE;
const SHAPE_FORMS = Object.values(PRIMITIVE_FORMS);
const PRIMITIVE: Form = { kind: 'by', forms: SHAPE_FORMS, choose: byShape };
/** Several shapes, with more to say of them. */
const WHOLE_MESH = object(
  'a mesh',
  'Several shapes, with more to say of them.',
  () =>
    membersOf(MESH_TABLE, {
      primitives: list(PRIMITIVE, { least: 1 }),
      extras: EXTRAS,
    }),
  { needs: ['primitives'] },
);
const MESH: Form = either(list(PRIMITIVE, { least: 1 }), {
  kind: 'by',
  forms: [...SHAPE_FORMS, WHOLE_MESH],
  choose: (given) => ('primitives' in given ? WHOLE_MESH : byShape(given)),
});

export const LIGHT_FORM = object(
  'a light',
  'A light of a node.',
  () => membersOf(LIGHT_TABLE, { extras: EXTRAS }),
  {
    meant: LIGHT_MEANT,
    needs: ['type'],
  },
);
export const CAMERA_FORM = object(
  'a camera',
  'A camera of a node.',
  () => membersOf(CAMERA_TABLE, { extras: EXTRAS }),
  {
    meant: CAMERA_MEANT,
    needs: ['type'],
  },
);
/** The same in part, as adjustments have them. */
const part = (form: MembersForm, what: string): MembersForm => ({ ...form, what, needs: [] });

const TRANSFER = object('a transfer function', 'What a channel becomes.', () => membersOf(TRANSFER_TABLE), {
  needs: ['type'],
});
/** An effect in a sheet. */
export const EFFECT_FORM = object(
  'an effect',
  'An effect on a picture, or on a node.',
  () => ({
    ...membersOf(EFFECT_TABLE, {
      shader: address('effect'),
      settings: SETTINGS,
      table: address('table'),
      map: name('texture'),
      focus: either(value(aboveZero('A distance.')), name('node')),
      from: either(numbers('A place.', 3), name('node')),
      red: TRANSFER,
      green: TRANSFER,
      blue: TRANSFER,
      alpha: TRANSFER,
    }),
  }),
  { needs: ['type'] },
);

const placed = (): Record<string, Member> =>
  membersOf(NODE_TABLE, {
    parent: undefined,
    visibleTo: value(
      whole('Bits of the cameras that see it.', { range: [0, 0xffffffff], default: 0xffffffff }),
    ),
    effects: list(EFFECT_FORM),
    mesh: MESH,
    camera: CAMERA_FORM,
    light: LIGHT_FORM,
    settings: SETTINGS,
    extras: EXTRAS,
  });
const DEGREES = member(
  'In place of `rotation`: angles about X, Y and Z in degrees, applied in the order Y, X, Z.',
  numbers('Angles.', 3),
);
const WEIGHTS = member('Of morph targets, by name.', map(value(number('A weight.')), 'weights'));
const ROTATIONS = [
  ['rotation', 'degrees', 'matrix'],
  ['translation', 'matrix'],
  ['scale', 'matrix'],
] as const;

/** What may be other about a node of a model, or of another sheet. */
export const ADJUST_FORM = object(
  'an adjustment',
  'What is other about a node of a model, or of another sheet.',
  () => {
    const { name: _name, ...members } = placed();
    return {
      ...members,
      degrees: DEGREES,
      weights: WEIGHTS,
      camera: member('Members of its camera.', part(CAMERA_FORM, 'the camera of an adjustment')),
      light: member('Members of its light.', part(LIGHT_FORM, 'the light of an adjustment')),
    };
  },
  { apart: ROTATIONS },
);

const ADJUST = member(
  'What is other about nodes of the model, or of the other sheet: by path from here, names joined by slashes.',
  map(ADJUST_FORM, 'adjustments'),
);

/** A node of a sheet. */
export const NODE_FORM: MembersForm = object(
  'a node',
  'A node: where it is, and what it carries.',
  () => ({
    ...placed(),
    degrees: DEGREES,
    weights: WEIGHTS,
    model: member('Name of the model that it is.', name('model')),
    sheet: member('Address of the other sheet that it is.', address('sheet')),
    adjust: ADJUST,
    children: member('Nodes below it.', list(NODE_FORM)),
  }),
  {
    meant: {
      position: 'translation',
      geometry: 'mesh: { shape, material }',
      quaternion: 'rotation',
      parent: 'children',
    },
    apart: [...ROTATIONS, ['model', 'sheet', 'mesh']],
  },
);

/** A model of a sheet, where an address does not say all. */
export const MODEL_FORM = object(
  'a model',
  'A model that nodes are made of.',
  () => ({
    file: member(
      'Its address, relative to the sheet: every format that `loadModel` reads.',
      address('model'),
    ),
    scene: member('Which of its scenes. Left out: the one it shows.', value(string('Its name.'))),
    materials: member('What is other about its materials, by name.', map(MATERIAL_FORM, 'materials')),
  }),
  { needs: ['file'] },
);

/** A texture of a sheet. */
export const TEXTURE_FORM = object(
  'a texture',
  'A picture that materials show.',
  () => ({
    image: member(
      'Address of the picture, relative to the sheet: PNG, JPEG, WebP, AVIF or KTX2.',
      address('image'),
    ),
    ...membersOf(SAMPLER_TABLE, { name: undefined }),
  }),
  { needs: ['image'] },
);

/** A sky that is computed in place of a panorama that is loaded. */
export const SKY_FORM = object('a sky', 'A daylight sky that is computed: see `skyPanorama`.', () => ({
  sunDirection: member('Towards the sun.', numbers('A direction.', 3), { default: [0.5, 0.7, -0.85] }),
  turbidity: member('Haze: 2 clear, 10 hazy.', value(number('Haze.', { range: [1.7, 10] })), {
    default: 2.5,
  }),
  groundAlbedo: member(
    'How much of the light the ground gives back.',
    value(vector('Of the ground.', 3, { range: [0, 1] })),
    {
      default: [0.15, 0.135, 0.1],
    },
  ),
  height: member('Pixels from top to bottom.', value(whole('Pixels.', { range: [8, 4096] })), {
    default: 128,
  }),
  sunDisc: member("Whether the sun's disc is in it.", value({ line: 'The disc.', type: 'boolean' }), {
    default: false,
  }),
}));

const IMAGE = either(address('panorama'), list(address('panorama'), { length: 6 }));
const image = {
  image: member(
    'Address of the panorama, relative to the sheet, or of the six sides of a cube: +X, -X, +Y, -Y, +Z, -Z.',
    IMAGE,
  ),
  sky: member('In place of an image: a sky that is computed.', SKY_FORM),
};

const IMAGE_LIGHT_FORM = object(
  'an image light',
  'Light from all around, by an image.',
  () => ({
    ...image,
    ...membersOf(IMAGE_LIGHT_TABLE, { panorama: undefined }),
  }),
  { needsOne: ['image', 'sky'], apart: [['image', 'sky']] },
);
const BACKDROP_FORM = object(
  'a backdrop',
  'A panorama behind everything; without an image the one of the image light.',
  () => ({
    ...image,
    ...membersOf(BACKDROP_TABLE, { panorama: undefined }),
  }),
  { apart: [['image', 'sky']] },
);
const FOG_FORM = object(
  'fog',
  'Air between the camera and things.',
  () => ({
    ...membersOf(FOG_TABLE, {
      color: either(
        value(vector('Its color.', 3, { range: [0, Infinity], color: 'linear' })),
        value(word('', ['sky'])),
      ),
      height: object(
        'the height of fog',
        'Where it lies low.',
        () => ({
          base: member('From this height on it thins out.', value(number('Metres.'))),
          falloff: member('By a factor of e each so many metres.', value(aboveZero('Metres.'))),
        }),
        { needs: ['base', 'falloff'] },
      ),
    }),
  }),
  { needs: ['type'] },
);
const CLIPPING_FORM = object(
  'clipping',
  'Planes that cut things open.',
  () => ({
    planes: member(CLIPPING_TABLE['planes']!.line, list(numbers('A plane.', 4), { least: 1, most: 6 })), // it has some
    node: member(CLIPPING_TABLE['node']!.line, name('node')), // as above
  }),
  { needs: ['planes'] },
);

export const LOOK_FORM = object('a look', 'How light becomes a picture: `lens.look`.', () =>
  membersOf(LOOK_TABLE),
);
export const VIEW_FORM = object('a view', 'How a lens draws: `lens.view`.', () =>
  membersOf(VIEW_TABLE, { finish: undefined }),
);

/** A sheet as a whole. */
export const SHEET_FORM = object(
  'a sheet',
  'A scene as a file.',
  () => ({
    $schema: member('Address of the schema, for editors.', value(string('An address.'))),
    sheet: member('Version of the form: 1.', value(whole('A version.', { range: [1, 1] }))),
    name: member('Name of the scene.', value(string('A name.'))),
    models: member(
      'Models by name: each an address, or an object.',
      map(either(address('model'), MODEL_FORM), 'models'),
    ),
    textures: member(
      'Textures by name: each the address of a picture, or an object.',
      map(either(address('image'), TEXTURE_FORM), 'textures'),
    ),
    materials: member('Materials by name.', map(MATERIAL_FORM, 'materials')),
    nodes: member('Nodes of the scene.', list(NODE_FORM)),
    camera: member('The camera to start with: path of its node.', name('node')),
    ...membersOf(SCENE_TABLE, {
      name: undefined,
      backdrop: BACKDROP_FORM,
      imageLight: IMAGE_LIGHT_FORM,
      fog: FOG_FORM,
      clipping: CLIPPING_FORM,
    }),
    finish: member('Effects on the picture, one after the other.', list(EFFECT_FORM)),
    look: member('How light becomes a picture.', LOOK_FORM),
    view: member('How it is drawn.', VIEW_FORM),
    adjust: member(
      'What is other about nodes of a scene that is made elsewhere: by path. Such a sheet is applied to that scene.',
      map(ADJUST_FORM, 'adjustments'),
    ),
    extras: member("Data of the user's own.", EXTRAS),
  }),
  { needs: ['sheet'] },
);
