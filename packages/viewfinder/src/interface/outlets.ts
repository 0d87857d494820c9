import { assetOf, writeSheet } from '@umber-lens/core/engine';
import { type Lens, saveModel } from 'umber-lens';
import type { Editor } from '../logic/editor.js';
import { SHELF } from '../logic/history/apply-edit.js';

/** The whole scene as a sheet, as it is now. */
function sheetText({ scene }: Editor, lens: Lens): string {
  const { sheet } = writeSheet(scene, { lens });
  const nodes = sheet.nodes?.filter(({ name }) => name !== SHELF);
  return `${JSON.stringify(nodes ? { ...sheet, nodes } : sheet, undefined, 2)}\n`;
}

export async function copySheet(editor: Editor, lens: Lens): Promise<void> {
  await copyText(editor, sheetText(editor, lens), 'the sheet is copied');
}

export async function copyText(editor: Editor, text: string, said: string): Promise<void> {
  try {
    await navigator.clipboard.writeText(text);
    editor.say(said);
  } catch {
    editor.say('the browser does not let the page copy: download it');
  }
}

export function downloadSheet(editor: Editor, lens: Lens): void {
  download(new Blob([sheetText(editor, lens)], { type: 'application/json' }), 'scene.sheet.json');
}

/** An address of this page with the sheet in it, packed. */
export async function linkOfSheet(editor: Editor, lens: Lens): Promise<void> {
  const stream = new Blob([sheetText(editor, lens)])
    .stream()
    .pipeThrough(new CompressionStream('deflate-raw'));
  const bytes = new Uint8Array(await new Response(stream).arrayBuffer());
  let text = '';
  for (const byte of bytes) text += String.fromCharCode(byte);
  const url = new URL(location.href);
  url.hash = `sheet=${btoa(text).replaceAll('+', '-').replaceAll('/', '_').replaceAll('=', '')}`;
  await copyText(editor, url.href, 'the link is copied');
}

/** What is chosen, or all, as a GLB. */
export async function downloadModel(editor: Editor): Promise<void> {
  try {
    const { primary } = editor.selection;
    const asset = assetOf(primary ?? editor.scene);
    for (const scene of asset.scenes) scene.nodes = scene.nodes.filter(({ name }) => name !== SHELF);
    const { warnings } = await saveModel(asset, { name: primary?.name || 'scene' });
    editor.say(
      warnings.length > 0
        ? `written, but ${warnings.map(({ message }) => message).join('; ')}`
        : 'the model is written',
    );
  } catch (error) {
    editor.say((error as Error).message);
  }
}

export async function downloadPicture(editor: Editor, lens: Lens): Promise<void> {
  try {
    download(await lens.snapshot(), 'picture.png');
  } catch (error) {
    editor.say((error as Error).message);
  }
}

export function download(content: Blob, name: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(content);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}
