import { LensError } from '@umber-lens/core/engine';

/**
 * Makes something of a file while it comes.
 *
 * @param size bytes that were announced; undefined where that is not known
 */
export type Take<Value> = (pieces: AsyncIterable<Uint8Array>, size: number | undefined) => Promise<Value>;

/**
 * Fetches a file.
 *
 * @param timeout seconds without a single byte after which it is given up
 * @param onBytes hears of bytes that arrived, and of those that are announced
 * @throws LensError `load/http`, `load/network`, `load/length`, `load/timeout`; what `signal` was aborted with, and what
 *   `take` throws
 */
export async function download<Value>(
  address: URL,
  signal: AbortSignal,
  timeout: number,
  onBytes: (arrived: number, expected: number) => void,
  take: Take<Value>,
): Promise<Value> {
  const where = { file: address.href };
  const waiting = new AbortController();
  let timer: ReturnType<typeof setTimeout> | undefined;
  const wait = (): void => {
    clearTimeout(timer);
    if (timeout < Infinity) timer = setTimeout(() => waiting.abort(), timeout * 1000);
  };
  const fail = (code: string, message: string, cause: unknown): unknown => {
    if (signal.aborted) return signal.reason;
    if (!waiting.signal.aborted) return new LensError(code, message, { cause, where });
    const hint = 'Try again, or give it more time by the option timeout.';
    return new LensError('load/timeout', `nothing came for ${timeout} s`, { where, hint });
  };
  wait();
  try {
    let response: Response;
    try {
      response = await fetch(address, { signal: AbortSignal.any([signal, waiting.signal]) });
    } catch (cause) {
      throw fail('load/network', `${address.href} cannot be reached`, cause);
    }
    if (!response.ok) {
      throw new LensError(
        'load/http',
        `the server answered ${response.status} ${response.statusText}`.trim(),
        {
          where,
          hint: response.status === 404 ? 'The file is not there: see whether the path is right.' : '',
        },
      );
    }
    // A compressed transfer announces the compressed size: better no total than a wrong one.
    const announced = response.headers.has('content-encoding')
      ? 0
      : Number(response.headers.get('content-length') ?? 0);
    onBytes(0, announced);
    let size = 0;
    const reader = response.body?.getReader();
    async function* pieces(): AsyncGenerator<Uint8Array> {
      for (;;) {
        let part: ReadableStreamReadResult<Uint8Array> | undefined;
        try {
          part = await reader?.read();
        } catch (cause) {
          const told = announced > 0 ? ` of ${announced}` : '';
          throw fail('load/network', `the connection was lost after ${size}${told} bytes`, cause);
        }
        if (!part || part.done) break;
        wait();
        size += part.value.length;
        onBytes(part.value.length, 0);
        yield part.value;
      }
      if (announced > 0 && size !== announced) {
        throw new LensError('load/length', `${size} bytes came, and ${announced} were announced`, {
          where,
        });
      }
    }
    try {
      return await take(pieces(), announced > 0 ? announced : undefined);
    } finally {
      // Whoever takes no more lets the rest go.
      void reader?.cancel().catch(() => undefined);
    }
  } finally {
    clearTimeout(timer);
  }
}
