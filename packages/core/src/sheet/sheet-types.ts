import type { AssetNode } from '../formats/asset/asset.js';
import { readModel } from '../formats/read-model.js';
import type { Sheet, SheetNode } from './sheet.js';

/** Most names of nodes that types are made of: more of them slow the compiler down. */
const MOST_NAMES = 2000;

/**
 * The types of what the plugin `sheets` of `@umber-lens/vite` makes of a sheet: TypeScript knows its names of nodes, materials and
 * animations by them. They stand beside it, at the `typesPath` of its name.
 *
 * @param read gives the bytes of a file by its address, relative to the sheet. Models that cannot be read bring no names
 */
export async function sheetTypes(
  sheet: Sheet,
  read: (address: string) => Promise<Uint8Array>,
): Promise<string> {
  const { animation, material, node } = await namesOf(sheet, read);
  return `// Made by @umber-lens/vite out of the sheet beside it.
import type { SheetImport } from 'umber-lens';

declare const sheet: SheetImport<{
  node: ${union(node)};
  material: ${union(material)};
  animation: ${union(animation)};
}>;
export default sheet;
`;
}

/** Where names are open, there is an empty one. */
const union = (all: readonly string[]): string =>
  all.includes('')
    ? 'string'
    : all.length > 0
      ? [...new Set(all)].map((name) => `\n    | ${JSON.stringify(name)}`).join('')
      : 'never';

async function namesOf(
  sheet: Sheet,
  read: (address: string) => Promise<Uint8Array>,
): Promise<{ node: string[]; material: string[]; animation: string[] }> {
  const node: string[] = [];
  const animation = new Set<string>();
  const assets = new Map<string, Awaited<ReturnType<typeof readModel>> | undefined>();
  for (const [name, model] of Object.entries(sheet.models ?? {})) {
    const file = typeof model === 'string' ? model : model.file;
    const folder = file.slice(0, file.lastIndexOf('/') + 1);
    // What is wrong with it is told when it is loaded.
    const asset = await read(file)
      .then((bytes) => readModel(bytes, { file, resolve: (other) => read(folder + other) }))
      .catch(() => undefined);
    assets.set(name, asset);
    for (const { name: own } of asset?.animations ?? []) if (own !== undefined) animation.add(own);
  }
  const inModel = (nodes: readonly AssetNode[], above: string): void => {
    for (const { children, name } of nodes) {
      if (name === undefined || node.length >= MOST_NAMES) continue;
      node.push(above + name);
      inModel(children, `${above}${name}/`);
    }
  };
  const inSheet = (nodes: readonly SheetNode[], above: string): void => {
    for (const { children = [], model, name } of nodes) {
      if (name === undefined || node.length >= MOST_NAMES) continue;
      node.push(above + name);
      inSheet(children, `${above}${name}/`);
      const asset = model === undefined ? undefined : assets.get(model);
      if (asset) inModel(asset.defaultScene?.nodes ?? asset.nodes, `${above}${name}/`);
    }
  };
  inSheet(sheet.nodes ?? [], '');
  // Other sheets have names of their own.
  const isOpen = node.length >= MOST_NAMES || JSON.stringify(sheet.nodes ?? []).includes('"sheet":');
  return {
    node: isOpen ? [...node, ''] : node,
    material: Object.keys(sheet.materials ?? {}),
    animation: [...animation],
  };
}
