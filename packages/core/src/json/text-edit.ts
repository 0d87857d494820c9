/** A part of a text that becomes another. Of several all count offsets in the text before them, in rising order; none overlap. */
export interface TextEdit {
  /** UTF-16 code units. */
  offset: number;
  length: number;
  content: string;
}

/** A text with edits made. */
export function applyEdits(text: string, edits: readonly TextEdit[]): string {
  let made = '';
  let at = 0;
  for (const { content, length, offset } of edits) {
    made += text.slice(at, offset) + content;
    at = offset + length;
  }
  return made + text.slice(at);
}

/**
 * The edits that take others back: `applyEdits(applyEdits(text, edits), undoEdits(text, edits))` is the text, byte for byte.
 *
 * @param text the one before the edits
 */
export function undoEdits(text: string, edits: readonly TextEdit[]): TextEdit[] {
  let shift = 0;
  return edits.map(({ content, length, offset }) => {
    const back = {
      offset: offset + shift,
      length: content.length,
      content: text.slice(offset, offset + length),
    };
    shift += content.length - length;
    return back;
  });
}

/** A text as pieces of the one that it was, and new ones between them. */
export class EditedText {
  /** From where to where in the first text, or what is new. */
  private pieces: ({ from: number; to: number } | string)[];

  constructor(private readonly first: string) {
    this.pieces = [{ from: 0, to: first.length }];
  }

  /** Makes edits of the text as it is now: in one way through its pieces, however many there are. */
  edit(edits: readonly TextEdit[]): void {
    const made: ({ from: number; to: number } | string)[] = [];
    let [at, next, gone] = [0, 0, 0];
    for (const piece of this.pieces) {
      const begin = at;
      at += typeof piece === 'string' ? piece.length : piece.to - piece.from;
      const keep = (from: number, to: number): void => {
        if (from >= to) return;
        made.push(
          typeof piece === 'string'
            ? piece.slice(from - begin, to - begin)
            : { from: piece.from + from - begin, to: piece.from + to - begin },
        );
      };
      let from = Math.max(begin, gone);
      for (; next < edits.length && edits[next]!.offset <= at; next++) {
        const { content, length, offset } = edits[next]!; // next < length, here and above
        keep(from, offset);
        if (content !== '') made.push(content);
        from = gone = offset + length;
      }
      keep(from, at);
    }
    for (; next < edits.length; next++) made.push(edits[next]!.content); // of an empty text
    this.pieces = made;
  }

  /** All that was edited, as edits of the first text. */
  get edits(): TextEdit[] {
    const edits: TextEdit[] = [];
    let at = 0;
    let content = '';
    const close = (to: number): void => {
      if (content !== '' || to > at) edits.push({ offset: at, length: to - at, content });
      content = '';
    };
    for (const piece of this.pieces) {
      if (typeof piece === 'string') content += piece;
      else {
        close(piece.from);
        at = piece.to;
      }
    }
    close(this.first.length);
    return edits.flatMap((edit) => smallest(this.first, edit));
  }
}

/** An edit without what stays as it was at both of its ends. */
function smallest(text: string, { content, length, offset }: TextEdit): TextEdit[] {
  const before = text.slice(offset, offset + length);
  if (before === content) return [];
  let [head, tail] = [0, 0];
  const most = Math.min(before.length, content.length);
  while (head < most && before[head] === content[head]) head++;
  while (tail < most - head && before[before.length - 1 - tail] === content[content.length - 1 - tail])
    tail++;
  return [
    {
      offset: offset + head,
      length: length - head - tail,
      content: content.slice(head, content.length - tail),
    },
  ];
}
