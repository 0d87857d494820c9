// Writes docs/properties.md, the members in docs/sheet.md and the schema of sheets out of the tables of properties. With `--check` it fails where the page is not what they say.
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { SHEET_FORM } from '../packages/core/dist/engine.js';
import { CALLS, GRAPH_FORM, graphSchema } from '../packages/core/dist/graph/index.js';
import { sheetSchema } from '../packages/core/dist/sheets.js';
import { inUnits, KINDS, OPTION_KINDS } from '../packages/core/dist/properties.js';

const PAGE = 'docs/properties.md';
const TITLES = {
  textureUse: 'texture of a material',
  textureTransform: 'texture transform',
  imageLight: 'image light',
  states: 'state machine',
  stateLayer: 'layer of a state machine',
  state: 'state of a state machine',
  stateMix: 'mix of a state machine',
  stateGroup: 'group of states',
  swarmLevel: 'level of a swarm',
  play: 'motion.play',
  transfer: 'transfer function',
  lens: 'openLens',
  swarm: 'new Swarm',
};

const SHAPE_NAMES = [
  'plane',
  'disc',
  'box',
  'sphere',
  'icosphere',
  'cylinder',
  'cone',
  'capsule',
  'torus',
  'lathe',
  'tube',
  'polyhedron',
  'convexHull',
];

const kindOf = new Map(Object.entries(KINDS).map(([name, { table }]) => [table, name]));
const anchor = (title) =>
  title
    .replace(/[^\w\s-]/g, '')
    .replace(/\s/g, '-')
    .toLowerCase();
const titleOf = (name) => TITLES[name] ?? name;

/** What a member may hold, in words. */
function holds({ color, isOpen, length, names, of, or = [], range, type, unit, words }) {
  const inner = of && kindOf.get(of);
  const space = color && { linear: 'linear', encoded: 'sRGB-encoded' }[color];
  const base = {
    number: 'number',
    numbers: color ? `color of ${length ?? 3}, ${space}` : length ? `${length} numbers` : 'numbers',
    boolean: 'true or false',
    string:
      names === 'itself' || names === undefined
        ? 'text'
        : `name of ${/^[aeiou]/.test(names) ? 'an' : 'a'} ${names}`,
    word: words?.map((word) => `\`${word}\``).join(', '),
    texture: `[texture](#${anchor(titleOf('textureUse'))})${space ? `, ${space}` : ''}`,
    object: inner ? `[${titleOf(inner)}](#${anchor(titleOf(inner))})` : 'object',
    given: inner ? `list of [${titleOf(inner)}](#${anchor(titleOf(inner))})` : 'given',
    function: 'function',
  }[type];
  const bound = (n) => (Number.isInteger(n) ? `${n}` : `${Number((n / Math.PI).toPrecision(3))} pi`);
  const limits =
    range === undefined
      ? ''
      : range[1] === Infinity
        ? `${isOpen ? 'above' : 'from'} ${bound(range[0])}`
        : `${isOpen ? 'between' : ''} ${bound(range[0])} ${isOpen ? 'and' : 'to'} ${bound(range[1])}`.trim();
  const units = typeof unit === 'object' ? [...new Set(Object.values(unit))].join(', ') : unit;
  const others = or.map((one) => ({ boolean: 'true or false', string: 'a word' })[one] ?? one);
  return [[base, ...others].join(', or '), units, limits].filter(Boolean).join('; ');
}

const usual = (property) => {
  const { default: value, unit } = property;
  if (value === undefined) return '';
  if (typeof value === 'string') return `\`${value}\``;
  if (Array.isArray(value)) return `\`[${value.join(', ')}]\``;
  if (value === Infinity) return 'no limit';
  if (unit === 'radians' && value !== 0)
    return `${Number(value.toPrecision(3))} (${inUnits(value, property)})`;
  return typeof value === 'number' ? `${Number(value.toPrecision(4))}` : `${value}`;
};

const line = ({ isFixed, line: text, only, unit }, isMade) =>
  [
    text,
    typeof unit === 'object'
      ? `${Object.entries(unit)
          .map(([type, one]) => `${type}: ${one}`)
          .join('; ')}.`
      : '',
    only ? `Counts for ${only.map((one) => `\`${one}\``).join(', ')}.` : '',
    isFixed && !isMade ? 'Counts when it is made.' : '',
  ]
    .filter(Boolean)
    .join(' ');

function section(name, { isFixed: isMade, line: about, table }, level) {
  const rows = Object.entries(table)
    .filter(([, { line: text }]) => text !== '')
    .map(
      ([member, property]) =>
        `| \`${member}\` | ${holds(property)} | ${usual(property)} | ${line(property, isMade)} |`,
    );
  return [
    `${level} ${titleOf(name)}`,
    '',
    about,
    '',
    '| member | holds | default | what it does |',
    '| --- | --- | --- | --- |',
    ...rows,
  ].join('\n');
}

const text = `# Properties of every kind of thing

This page is made of the tables that the library itself checks by: \`npm run properties\` writes it. Angles are radians, lengths
metres, colors linear where nothing else is said. Nodes are written to by their setters (\`node.setTranslation(0, 1, 0)\`),
everything else as plain members, at any time: \`light.intensity = 3\`.

Tools have the tables by \`@umber-lens/core/properties\`, with their own way to read and write members by name:

\`\`\`ts
import { KINDS, readMember, settingsTable, writeMember } from '@umber-lens/core/properties';

const lamp = scene.get('lamp');
KINDS.light.table.intensity.line; // 'How bright it is.'
readMember('light', lamp.light!, ['shadow', 'bias']); // 1: what counts where it was left out
writeMember('node', lamp, 'translation', [0, 6, 0]);
writeMember('light', lamp.light!, 'intensity', 40); // throws for what is out of range, and changes nothing then
settingsTable(kelp); // the same for the settings of a shader
\`\`\`

${Object.entries(KINDS)
  .map(([name, kind]) => section(name, kind, '##'))
  .join('\n\n')}

## Shapes, rigs and pointer events

${Object.entries(OPTION_KINDS)
  .map(([name, kind]) => section(name, kind, '###'))
  .join('\n\n')}
`;
/** What an object of a sheet is called, without its article. */
const headingOf = ({ what }) => what.replace(/^(an?|the) /, '');

/** What a place of a sheet may hold, in words. */
function inSheet(form) {
  switch (form.kind) {
    case 'value':
      return holds(form.property);
    case 'name':
      return form.of === 'node' ? 'path of a node' : `name of a ${form.of}`;
    case 'address':
      return `address of ${{ image: 'a picture', panorama: 'a panorama', table: 'a .cube file', effect: 'a .wgsl file', shader: 'a .wgsl file' }[form.of] ?? `a ${form.of}`}`;
    case 'list':
      return `list: ${inSheet(form.of)}`;
    case 'map':
      return `by name: ${inSheet(form.of)}`;
    case 'either':
      return [...new Set(form.forms.map(inSheet))].join(', or ');
    case 'by':
      return form.forms.length > 5 ? '[a shape](#shapes)' : form.forms.map(inSheet).join(', or ');
    case 'members':
      return `[${form.what}](#${anchor(headingOf(form))})`;
    default:
      return 'anything';
  }
}

/** Objects of a sheet in the order in which they are met, shapes apart. */
function formsBelow(root) {
  const found = new Set();
  const look = (form) => {
    if (form.kind === 'list' || form.kind === 'map') look(form.of);
    if (form.kind === 'either') form.forms.forEach(look);
    if (form.kind === 'by') form.forms.filter(({ members }) => !members().shape).forEach(look);
    if (form.kind === 'members' && !found.has(form)) {
      found.add(form);
      Object.values(form.members()).forEach((member) => look(member.form));
    }
  };
  look(root);
  return [...found];
}

function sheetSection(form) {
  const rows = Object.entries(form.members()).map(
    ([name, { default: value, form: of, line: about, only }]) =>
      `| \`${name}\` | ${inSheet(of)} | ${usual({ default: value })} | ${about}${only ? ` Counts for ${only.map((one) => `\`${one}\``).join(', ')}.` : ''} |`,
  );
  return [
    `### ${headingOf(form)}`,
    '',
    form.line,
    '',
    '| member | holds | default | what it does |',
    '| --- | --- | --- | --- |',
    ...rows,
  ].join('\n');
}

const SHEET = 'docs/sheet.md';
const MARK = '<!-- What follows is made of the tables: npm run properties. -->';
const sheetPage = readFileSync(SHEET, 'utf8');
const shapes = Object.entries(OPTION_KINDS)
  .filter(([name]) => SHAPE_NAMES.includes(name))
  .map(([name]) => `[${name}](properties.md#${name.toLowerCase()})`)
  .join(', ');
const sheetText = `${sheetPage.slice(0, sheetPage.indexOf(MARK))}${MARK}

## Every member

${formsBelow(SHEET_FORM).map(sheetSection).join('\n\n')}

### Shapes

A mesh is an object with \`shape\`, \`material\` and what the function of that name takes: ${shapes}. \`profile\` of a lathe is a list of
[radius, height], \`path\` of a tube and \`points\` of a hull are lists of points.
`;

const GRAPHS = 'docs/graphs.md';
const graphPage = readFileSync(GRAPHS, 'utf8');
const usualInput = (value) =>
  value === undefined ? '' : ` = ${typeof value === 'string' ? value : JSON.stringify(value)}`;
const callRow = ([name, { inputs, isOpen, line }]) => {
  const listed = inputs.map(({ default: value, name: input }) => `${input}${usualInput(value)}`).join(', ');
  return `| \`${name.replaceAll('|', '\\|')}\` | ${listed}${isOpen ? ', …' : ''} | ${line} |`;
};
const graphText = `${graphPage.slice(0, graphPage.indexOf(MARK))}${MARK}

## Nodes

What nodes call besides other functions of WGSL, with their inputs and what counts where one is left out.

${Object.entries(CALLS)
  .map(([group, calls]) =>
    [
      `### ${group}`,
      '',
      '| call | inputs | |',
      '| --- | --- | --- |',
      ...Object.entries(calls).map(callRow),
    ].join('\n'),
  )
  .join('\n\n')}

## Every member

${formsBelow(GRAPH_FORM).map(sheetSection).join('\n\n')}
`;

const files = {
  [PAGE]: text,
  [GRAPHS]: graphText,
  [SHEET]: sheetText,
  'packages/core/schema/sheet.schema.json': `${JSON.stringify(sheetSchema(), null, 2)}\n`,
  'packages/core/schema/graph.schema.json': `${JSON.stringify(graphSchema(), null, 2)}\n`,
};
for (const [file, made] of Object.entries(files)) {
  if (!process.argv.includes('--check')) writeFileSync(file, made);
  else if (!existsSync(file) || readFileSync(file, 'utf8') !== made) {
    console.error(`${file} is not what the tables of properties say: run npm run properties.`);
    process.exitCode = 1;
  }
}
