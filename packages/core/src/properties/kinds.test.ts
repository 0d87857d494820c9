import { readFileSync } from 'node:fs';
import ts from 'typescript';
import { LAYERS } from '../material/layers.js';
import { MATERIAL_DEFAULTS } from '../material/material.js';
import { faultsOf } from './faults.js';
import { inUnits } from './in-units.js';
import { type Kind, KINDS, type KindName, OPTION_KINDS } from './kinds.js';
import type { Property, Table } from './property.js';

const ALL: [string, Kind][] = [...Object.entries(KINDS), ...Object.entries(OPTION_KINDS)];
const rows = ALL.flatMap(([name, { table }]) =>
  Object.entries(table).map(([member, property]): [string, string, Property, Table] => [
    name,
    member,
    property,
    table,
  ]),
);

test('every member has a line, and a default that its own row allows', () => {
  for (const [kind, member, property, table] of rows) {
    expect(`${kind}.${member}: ${property.line}`).toMatch(/: \S.*\.$/);
    if (property.type === 'word') expect(property.words!.length).toBeGreaterThan(1);
    if (property.default === undefined) continue;
    const type = property.only?.[0];
    const own = { [member]: property.default, ...(type === undefined ? {} : { type }) };
    expect(faultsOf(own, table, kind)).toEqual([]);
  }
});

test('members that count for some types alone name types that there are, and say so of others', () => {
  for (const [, , { only = [] }, table] of rows)
    for (const type of only) expect(table['type']!.words).toContain(type);
  const [fault] = faultsOf({ type: 'directional', range: 4 }, KINDS.light.table, 'a light');
  expect([fault?.summary, fault?.hint]).toEqual([
    '"range" of a light does nothing, since its type is directional',
    'It counts for point, spot.',
  ]);
});

test("defaults and places in files are those of the renderer's own lists", () => {
  const { table } = KINDS.material;
  for (const [member, usual] of Object.entries(MATERIAL_DEFAULTS))
    expect(table[member]!.default).toEqual(usual);
  for (const { extension, numbers, textures } of LAYERS) {
    for (const { key, default: usual } of numbers)
      expect([key, table[key]!.default, table[key]!.file]).toEqual([
        key,
        usual,
        `extensions/${extension}/${key}`,
      ]);
    for (const { key, isColor } of textures)
      expect([key, table[key]!.color, table[key]!.file]).toEqual([
        key,
        isColor ? 'encoded' : undefined,
        `extensions/${extension}/${key}`,
      ]);
  }
});

/** Names of the members of an interface, those that it extends in the same file included. */
function membersOf(file: string, name: string): string[] {
  const source = ts.createSourceFile(file, readFileSync(file, 'utf8'), ts.ScriptTarget.ES2022, true);
  const found = source.statements.find(
    (one): one is ts.InterfaceDeclaration => ts.isInterfaceDeclaration(one) && one.name.text === name,
  );
  if (!found) throw new Error(`${file} has no interface ${name}`);
  const above = (found.heritageClauses ?? []).flatMap(({ types }) =>
    types.flatMap(({ expression }) => {
      const own = expression.getText();
      return source.text.includes(`interface ${own}`) ? membersOf(file, own) : [];
    }),
  );
  return [...above, ...found.members.map((member) => member.name!.getText())];
}

const CORE = 'packages/core/src/';
const LENS = 'packages/lens/src/';
test.each<[KindName, ...(readonly [file: string, name: string])[]]>([
  ['material', [`${CORE}material/material.ts`, 'Material']],
  ['textureUse', [`${CORE}material/material.ts`, 'TextureUse']],
  ['sampler', [`${CORE}material/material.ts`, 'Sampler']],
  ['mesh', [`${CORE}scene/components.ts`, 'Mesh']],
  ['primitive', [`${CORE}scene/components.ts`, 'Primitive']],
  ['light', [`${CORE}scene/components.ts`, 'Light']],
  ['shadow', [`${CORE}scene/components.ts`, 'ShadowOptions']],
  ['camera', [`${CORE}scene/components.ts`, 'Perspective'], [`${CORE}scene/components.ts`, 'Orthographic']],
  ['node', [`${CORE}scene/scene.ts`, 'NodeOptions']],
  ['fog', [`${CORE}light/environment.ts`, 'Fog']],
  ['backdrop', [`${CORE}light/environment.ts`, 'Backdrop']],
  ['imageLight', [`${CORE}light/environment.ts`, 'ImageLight']],
  ['clipping', [`${CORE}scene/clipping.ts`, 'Clipping']],
  ['look', [`${LENS}features/look/look.ts`, 'Look']],
  ['view', [`${LENS}view/view.ts`, 'View']],
  ['culling', [`${LENS}features/culling/culling.ts`, 'Culling']],
  ['lens', [`${LENS}lens.ts`, 'LensOptions'], [`${LENS}gpu/open-device.ts`, 'OpenDeviceOptions']],
  ['condition', [`${CORE}animation/states/definition.ts`, 'Condition']],
  ['transition', [`${CORE}animation/states/definition.ts`, 'TransitionDefinition']],
  ['stateLayer', [`${CORE}animation/states/definition.ts`, 'LayerDefinition']],
  ['state', [`${CORE}animation/states/definition.ts`, 'ClipState']],
  ['stateMix', [`${CORE}animation/states/definition.ts`, 'LineBlendState']],
  ['stateGroup', [`${CORE}animation/states/definition.ts`, 'StateGroup']],
  ['parameter', [`${CORE}animation/states/definition.ts`, 'ParameterDefinition']],
])('the table of %s has the members of its type, and no others', (kind, ...types) => {
  const declared = new Set(types.flatMap(([file, name]) => membersOf(file, name)));
  // Kept for others, without a word in the type.
  const given = Object.keys(KINDS[kind].table).filter((name) => name !== 'kept' || declared.has(name));
  expect(given.sort()).toEqual([...declared].sort());
});

test('values are written as people read them', () => {
  const { light, camera } = KINDS;
  expect(inUnits(Math.PI / 4, light.table.outerConeAngle!)).toBe('45°');
  expect(inUnits(3, light.table.intensity!, 'directional')).toBe('3 lx');
  expect(inUnits(3, light.table.intensity!, 'spot')).toBe('3 cd');
  expect(inUnits(Infinity, light.table.range!)).toBe('no limit');
  expect(inUnits([1, 0.5, 0], light.table.color!)).toBe('1 0.5 0');
  expect(inUnits(undefined, camera.table.zfar!)).toBe('nothing');
});
