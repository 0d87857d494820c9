import {
  type Effect,
  EFFECT_TABLE,
  KINDS,
  type Light,
  type Material,
  type Property,
  rotationOfDegrees,
  type SceneNode,
  settingsTable,
  SHAPE_TABLES,
  type Table,
} from '@umber-lens/core/engine';
import { shadedEffect } from '../graph/shaded.js';
import { copied, type Editing } from '../history/apply-edit.js';
import { newEffects, withEffect } from '../new-effects.js';
import type { Edit, MemberPath, Thing } from '../history/edit.js';
import type { Turns } from '../values/turns.js';
import { type Field, type Part, sameValue } from './field.js';

/** Types of values that have a way to be edited. */
const SHOWN = ['number', 'numbers', 'boolean', 'string', 'word', 'texture'];
/** Members of materials that are wanted often; all others that are not at their default are shown, too. */
const OFTEN = [
  ...['baseColorFactor', 'baseColorTexture', 'metallicFactor', 'roughnessFactor', 'normalTexture'],
  ...['emissiveFactor', 'emissiveStrength', 'alphaMode', 'doubleSided', 'unlit'],
];

/** What of chosen nodes can be edited, by what belongs together. */
export function partsOf(nodes: readonly SceneNode[], editing: Editing, turns: Turns): Part[] {
  if (nodes.length === 0) return [];
  const refs = new Map(nodes.map((node) => [node, editing.refOf(node)] as const));
  const thingOf = (node: SceneNode): Thing => ({ kind: 'node', of: refs.get(node)! }); // of these nodes
  const parts: Part[] = [nodePart(nodes, thingOf, editing), transformPart(nodes, thingOf, editing, turns)];
  for (const carried of ['light', 'camera'] as const) {
    const holders = nodes.filter((node) => node[carried]);
    if (holders.length > 0) parts.push(carriedPart(carried, holders, thingOf, editing));
  }
  parts.push(...shapeParts(nodes, thingOf, editing), ...materialParts(nodes, refs, editing));
  const weights = weightsPart(nodes, thingOf, editing);
  if (weights) parts.push(weights);
  const [only] = nodes as [SceneNode];
  if (nodes.length === 1 && (only.mesh || only.effects.length > 0 || !only.children().next().done))
    parts.push(...effectParts('effects', only.effects, thingOf(only), editing));
  return parts;
}

/** What is around the nodes, and how all is shown: for when none is chosen. */
export function surroundingParts(editing: Editing): Part[] {
  const { edited } = editing;
  const scene: Thing = { kind: 'scene' };
  const parts: Part[] = [
    part('scene', [
      field('clear color', row(KINDS.scene.table, 'clearColor'), [scene], ['clearColor'], editing),
    ]),
  ];
  for (const [name, table] of [
    ['imageLight', KINDS.imageLight.table],
    ['backdrop', KINDS.backdrop.table],
    ['fog', KINDS.fog.table],
  ] as const) {
    const given = edited.scene[name];
    if (given) parts.push(part(spoken(name), fieldsOf(table, [scene], [name], editing, given)));
  }
  parts.push(part('look', fieldsOf(KINDS.look.table, [{ kind: 'look' }], [], editing, edited.look)));
  const view = fieldsOf(KINDS.view.table, [{ kind: 'view' }], [], editing, edited.view).filter(
    ({ path }) => path[0] === 'renderPath' || path[0] === 'minPixels',
  );
  parts.push(part('view', view));
  const { finish = [] } = edited.view as { finish?: readonly Effect[] };
  parts.push(...effectParts('finish', finish, { kind: 'view' }, editing));
  const offers = Object.entries(edited.offers);
  if (offers.length > 0)
    parts.push(
      part(
        'page',
        offers.map(([name, value]) => field(name, offered(value), [{ kind: 'offer' }], [name], editing)),
      ),
    );
  return parts;
}

const part = (name: string, fields: Field[], more: Field[] = []): Part => ({ name, fields, more });

const row = (table: Table, name: string): Property => table[name]!; // names of their tables

/** `imageLight` in words. */
export const spoken = (name: string): string =>
  name.replace(/[A-Z]/g, (letter) => ` ${letter.toLowerCase()}`);

/** What the page's own values are, by what they hold now. */
const offered = (value: unknown): Property => ({
  line: 'A value of the page.',
  type: Array.isArray(value) ? 'numbers' : (typeof value as 'number' | 'boolean' | 'string'),
  ...(Array.isArray(value) ? { length: value.length } : {}),
});

function field(
  label: string,
  property: Property,
  things: readonly Thing[],
  path: MemberPath,
  editing: Editing,
  instead?: Field['instead'],
): Field {
  const given = things.map((thing) => editing.read(thing, path));
  const isUsual = (value: unknown): boolean => value === undefined || sameValue(value, property.default);
  return {
    label,
    property,
    things,
    path,
    values: given.map((value) => value ?? property.default),
    isDefault: given.every(isUsual),
    ...(instead ? { instead } : {}),
  };
}

/** The fields of a table, those of objects within it too. @param holder one of the things, for what counts by its type */
function fieldsOf(
  table: Table,
  things: readonly Thing[],
  above: MemberPath,
  editing: Editing,
  holder: object,
): Field[] {
  const { type } = holder as { type?: string };
  return Object.entries(table).flatMap(([name, property]) => {
    if (property.names === 'itself' || name === 'extras' || name === 'sees') return [];
    if (property.only && type !== undefined && !property.only.includes(type)) return [];
    const path = [...above, name];
    const value = (holder as Record<string, unknown>)[name];
    if (above.at(-1) === 'shadow' && !countsForShadow(name, editing.read(things[0]!, ['light', 'type'])))
      return []; // it is of a light
    if (property.type === 'object') {
      const isSwitched = property.or?.includes('boolean');
      const own: Field[] = isSwitched
        ? [
            {
              ...field(spoken(name), { ...property, type: 'boolean' }, things, path, editing),
              values: things.map((thing) => Boolean(editing.read(thing, path))),
            },
          ]
        : [];
      const isThere = typeof value === 'object' && value !== null;
      if (!property.of || !(isThere || (isSwitched && value === true))) return own;
      return [...own, ...fieldsOf(property.of, things, path, editing, isThere ? value : {})];
    }
    if (!SHOWN.includes(property.type) || property.isFixed) return [];
    return [field(spoken(name), inUnitOf(property, type), things, path, editing)];
  });
}

/** Directional lights have maps by distance, others one that begins somewhere. */
const countsForShadow = (name: string, type: unknown): boolean =>
  name === 'bias' || (name === 'near') !== (type === 'directional');

/** With the unit that counts for a type. */
function inUnitOf(property: Property, type: string | undefined): Property {
  const { unit, ...rest } = property;
  if (typeof unit !== 'object') return property;
  const own = type === undefined ? undefined : unit[type];
  return own === undefined ? rest : { ...rest, unit: own };
}

type ThingOf = (node: SceneNode) => Thing;

function nodePart(nodes: readonly SceneNode[], thingOf: ThingOf, editing: Editing): Part {
  const things = nodes.map(thingOf);
  const { table } = KINDS.node;
  const fields = [
    ...(nodes.length === 1 ? [field('name', row(table, 'name'), things, ['name'], editing)] : []),
    field('visible', row(table, 'visible'), things, ['visible'], editing),
  ];
  const more = ['castsShadow', 'receivesShadow'].map((name) =>
    field(spoken(name), row(table, name), things, [name], editing),
  );
  return part('node', fields, more);
}

/** The turn is shown in degrees, as sheets have them. */
const DEGREES: Property = {
  line: 'How it is turned, in its parent: first about Y, then about X, then about Z.',
  type: 'numbers',
  length: 3,
  unit: 'radians',
  default: [0, 0, 0],
};

function transformPart(nodes: readonly SceneNode[], thingOf: ThingOf, editing: Editing, turns: Turns): Part {
  const { table } = KINDS.node;
  const things = nodes.map(thingOf);
  const anglesOf = (node: SceneNode): number[] => turns.of(node).map((angle) => (angle * Math.PI) / 180);
  const angles = nodes.map(anglesOf);
  const degrees: Field = {
    label: 'degrees',
    property: DEGREES,
    things,
    path: ['rotation'],
    values: angles,
    isDefault: angles.every((one) => one.every((angle) => Math.abs(angle) < 1e-7)),
    now: (thing) => {
      const node = thing.kind === 'node' ? editing.nodeOf(thing.of) : undefined;
      return node && anglesOf(node);
    },
    instead: (value, thing) => {
      const wanted = (value as number[] | undefined) ?? [0, 0, 0];
      const shown = wanted.map((angle) => (angle * 180) / Math.PI);
      const node = thing.kind === 'node' ? editing.nodeOf(thing.of) : undefined;
      if (!node) return [];
      turns.note(node, shown);
      const after = [...rotationOfDegrees(shown)];
      const before = node.readRotation([0, 0, 0, 1]);
      return [{ type: 'set', thing, path: ['rotation'], before, after }];
    },
  };
  return part('transform', [
    field('translation', row(table, 'translation'), things, ['translation'], editing),
    degrees,
    field('scale', row(table, 'scale'), things, ['scale'], editing),
  ]);
}

function carriedPart(
  carried: 'light' | 'camera',
  nodes: readonly SceneNode[],
  thingOf: ThingOf,
  editing: Editing,
): Part {
  const things = nodes.map(thingOf);
  const { table } = KINDS[carried];
  const type: Field = field('type', row(table, 'type'), things, [carried, 'type'], editing, (value, thing) =>
    retyped(carried, value as string, thing, editing),
  );
  const first = nodes[0]![carried]!; // those that carry one
  const isOne = nodes.every((node) => node[carried]!.type === first.type); // as above
  return part(carried, [type, ...(isOne ? fieldsOf(table, things, [carried], editing, first) : [])]);
}

/** A light, or a camera, of another type: what counts for it stays. */
function retyped(carried: 'light' | 'camera', type: string, thing: Thing, editing: Editing): Edit[] {
  const before = copied(editing.read(thing, [carried])) as (Light & Record<string, unknown>) | undefined;
  if (!before || before.type === type) return [];
  const { table } = KINDS[carried] as { table: Table };
  const after: Record<string, unknown> = { ...(carried === 'camera' ? CAMERAS[type] : {}) };
  for (const [name, value] of Object.entries(before)) {
    const { only } = table[name] ?? {};
    if (!only || only.includes(type)) after[name] = value;
  }
  after['type'] = type;
  return [{ type: 'set', thing, path: [carried], before, after }];
}

const CAMERAS: Readonly<Record<string, object>> = {
  perspective: { yfov: 0.8, znear: 0.1 },
  orthographic: { xmag: 5, ymag: 5, znear: 0, zfar: 1000 },
};

function shapeParts(nodes: readonly SceneNode[], thingOf: ThingOf, editing: Editing): Part[] {
  const [node] = nodes;
  if (!node?.mesh || nodes.length > 1) return [];
  const thing = thingOf(node);
  return node.mesh.primitives.flatMap((_, i) => {
    const made = editing.read(thing, ['shape', String(i)]) as { shape: string; options: object } | undefined;
    const table = made && (SHAPE_TABLES as Readonly<Record<string, Table>>)[made.shape];
    if (!table) return [];
    const path = ['shape', String(i)];
    const fields = Object.entries(table).flatMap(([name, property]): Field[] => {
      if (!SHOWN.includes(property.type)) return [];
      const value = (made.options as Record<string, unknown>)[name];
      return [
        {
          label: spoken(name),
          property,
          things: [thing],
          path: [...path, name],
          values: [value ?? property.default],
          isDefault: value === undefined || sameValue(value, property.default),
          instead: (wanted) => {
            const options: Record<string, unknown> = { ...made.options, [name]: wanted };
            if (wanted === undefined) delete options[name];
            return [{ type: 'set', thing, path, before: made, after: { shape: made.shape, options } }];
          },
        },
      ];
    });
    return [part(`shape ${made.shape}`, fields)];
  });
}

function materialParts(
  nodes: readonly SceneNode[],
  refs: ReadonlyMap<SceneNode, ReturnType<Editing['refOf']>>,
  editing: Editing,
): Part[] {
  const found = new Map<Material, Thing & { kind: 'material' }>();
  for (const node of nodes)
    for (const [primitive, { material, overlays = [] }] of (node.mesh?.primitives ?? []).entries()) {
      const of = refs.get(node)!; // of these nodes
      if (material && !found.has(material))
        found.set(material, { kind: 'material', of, primitive, material });
      for (const [overlay, one] of overlays.entries())
        if (!found.has(one)) found.set(one, { kind: 'material', of, primitive, overlay, material: one });
    }
  if (found.size === 0) return [];
  // Several nodes of one kind are edited together where each has one material.
  const things = [...found.values()];
  const groups =
    nodes.length > 1 &&
    found.size > 1 &&
    found.size <= nodes.length &&
    things.every(({ overlay }) => overlay === undefined)
      ? [things]
      : things.map((thing) => [thing]);
  return groups.map((group) => {
    const first = group[0]!; // one at least
    const material = first.material!; // each of them was found with its own
    const name =
      group.length > 1
        ? `${group.length} materials`
        : `${first.overlay === undefined ? 'material' : 'overlay'} ${material.name ?? ''}`.trim();
    const all = fieldsOf(KINDS.material.table, group, [], editing, material).filter(
      ({ path }) => path[0] !== 'settings',
    );
    const isOften = ({ isDefault, path }: Field): boolean => OFTEN.includes(path[0]!) || !isDefault; // paths have a name
    const own = part(
      name,
      all.filter(isOften),
      all.filter((one) => !isOften(one)),
    );
    if (group.length === 1) own.shaded = material;
    const shader = material.shader as Parameters<typeof settingsTable>[0] | undefined;
    if (group.length === 1 && shader?.settings)
      own.fields.unshift(
        ...Object.entries(settingsTable(shader)).flatMap(([setting, property]) =>
          SHOWN.includes(property.type)
            ? [field(setting, property, group, ['settings', setting], editing)]
            : [],
        ),
      );
    return own;
  });
}

function weightsPart(nodes: readonly SceneNode[], thingOf: ThingOf, editing: Editing): Part | undefined {
  const [node] = nodes;
  const { weights } = node ?? {};
  if (!weights || nodes.length > 1) return undefined;
  const property: Property = { line: 'Weight of a morph target.', type: 'number', range: [0, 1], default: 0 };
  return part(
    'weights',
    Object.keys(weights).map((name) => field(name, property, [thingOf(node!)], ['weights', name], editing)), // it has weights
  );
}

/** Effects of a list, each with its members; the list is written anew where its order changes. */
function effectParts(
  list: 'finish' | 'effects',
  effects: readonly Effect[],
  thing: Thing,
  editing: Editing,
): Part[] {
  const set = (
    name: string,
    after: readonly Effect[],
  ): ReturnType<NonNullable<Part['acts']>[number]['act']> => ({
    name,
    edits: [{ type: 'set', thing, path: [list], before: copied(effects), after: copied(after) }],
  });
  const moved = (i: number, by: number): readonly Effect[] => {
    const order = [...effects];
    order.splice(i + by, 0, ...order.splice(i, 1));
    return order;
  };
  const adds: Part['adds'] = {
    name: list === 'finish' ? 'add to the finish' : 'add an effect',
    options: newEffects(list),
    act: (type) => set(`add ${type}`, withEffect(effects, type)),
  };
  const shown = effects.map((effect, i): Part => ({
    ...part(
      `${list === 'finish' ? 'finish' : 'effect'} ${i + 1} ${effect.type}`,
      fieldsOf(EFFECT_TABLE, [thing], [list, String(i)], editing, effect),
    ),
    shaded: shadedEffect(effect),
    acts: [
      ...(i > 0 ? [{ name: 'earlier', act: () => set(`move ${effect.type}`, moved(i, -1)) }] : []),
      ...(i + 1 < effects.length
        ? [{ name: 'later', act: () => set(`move ${effect.type}`, moved(i, 1)) }]
        : []),
      {
        name: 'take away',
        act: () =>
          set(
            `take away ${effect.type}`,
            effects.filter((_, at) => at !== i),
          ),
      },
    ],
  }));
  return [...shown, { ...part(list, []), adds }];
}
