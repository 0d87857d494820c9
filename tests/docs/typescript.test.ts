import { readFileSync } from 'node:fs';
import { dirname, resolve } from 'node:path';
import ts from 'typescript';
import { blocksOf } from './blocks.js';

/** What the guides take for granted: a page with a lens that looks at a scene, and things in it. */
const GIVEN = ['given.d.ts', 'given-shaders.d.ts'];

const EXPORTS: [module: string, file: string][] = [
  ['umber-lens', 'packages/lens/src/index.ts'],
  ['umber-lens/device', 'packages/lens/src/device.ts'],
  ['umber-lens/figures', 'packages/lens/src/figures.ts'],
  ['umber-lens/shaders', 'packages/lens/src/shaders/index.ts'],
  ['@umber-lens/core/formats', 'packages/core/src/formats/index.ts'],
  ['@umber-lens/core/wgsl', 'packages/core/src/wgsl/index.ts'],
];

test('every block of TypeScript in the README and the guides compiles under strict', () => {
  const config = ts.getParsedCommandLineOfConfigFile('tsconfig.check.json', {}, {
    ...ts.sys,
    onUnRecoverableConfigFileDiagnostic: () => undefined,
  } as never)!; // the file is there
  const options: ts.CompilerOptions = {
    ...config.options,
    noUnusedLocals: false,
    noUnusedParameters: false,
    types: ['jest', 'node'],
  };
  const names = EXPORTS.map(([module, file]) => ({ module, ...exportsOf(file, options) }));
  const files = new Map(
    GIVEN.map((name) => [resolve(`docs/${name}`), readFileSync(`tests/docs/${name}`, 'utf8')]),
  );
  const starts = new Map<string, { file: string; line: number; lead: number }>();
  blocksOf('ts').forEach(({ file, line, text }, i) => {
    const own = new Set(
      [...text.matchAll(/(?:import|const|let|function|class|type)\s+(?:\{[^}]*\}|\[[^\]]*\]|\w+)/g)].flatMap(
        ([found]) => found.match(/\w+/g)!.slice(1),
      ),
    );
    // Blocks show what matters: what they use of the library is imported for them.
    const imports = names
      .map(({ module, names: all, types }) => {
        const used = all.filter(
          (name) =>
            !own.has(name) && new RegExp(`(?<!(?<!\\.\\.)\\.|[\\w'"/-])${name}\\b(?!\\s*:[^:])`).test(text),
        );
        return used.length > 0
          ? `import { ${used.map((name) => (types.has(name) ? `type ${name}` : name)).join(', ')} } from '${module}';`
          : '';
      })
      .join(' ');
    const name = resolve(`docs/block-${i}.ts`);
    files.set(name, `${imports} export {};\n${text}`);
    starts.set(name, { file, line, lead: 1 });
  });
  const host = ts.createCompilerHost(options);
  const { fileExists, getSourceFile, readFile } = host;
  host.fileExists = (name) => files.has(name) || fileExists(name);
  host.readFile = (name) => files.get(name) ?? readFile(name);
  host.getSourceFile = (name, ...more) => {
    const text = files.get(name);
    return text === undefined
      ? getSourceFile(name, ...more)
      : ts.createSourceFile(name, text, ts.ScriptTarget.ES2022, true);
  };
  host.getCurrentDirectory = () => dirname(resolve('package.json'));
  const program = ts.createProgram([...files.keys()], options, host);
  const faults = [...starts].flatMap(([name, { file, line, lead }]) => {
    const source = program.getSourceFile(name)!; // a root
    return [...program.getSyntacticDiagnostics(source), ...program.getSemanticDiagnostics(source)].map(
      (fault) => {
        const at = source.getLineAndCharacterOfPosition(fault.start ?? 0).line - lead + line;
        return `${file}:${at} ${ts.flattenDiagnosticMessageText(fault.messageText, ' ')}`;
      },
    );
  });
  expect(faults).toEqual([]);
});

function exportsOf(file: string, options: ts.CompilerOptions): { names: string[]; types: Set<string> } {
  const program = ts.createProgram([file], options);
  const checker = program.getTypeChecker();
  const symbol = checker.getSymbolAtLocation(program.getSourceFile(file)!)!; // a module
  const all = checker.getExportsOfModule(symbol);
  const isValue = (one: ts.Symbol): boolean => {
    const target = (one.flags & ts.SymbolFlags.Alias) !== 0 ? checker.getAliasedSymbol(one) : one;
    return (target.flags & ts.SymbolFlags.Value) !== 0;
  };
  return {
    names: all.map(({ name }) => name),
    types: new Set(all.filter((one) => !isValue(one)).map(({ name }) => name)),
  };
}
