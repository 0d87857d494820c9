import { graphOf, isGraphName, readShaderSources, writeGraph } from '@umber-lens/core/graphs';
import type { SaveClient } from '../saving/save-client.js';
import { GraphSession } from './graph-session.js';
import type { Shaded } from './shaded.js';

/** What the shader of a material, or of an effect, came of, as far as an editor can take it: a graph, or hooks in WGSL that become one. */
export function graphSource(shaded: Shaded | undefined): 'graph' | 'wgsl' | undefined {
  const { file, source } = shaded?.shader ?? {};
  if (source) return isGraphText(source.text) ? 'graph' : 'wgsl';
  if (file === undefined) return undefined;
  return isGraphName(file) ? 'graph' : file.endsWith('.wgsl') ? 'wgsl' : undefined;
}

/** Graphs are JSON with comments, hooks never begin so. Each comment can be read in one way alone: a line of slashes takes no longer. */
const isGraphText = (text: string): boolean =>
  /^(?:\s|\/\/[^\n]*(?:\n|$)|\/\*(?:[^*]|\*(?!\/))*\*\/)*\{/.test(text);

/** A graph that is open, with what the server knows of its file. */
export interface OpenGraph {
  session: GraphSession;
  /** Of the file; null: there is none yet; undefined: nothing serves it that could write it. */
  version: string | null | undefined;
  /** Whether it is other than what is shown: it was put together of two. */
  isJoined?: true;
  /** The hooks that it was made of. */
  madeOf?: string;
}

/**
 * Opens the graph of a material, or of an effect: out of the project, where a server saves; else as the page compiled it, or by its address. Hooks in WGSL
 * become a graph beside them.
 *
 * @throws Error with why not
 */
export async function openGraph(shaded: Shaded, client: SaveClient, base: string): Promise<OpenGraph> {
  const { file = '', source } = shaded.shader ?? {};
  const read = async (path: string): Promise<{ text: string; version?: string }> => {
    const given = path === file ? source?.text : source?.sources[path];
    if (client.isThere) {
      const found = await client.find(path);
      // Another file may be called so.
      if (found.ok && (given ?? found.value.text) === found.value.text) return found.value;
    }
    if (given !== undefined) return { text: given };
    const response = await fetch(new URL(path, base));
    if (!response.ok) throw new Error(`${path} is not to be had: ${response.status}`);
    return { text: await response.text() };
  };
  const { text, version } = await read(file);
  const sources = await readShaderSources(file, text, (path) =>
    read(path).then(
      (found) => found.text,
      () => undefined,
    ),
  );
  if (isGraphText(text)) return { session: new GraphSession(text, file, sources), version };
  const made = writeGraph(graphOf(text, { file, sources }));
  const session = new GraphSession(made, `${file.replace(/\.wgsl$/, '')}.graph.json`, sources);
  return { session, version: version === undefined ? undefined : null, madeOf: file };
}

/** A file that changed meanwhile: as it is, and as it would be with what was done here. */
export interface GraphConflict {
  file: string;
  reason: string;
  theirs: { version: string; text: string };
  yours: string;
}

/** Writes what was changed into the graph's file. @returns what came of it: in words, or what stands against it */
export async function saveOpenGraph(open: OpenGraph, client: SaveClient): Promise<string | GraphConflict> {
  const { madeOf, session, version } = open;
  if (version === undefined || !client.isThere)
    return 'nothing serves the graph that could write it: export its text';
  const known = await client.find(madeOf ?? session.file);
  if (!known.ok) return known.refused.reason;
  const file = version === null ? known.value.file.replace(/\.wgsl$/, '.graph.json') : known.value.file;
  const answer = await client.write(
    version === null ? { file, version, text: session.text } : { file, version, changes: session.unsaved },
  );
  if (!answer.ok) {
    const { hint, reason, theirs } = answer.refused;
    if (theirs) return { file, reason, theirs, yours: session.text };
    return `${reason}${hint ? `. ${hint}` : ''}`;
  }
  open.version = answer.value.version ?? undefined;
  delete open.madeOf;
  session.noteSaved();
  return madeOf === undefined
    ? `${session.file} was written`
    : `${session.file} was written: name it in place of ${madeOf.split('/').at(-1)}`;
}

/**
 * What was done here, done in the file as it is now.
 *
 * @throws LensError where what it changed is not there any more
 */
export function onTop({ session }: OpenGraph, { theirs }: GraphConflict): OpenGraph {
  const { file, sources, unsaved } = session;
  const fresh = new GraphSession(theirs.text, file, sources);
  fresh.edit('what was changed before', unsaved);
  return { session: fresh, version: theirs.version, isJoined: true };
}
