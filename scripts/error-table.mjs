// Writes docs/errors.md: every error and message with its code, out of the sources. With `--check` it fails where the page is
// not what the sources say.
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import ts from 'typescript';

const PAGE = 'docs/errors.md';
const CODE = /^[a-z][a-z0-9]*\/[a-zA-Z0-9-]+$/;

const sources = ['core', 'lens', 'vite', 'viewfinder', 'cli'].flatMap((name) =>
  readdirSync(`packages/${name}/src`, { recursive: true })
    .filter((file) => /\.ts$/.test(file) && !/\.test\.ts$|\.d\.ts$/.test(file))
    .map((file) => join(`packages/${name}/src`, file)),
);

/** A text as people read it: what is put in when it is said stands as dots. Undefined where it is not written there. */
function textOf(node) {
  if (node === undefined) return undefined;
  if (ts.isStringLiteralLike(node)) return node.text;
  if (ts.isTemplateExpression(node))
    return (
      node.head.text +
      node.templateSpans.map(({ expression, literal }) => `${heldOf(expression)}${literal.text}`).join('')
    );
  if (ts.isConditionalExpression(node)) return textOf(node.whenTrue) || textOf(node.whenFalse);
  if (ts.isBinaryExpression(node)) {
    const [left, right] = [textOf(node.left), textOf(node.right)];
    return left === undefined && right === undefined ? undefined : `${left ?? '…'}${right ?? '…'}`;
  }
  return undefined;
}

/** What a place of a template is filled with: the name of a plain variable, or dots. */
const heldOf = (node) =>
  ts.isIdentifier(node) && /^(name|what|type|kind|key|path|file)$/.test(node.text) ? `‹${node.text}›` : '…';

const found = new Map();
function add(code, summary, hint, isMessage) {
  if (!CODE.test(code) || /^(image|text|model|application)\//.test(code)) return;
  const held = found.get(code) ?? { summaries: new Set(), hints: new Set(), isMessage };
  const shorten = (text) => text.replace(/\s+/g, ' ').trim();
  if (summary && /\w{3}/.test(summary)) held.summaries.add(shorten(summary));
  if (hint && /\w{3}/.test(hint)) held.hints.add(shorten(hint));
  held.isMessage &&= isMessage;
  found.set(code, held);
}

const hintIn = (node) =>
  node && ts.isObjectLiteralExpression(node)
    ? textOf(
        node.properties.find((one) => ts.isPropertyAssignment(one) && one.name.getText() === 'hint')
          ?.initializer,
      )
    : textOf(node);

for (const file of sources) {
  const source = ts.createSourceFile(file, readFileSync(file, 'utf8'), ts.ScriptTarget.ES2022, true);
  const visit = (node) => {
    const parts =
      ts.isNewExpression(node) || ts.isCallExpression(node)
        ? node.arguments
        : ts.isArrayLiteralExpression(node)
          ? node.elements
          : undefined;
    const first = parts?.[0];
    if (first && ts.isStringLiteral(first) && CODE.test(first.text)) {
      const isError = ts.isNewExpression(node);
      const isSaid =
        ts.isArrayLiteralExpression(node) ||
        (ts.isCallExpression(node) && /\bsay$/.test(node.expression.getText()));
      const summary = textOf(parts[1]);
      if (/^coded$/.test(node.expression?.getText() ?? '')) {
        add(
          first.text,
          'a member is misspelt, of another type, or out of range',
          'See [properties](properties.md).',
          true,
        );
      } else if (
        isError ||
        isSaid ||
        (ts.isCallExpression(node) && /^(warn|fail|refuse)$/.test(node.expression.getText()))
      )
        add(first.text, summary, hintIn(parts[2]), isSaid);
    }
    ts.forEachChild(node, visit);
  };
  visit(source);
}

/** What the first word of a code is about. */
const ABOUT = {
  animation: 'Animations',
  bake: 'Baking light',
  budget: 'Budgets',
  camera: 'Cameras',
  compare: 'Comparing two ways',
  decal: 'Decals',
  environment: 'Environments',
  file: 'Files',
  fog: 'Fog',
  glb: 'GLB files',
  gltf: 'glTF files',
  graph: 'Passes of a frame',
  input: 'Input',
  ktx2: 'KTX2 textures',
  ledger: 'Statistics of a frame',
  math: 'Rotations',
  mesh: 'Meshes',
  motion: 'Easing, springs, paths',
  mtl: 'Materials of OBJ files',
  obj: 'OBJ files',
  pick: 'Picking',
  ply: 'PLY files',
  recast: 'Conversion on the command line',
  rig: 'Rigs',
  save: 'Saving',
  scatter: 'Scattering',
  sky: 'Skies',
  stl: 'STL files',
  texture: 'Textures',
  trim: 'Smaller models',
  types: 'Types of shaders',
  wgsl: 'WGSL',
  color: 'Colors',
  device: 'The device',
  geometry: 'Geometry',
  gpu: 'What the GPU refuses',
  lens: 'The lens',
  light: 'Lights',
  load: 'Loading',
  look: 'The look',
  material: 'Materials',
  member: 'Reading and writing members by name',
  model: 'Models',
  options: 'Options',
  scene: 'Scenes and nodes',
  shader: 'Shaders',
  shoot: 'Drawing on the command line',
  states: 'State machines',
  swarm: 'Swarms',
};
const groups = new Map();
for (const one of found) {
  const group = one[0].split('/')[0];
  groups.set(group, [...(groups.get(group) ?? []), one]);
}
const cell = (texts) =>
  [...texts]
    .sort()
    .slice(0, 3)
    .map((text) => text.replace(/\|/g, '\\|').replace(/</g, '&lt;').replace(/\{\{/g, '{ {'))
    .join('<br>');
const sections = [...groups]
  .sort(([a], [b]) => (a < b ? -1 : 1))
  .map(([group, list]) => {
    const rows = list
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(
        ([code, { hints, isMessage, summaries }]) =>
          `| \`${code}\` | ${isMessage ? 'message' : 'error'} | ${cell(summaries)} | ${cell(hints)} |`,
      );
    const title = ABOUT[group] ?? `${group[0].toUpperCase()}${group.slice(1)}`;
    return [
      `## ${title}`,
      '',
      '| code | | what it says | what to do |',
      '| --- | --- | --- | --- |',
      ...rows,
    ].join('\n');
  });

const text = `# Errors and messages by code

Every error is a \`LensError\`: \`code\` for programs, \`summary\` and \`hint\` for people, \`where\` for the place in a file. Messages are
said once while developing, to the console or to \`lens.on('message', ({ code, hint, summary }) => …)\`; builds for production say
nothing. This page is made out of the sources: \`npm run errors\` writes it. Dots stand for what is put in when it is said.

\`\`\`ts
try {
  await loadModel('tug.glb');
} catch (error) {
  if (error instanceof LensError) console.log(error.code, error.summary, error.hint, error.where);
}
\`\`\`

${sections.join('\n\n')}
`;
if (process.argv.includes('--check')) {
  if (readFileSync(PAGE, 'utf8') !== text) {
    console.error(`${PAGE} is not what the sources say: run npm run errors.`);
    process.exitCode = 1;
  }
} else writeFileSync(PAGE, text);
