import { fileURLToPath } from 'node:url';
import { gzipSync } from 'node:zlib';
import { transform } from 'esbuild';
import { build, type Rollup } from 'vite';
import { wgsl } from '@umber-lens/vite';
import type { Row } from './measure.js';

const here = fileURLToPath(new URL('.', import.meta.url));

/** Bytes of JavaScript that pages load, minified and gzipped, by what they are. */
export async function pageSizes(): Promise<Record<string, number>> {
  const webgl2 = await sizeWith('first-lit-box', 'webgl2');
  const webgpu = await sizeWith('first-lit-box', 'webgpu');
  const compiling = await sizeWith('compiling', 'webgl2');
  const [none, one, two, six] = await Promise.all(
    ['none', 'one', 'two', 'six'].map((page) => sizeWith(`hooks/${page}`, 'webgl2', true)),
  );
  return {
    'a lit box on WebGL2': webgl2,
    'a lit box on WebGPU': webgpu,
    'a lit box with the compiler': compiling,
    'one more hook module': two! - one!, // as many as pages
    'six hook modules': six! - none!, // as above
  };
}

const kilobytes = (n: number): string => `${(n / 1000).toFixed(1)} kB`;

/** The same against budgets. */
export async function librarySize(): Promise<Row[]> {
  const sizes = await pageSizes();
  const of = (name: string): number => sizes[name]!; // named above
  const held = (what: string, size: number, budget: number): Row => ({
    what: `${what}, minified and gzipped, against its budget`,
    ours: kilobytes(size),
    against: kilobytes(budget),
    ratio: size / budget,
    limit: 1,
  });
  return [
    held('library code of a page with one lit box on WebGL2', of('a lit box on WebGL2'), 45_000),
    held('library code of a page with one lit box on WebGPU', of('a lit box on WebGPU'), 45_000),
    held(
      'one more small hook module in a page, with what it brings for scenes with more around them',
      of('one more hook module'),
      4000,
    ),
    held('six hook modules in a page and what feeds them', of('six hook modules'), 24_000),
    {
      what: 'the same with the compiler, for shaders written while the page runs, against it without',
      ours: kilobytes(of('a lit box with the compiler')),
      against: kilobytes(of('a lit box on WebGL2')),
      ratio: of('a lit box with the compiler') / of('a lit box on WebGL2'),
      limit: undefined,
    },
  ];
}

/**
 * Bytes that a page loads which draws with one of the two interfaces: the other's part stays on the server.
 *
 * @param withHooks counts what hook modules bring for scenes with more around them, too
 */
async function sizeWith(page: string, backend: 'webgl2' | 'webgpu', withHooks = false): Promise<number> {
  const chunks = await loadedChunks(page, backend, withHooks);
  return chunks.reduce((sum, { code }) => sum + gzipSync(code, { level: 9 }).length, 0);
}

/** A module's share of what a page loads: bytes of the gzipped whole, by its share of the minified text. */
export interface ModuleSize {
  module: string;
  bytes: number;
}

/** Where the bytes of a page with one lit box go, the largest first. */
export async function sizesByModule(backend: 'webgl2' | 'webgpu'): Promise<ModuleSize[]> {
  const chunks = await loadedChunks('first-lit-box', backend, false);
  const found: ModuleSize[] = [];
  for (const { code, modules } of chunks) {
    const texts = await Promise.all(
      Object.entries(modules).map(async ([id, { code: own }]) => ({
        module: id.replace(/^.*\/packages\/|^.*\/(?=bench\/)/, '').replace('/dist/', '/'),
        length: own ? (await transform(own, { minify: true, format: 'esm' })).code.length : 0,
      })),
    );
    const sum = texts.reduce((total, { length }) => total + length, 0);
    const whole = gzipSync(code, { level: 9 }).length;
    for (const { module, length } of texts)
      if (length > 0) found.push({ module, bytes: (length / sum) * whole });
  }
  return found.sort((a, b) => b.bytes - a.bytes);
}

/** The chunks of a page that are loaded before it draws with one of the two interfaces. */
async function loadedChunks(
  page: string,
  backend: 'webgl2' | 'webgpu',
  withHooks: boolean,
): Promise<Rollup.OutputChunk[]> {
  const chunks = await built(`${page}${withHooks ? '.mjs' : '.ts'}`);
  const loaded = new Set<string>();
  const load = (name: string): void => {
    const chunk = chunks.find(({ fileName }) => fileName === name);
    if (!chunk || loaded.has(name)) return;
    loaded.add(name);
    chunk.imports.forEach(load);
  };
  for (const { fileName, isEntry, moduleIds } of chunks) {
    const isOfHook = withHooks && moduleIds.some((id) => id.includes('.wgsl?full'));
    if (isEntry || isOfHook || moduleIds.some((id) => id.includes(`open-${backend}`))) load(fileName);
  }
  // The bundler's own loader of chunks, which every page with a dynamic import has, is not the library's.
  const isOurs = ({ moduleIds }: (typeof chunks)[number]): boolean =>
    moduleIds.some((id) => !id.includes('vite/preload-helper'));
  return chunks.filter((chunk) => loaded.has(chunk.fileName) && isOurs(chunk));
}

/**
 * A page as a bundler builds it for production, in chunks that are loaded when they are needed.
 *
 * @param preloads whether chunks are asked for together with those that need them, as is usual; adds the bundler's own code
 */
export async function built(page: string, preloads = false): Promise<Rollup.OutputChunk[]> {
  const result = await build({
    configFile: false,
    logLevel: 'error',
    plugins: [wgsl({ types: false })],
    build: {
      write: false,
      minify: true,
      target: 'es2022',
      modulePreload: preloads,
      rollupOptions: { input: `${here}pages/${page}`, external: ['jsonc-parser'] },
    },
  });
  return (result as Rollup.RollupOutput).output.filter((file) => file.type === 'chunk');
}
