import { execFileSync, spawn } from 'node:child_process';
import { cpSync, existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { temporaryFolder } from '../folders.js';

interface Cli {
  bin: { umber: string };
}

const MINUTE = 60_000;
const README = readFileSync('README.md', 'utf8');
/** The README's blocks of a language, in order. */
const blocks = (language: string): string[] =>
  [...README.matchAll(new RegExp(`\`\`\`${language}\\n([^]*?)\`\`\``, 'g'))].map(([, text]) => text!);

const folder = temporaryFolder('clone');
const clone = join(folder, 'clone');
const project = join(folder, 'project');
// What these tests were started with is not what a user has.
const env = {
  ...process.env,
  NODE_OPTIONS: '',
  NO_COLOR: '1',
  npm_config_yes: 'false',
  npm_config_loglevel: 'error',
};

/** Runs a line as a shell does; both streams together. */
function run(line: string, cwd: string): Promise<{ code: number | null; out: string }> {
  const child = spawn('bash', ['-c', line], { cwd, env });
  let out = '';
  child.stdout.on('data', (data: Buffer) => (out += data.toString()));
  child.stderr.on('data', (data: Buffer) => (out += data.toString()));
  return new Promise((done) => child.on('close', (code) => done({ code, out })));
}

/** Runs a line that does not end, until it prints what is waited for, and stops all that it started. */
function runUntil(
  line: string,
  wanted: RegExp,
  use: (match: RegExpExecArray) => Promise<void>,
): Promise<void> {
  const child = spawn('bash', ['-c', line], { cwd: clone, env, detached: true });
  return new Promise((resolve, reject) => {
    let out = '';
    let isFound = false;
    const read = (data: Buffer): void => {
      out += data.toString();
      const match = wanted.exec(out);
      if (!match || isFound) return;
      isFound = true;
      use(match)
        .finally(() => process.kill(-child.pid!)) // it was started
        .then(resolve, reject);
    };
    child.stdout.on('data', read);
    child.stderr.on('data', read);
    child.on('close', () => {
      if (!isFound) reject(new Error(`it ended without ${String(wanted)}:\n${out}`));
    });
  });
}

beforeAll(() => {
  // What a clone would hold, with changes that are not committed yet.
  const files = execFileSync('git', [
    'ls-files',
    '-z',
    '--cached',
    '--others',
    '--exclude-standard',
  ]).toString();
  for (const file of files.split('\0').filter((name) => name !== '' && existsSync(name))) {
    mkdirSync(dirname(join(clone, file)), { recursive: true });
    cpSync(file, join(clone, file));
  }
});

test('before the build the command says in one line what to run', async () => {
  const { umber } = (JSON.parse(readFileSync(join(clone, 'packages/cli/package.json'), 'utf8')) as Cli).bin;
  const line = `node ${join('packages/cli', umber)} survey examples/public/models/tug.glb`;
  const { code, out } = await run(line, clone);
  expect([code, out.trim()]).toEqual([
    1,
    'umber is not built yet: run "npm run build" in its repository first.',
  ]);
});

test(
  "the README's first line builds everything and serves the examples",
  async () => {
    const [line] = blocks('sh')[0]!.split('\n'); // the two lines
    expect(line).toMatch(/^npm ci && npm start/);
    await runUntil(line!, /(http:\/\/127\.0\.0\.1:)(\d+)/, async ([, host, port]) => {
      const page = await fetch(`${host}${port}/index.html`);
      expect(page.status).toBe(200);
      expect(await page.text()).toContain('Harbour by evening light');
    });
  },
  10 * MINUTE, // against what hangs, as elsewhere
);

test(
  "the README's commands work as they are spelled",
  async () => {
    const lines = blocks('sh')
      .flatMap((block) => block.split('\n'))
      .filter((line) => line.startsWith('npx umber '));
    expect(lines.length).toBeGreaterThanOrEqual(6);
    mkdirSync(join(clone, '.cache'), { recursive: true });
    for (const line of lines) {
      // It serves until it is ended.
      if (line.startsWith('npx umber serve')) {
        await runUntil(line, /http:\/\/\S+/, async ([address]) =>
          expect(await (await fetch(address)).text()).toContain(basename(line.split(' ')[3]!)),
        );
        continue;
      }
      const { code, out } = await run(line, clone);
      expect([line, code, code === 0 ? '' : out]).toEqual([line, 0, '']);
      const [, written] = / --out (\S+)/.exec(line) ?? [];
      const kind = written
        ?.replace(/.*\./, '')
        .slice(0, 3)
        .toUpperCase()
        .replace('WEB', 'IFF')
        .replace('GLB', 'lTF');
      if (written) expect(readFileSync(join(clone, written)).subarray(1, 4).toString()).toBe(kind);
    }
  },
  10 * MINUTE, // against what hangs, as elsewhere
);

test(
  "packed packages serve an empty project: the command, a build, and the README's first program with its types",
  async () => {
    mkdirSync(project);
    for (const name of ['core', 'lens', 'vite', 'viewfinder', 'cli']) {
      const { code, out } = await run(
        `npm pack --pack-destination ${project}`,
        join(clone, 'packages', name),
      );
      expect([name, code, code === 0 ? '' : out]).toEqual([name, 0, '']);
    }
    const tarballs = readdirSync(project).map((file) => `./${file}`);
    expect(tarballs).toHaveLength(5);
    const { dependencies } = JSON.parse(readFileSync('package-lock.json', 'utf8')).packages[
      'node_modules/vite'
    ];
    expect(dependencies).toBeDefined();
    const version = (name: string): string =>
      (JSON.parse(readFileSync(`node_modules/${name}/package.json`, 'utf8')) as { version: string }).version;
    const write = (name: string, text: string): void => writeFileSync(join(project, name), text);
    write('package.json', '{ "name": "quay", "private": true, "type": "module" }');
    const wanted = [...tarballs, `vite@${version('vite')}`, `typescript@${version('typescript')}`].join(' ');
    const installed = await run(`npm install --no-audit --no-fund --prefer-offline ${wanted}`, project);
    expect([installed.code, installed.code === 0 ? '' : installed.out]).toEqual([0, '']);

    const survey = await run(
      `npx umber survey --json ${join(clone, 'examples/public/models/tug.glb')}`,
      project,
    );
    expect(survey.code).toBe(0);
    expect(JSON.parse(survey.out)).toMatchObject({ triangles: 10045 });

    const [program, hook] = blocks('ts');
    write('main.ts', `${program}\n${hook}`);
    write('glow.wgsl', blocks('wgsl')[0]!);
    write('index.html', '<canvas></canvas><script type="module" src="/main.ts"></script>');
    write(
      'vite.config.js',
      "import { viewfinder, wgsl } from '@umber-lens/vite';\nexport default { plugins: [wgsl(), viewfinder()] };\n",
    );
    const options = {
      target: 'es2022',
      module: 'esnext',
      moduleResolution: 'bundler',
      lib: ['es2023', 'dom'],
      types: [],
      strict: true,
      noEmit: true,
      skipLibCheck: true,
      allowArbitraryExtensions: true,
    };
    write('tsconfig.json', JSON.stringify({ compilerOptions: options, files: ['main.ts'] }));
    const built = await run('npx vite build', project);
    expect([built.code, built.code === 0 ? '' : built.out]).toEqual([0, '']);
    // A page carries shaders, not their compiler.
    const assets = readdirSync(join(project, 'dist/assets'));
    const text = assets.map((file) => readFileSync(join(project, 'dist/assets', file), 'utf8')).join('\n');
    expect(text).toContain('edge');
    expect(text).not.toContain('wgsl/expected');
    // And nothing of the editor that is there while developing.
    expect(text + readFileSync(join(project, 'dist/index.html'), 'utf8')).not.toMatch(
      /viewfinder|watchPage/i,
    );
    const checked = await run('npx tsc', project);
    expect([checked.code, checked.out]).toEqual([0, '']);
    // The types are those of the hook's own settings.
    write('main.ts', `${program}\n${hook!.replace('edge: 3', 'edge: "wide"')}`);
    const wrong = await run('npx tsc', project);
    expect(wrong.code).not.toBe(0);
    expect(wrong.out).toMatch(/main\.ts.*(string|number)/);
  },
  5 * MINUTE,
);
