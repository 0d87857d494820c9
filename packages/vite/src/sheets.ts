import { existsSync, readFileSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { dirname, relative, resolve, sep } from 'node:path';
import {
  isLocalAddress,
  isSheetName,
  LensError,
  lookThrough,
  type Sheet,
  sheetTypes,
} from '@umber-lens/core/engine';
import type { Plugin } from 'vite';
import { writeTypes } from './write-types.js';

export interface SheetsPluginOptions {
  /** Writes `name.sheet.d.json.ts` beside each sheet, with its names, for TypeScript's allowArbitraryExtensions. Default true. */
  types?: boolean;
}

/** Sheets as modules have a name that no other plugin takes for JSON. */
const PREFIX = '\0umber-sheet:';
/** The sheet that a module is of; undefined for other modules. */
export const sheetOf = (id: string): string | undefined =>
  id.startsWith(PREFIX) ? id.slice(PREFIX.length, -'.mjs'.length) : undefined;
const moduleOf = (path: string): string => `${PREFIX}${path}.mjs`;

/**
 * Lets modules import sheets: typed by the names in them, with all files that they name bundled. Changes come without a reload. Faults
 * are told with their places.
 *
 *     import stage from './stage.sheet.json';
 *     const show = async () => applySheet(scene, await loadSheet(stage), { lens });
 *     await show();
 *     stage.onChange(show);
 *
 * Shaders that a sheet names need the plugin `wgsl` besides.
 */
export function sheets({ types = true }: SheetsPluginOptions = {}): Plugin {
  let root = process.cwd();
  return {
    name: 'umber-lens-sheets',
    enforce: 'pre',
    configResolved(config) {
      ({ root } = config);
    },
    async resolveId(source, importer, options) {
      const inSheet = importer === undefined ? undefined : sheetOf(importer);
      if (!isSheetName(source) && inSheet === undefined) return undefined;
      // What a sheet names is relative to its file.
      const found = await this.resolve(source, inSheet ?? importer, { ...options, skipSelf: true });
      if (!isSheetName(source)) return found;
      return found && !found.external ? moduleOf(found.id) : found;
    },
    async load(id) {
      const path = sheetOf(id);
      if (path === undefined) return undefined;
      this.addWatchFile(path);
      const text = readFileSync(path, 'utf8');
      const { faults, files, places, sheet } = lookThrough(text, path);
      const missing = files
        .filter(({ address }) => isLocalAddress(address) && !existsSync(resolve(dirname(path), address)))
        .map(({ address, path: at }) => {
          const hint = 'Addresses are relative to the sheet.';
          return new LensError('file/missing', `there is no file ${address}`, { where: places.of(at), hint });
        });
      const wrong = [...faults, ...missing];
      if (wrong.length > 0 || !sheet) {
        const { column = 1, line = 1 } = wrong[0]?.where ?? {};
        return this.error({
          message: wrong.map((fault) => fault.toString()).join('\n\n'),
          id: path,
          loc: { file: path, line, column: column - 1 },
        });
      }
      if (types) {
        const read = (address: string): Promise<Uint8Array> => readFile(resolve(dirname(path), address));
        writeTypes(path, await sheetTypes(sheet, read));
      }
      return { code: moduleText(sheet, relative(root, path).split(sep).join('/'), files), map: null };
    },
    handleHotUpdate({ file, server }) {
      const module = isSheetName(file) ? server.moduleGraph.getModuleById(moduleOf(file)) : undefined;
      return module ? [module] : undefined;
    },
  };
}

function moduleText(sheet: Sheet, file: string, named: readonly { of: string; address: string }[]): string {
  const imports: string[] = [];
  const maps = {
    addresses: new Map<string, string>(),
    shaders: new Map<string, string>(),
    sheets: new Map<string, string>(),
  };
  for (const { address, of } of named) {
    const kind = of === 'sheet' ? 'sheets' : of === 'shader' || of === 'effect' ? 'shaders' : 'addresses';
    if (!isLocalAddress(address) || maps[kind].has(address)) continue;
    const name = `file${imports.length}`;
    const from = `${address.startsWith('.') ? '' : './'}${address}${kind === 'addresses' ? '?url' : ''}`;
    imports.push(`import ${name} from ${JSON.stringify(from)};`);
    maps[kind].set(address, name);
  }
  const object = (map: ReadonlyMap<string, string>): string =>
    `{ ${[...map].map(([address, name]) => `${JSON.stringify(address)}: ${name}`).join(', ')} }`;
  return `${imports.join('\n')}
const fresh = {
  file: ${JSON.stringify(file)},
  sheet: ${JSON.stringify(sheet)},
  addresses: ${object(maps.addresses)},
  shaders: ${object(maps.shaders)},
  sheets: ${object(maps.sheets)},
};
const kept = import.meta.hot?.data.kept;
const listeners = kept?.listeners ?? new Set();
const sheet = Object.assign(kept?.sheet ?? {}, fresh, {
  onChange(listener) {
    listeners.add(listener);
    return () => listeners.delete(listener);
  },
});
if (import.meta.hot) {
  import.meta.hot.data.kept = { sheet, listeners };
  import.meta.hot.accept();
  if (kept) for (const listener of listeners) listener();
}
export default sheet;
`;
}
