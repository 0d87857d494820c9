import { box } from '../geometry/flat-shapes.js';
import type { Material } from '../material/material.js';
import { KINDS } from '../properties/kinds.js';
import type { Light } from '../scene/components.js';
import { Scene } from '../scene/scene.js';
import { readMember, writeMember } from './member.js';
import { parametersTable, settingsTable } from './settings-table.js';

test('members of a node are read and written by its readers and setters', () => {
  const scene = new Scene();
  const quay = scene.createNode({ name: 'quay', translation: [5, 0, 0] });
  const node = scene.createNode({ name: 'crate' });
  const light: Light = { type: 'point' };
  const values: Record<string, unknown> = {
    name: 'box',
    translation: [1, 2, 3],
    rotation: [0, 1, 0, 0],
    scale: [2, 2, 2],
    visible: false,
    castsShadow: false,
    receivesShadow: false,
    visibleTo: 0b101,
    effects: [{ type: 'sepia' }],
    parent: quay,
    mesh: { primitives: [{ geometry: box() }] },
    camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
    light,
    settings: { warmth: 1 },
    extras: { owner: 'harbour' },
  };
  for (const [name, value] of Object.entries(values)) {
    writeMember('node', node, name, value);
    expect(readMember('node', node, name)).toEqual(value);
  }
  expect(Object.keys(values).sort()).toEqual(
    Object.keys(KINDS.node.table)
      .filter((name) => name !== 'matrix')
      .sort(),
  );
  expect(node.readWorldPosition([0, 0, 0])).toEqual([6, 2, 3]);
  expect(scene.find('box')).toBe(node);
  const matrix = readMember('node', node, 'matrix') as number[];
  expect(matrix.slice(12)).toEqual([1, 2, 3, 1]);
  writeMember('node', node, 'matrix', [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 7, 8, 9, 1]);
  expect(readMember('node', node, 'translation')).toEqual([7, 8, 9]);
  expect(readMember('node', node, 'scale')).toEqual([1, 1, 1]);
});

test('a member of a node that is taken away has its default', () => {
  const node = new Scene().createNode({ name: 'crate', translation: [1, 2, 3], visible: false });
  for (const name of ['name', 'translation', 'visible', 'castsShadow', 'light'])
    writeMember('node', node, name, undefined);
  expect([node.name, node.readTranslation([9, 9, 9]), node.visible, node.castsShadow]).toEqual([
    '',
    [0, 0, 0],
    true,
    true,
  ]);
});

test('of what things are made of nothing is written, but what they read again', () => {
  expect(() => writeMember('lens', {}, 'antialias', false)).toThrow(/cannot be changed afterwards/);
  expect(() => writeMember('primitive', {}, 'material', {})).toThrow(/cannot be changed afterwards/);
  const primitive = { material: {} as Material };
  writeMember('primitive', primitive, ['material', 'roughnessFactor'], 0.5);
  expect(primitive.material.roughnessFactor).toBe(0.5);
  const swarm = { share: 1 };
  writeMember('swarm', swarm, 'share', 0.5);
  expect(swarm.share).toBe(0.5);
  expect(() => readMember('light', { type: 'point' }, 'constructor')).toThrow(/has no "constructor"/);
});

test('what is left out is read as what counts, and is made where it is written to', () => {
  const light: Light = { type: 'directional' };
  expect(readMember('light', light, 'intensity')).toBe(1);
  expect(readMember('light', light, ['shadow', 'cascades'])).toBe(3);
  writeMember('light', light, ['shadow', 'bias'], 2);
  expect(light).toEqual({ type: 'directional', shadow: { bias: 2 } });
  writeMember('light', light, 'intensity', undefined);
  expect(light).not.toHaveProperty('intensity');
  const material: Material = { baseColorTexture: { texture: {} as never } };
  expect(readMember('material', material, ['baseColorTexture', 'transform', 'scale'])).toEqual([1, 1]);
  writeMember('material', material, ['baseColorTexture', 'transform', 'offset'], [0.5, 0]);
  expect(material.baseColorTexture?.transform).toEqual({ offset: [0.5, 0], rotation: 0, scale: [1, 1] });
});

test.each<[string, () => void, string, RegExp, RegExp]>([
  [
    'a misspelt name',
    () => readMember('light', { type: 'point' }, 'intensty'),
    'member/unknown',
    /a light has no "intensty"/,
    /intensity/,
  ],
  [
    'a misspelt name of what is not there',
    () => readMember('light', { type: 'point' }, ['shadow', 'bais']),
    'member/unknown',
    /a light has no "bais"/,
    /bias/,
  ],
  [
    "another trade's word",
    () => writeMember('material', {}, 'roughness', 0.5),
    'member/unknown',
    /no "roughness"/,
    /roughnessFactor/,
  ],
  [
    'a value out of range',
    () => writeMember('material', {}, 'roughnessFactor', 2),
    'member/wrong',
    /"roughnessFactor" of a material is 2/,
    /0 to 1/,
  ],
  [
    'what counts only when it is made',
    () => writeMember('light', { type: 'point' }, 'type', 'spot'),
    'member/fixed',
    /"type" of a light/,
    /make another/,
  ],
  [
    'a member of what has none',
    () => writeMember('material', {}, ['roughnessFactor', 'x'], 1),
    'member/unknown',
    /has no members/,
    /roughnessFactor/,
  ],
  [
    'a texture that is not there',
    () => writeMember('material', {}, ['normalTexture', 'strength'], 2),
    'member/unknown',
    /no "normalTexture" that could/,
    /whole normalTexture/,
  ],
])('%s is refused, and nothing is changed', (_, act, code, says, hint) => {
  expect.assertions(2);
  try {
    act();
  } catch (error) {
    expect(error).toMatchObject({ code });
    expect(error).toMatchObject({
      summary: expect.stringMatching(says) as string,
      hint: expect.stringMatching(hint) as string,
    });
  }
});

test('settings of a shader and parameters of a state machine have tables, too', () => {
  const base = { offset: 0, hasDefault: true, documentation: 'How warm it is.' };
  const table = settingsTable({
    settings: [
      { ...base, name: 'warmth', type: 'f32', kind: 'number', range: [0, 2], default: 1 },
      { ...base, name: 'tint', type: 'vec3f', kind: 'color', default: [1, 1, 1] },
    ],
    textures: [{ name: 'pattern', binding: 3, kind: 'color', documentation: 'What is printed on it.' }],
  });
  expect(table['warmth']).toMatchObject({
    type: 'number',
    range: [0, 2],
    default: 1,
    line: 'How warm it is.',
  });
  expect(table['tint']).toMatchObject({ type: 'numbers', length: 3, color: 'linear' });
  expect(table['pattern']).toMatchObject({ color: 'encoded' });
  expect(
    parametersTable({ parameters: { wind: { type: 'number' }, call: { type: 'trigger' } }, layers: [] }),
  ).toMatchObject({ wind: { type: 'number', default: 0 }, call: { type: 'boolean', default: false } });
});
