import type { SheetChange } from '@umber-lens/core/engine';
import type { GraphChange } from '@umber-lens/core/graphs';

/** What a server that saves answers, or why it did not. */
export interface Refused {
  code: string;
  reason: string;
  hint?: string;
  theirs?: { version: string; text: string };
  yours?: { text?: string };
}

export interface Proposed {
  file: string;
  version: string | null;
  diff: string;
  refused: {
    change: { member: string | readonly (string | number)[]; value?: unknown };
    code: string;
    reason: string;
  }[];
}

/** What is wanted of a file: see `docs/saving.md`. */
export interface WantedFile {
  file: string;
  version: string | null;
  changes?: SheetChange[] | GraphChange[];
  calls?: {
    call: CallPlace;
    changes: { member: string | readonly (string | number)[]; value?: unknown }[];
    made: number;
  }[];
  text?: string;
  size?: number;
}

export interface CallPlace {
  line: number;
  column: number;
  call: 'createNode' | 'setLight' | 'Scene';
}

export type Answer<T> = { ok: true; value: T } | { ok: false; refused: Refused };

/** Asks the server that the page came from. */
export class SaveClient {
  /** Addresses of sheets, and what the server calls them. */
  private readonly files = new Map<string, string>();

  /** @param token of the page; undefined where its server does not save */
  constructor(
    readonly token: string | undefined,
    private readonly origin: string,
    private readonly request: typeof fetch = (...given) => fetch(...given),
  ) {}

  get isThere(): boolean {
    return this.token !== undefined;
  }

  private async ask<T>(what: string, body: string | Blob, type: string): Promise<Answer<T>> {
    try {
      const response = await this.request(`/__umber/${what}`, {
        method: 'POST',
        headers: { 'content-type': type, 'x-umber-token': this.token ?? '' },
        body,
      });
      const answer = (await response.json()) as T & Refused;
      return response.ok ? { ok: true, value: answer } : { ok: false, refused: answer };
    } catch {
      return {
        ok: false,
        refused: {
          code: 'save/network',
          reason: 'the server does not answer',
          hint: 'See whether it still runs.',
        },
      };
    }
  }

  private json<T>(what: string, body: object): Promise<Answer<T>> {
    return this.ask<T>(what, JSON.stringify(body), 'application/json');
  }

  read(file: string): Promise<Answer<{ file: string; version: string; text: string }>> {
    return this.json('read', { file });
  }

  propose(wanted: WantedFile): Promise<Answer<Proposed>> {
    return this.json('propose', wanted);
  }

  write(wanted: WantedFile): Promise<Answer<Proposed>> {
    return this.json('write', wanted);
  }

  /** Puts what was dropped in beside the sheet. */
  add(file: string, content: Blob): Promise<Answer<{ file: string; kind: string }>> {
    return this.ask(
      `add?${new URLSearchParams({ file, size: String(content.size) })}`,
      content,
      'application/octet-stream',
    );
  }

  /** What the server calls a sheet that the page knows by its address, with what it says now. */
  async find(address: string): Promise<Answer<{ file: string; version: string; text: string }>> {
    const known = this.files.get(address);
    let last: Answer<{ file: string; version: string; text: string }> | undefined;
    for (const file of known === undefined ? candidates(address, this.origin) : [known]) {
      last = await this.read(file);
      if (last.ok) {
        this.files.set(address, file);
        return last;
      }
    }
    return last ?? { ok: false, refused: { code: 'save/file', reason: `${address} is not of this server` } };
  }
}

/** Names that a file may have on the server, from its address in the page. */
function candidates(address: string, origin: string): string[] {
  if (!/^[a-z][a-z0-9+.-]*:\/\//i.test(address)) return [address];
  if (!address.startsWith(`${origin}/`)) return [];
  const path = decodeURIComponent(address.slice(origin.length + 1).split(/[?#]/)[0]!); // there is one part
  return path.startsWith('files/') ? [path.slice('files/'.length)] : [`public/${path}`, path];
}
