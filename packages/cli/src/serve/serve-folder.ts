import { createReadStream, realpathSync } from 'node:fs';
import { lstat, readdir, readFile, realpath } from 'node:fs/promises';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { extname, join, relative, sep } from 'node:path';
import { fileURLToPath } from 'node:url';
import { type FSWatcher, watch } from 'chokidar';
import { LensError } from '@umber-lens/core/engine';
import { isDocument, SAVE_PATH, SaveServer } from '@umber-lens/vite/server';
import { listingPage, shownPage } from './pages.js';

export interface ServeFolderOptions {
  /** Nothing outside of it is served. */
  root: string;
  /** What is shown, from there down; left out: a list of what there is. */
  file?: string;
  port: number;
  allowOutside: boolean;
}

export interface ServedFolder {
  address: string;
  close(): Promise<void>;
}

const SHOWN = /\.(glb|gltf|obj|ply|stl|sheet\.json|graph\.json)$/i;
/** What pages may have: models, sheets, and what they are made of. */
const SERVED = /\.(glb|gltf|bin|obj|mtl|ply|stl|json|png|jpe?g|webp|avif|ktx2|hdr|wgsl|cube)$/i;
const TYPES: Readonly<Record<string, string>> = {
  '.json': 'application/json',
  '.png': 'image/png',
  '.jpg': 'image/jpeg',
  '.jpeg': 'image/jpeg',
  '.webp': 'image/webp',
  '.avif': 'image/avif',
  '.wgsl': 'text/plain; charset=utf-8',
};
const HOST = '127.0.0.1';

/** Serves a folder on this machine alone, with a page that shows what is in it. @throws LensError `serve/port` */
export async function serveFolder({
  allowOutside,
  file,
  port,
  root,
}: ServeFolderOptions): Promise<ServedFolder> {
  const script = await readFile(fileURLToPath(new URL('../serve-page.js', import.meta.url)));
  const served = new FolderServer(realpathSync(root), file, allowOutside, script);
  const server = createServer((request, response) => void served.handle(request, response));
  await new Promise<void>((ready, fail) => {
    server.once('error', (error: NodeJS.ErrnoException) =>
      fail(
        new LensError('serve/port', `port ${port} cannot be had (${error.code ?? error.message})`, {
          hint: 'Another program has it: give --port 0 for a free one.',
          cause: error,
        }),
      ),
    );
    server.listen(port, HOST, ready);
  });
  served.listening(server);
  return { address: `${served.origins[0]!}/`, close: () => served.close(server) }; // it has some
}

class FolderServer {
  origins: string[] = [];
  private readonly saver: SaveServer;
  /** Pages that wait for changes. */
  private readonly waiting = new Set<ServerResponse>();
  private watcher: FSWatcher | undefined;
  private timer: NodeJS.Timeout | undefined;

  constructor(
    private readonly root: string,
    private readonly file: string | undefined,
    private readonly allowOutside: boolean,
    private readonly script: Uint8Array,
  ) {
    this.saver = new SaveServer({ root, isOwnOrigin: (origin) => this.origins.includes(origin) });
  }

  listening(server: Server): void {
    const { port } = server.address() as AddressInfo;
    this.origins = ['localhost', HOST].map((host) => `http://${host}:${port}`);
    this.watcher = watch(this.root, {
      ignoreInitial: true,
      ignored: (path) => /(^|[\\/])(\.[^\\/]+|node_modules)([\\/]|$)/.test(relative(this.root, path)),
    });
    this.watcher.on('all', () => {
      // Several changes of one saving are one.
      clearTimeout(this.timer);
      this.timer = setTimeout(() => {
        for (const page of this.waiting) page.write('data: changed\n\n');
      }, 60);
    });
    // Folders that cannot be watched are shown, too.
    this.watcher.on('error', () => undefined);
  }

  async handle(request: IncomingMessage, response: ServerResponse): Promise<void> {
    // Pages of others may know the port, but not ask by its name.
    if (!this.origins.includes(`http://${request.headers.host ?? ''}`)) return refuse(response, 403);
    if (await this.saver.handle(request, response)) return;
    if (request.method !== 'GET' && request.method !== 'HEAD') return refuse(response, 405);
    const url = urlOf(request.url ?? '/');
    if (!url) return refuse(response, 400);
    const { pathname, searchParams } = url;
    if (pathname === '/') {
      const shown = searchParams.get('file') ?? this.file;
      const page =
        shown === undefined
          ? listingPage(await this.shown())
          : shownPage(shown, this.saver.token, this.allowOutside, this.file === undefined);
      return send(response, 'text/html; charset=utf-8', page);
    }
    if (pathname === '/serve-page.js') return send(response, 'text/javascript', this.script);
    if (pathname === '/changes') return this.wait(request, response);
    if (pathname.startsWith('/files/')) return this.sendFile(pathname.slice('/files/'.length), response);
    if (pathname === SAVE_PATH) return refuse(response, 404);
    return refuse(response, 404);
  }

  private wait(request: IncomingMessage, response: ServerResponse): void {
    response.writeHead(200, { 'content-type': 'text/event-stream', 'cache-control': 'no-store' });
    response.write(': waiting\n\n');
    this.waiting.add(response);
    request.on('close', () => this.waiting.delete(response));
  }

  private async sendFile(encoded: string, response: ServerResponse): Promise<void> {
    const file = decoded(encoded);
    const path = file === undefined ? undefined : join(this.root, ...file.split('/'));
    const real = path && (await realpath(path).catch(() => undefined));
    // Neither up, nor through links, nor what is hidden.
    const isInside = real !== undefined && real === path && real.startsWith(this.root + sep);
    const isHidden = file?.split('/').some((part) => part.startsWith('.') || part === 'node_modules') ?? true;
    if (!isInside || isHidden || !SERVED.test(real)) return refuse(response, 404);
    const stat = await lstat(real);
    if (!stat.isFile()) return refuse(response, 404);
    if (isDocument(file!)) this.saver.use(file!); // it is not hidden
    if (file!.endsWith('.wgsl')) this.saver.useShader(file!); // as above
    response.writeHead(200, {
      'content-type': TYPES[extname(real).toLowerCase()] ?? 'application/octet-stream',
      'content-length': stat.size,
      'cache-control': 'no-store',
      'x-content-type-options': 'nosniff',
    });
    createReadStream(real)
      .on('error', () => response.destroy())
      .pipe(response);
  }

  /** What can be shown, by its path. */
  private async shown(): Promise<string[]> {
    const names = await readdir(this.root, { recursive: true });
    return names
      .map((name) => name.split(sep).join('/'))
      .filter((name) => SHOWN.test(name) && !/(^|\/)(\.|node_modules\/)/.test(name))
      .sort((a, b) => a.localeCompare(b))
      .slice(0, 2000);
  }

  async close(server: Server): Promise<void> {
    await this.watcher?.close();
    clearTimeout(this.timer);
    for (const page of this.waiting) page.end();
    server.closeAllConnections();
    await new Promise((closed) => server.close(closed));
  }
}

/** What is asked for; undefined for what is no address. */
function urlOf(text: string): URL | undefined {
  try {
    return new URL(text, 'http://here');
  } catch {
    return undefined;
  }
}

function decoded(text: string): string | undefined {
  try {
    const file = decodeURIComponent(text);
    return file.includes('\0') || file.includes('\\') || relative('/', join('/', file)) !== file
      ? undefined
      : file;
  } catch {
    return undefined;
  }
}

function send(response: ServerResponse, type: string, body: string | Uint8Array): void {
  response.writeHead(200, {
    'content-type': type,
    'cache-control': 'no-store',
    'x-content-type-options': 'nosniff',
  });
  response.end(body);
}

function refuse(response: ServerResponse, status: number): void {
  response.writeHead(status, { 'content-type': 'text/plain; charset=utf-8' });
  response.end(status === 404 ? 'There is no such file.' : 'This is not answered.');
}
