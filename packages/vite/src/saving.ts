import { readFileSync } from 'node:fs';
import { relative, sep } from 'node:path';
import type { Plugin } from 'vite';
import { noteSources } from './code/note-sources.js';
import { isDocument, SAVE_PATH, SaveServer } from './save/save-server.js';
import { sheetOf } from './sheets.js';
import { graphFileOf } from './wgsl.js';

export interface SavingPluginOptions {
  /** Whether calls that make nodes are noted with their places, so that literals in sources can be saved. Default true. */
  sources?: boolean;
}

/**
 * Lets a page under development save what is tuned in it, into sheets and the literals of its sources, through Vite's own server. A
 * production build has nothing of it.
 *
 * The page finds what it needs in `<meta name="umber-save">`: see `docs/saving.md`.
 */
export function saving({ sources = true }: SavingPluginOptions = {}): Plugin {
  let root = process.cwd();
  let saver: SaveServer | undefined;
  /** From the project's folder down, with slashes; undefined for what is not in it. */
  const fileOf = (path: string): string | undefined => {
    const file = relative(root, path).split(sep).join('/');
    return file.startsWith('..') || file.startsWith('/') || file.includes('node_modules') ? undefined : file;
  };
  return {
    name: 'umber-lens-saving',
    apply: 'serve',
    enforce: 'pre',
    configResolved(config) {
      ({ root } = config);
    },
    configureServer(server) {
      const own = new SaveServer({
        root,
        isOwnOrigin: (origin) => {
          const urls = server.resolvedUrls ?? { local: [], network: [] };
          const known = [...urls.local, ...urls.network].map((url) => new URL(url).origin);
          const { port } = server.config.server;
          const address = server.httpServer?.address();
          const actual = typeof address === 'object' && address ? address.port : port;
          const scheme = server.config.server.https ? 'https' : 'http';
          const local = ['localhost', '127.0.0.1', '[::1]'].map((host) => `${scheme}://${host}:${actual}`);
          return [...known, ...local].includes(origin);
        },
      });
      saver = own;
      server.middlewares.use((request, response, next) => {
        const url = request.url ?? '';
        if (url.startsWith(SAVE_PATH)) void own.handle(request, response);
        else {
          // Sheets that the page fetches are sheets that it uses.
          const path = decoded(url.split(/[?#]/)[0]!.slice(1)); // there is one part
          if (isDocument(path)) {
            own.use(path);
            own.use(`public/${path}`);
          }
          next();
        }
      });
    },
    transform(code, id) {
      const [path, query] = (sheetOf(id) ?? graphFileOf(id) ?? id).split('?') as [string, string?];
      const file = fileOf(path);
      if (!saver || file === undefined) return undefined;
      if (isDocument(file)) saver.use(file);
      if (file.endsWith('.wgsl')) saver.useShader(file);
      if (!sources || query !== undefined || !/\.[mc]?[jt]sx?$/.test(path)) return undefined;
      const noted = noteSources(code, file);
      if (!noted) return undefined;
      // As it is on the disk: places are those of that.
      saver.useSource(file, readFileSync(path, 'utf8'));
      return noted;
    },
    transformIndexHtml() {
      return saver
        ? [{ tag: 'meta', attrs: { name: 'umber-save', content: saver.token }, injectTo: 'head-prepend' }]
        : [];
    },
  };
}

/** A path as it is; what is encoded wrongly is left to others. */
function decoded(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return '';
  }
}
