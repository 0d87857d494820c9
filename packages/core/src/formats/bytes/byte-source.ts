/** Bytes of a file: whole, or as they come (a `ReadableStream` of the browser's, a stream of Node's). */
export type ByteSource = Uint8Array | AsyncIterable<Uint8Array>;

/** A whole file is gone through in pieces of so many bytes, so that nothing is copied at once. */
const PIECE = 1 << 22;

/** The pieces of a source, one after the other. */
export async function* piecesOf(source: ByteSource): AsyncGenerator<Uint8Array> {
  if (!(source instanceof Uint8Array)) {
    yield* source;
    return;
  }
  for (let at = 0; at < source.length; at += PIECE) yield source.subarray(at, at + PIECE);
}

/** All of it. */
export async function wholeOf(source: ByteSource): Promise<Uint8Array> {
  if (source instanceof Uint8Array) return source;
  const pieces: Uint8Array[] = [];
  let size = 0;
  for await (const piece of source) {
    pieces.push(piece);
    size += piece.length;
  }
  return joined(pieces, size);
}

/** Pieces as one. */
export function joined(pieces: readonly Uint8Array[], size: number): Uint8Array<ArrayBuffer> {
  const whole = new Uint8Array(size);
  let at = 0;
  for (const piece of pieces) {
    whole.set(piece, at);
    at += piece.length;
  }
  return whole;
}

/** What was left of the pieces before, with another behind it: the piece itself where nothing was left. */
export const behind = (rest: Uint8Array, piece: Uint8Array): Uint8Array =>
  rest.length === 0 ? piece : joined([rest, piece], rest.length + piece.length);

/** Bytes that tell what a file is. */
export const HEAD = 4096;

/** The first bytes, and all of them as they were. */
export async function peek(source: ByteSource): Promise<{ head: Uint8Array; all: ByteSource }> {
  if (source instanceof Uint8Array) return { head: source.subarray(0, HEAD), all: source };
  const pieces = piecesOf(source);
  const taken: Uint8Array[] = [];
  let length = 0;
  while (length < HEAD) {
    const { done, value } = await pieces.next();
    if (done) break;
    taken.push(value);
    length += value.length;
  }
  const head = joined(taken, length);
  async function* all(): AsyncGenerator<Uint8Array> {
    if (head.length > 0) yield head;
    yield* pieces;
  }
  return { head, all: all() };
}
