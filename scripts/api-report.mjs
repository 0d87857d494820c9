// Writes what each entry of the packages exports, with its types, into `api/`: one text file an entry. With `--check` it says
// what differs and fails, so that the public surface changes only where somebody meant it to.
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import ts from 'typescript';

const FOLDER = 'api';
const isCheck = process.argv.includes('--check');
const printer = ts.createPrinter({ removeComments: true });

/** Entries of the packages by name, with their declarations. `/engine` is promised to nobody. */
function entries() {
  return ['core', 'lens', 'vite', 'viewfinder'].flatMap((folder) => {
    const { name, exports } = JSON.parse(readFileSync(`packages/${folder}/package.json`, 'utf8'));
    return Object.entries(exports)
      .filter(([path, to]) => typeof to === 'object' && to.types && path !== './engine')
      .map(([path, { types }]) => ({
        name: path === '.' ? name : `${name}${path.slice(1)}`,
        file: join('packages', folder, types),
      }));
  });
}

const isHidden = (node) =>
  ts.getJSDocTags(node).some(({ tagName }) => tagName.text === 'internal') ||
  (ts.canHaveModifiers(node) &&
    ts.getModifiers(node)?.some(({ kind }) => kind === ts.SyntaxKind.PrivateKeyword)) === true;

/** A declaration without members that are private or internal: those are nobody's. */
function shown(node) {
  const result = ts.transform(node, [
    (context) => {
      const visit = (inner) => (isHidden(inner) ? undefined : ts.visitEachChild(inner, visit, context));
      return (top) => ts.visitEachChild(top, visit, context);
    },
  ]);
  return result.transformed[0];
}

/** The declarations of an export, without comments and bodies. */
function textOf(symbol, checker) {
  const target = symbol.flags & ts.SymbolFlags.Alias ? checker.getAliasedSymbol(symbol) : symbol;
  const texts = (target.declarations ?? []).map((declaration) => {
    const node = ts.isVariableDeclaration(declaration) ? declaration.parent.parent : declaration;
    return printer.printNode(ts.EmitHint.Unspecified, shown(node), node.getSourceFile());
  });
  return texts.join('\n').replace(/\bexport (declare )?|^declare /gm, '');
}

function report({ file }) {
  const program = ts.createProgram([file], {
    target: ts.ScriptTarget.ES2022,
    module: ts.ModuleKind.NodeNext,
    moduleResolution: ts.ModuleResolutionKind.NodeNext,
    skipLibCheck: true,
  });
  const checker = program.getTypeChecker();
  const symbol = checker.getSymbolAtLocation(program.getSourceFile(file));
  const all = checker.getExportsOfModule(symbol);
  // What an entry passes on whole stands in the report of where it comes from.
  const core = program.getSourceFile(file).text.includes("export * from '@umber-lens/core';");
  const isPassedOn = (one) =>
    core &&
    (one.flags & ts.SymbolFlags.Alias ? checker.getAliasedSymbol(one) : one).declarations?.some((at) =>
      at.getSourceFile().fileName.includes('/packages/core/'),
    );
  return all
    .filter((one) => !isPassedOn(one))
    .sort((a, b) => (a.name < b.name ? -1 : 1))
    .map((one) => `// ${one.name}\n${textOf(one, checker)}\n`)
    .join('\n')
    .replace(/^/, core ? '// * of @umber-lens/core\n\n' : '');
}

mkdirSync(FOLDER, { recursive: true });
const known = new Set(readdirSync(FOLDER));
const changed = [];
for (const entry of entries()) {
  const name = `${entry.name.replace('@', '').replaceAll('/', '.')}.txt`;
  const text = report(entry);
  const before = known.has(name) ? readFileSync(join(FOLDER, name), 'utf8') : '';
  known.delete(name);
  if (text === before) continue;
  changed.push(`${name}: ${difference(before, text)}`);
  if (!isCheck) writeFileSync(join(FOLDER, name), text);
}
for (const name of known) changed.push(`${name}: no package has such an entry any more`);
if (changed.length === 0) console.log('the public surface is as it was');
else {
  console.log(changed.join('\n'));
  if (isCheck) {
    console.log('If that is meant: npm run api, and commit what it wrote.');
    process.exitCode = 1;
  }
}

/** Names that came, went or are other. */
function difference(before, after) {
  const parts = (text) =>
    new Map(
      text
        .split(/^\/\/ /m)
        .slice(1)
        .map((part) => [part.slice(0, part.indexOf('\n')), part]),
    );
  const [a, b] = [parts(before), parts(after)];
  const words = [
    ...[...b.keys()].filter((name) => !a.has(name)).map((name) => `+${name}`),
    ...[...a.keys()].filter((name) => !b.has(name)).map((name) => `-${name}`),
    ...[...b.keys()].filter((name) => a.has(name) && a.get(name) !== b.get(name)).map((name) => `~${name}`),
  ];
  return words.length > 12
    ? `${words.slice(0, 12).join(' ')} and ${words.length - 12} more`
    : words.join(' ');
}
