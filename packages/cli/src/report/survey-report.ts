import { type AssetNode, formatPlace, triangleCount, vertexCount } from '@umber-lens/core/engine';
import chalk from 'chalk';
import Table from 'cli-table3';
import type { OpenedModel } from '../open/open-model.js';
import { layerCostOf, layerNamesOf, type Survey } from '../survey/survey-model.js';

/** Children of one node that differ only in their number are told in one line from this many on. */
const FOLD_FROM = 4;
const MOST_TREE_LINES = 80;
/** Targets of a clip that are listed. */
const MOST_TARGETS = 12;

/** The survey as a person reads it. */
export function surveyReport(file: string, model: OpenedModel, survey: Survey): string {
  const { asset } = model;
  const parts: string[] = [];
  const title = (text: string): void => void parts.push('', chalk.bold.cyan(text));
  parts.push(
    `${chalk.bold(file)} ${chalk.dim(`${survey.format}${survey.generator ? ` by ${survey.generator}` : ''}`)}`,
  );
  parts.push('', facts(survey));

  title('Nodes');
  parts.push(...nodeTree(asset.defaultScene?.nodes ?? asset.nodes));

  if (asset.meshes.length > 0) {
    title('Meshes');
    const table = grid(['mesh', 'primitives', 'triangles', 'vertices', 'used by', 'materials'], [1, 2, 3, 4]);
    for (const mesh of asset.meshes) {
      const users = asset.nodes.filter((node) => node.mesh === mesh).length;
      const sum = (count: (g: (typeof mesh.primitives)[number]['geometry']) => number): string =>
        number(mesh.primitives.reduce((n, p) => n + count(p.geometry), 0));
      const materials = [...new Set(mesh.primitives.map((p) => p.material?.name ?? '(default)'))];
      table.push([
        shownName(mesh.name),
        String(mesh.primitives.length),
        sum(triangleCount),
        sum(vertexCount),
        `${users} node${users === 1 ? '' : 's'}`,
        materials.join(', '),
      ]);
    }
    parts.push(table.toString());
  }
  if (asset.materials.length > 0) {
    title('Materials');
    const table = grid(['material', 'kind', 'alpha', 'textures'], []);
    for (const material of asset.materials) {
      const textures = Object.keys(material).filter((key) => key.endsWith('Texture'));
      table.push([
        shownName(material.name),
        [material.unlit ? 'unlit' : 'metallic-roughness', ...layerNamesOf(material)].join(', '),
        `${material.alphaMode ?? 'opaque'}${material.doubleSided ? ', double-sided' : ''}`,
        textures.map((key) => key.replace('Texture', '')).join(', ') || chalk.dim('none'),
      ]);
    }
    parts.push(table.toString());
    for (const material of asset.materials) {
      const cost = layerCostOf(material);
      if (cost !== null) parts.push(`  ${shownName(material.name)} ${chalk.dim(`costs ${cost}`)}`);
    }
  }
  if (survey.textures.length > 0) {
    title('Textures');
    const table = grid(['texture', 'media type', 'size'], []);
    for (const { name, mimeType, width, height } of survey.textures) {
      table.push([shownName(name), mimeType, `${width} x ${height}`]);
    }
    parts.push(table.toString());
  }
  const list = (heading: string, lines: string[]): void => {
    if (lines.length === 0) return;
    title(heading);
    parts.push(...lines.map((line) => `  ${line}`));
  };
  list('Variants', survey.variants);
  list(
    'Cameras',
    survey.cameras.map(({ name, type, figures }) => `${shownName(name)} ${chalk.dim(`${type}, ${figures}`)}`),
  );
  list(
    'Lights',
    survey.lights.map(({ name, type, figures }) => `${shownName(name)} ${chalk.dim(`${type}, ${figures}`)}`),
  );
  list(
    'Skins',
    survey.skins.map(
      ({ name, joints, influences }) =>
        `${shownName(name)} ${chalk.dim(`${joints} joints, ${influences} influences a vertex`)}`,
    ),
  );
  list(
    'Animations',
    survey.animations.flatMap(({ name, duration, channels, keys, bytes: size, targets }) => [
      `${shownName(name)} ${chalk.dim(`${+duration.toFixed(3)} s, ${channels} channels, ${number(keys)} keys, ${bytes(size)}`)}`,
      ...targets
        .slice(0, MOST_TARGETS)
        .map((target) => `  ${shownName(target.name)} ${chalk.dim(target.paths.join(', '))}`),
      ...(targets.length > MOST_TARGETS ? [chalk.dim(`  ... ${targets.length - MOST_TARGETS} more`)] : []),
    ]),
  );
  list(
    'Morph targets',
    survey.morphTargets.map(({ mesh, names }) => `${shownName(mesh)}: ${names.map(shownName).join(', ')}`),
  );
  list(
    'Extensions',
    survey.extensionsUsed.map((name) =>
      survey.extensionsRequired.includes(name) ? `${name} (required)` : name,
    ),
  );
  if (survey.warnings.length > 0) {
    title(`Warnings (${survey.warnings.length})`);
    for (const { code, message, where } of survey.warnings.slice(0, 50)) {
      parts.push(
        `  ${chalk.yellow('!')} ${message} ${chalk.dim(`${formatPlace({ ...where, file: '' })} ${code}`)}`,
      );
    }
    if (survey.warnings.length > 50)
      parts.push(chalk.dim(`  ... ${survey.warnings.length - 50} more; --json has all`));
  }
  return `${parts.join('\n')}\n`;
}

function facts(survey: Survey): string {
  const rows: [string, string][] = [
    ['triangles', number(survey.triangles)],
    ['vertices', number(survey.vertices)],
    ...(survey.instances > survey.primitives
      ? ([['instances', number(survey.instances)]] as [string, string][])
      : []),
    ['draw calls', number(survey.drawCalls)],
    ['GPU memory', bytes(survey.gpuBytes)],
    ['size', survey.bounds ? sizeOf(survey.bounds) : 'draws nothing'],
  ];
  if (survey.bounds) {
    const corner = (v: number[]): string => `(${v.map((x) => +x.toFixed(2)).join(', ')})`;
    rows.push(['bounds', `${corner(survey.bounds.min)} to ${corner(survey.bounds.max)}`]);
  }
  return rows.map(([name, value]) => `  ${chalk.dim(name.padEnd(12))}${value}`).join('\n');
}

function sizeOf({ min, max }: NonNullable<Survey['bounds']>): string {
  return `${min.map((low, k) => +(max[k]! - low).toFixed(2)).join(' x ')} m`;
}

/** The tree with what each node carries; long runs of alike children are folded. */
function nodeTree(roots: AssetNode[]): string[] {
  const lines: string[] = [];
  let count = 0;
  // What of the tree is still to be told: a list of siblings, from which one on, and what stands before their lines.
  const rest: { nodes: readonly AssetNode[]; from: number; indent: string }[] = [];
  const enter = (nodes: readonly AssetNode[], indent: string): void => {
    if (nodes.length > 0) rest.push({ nodes, from: 0, indent });
  };
  enter(roots, '');
  for (let at = rest.pop(); at; at = rest.pop()) {
    const { nodes, from, indent } = at;
    const node = nodes[from]!; // it is not empty
    const run = node.children.length === 0 ? alikeFrom(nodes, from) : 1;
    const next = from + (run >= FOLD_FROM ? run : 1);
    const isLast = next >= nodes.length;
    if (!isLast) rest.push({ nodes, from: next, indent });
    if (count++ < MOST_TREE_LINES) {
      const last = nodes[next - 1]!; // as above
      const more = run >= FOLD_FROM ? chalk.dim(` ... ${last.name ?? ''} (${run} alike)`) : '';
      const before = chalk.dim(indent + (isLast ? '└ ' : '├ '));
      lines.push(`  ${before}${shownName(node.name)}${more}${carried(node)}`);
    }
    enter(node.children, indent + (isLast ? '  ' : '│ '));
  }
  if (count > MOST_TREE_LINES) lines.push(chalk.dim(`  ... ${count - MOST_TREE_LINES} more lines`));
  return lines;
}

/** How many siblings in a row differ in their number alone. */
function alikeFrom(nodes: readonly AssetNode[], from: number): number {
  const key = alikeKey(nodes[from]!); // it is within
  let to = from + 1;
  while (to < nodes.length && alikeKey(nodes[to]!) === key) to++;
  return to - from;
}

function alikeKey(node: AssetNode): string {
  const stem = (node.name ?? '').replace(/[\s_.-]*\d+$/, '');
  return `${stem}|${node.mesh?.name ?? ''}|${node.children.length}|${node.light ? 'l' : ''}${node.camera ? 'c' : ''}`;
}

function carried(node: AssetNode): string {
  const things = [
    node.mesh && `mesh ${node.mesh.name ?? ''}`.trim(),
    node.camera && `${node.camera.type} camera`,
    node.light && `${node.light.type} light`,
    node.skin && 'skin',
  ].filter(Boolean);
  return things.length > 0 ? chalk.green(`  ${things.join(', ')}`) : '';
}

export function grid(head: string[], right: number[]): Table.Table {
  return new Table({
    // Colour is chalk's alone, so that pipes and NO_COLOR are respected in one place.
    head: head.map((text) => chalk.dim(text)),
    colAligns: head.map((_, i) => (right.includes(i) ? 'right' : 'left')),
    style: { head: [], border: [], compact: true, 'padding-left': 0, 'padding-right': 2 },
    chars: {
      top: '',
      'top-mid': '',
      'top-left': '',
      'top-right': '',
      bottom: '',
      'bottom-mid': '',
      'bottom-left': '',
      'bottom-right': '',
      left: '  ',
      'left-mid': '',
      mid: '',
      'mid-mid': '',
      right: '',
      'right-mid': '',
      middle: '',
    },
  });
}

function shownName(name: string | null | undefined): string {
  // Control characters in a file must not reach the terminal.
  return name
    ? [...name].map((c) => (c < ' ' || c === '\x7f' ? '\ufffd' : c)).join('')
    : chalk.dim('(unnamed)');
}

const number = (n: number): string => n.toLocaleString('en-US');

export function bytes(n: number): string {
  if (n < 1000) return `${n} B`;
  return n < 1e6 ? `${(n / 1e3).toFixed(1)} kB` : `${(n / 1e6).toFixed(2)} MB`;
}

/** A number with its noun, in the right number. */
export const counted = (n: number, noun: string): string => `${number(n)} ${noun}${n === 1 ? '' : 's'}`;
