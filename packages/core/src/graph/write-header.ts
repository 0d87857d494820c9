import { resolvePath } from '../wgsl/parse/link.js';
import { outlineWgsl } from '../wgsl/outline.js';
import { LIBRARY } from '../shading/library.js';
import type { GraphSetting } from './document.js';
import { type Draft, INDENT } from './draft.js';
import { type Environment, environmentOf } from './environment.js';
import { colorNumbers, numberText } from './expression.js';
import { LIBRARY_NODES } from './node-table.js';
import { type Struct, structOf, typeNamed } from './types.js';
import { codeOf, type Path } from './walk.js';

const SETTING_TYPES: Readonly<Record<GraphSetting['type'], string>> = {
  f32: 'f32',
  i32: 'i32',
  u32: 'u32',
  vec2f: 'vec2f',
  vec3f: 'vec3f',
  vec4f: 'vec4f',
  color: 'vec3f',
  colorWithAlpha: 'vec4f',
};

const oneLine = (text: string): string => text.replace(/\s*\n\s*/g, ' ');

export function writeHeader(draft: Draft): void {
  const { declarations = [], textures = {} } = draft.graph;
  for (const [from, names] of importsOf(draft))
    draft.importLines.push(`import { ${names.join(', ')} } from '${from}';`);
  for (const one of draft.importLines) draft.line(one);
  draft.gap();
  writeStruct(draft, 'Settings', draft.graph.settings, 'settings');
  writeStruct(draft, 'InstanceSettings', draft.graph.instanceSettings, 'instanceSettings');
  const attributes = Object.entries(draft.graph.attributes ?? {});
  if (attributes.length > 0) {
    draft.line(
      `struct Attributes {\n${attributes.map(([name, type]) => `${INDENT}${name}: ${type},`).join('\n')}\n}\n`,
    );
  }
  for (const [name, { holds, note, shape = '2d' }] of Object.entries(textures)) {
    const comment = [holds ?? (note ? 'color' : ''), note ?? ''].filter(Boolean).join('   ');
    draft.line(
      `var ${name}: texture_${shape.replace('-', '_')}<f32>;${comment ? ` // ${oneLine(comment)}` : ''}`,
    );
    draft.line(`var ${name}Sampler: sampler;`);
  }
  draft.gap();
  for (const [i, code] of declarations.entries()) {
    if (/^\s*$/.test(code))
      draft.fault('warning', 'graph/empty', ['declarations', i], 'a declaration is empty', 'Take it away.');
    draft.line(code);
  }
  draft.gap();
}

function importsOf(draft: Draft): [from: string, names: string[]][] {
  const { functions = {} } = draft.graph;
  const found = new Map<string, string[]>();
  const isOwn = (name: string): boolean => Object.hasOwn(functions, name);
  const seen = draft.fromFiles;
  for (const [i, from] of (draft.graph.uses ?? []).entries()) {
    const { sources = {} } = draft.options;
    const text = sources[from] ?? sources[resolvePath(draft.file, from)] ?? LIBRARY[from];
    if (text === undefined) {
      draft.fault(
        'error',
        'graph/uses',
        ['uses', i],
        `there is no file ${from}`,
        'Addresses are relative to the graph.',
      );
      continue;
    }
    const outline = outlineWgsl(text, from);
    const others = [...text.matchAll(/\b(?:const|alias|override)\s+(\w+)/g)].map(([, name]) => ({
      name: name!,
    })); // it matched
    const names = [...outline.functions, ...outline.structs, ...others]
      .map(({ name }) => name)
      .filter((name) => draft.called.has(name) && !isOwn(name));
    for (const name of names) seen.add(name);
    if (names.length > 0) found.set(from, names);
    else
      draft.fault(
        'warning',
        'graph/unused',
        ['uses', i],
        `nothing of ${from} is called`,
        'Take it away, or call one of its functions.',
      );
  }
  for (const [from, names] of Object.entries(LIBRARY_NODES)) {
    const wanted = names.filter((name) => draft.called.has(name) && !isOwn(name) && !seen.has(name));
    // A node may be called as a function is: what counts is what is called.
    if (wanted.length > 0) found.set(from, wanted);
  }
  return [...found];
}

function writeStruct(
  draft: Draft,
  name: string,
  members: Readonly<Record<string, GraphSetting>> | undefined,
  group: string,
): void {
  const entries = Object.entries(members ?? {});
  if (entries.length === 0) return;
  const width = Math.max(...entries.map(([key, { type }]) => key.length + SETTING_TYPES[type].length)) + 3;
  draft.line(`struct ${name} {`);
  for (const [key, setting] of entries) {
    const comment = settingComment(draft, setting, [group, key]);
    const row = `${key}: ${SETTING_TYPES[setting.type]},`;
    draft.line(`${INDENT}${comment ? row.padEnd(width) : row}${comment ? ` // ${comment}` : ''}`);
  }
  draft.line('}\n');
}

/** What stands behind a setting: its range, its kind, what it begins with, what it is for. */
function settingComment(draft: Draft, { note, range, type, value }: GraphSetting, path: Path): string {
  const isColor = type === 'color' || type === 'colorWithAlpha';
  const size =
    type === 'color' ? 3 : type === 'colorWithAlpha' ? 4 : Number(/^vec([234])/.exec(type)?.[1] ?? 1);
  const numbers = settingNumbers(
    draft,
    value ?? (isColor ? new Array<number>(size).fill(1) : 0),
    size,
    type,
    path,
  );
  const begin =
    typeof value === 'string' && /^#[0-9a-f]{6}$/i.test(value)
      ? value
      : numbers.length === 1
        ? numberText(numbers[0]!) // one
        : `[${numbers.map((one) => numberText(one)).join(', ')}]`;
  if (range && range[0] > range[1])
    draft.fault(
      'error',
      'graph/setting',
      [...path, 'range'],
      `a range goes from ${range[0]} to ${range[1]}`,
      'Give the lower end first.',
    );
  const kind = range ? `${numberText(range[0])}..${numberText(range[1])}` : isColor ? 'color' : '';
  return oneLine([kind, `= ${begin}`, note ? `  ${note}` : ''].filter(Boolean).join(' '));
}

function settingNumbers(
  draft: Draft,
  value: number | readonly number[] | string,
  size: number,
  type: string,
  path: Path,
): number[] {
  const given =
    typeof value === 'string' ? colorNumbers(value) : typeof value === 'number' ? [value] : [...value];
  const numbers = given && given.length === 1 && size > 1 ? new Array<number>(size).fill(given[0]!) : given; // one
  const whole = numbers && size === 4 && numbers.length === 3 ? [...numbers, 1] : numbers;
  if (whole && whole.length === size && whole.every((one) => Number.isFinite(one))) return whole;
  draft.fault(
    'error',
    'graph/setting',
    [...path, 'value'],
    `a ${type} cannot begin with ${JSON.stringify(value)}`,
    size === 1
      ? 'Give a number.'
      : `Give ${size} numbers${type.startsWith('color') ? ', or "#rrggbb"' : ''}.`,
  );
  return new Array<number>(size).fill(0);
}

export function environmentFor(draft: Draft): Environment {
  // All of the library, whatever is called: so it is looked at once.
  const library = Object.entries(LIBRARY_NODES).map(
    ([from, names]) =>
      `import { ${names.filter((name) => !draft.fromFiles.has(name)).join(', ')} } from '${from}';`,
  );
  const own = draft.importLines.filter((line) => !/from 'umber\//.test(line));
  const text = [...library, ...own, ...(draft.graph.declarations ?? [])].join('\n');
  const environment = environmentOf(text, draft.isEffect, draft.file, draft.options.sources);
  const { fault } = environment;
  if (fault) draft.fault('error', 'graph/code', ['declarations'], fault.summary, fault.hint);
  return environment;
}

/** Structures of what is set from outside, by what the graph says of them. */
export function ownStructs(draft: Draft, { structs }: Environment): [string, Struct][] {
  const { attributes = {}, instanceSettings = {}, settings = {} } = draft.graph;
  const typesOf = (group: Readonly<Record<string, GraphSetting>>): [string, string][] =>
    Object.entries(group).map(([name, { type }]) => [name, SETTING_TYPES[type]]);
  const groups: [string, [string, string][]][] = [
    ['Settings', typesOf(settings)],
    ['InstanceSettings', typesOf(instanceSettings)],
    ['Attributes', Object.entries(attributes)],
  ];
  return groups.map(([name, members]) => {
    const known = members.flatMap(([member, type]) => {
      const found = typeNamed(type, structs);
      return found ? [{ name: member, type: found }] : [];
    });
    return [name, structOf(name, known)];
  });
}

/** Settings and textures that nothing asks for. */
export function tellIdle(draft: Draft): void {
  const { attributes, instanceSettings, settings, textures } = draft.graph;
  const text = draft.lines.map((one) => one.text).join('\n');
  const held = { settings: 'settings', instanceSettings: 'instance', attributes: 'attributes' } as const;
  for (const [group, names] of Object.entries({ settings, instanceSettings, attributes }))
    for (const name of Object.keys(names ?? {})) {
      const word = held[group as keyof typeof held];
      // Hooks in WGSL call them as they like.
      if (
        text.includes(`${word}.${name}`) ||
        Object.values(draft.graph.hooks).some((hook) => codeOf(hook) !== undefined)
      )
        continue;
      draft.fault(
        'warning',
        'graph/unused',
        [group, name],
        `nothing names "@${word}.${name}"`,
        'Name it in a node, or take it away.',
        { isKey: true },
      );
    }
  for (const name of Object.keys(textures ?? {}))
    if (!new RegExp(`\\(${name}\\b`).test(text))
      draft.fault(
        'warning',
        'graph/unused',
        ['textures', name],
        `nothing reads the texture "${name}"`,
        'Read it in a node, or take it away.',
        { isKey: true },
      );
}
