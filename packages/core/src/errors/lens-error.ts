/** Where an error or a warning points to. Every field is optional; those present narrow the place down. */
export interface SourcePlace {
  /** File name or address as the user gave it. */
  file?: string;
  /** JSON pointer (RFC 6901) into the document, such as `/meshes/0/primitives/1`. */
  pointer?: string;
  /** 1-based line. */
  line?: number;
  /** 1-based column, counted in UTF-16 code units. */
  column?: number;
}

/**
 * The one error class of the library.
 *
 * `code` is stable and meant for programs (`gltf/index-out-of-range`), `summary` says what is wrong, `hint` says what to do
 * about it and `where` says at which place. `message` is all three, on up to three lines, so that consoles and tests show them.
 */
export class LensError extends Error {
  readonly code: string;
  readonly summary: string;
  readonly hint: string;
  readonly where: SourcePlace;

  constructor(
    code: string,
    summary: string,
    options: { hint?: string; where?: SourcePlace; cause?: unknown } = {},
  ) {
    super(textOf(summary, options), options.cause === undefined ? undefined : { cause: options.cause });
    this.name = 'LensError';
    this.code = code;
    this.summary = summary;
    this.hint = options.hint ?? '';
    this.where = options.where ?? {};
  }

  /** The message, without the name of the class. */
  override toString(): string {
    return this.message;
  }
}

function textOf(summary: string, { hint, where }: { hint?: string; where?: SourcePlace }): string {
  const place = where && formatPlace(where);
  return [summary, place && `  at ${place}`, hint && `  hint: ${hint}`].filter(Boolean).join('\n');
}

/** Something that is wrong but leaves the picture right. */
export interface Warning {
  code: string;
  message: string;
  where: SourcePlace;
}

/** Letters of a JSON pointer that are told at its beginning, and at its end. */
const TOLD = 120;

/** `file:line:column pointer`, leaving out what is not known, and the middle of a long pointer. Empty when nothing is known. */
export function formatPlace(place: SourcePlace): string {
  let text = place.file ?? '';
  if (place.line !== undefined) {
    text += `${text ? ':' : 'line '}${place.line}`;
    if (place.column !== undefined) text += `:${place.column}`;
  }
  const { pointer } = place;
  if (pointer === undefined) return text;
  const told =
    pointer.length > 2 * TOLD + 3 ? `${pointer.slice(0, TOLD)}...${pointer.slice(-TOLD)}` : pointer || '/';
  text += `${text ? ' ' : ''}${told}`;
  return text;
}
