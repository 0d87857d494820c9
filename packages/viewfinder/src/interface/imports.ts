import { appliedTo, type Material, type SceneNode } from '@umber-lens/core/engine';
import { createContext } from 'preact';
import { loadEnvironment, loadModel, loadTexture, type LoadedTexture } from 'umber-lens';
import type { Editor } from '../logic/editor.js';
import type { Change } from '../logic/history/edit.js';
import type { SaveClient } from '../logic/saving/save-client.js';

/** Brings files in: beside the sheet where a server saves them, else into the page alone. */
export class Imports {
  constructor(
    private readonly editor: Editor,
    private readonly client: SaveClient,
  ) {}

  /** @returns an address to load it from, and whether it lasts */
  private async addressFor(file: File): Promise<{ address: string; isKept: boolean }> {
    const { client, editor } = this;
    const sheet = appliedTo(editor.scene).find((one) => !one.sheet.adjust);
    const own = { address: URL.createObjectURL(file), isKept: false };
    if (!client.isThere || !sheet) return own;
    const found = await client.find(sheet.file);
    if (!found.ok) return own;
    const folder = found.value.file.split('/').slice(0, -1);
    const path = [...folder, file.name].join('/');
    const added = await client.add(path, file);
    if (!added.ok && added.refused.code !== 'save/exists')
      throw new Error(`${file.name}: ${added.refused.reason}`);
    URL.revokeObjectURL(own.address);
    // Where the sheet came from, what lies beside it comes from.
    const base = /^[a-z]+:/i.test(sheet.file)
      ? sheet.file
      : new URL(`/${sheet.file.replace(/^public\//, '')}`, location.href).href;
    return { address: new URL(encodeURIComponent(file.name), base).href, isKept: true };
  }

  async texture(file: File): Promise<LoadedTexture> {
    const { address, isKept } = await this.addressFor(file);
    const texture = await loadTexture(address);
    texture.texture.name ??= file.name;
    if (!isKept) URL.revokeObjectURL(address);
    return texture;
  }

  /** A model before the eye. */
  async model(file: File, at: ArrayLike<number>): Promise<void> {
    const { editor } = this;
    const { address, isKept } = await this.addressFor(file);
    const model = await loadModel(address);
    const parent = editor.scene.root;
    const name = editor.freeName(file.name.replace(/\.\w+$/, ''), parent);
    const node = model.placeIn(editor.scene, { name });
    node.setTranslation(at[0]!, at[1]!, at[2]!); // three
    if (!isKept) URL.revokeObjectURL(address);
    editor.noteAdded(node, { name });
  }

  /** What was dropped into the picture. @param over the node that it was dropped on */
  async drop(files: readonly File[], over: SceneNode | undefined, at: ArrayLike<number>): Promise<void> {
    for (const file of files)
      try {
        if (/\.(glb|gltf|obj|ply|stl)$/i.test(file.name)) await this.model(file, at);
        else if (/\.hdr$/i.test(file.name)) await this.environment(file);
        else if (/\.(png|jpe?g|webp|avif|ktx2)$/i.test(file.name)) await this.textureOn(file, over);
        else this.editor.say(`${file.name} is no model, no picture and no light`);
      } catch (error) {
        this.editor.say((error as Error).message);
      }
  }

  /** Light from all around, and what is seen behind everything where something was seen there. */
  private async environment(file: File): Promise<void> {
    const { editor } = this;
    const { scene } = editor;
    const { address, isKept } = await this.addressFor(file);
    const panorama = await loadEnvironment(address);
    if (!isKept) URL.revokeObjectURL(address);
    const change: Change = { name: `light of ${file.name}`, edits: [] };
    for (const name of ['imageLight', 'backdrop'] as const) {
      const before = scene[name];
      if (name === 'backdrop' && !before && scene.imageLight) continue;
      const after = { ...before, panorama };
      change.edits.push({ type: 'set', thing: { kind: 'scene' }, path: [name], before, after });
    }
    editor.make(change);
  }

  private async textureOn(file: File, over: SceneNode | undefined): Promise<void> {
    const { editor } = this;
    const node = over ?? editor.selection.primary;
    const [primitive] = node?.mesh?.primitives ?? [];
    if (!node || !primitive)
      return editor.say(`${file.name} was dropped beside everything: drop it on a thing`);
    const place = placeByName(file.name);
    const { texture } = await this.texture(file);
    const { material } = primitive;
    const of = editor.editing.refOf(node);
    const change: Change = { name: `${file.name} as ${place}`, edits: [] };
    if (material)
      change.edits.push({
        type: 'set',
        thing: { kind: 'material', of, primitive: 0, material },
        path: [place],
        before: material[place],
        after: { texture },
      });
    editor.make(change);
  }
}

/** Where a texture goes, by what its file is called. */
const PLACES: readonly (readonly [RegExp, keyof Material])[] = [
  [/normal|nrm|nor\b|bump/i, 'normalTexture'],
  [/emissi|emit|glow/i, 'emissiveTexture'],
  [/occlusion|\bao\b|_ao/i, 'occlusionTexture'],
  [/rough|metal|\borm\b|_orm|_mr\b/i, 'metallicRoughnessTexture'],
];

type TexturePlace =
  'baseColorTexture' | 'normalTexture' | 'emissiveTexture' | 'occlusionTexture' | 'metallicRoughnessTexture';

function placeByName(name: string): TexturePlace {
  return (PLACES.find(([pattern]) => pattern.test(name))?.[1] ?? 'baseColorTexture') as TexturePlace;
}

/** For fields that take files. */
export const ImportsContext = createContext<Imports>(undefined as unknown as Imports);
