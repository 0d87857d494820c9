// Writes docs/properties.md out of the tables of properties. With `--check` it fails where the page is not what they say.
import { readFileSync, writeFileSync } from 'node:fs';
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
if (process.argv.includes('--check')) {
  if (readFileSync(PAGE, 'utf8') !== text) {
    console.error(`${PAGE} is not what the tables of properties say: run npm run properties.`);
    process.exitCode = 1;
  }
} else writeFileSync(PAGE, text);
