import { isGraphName, readShaderSources } from '@umber-lens/core/graphs';
import type { Material } from '@umber-lens/core/engine';
import type { SaveClient } from '../saving/save-client.js';
import { GraphSession } from './graph-session.js';

/** Whether a material's shader came of a graph. */
export const hasGraph = (material: Material | undefined): boolean =>
  material?.shader?.file !== undefined && isGraphName(material.shader.file);

/** A graph that is open, with what the server knows of its file; undefined: it cannot be saved. */
export interface OpenGraph {
  session: GraphSession;
  version: string | undefined;
}

/**
 * Opens the graph of a material: out of the project, where a server saves; else by its address.
 *
 * @throws Error with why not
 */
export async function openGraph(material: Material, client: SaveClient, base: string): Promise<OpenGraph> {
  const file = material.shader?.file ?? '';
  const read = async (path: string): Promise<{ text: string; version: string | undefined }> => {
    if (client.isThere) {
      const found = await client.find(path);
      if (found.ok) return { text: found.value.text, version: found.value.version };
    }
    const response = await fetch(new URL(path, base));
    if (!response.ok) throw new Error(`${path} is not to be had: ${response.status}`);
    return { text: await response.text(), version: undefined };
  };
  const { text, version } = await read(file);
  const sources = await readShaderSources(file, text, (path) =>
    read(path).then(
      (found) => found.text,
      () => undefined,
    ),
  );
  return { session: new GraphSession(text, file, sources), version };
}

/** Writes what was changed into the graph's file. @returns what came of it, in words */
export async function saveOpenGraph(open: OpenGraph, client: SaveClient): Promise<string> {
  const { session, version } = open;
  if (version === undefined) return 'nothing serves the graph that could write it: copy its text';
  const found = await client.find(session.file);
  if (!found.ok) return found.refused.reason;
  const answer = await client.write({ file: found.value.file, version, changes: session.unsaved });
  if (!answer.ok) return `${answer.refused.reason}${answer.refused.hint ? `. ${answer.refused.hint}` : ''}`;
  open.version = answer.value.version ?? undefined;
  session.noteSaved();
  return `${session.file} was written`;
}
