/** Where an error or a warning points to. Every field is optional; those present narrow the place down. */
export interface Place {
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
 * `code` is stable and meant for programs (`gltf/index-out-of-range`), `message` says what is wrong,
 * `hint` says what to do about it and `where` says at which place.
 */
export class LensError extends Error {
  readonly code: string;
  readonly hint: string;
  readonly where: Place;

  constructor(
    code: string,
    message: string,
    options: { hint?: string; where?: Place; cause?: unknown } = {},
  ) {
    super(message, options.cause === undefined ? undefined : { cause: options.cause });
    this.name = 'LensError';
    this.code = code;
    this.hint = options.hint ?? '';
    this.where = options.where ?? {};
  }

  /** Message, place and hint on up to three lines, as the command line prints them. */
  override toString(): string {
    const place = formatPlace(this.where);
    return [this.message, place && `  at ${place}`, this.hint && `  hint: ${this.hint}`]
      .filter(Boolean)
      .join('\n');
  }
}

/** Something that is wrong but leaves the picture right. */
export interface Warning {
  code: string;
  message: string;
  where: Place;
}

/** `file:line:column pointer`, leaving out what is not known. Empty when nothing is known. */
export function formatPlace(place: Place): string {
  let text = place.file ?? '';
  if (place.line !== undefined) {
    text += `${text ? ':' : 'line '}${place.line}`;
    if (place.column !== undefined) text += `:${place.column}`;
  }
  if (place.pointer !== undefined) text += `${text ? ' ' : ''}${place.pointer || '/'}`;
  return text;
}
