import { createHash, randomBytes, timingSafeEqual } from 'node:crypto';
import { realpathSync } from 'node:fs';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { dirname } from 'node:path';
import {
  applyEdits,
  checkSheet,
  imageTypeOf,
  isSheetName,
  LensError,
  type SheetChange,
  sheetEdit,
  type TextEdit,
} from '@umber-lens/core/engine';
import { type GraphChange, graphEdit, isGraphName, readGraph } from '@umber-lens/core/graphs';
import { createTwoFilesPatch } from 'diff';
import type { NotedCall } from '../code/calls.js';
import { type CodeChange, codeEdit, type CodeRefusal } from '../code/code-edit.js';
import { placeOf, readPlain } from './project-file.js';
import { readBody } from './read-body.js';
import { Refusal } from './refusal.js';
import { sweepParts, writeWhole } from './write-whole.js';

/** Where a page asks: behind it stands what. */
export const SAVE_PATH = '/__umber/';

export interface SaveServerOptions {
  /** The project's folder: nothing outside of it is read or written. */
  root: string;
  /** Whether a page of that origin is one that this server serves: `http://localhost:5173`. */
  isOwnOrigin(origin: string): boolean;
  /** Most bytes of a request. Default 64 MB. */
  maxBytes?: number;
  /** Milliseconds in which a request's body has to be there. Default 30,000. */
  bodyTime?: number;
}

/** What a page wants to be other in a file. */
export interface Wanted {
  /** From the project's folder down, with slashes. */
  file: string;
  /** The one that it is based on: of `read`. `null`: the file is to be made. */
  version: string | null;
  /** Of a sheet, or of a shader graph. */
  changes?: SheetChange[] | GraphChange[];
  /** Of a source: by the calls that made what is changed. */
  calls?: { call: NotedCall; changes: CodeChange[]; made?: number }[];
  /** Of a sheet or a graph that is to be made. */
  text?: string;
  /** Of the scene, metres. */
  size?: number;
}

/** What came of it, or would. */
export interface Proposal {
  file: string;
  version: string | null;
  /** A unified diff; empty where nothing is other. */
  diff: string;
  edits: TextEdit[];
  /** What is computed in a source, and was not touched. */
  refused: CodeRefusal[];
}

type Answer = Record<string, unknown>;

/**
 * Saves what is tuned in a page: reads, proposes and writes sheets and noted sources, for requests of its own page alone. What it
 * refuses has a code and a reason.
 *
 * Requests are `POST`, with the headers `Origin` and `X-Umber-Token`, and JSON: `read`, `propose`, `write`; `add` takes the bytes of a
 * picture or a model.
 */
export class SaveServer {
  /** What its page sends along. Made anew at each start. */
  readonly token = randomBytes(32).toString('hex');
  private readonly root: string;
  private readonly options: SaveServerOptions;
  /** Files that the page uses, or that were made here; of sources the version that was noted. */
  private readonly used = new Map<string, string | undefined>();
  /** Shaders that the page has: they are read, and never written. */
  private readonly shown = new Set<string>();
  /** Texts by file and version, the last of each: to tell both where a file changed meanwhile. */
  private readonly texts = new Map<string, { version: string; text: string }>();
  /** Bytes of bodies that are on their way, all requests together. */
  private readonly held = { bytes: 0 };
  /** Who writes a file, one after the other. */
  private readonly turns = new Map<string, Promise<unknown>>();

  constructor(options: SaveServerOptions) {
    this.options = options;
    this.root = realpathSync(options.root);
  }

  /** Lets the page have a sheet that it uses. @param file from the project's folder down */
  use(file: string): void {
    if (!this.used.has(file)) this.used.set(file, undefined);
  }

  /** Lets the page read a shader that it uses. */
  useShader(file: string): void {
    this.shown.add(file);
  }

  /** Lets the page have a source whose calls were noted, as long as it is as it was then. */
  useSource(file: string, text: string): void {
    this.used.set(file, versionOf(new TextEncoder().encode(text)));
  }

  /** Answers a request. @returns false where it is none of its own */
  async handle(request: IncomingMessage, response: ServerResponse): Promise<boolean> {
    const url = request.url ?? '';
    if (!url.startsWith(SAVE_PATH)) return false;
    try {
      const answer = await this.answer(request, url.slice(SAVE_PATH.length));
      send(request, response, 200, answer);
    } catch (error) {
      if (error instanceof Refusal)
        send(request, response, error.status, { code: error.code, reason: error.message, ...error.more });
      else if (error instanceof LensError)
        send(request, response, 422, {
          code: error.code,
          reason: error.summary,
          hint: error.hint,
          where: error.where,
        });
      // What else went wrong says nothing of where.
      else
        send(request, response, 500, {
          code: 'save/failed',
          reason: 'it went wrong, and nothing was written',
        });
    }
    return true;
  }

  private async answer(request: IncomingMessage, what: string): Promise<Answer> {
    const { headers, method } = request;
    if (method !== 'POST') throw new Refusal(405, 'save/method', 'requests are POST');
    const { origin } = headers;
    if (typeof origin !== 'string' || !this.options.isOwnOrigin(origin))
      throw new Refusal(403, 'save/origin', 'only the page that this server serves may ask');
    if (!this.isToken(headers['x-umber-token']))
      throw new Refusal(403, 'save/token', 'the token is not the one of this start');
    const { bodyTime = 30_000, maxBytes = 64 << 20 } = this.options;
    const [name, query = ''] = what.split('?') as [string, string?];
    if (name === 'add')
      return this.add(new URLSearchParams(query), await readBody(request, maxBytes, bodyTime, this.held));
    if (!/^application\/json\b/.test(headers['content-type'] ?? ''))
      throw new Refusal(415, 'save/type', 'requests are application/json');
    const given = asObject(await readBody(request, maxBytes, bodyTime, this.held));
    switch (name) {
      case 'read':
        return this.read(given['file']);
      case 'propose':
        return { ...(await this.proposed(given as unknown as Wanted)).proposal };
      case 'write':
        return this.write(given as unknown as Wanted);
      default:
        throw new Refusal(404, 'save/unknown', 'there are read, propose, write and add');
    }
  }

  /** In the same time, whatever is given. */
  private isToken(given: unknown): boolean {
    const digest = (text: string): Buffer => createHash('sha256').update(text).digest();
    return timingSafeEqual(digest(typeof given === 'string' ? given : ''), digest(this.token));
  }

  /** @throws Refusal `save/file` for files that the page does not use */
  private async placeOf(file: unknown, isRead = false): Promise<string> {
    const path = await placeOf(this.root, file);
    if (this.used.has(file as string) || (isRead && this.shown.has(file as string))) return path;
    throw new Refusal(404, 'save/file', 'there is no such file that this page may have');
  }

  private async current(
    file: unknown,
    isRead = false,
  ): Promise<{ path: string; text: string; version: string }> {
    const path = await this.placeOf(file, isRead);
    const bytes = await readPlain(path);
    const text = new TextDecoder('utf-8', { ignoreBOM: true }).decode(bytes);
    const version = versionOf(bytes);
    this.texts.delete(file as string);
    this.texts.set(file as string, { version, text });
    // The oldest goes.
    if (this.texts.size > 20) this.texts.delete(this.texts.keys().next().value!); // it has some
    return { path, text, version };
  }

  private async read(file: unknown): Promise<Answer> {
    const { text, version } = await this.current(file, true);
    return { file, version, text };
  }

  /** @throws Refusal `save/changed` with both, where the file is not what it was */
  private async proposed(wanted: Wanted): Promise<{ proposal: Proposal; path: string; text: string }> {
    const { file, version } = wanted;
    if (version === null) return this.proposedNew(wanted);
    const known = this.texts.get(file);
    const now = await this.current(file);
    const noted = this.used.get(file);
    if (now.version !== version || (wanted.calls && noted !== undefined && noted !== now.version)) {
      const base = known?.version === version ? known.text : undefined;
      throw new Refusal(409, 'save/changed', 'the file changed meanwhile: nothing was written', {
        theirs: { version: now.version, text: now.text },
        yours: base === undefined ? {} : { text: applyEdits(base, this.editsOf(wanted, base).edits) },
      });
    }
    const { edits, refused } = this.editsOf(wanted, now.text);
    const text = applyEdits(now.text, edits);
    if (isDocument(file)) refuseFaults(text, file);
    const diff =
      edits.length > 0 ? createTwoFilesPatch(file, file, now.text, text, '', '', { context: 3 }) : '';
    return { proposal: { file, version, diff, edits, refused }, path: now.path, text };
  }

  private async proposedNew({
    file,
    text,
  }: Wanted): Promise<{ proposal: Proposal; path: string; text: string }> {
    if (typeof file !== 'string' || !isDocument(file) || typeof text !== 'string')
      throw new Refusal(
        400,
        'save/new',
        'what is made anew is a sheet or a graph: give its name, *.sheet.json or *.graph.json, and its text',
      );
    const path = await placeOf(this.root, file, true);
    refuseFaults(text, file);
    const edits = [{ offset: 0, length: 0, content: text }];
    const diff = createTwoFilesPatch('/dev/null', file, '', text, '', '', { context: 3 });
    return { proposal: { file, version: null, diff, edits, refused: [] }, path, text };
  }

  private editsOf(
    { calls, changes, file, size }: Wanted,
    text: string,
  ): { edits: TextEdit[]; refused: CodeRefusal[] } {
    const more = { file, ...(typeof size === 'number' ? { size } : {}) };
    if (isSheetName(file)) {
      if (!Array.isArray(changes)) throw new Refusal(400, 'save/changes', 'a sheet takes `changes`, a list');
      return { edits: sheetEdit(text, changes as SheetChange[], more), refused: [] };
    }
    if (isGraphName(file)) {
      if (!Array.isArray(changes)) throw new Refusal(400, 'save/changes', 'a graph takes `changes`, a list');
      return { edits: graphEdit(text, changes as GraphChange[], file), refused: [] };
    }
    if (!Array.isArray(calls)) throw new Refusal(400, 'save/changes', 'a source takes `calls`, a list');
    // From behind, so that places stay what they are.
    const sorted = [...calls].sort((a, b) => b.call.line - a.call.line || b.call.column - a.call.column);
    let now = text;
    const refused: CodeRefusal[] = [];
    const edits: TextEdit[][] = [];
    for (const { call, changes: own, made } of sorted) {
      const found = codeEdit(now, call, own, { ...more, ...(made === undefined ? {} : { made }) });
      refused.push(...found.refused);
      edits.push(found.edits);
      now = applyEdits(now, found.edits);
    }
    return { edits: between(text, now), refused };
  }

  private async write(wanted: Wanted): Promise<Answer> {
    return this.inTurn(String(wanted.file), async () => {
      const { path, proposal, text } = await this.proposed(wanted);
      const bytes = new TextEncoder().encode(text);
      const { file } = proposal;
      const isNew = proposal.version === null;
      if (proposal.edits.length > 0) {
        await sweepParts(dirname(path));
        try {
          await writeWhole(path, bytes, isNew);
        } catch (error) {
          if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
          throw new Refusal(409, 'save/exists', 'a file of that name is there already');
        }
      }
      const version = versionOf(bytes);
      // What was noted of a source has moved.
      this.used.set(file, isDocument(file) ? undefined : this.used.get(file));
      this.texts.set(file, { version, text });
      return { ...proposal, version };
    });
  }

  /** Bytes that were dropped in: a picture or a model, told by its first bytes. */
  private async add(query: URLSearchParams, bytes: Uint8Array): Promise<Answer> {
    const file = query.get('file');
    const size = Number(query.get('size'));
    if (bytes.length !== size) throw new Refusal(400, 'save/size', 'it is not of the size that was said');
    const kind = kindOf(bytes);
    const ending = /\.[a-z0-9]+$/i.exec(file ?? '')?.[0].toLowerCase();
    if (!kind || !ending || !kind.endings.includes(ending))
      throw new Refusal(
        415,
        'save/kind',
        'pictures (.png, .jpg, .webp, .avif, .ktx2, .hdr) and .glb are taken, told by their first bytes',
      );
    return this.inTurn(file!, async () => {
      const path = await placeOf(this.root, file, true);
      await writeWhole(path, bytes, true);
      return { file, kind: kind.name, size };
    });
  }

  private async inTurn<T>(file: string, act: () => Promise<T>): Promise<T> {
    const before = this.turns.get(file) ?? Promise.resolve();
    const turn = before.catch(() => undefined).then(act);
    this.turns.set(file, turn);
    try {
      return await turn;
    } finally {
      if (this.turns.get(file) === turn) this.turns.delete(file);
    }
  }
}

export const versionOf = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

/** Whether a file is a sheet or a graph: a text of its own, and no source. */
export const isDocument = (file: string): boolean => isSheetName(file) || isGraphName(file);

/** @throws LensError what would be wrong in a sheet or a graph: it is not written then */
function refuseFaults(text: string, file: string): void {
  if (isGraphName(file)) {
    readGraph(text, file);
    return;
  }
  const [first] = checkSheet(text, file);
  if (first) throw first;
}

/** One edit from a text to another, without what they begin and end with alike. */
function between(before: string, after: string): TextEdit[] {
  if (before === after) return [];
  const most = Math.min(before.length, after.length);
  let [head, tail] = [0, 0];
  while (head < most && before[head] === after[head]) head++;
  while (tail < most - head && before.at(-1 - tail) === after.at(-1 - tail)) tail++;
  return [
    { offset: head, length: before.length - head - tail, content: after.slice(head, after.length - tail) },
  ];
}

function kindOf(bytes: Uint8Array): { name: string; endings: string[] } | undefined {
  const starts = (...values: number[]): boolean => values.every((value, i) => bytes[i] === value);
  if (starts(0x67, 0x6c, 0x54, 0x46)) return { name: 'model/gltf-binary', endings: ['.glb'] };
  if (starts(0x23, 0x3f)) return { name: 'image/vnd.radiance', endings: ['.hdr'] };
  const type = imageTypeOf(bytes);
  const endings: Record<string, string[]> = {
    'image/png': ['.png'],
    'image/jpeg': ['.jpg', '.jpeg'],
    'image/webp': ['.webp'],
    'image/avif': ['.avif'],
    'image/ktx2': ['.ktx2'],
  };
  return type && endings[type] ? { name: type, endings: endings[type] } : undefined;
}

function asObject(bytes: Uint8Array): Record<string, unknown> {
  try {
    const json: unknown = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes));
    if (typeof json === 'object' && json !== null && !Array.isArray(json))
      return json as Record<string, unknown>;
  } catch {
    // As what is no object.
  }
  throw new Refusal(400, 'save/json', 'the body is no object of JSON');
}

function send(request: IncomingMessage, response: ServerResponse, status: number, answer: object): void {
  if (response.headersSent || response.destroyed) return;
  const body = JSON.stringify(answer);
  response.writeHead(status, {
    'content-type': 'application/json; charset=utf-8',
    'content-length': Buffer.byteLength(body),
    'cache-control': 'no-store',
    'x-content-type-options': 'nosniff',
    ...(status >= 400 ? { connection: 'close' } : {}),
  });
  if (request.complete) {
    response.end(body);
    return;
  }
  // A socket that is closed with bytes unread throws the answer away as well: whoever still sends is let finish for a moment.
  response.write(body);
  const close = (): void => {
    clearTimeout(timer);
    response.end();
  };
  const timer = setTimeout(close, 1000).unref();
  request.once('end', close).once('error', close).resume();
}
