import { readSheet } from '@umber-lens/core/engine';
import type { SheetImport } from 'umber-lens';

/**
 * The sheet that the page's address holds, of a link that the viewfinder copied; undefined where it holds none.
 *
 *     const sheet = await loadSheet((await linkedSheet()) ?? 'stage.sheet.json');
 *
 * @param hash default that of the page
 * @throws LensError for what is no sheet, as `readSheet`
 */
export async function linkedSheet(hash = location.hash): Promise<SheetImport | undefined> {
  const [, packed] = /[#&]sheet=([\w-]+)/.exec(hash) ?? [];
  if (packed === undefined) return undefined;
  const bytes = Uint8Array.from(atob(packed.replaceAll('-', '+').replaceAll('_', '/')), (sign) =>
    sign.charCodeAt(0),
  );
  const stream = new Blob([bytes]).stream().pipeThrough(new DecompressionStream('deflate-raw'));
  const sheet = readSheet(await new Response(stream).text(), 'the link');
  const nothing = (): void => undefined;
  return { file: 'the link', sheet, addresses: {}, shaders: {}, sheets: {}, onChange: () => nothing };
}
