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

  /** Makes edits of the text as it is now. */
  edit(edits: readonly TextEdit[]): void {
    // From behind, so that offsets stay what they are.
    for (let i = edits.length - 1; i >= 0; i--) this.splice(edits[i]!); // i < length
  }

  private splice({ content, length, offset }: TextEdit): void {
    const made: ({ from: number; to: number } | string)[] = [];
    let at = 0;
    let isIn = false;
    const put = (): void => {
      if (!isIn && content !== '') made.push(content);
      isIn = true;
    };
    for (const piece of this.pieces) {
      const size = typeof piece === 'string' ? piece.length : piece.to - piece.from;
      const [begin, end] = [at, at + size];
      at = end;
      const keep = (from: number, to: number): void => {
        if (from >= to) return;
        made.push(
          typeof piece === 'string'
            ? piece.slice(from - begin, to - begin)
            : { from: piece.from + from - begin, to: piece.from + to - begin },
        );
      };
      keep(begin, Math.min(end, offset));
      if (end >= offset) put();
      keep(Math.max(begin, offset + length), end);
    }
    put();
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
