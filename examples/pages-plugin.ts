import { readdirSync, readFileSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import type { HtmlTagDescriptor, Plugin } from 'vite';
import { type Page, PAGES } from './pages.js';

/**
 * Fills the gallery and its pages out of the one list of them, and serves each page's sources as text beside it:
 * `urn/source/scene.ts.txt`.
 */
export function pages(root: string): Plugin {
  return {
    name: 'pages',
    transformIndexHtml: {
      order: 'pre',
      handler(html, { filename }) {
        const folder = basename(dirname(filename));
        const page = PAGES.find((one) => one.folder === folder);
        if (!page) return html.replace('<!-- cards -->', PAGES.map(card).join('\n'));
        return { html, tags: tagsOf(page, sourcesOf(root, folder)) };
      },
    },
    generateBundle() {
      for (const { folder } of PAGES) {
        for (const file of sourcesOf(root, folder)) {
          const source = readFileSync(join(root, folder, file), 'utf8');
          this.emitFile({ type: 'asset', fileName: sourcePath(folder, file), source });
        }
      }
    },
    configureServer({ middlewares }) {
      middlewares.use((request, response, next) => {
        const path = request.url?.slice(1) ?? '';
        const page = PAGES.find(({ folder }) => path.startsWith(`${folder}/source/`));
        const file =
          page && sourcesOf(root, page.folder).find((name) => path === sourcePath(page.folder, name));
        if (!page || !file) return next();
        response.setHeader('Content-Type', 'text/plain; charset=utf-8');
        response.end(readFileSync(join(root, page.folder, file)));
      });
    },
  };
}

const sourcePath = (folder: string, file: string): string => `${folder}/source/${file}.txt`;

/** A page's own files, the scene first. */
function sourcesOf(root: string, folder: string): string[] {
  const own = readdirSync(join(root, folder)).filter(
    (name) => /\.(ts|wgsl|(graph|sheet)\.json)$/.test(name) && !/\.d\.(wgsl|json)\.ts$/.test(name),
  );
  return own.sort((a, b) => Number(b === 'scene.ts') - Number(a === 'scene.ts'));
}

function card({ folder, title, about }: Page): string {
  return `<li>
  <a href="./${folder}/index.html">
    <img src="./pictures/${folder}.webp" width="480" height="300" alt="" loading="lazy" />
    <h2>${title}</h2>
    <p>${about}</p>
  </a>
</li>`;
}

function tagsOf({ title, label }: Page, sources: string[]): HtmlTagDescriptor[] {
  const link = (file: string): HtmlTagDescriptor => ({
    tag: 'a',
    attrs: { href: `./source/${file}.txt` },
    children: file,
  });
  return [
    { tag: 'meta', attrs: { name: 'viewport', content: 'width=device-width, initial-scale=1' } },
    { tag: 'title', children: title },
    { tag: 'link', attrs: { rel: 'icon', href: 'data:,' } },
    { tag: 'link', attrs: { rel: 'stylesheet', href: '../stage.css' } },
    { tag: 'canvas', attrs: { 'aria-label': label }, injectTo: 'body-prepend' },
    {
      tag: 'nav',
      injectTo: 'body',
      children: [
        { tag: 'a', attrs: { class: 'back', href: '../index.html' }, children: '← examples' },
        {
          tag: 'span',
          attrs: { class: 'sources' },
          children: [{ tag: 'span', children: 'source' }, ...sources.map(link)],
        },
      ],
    },
  ];
}
