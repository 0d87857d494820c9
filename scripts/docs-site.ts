// Makes the site of the docs: the guides, every export, and the examples at work. `npm run docs` writes it to `.cache/docs`;
// `npm run docs:serve` shows it.
import { cpSync, existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { Application } from 'typedoc';
import { build } from 'vitepress';
import { PAGES } from '../examples/pages.js';

const SITE = '.cache/site';
const LIVE = 'examples/dist';

if (!existsSync(join(LIVE, 'index.html'))) {
  console.error('The examples are not built: npm run build.');
  process.exit(1);
}
rmSync(SITE, { recursive: true, force: true });
mkdirSync(join(SITE, 'public'), { recursive: true });
cpSync('site', SITE, { recursive: true });
for (const folder of ['screenshots', 'figures'])
  cpSync(`docs/${folder}`, join(SITE, 'public', folder), { recursive: true });
cpSync(LIVE, join(SITE, 'public/live'), { recursive: true });

const write = (path: string, text: string): void => {
  mkdirSync(dirname(join(SITE, path)), { recursive: true });
  writeFileSync(join(SITE, path), text);
};

/** Pages of the repository's root, and where the site has them. */
const ROOT_PAGES: Readonly<Record<string, string>> = {
  'README.md': 'start.md',
  'ARCHITECTURE.md': 'architecture.md',
  'CONTRIBUTING.md': 'contributing.md',
  'CHANGELOG.md': 'changelog.md',
};

/** A page with its links as the site has them. Angle brackets outside of code would be taken for elements. */
function paged(text: string): string {
  return text
    .replace(/\]\((?:\.\.\/)?(?:docs\/)?(screenshots|figures)\//g, '](/$1/')
    .replace(/src="(?:\.\.\/)?(?:docs\/)?(screenshots|figures)\//g, 'src="/$1/')
    .replace(/\]\((?:\.\.\/)?docs\/decisions\//g, '](decisions/')
    .replace(
      /\]\((?:\.\.\/)?(?:docs\/)?([A-Za-z-]+\.md)(#[^)]*)?\)/g,
      (_, page: string, anchor = '') => `](${ROOT_PAGES[page] ?? page}${anchor})`,
    );
}

for (const name of readdirSync('docs').filter((file) => file.endsWith('.md')))
  write(`guide/${name}`, paged(readFileSync(`docs/${name}`, 'utf8')));
for (const name of readdirSync('docs/decisions'))
  write(`guide/decisions/${name}`, paged(readFileSync(`docs/decisions/${name}`, 'utf8')));
for (const [from, to] of Object.entries(ROOT_PAGES)) write(`guide/${to}`, paged(readFileSync(from, 'utf8')));

/** An example: the page at work, and the sources that it is made of. */
function examplePage({ about, folder, label, title }: (typeof PAGES)[number]): string {
  const sources = readdirSync(`examples/${folder}`).filter(
    (name) => /\.(ts|wgsl)$/.test(name) && !name.endsWith('.d.wgsl.ts'),
  );
  const order = ['main.ts', 'scene.ts'];
  sources.sort((a, b) => order.indexOf(b) - order.indexOf(a) || (a < b ? -1 : 1));
  const code = sources.map((name) => {
    const language = name.endsWith('.wgsl') ? 'wgsl' : 'ts';
    return `\`\`\`${language} [${name}]\n${readFileSync(`examples/${folder}/${name}`, 'utf8')}\`\`\``;
  });
  return `# ${title}

${about}

<LiveExample folder="${folder}" label="${label}" />

::: code-group

${code.join('\n\n')}

:::
`;
}

for (const page of PAGES) write(`examples/${page.folder}.md`, examplePage(page));
// For the list beside the pages.
write(
  'examples.json',
  JSON.stringify(PAGES.map(({ folder, title }) => ({ text: title, link: `/examples/${folder}` }))),
);
write(
  'examples/index.md',
  `# Examples

Each page is one idea, with its source beside it. All of it is Skerry Harbour, drawn in your browser.

<ExampleCards :pages='${JSON.stringify(PAGES.map(({ about, folder, title }) => ({ about, folder, title }))).replace(/'/g, '&#39;')}' />
`,
);

const app = await Application.bootstrapWithPlugins({
  options: 'typedoc.json',
  plugin: ['typedoc-plugin-markdown', 'typedoc-vitepress-theme'],
  out: join(SITE, 'reference'),
  docsRoot: SITE,
} as never);
const project = await app.convert();
if (!project) process.exit(1);
await app.generateOutputs(project);

await build(SITE);
console.log('wrote .cache/docs: npm run docs:serve shows it');
