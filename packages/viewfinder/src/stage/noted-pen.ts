type Word = string | number;

const ACTS = [
  ...(['beginPath', 'closePath', 'moveTo', 'lineTo', 'arc', 'rect', 'roundRect', 'fill', 'stroke'] as const),
  ...(['save', 'restore', 'translate', 'rotate', 'fillRect', 'strokeRect', 'fillText'] as const),
] as const;
const STYLES = [
  ...(['fillStyle', 'strokeStyle', 'lineWidth', 'lineJoin', 'lineCap', 'globalAlpha', 'font'] as const),
  'textBaseline',
] as const;

/** The part of a canvas's context that signs and handles are drawn with. */
export type Pen = Pick<
  CanvasRenderingContext2D,
  (typeof ACTS)[number] | (typeof STYLES)[number] | 'setLineDash' | 'measureText'
>;

/**
 * Notes what is drawn in a frame, and puts it on the canvas only where it is other than what is there: a canvas that is drawn on is composed
 * anew with the page, which costs more than all signs on it.
 */
export class NotedPen {
  readonly pen: Pen;
  private notes: Word[] = [];
  private shown: Word[] | undefined;
  private font = '';

  constructor(private readonly canvas: CanvasRenderingContext2D) {
    const note = (word: string, args: readonly Word[]): void => {
      this.notes.push(word, args.length);
      for (const one of args) this.notes.push(one);
    };
    const pen: Record<string, unknown> = {
      setLineDash: (dashes: readonly number[]) => note('setLineDash', dashes),
      measureText: (text: string) => {
        canvas.font = this.font;
        return canvas.measureText(text);
      },
    };
    for (const act of ACTS) pen[act] = (...args: Word[]) => note(act, args);
    for (const style of STYLES)
      Object.defineProperty(pen, style, {
        set: (value: Word) => {
          if (style === 'font') this.font = String(value);
          note(style, [value]);
        },
      });
    this.pen = pen as unknown as Pen;
  }

  /** Begins a frame. */
  begin(): void {
    this.notes.length = 0;
  }

  /** Has the next frame be drawn, whatever is in it: the canvas has another size, and lost what was on it. @param ratio pixels to a CSS pixel */
  restart(ratio: number): void {
    this.canvas.setTransform(ratio, 0, 0, ratio, 0, 0);
    this.shown = undefined;
  }

  /** Ends a frame. @returns whether something was drawn */
  end(width: number, height: number): boolean {
    const { canvas, notes, shown } = this;
    if (shown?.length === notes.length && shown.every((word, i) => word === notes[i])) return false;
    this.shown = notes;
    this.notes = shown ?? [];
    canvas.clearRect(0, 0, width, height);
    const holder = canvas as unknown as Record<string, unknown>;
    for (let i = 0; i < notes.length;) {
      const word = notes[i] as string; // a word, how many, and so many
      const args = notes.slice(i + 2, i + 2 + (notes[i + 1] as number));
      i += 2 + args.length;
      if (word === 'setLineDash') canvas.setLineDash(args as number[]);
      else if (typeof holder[word] === 'function')
        (holder[word] as (...all: Word[]) => void).apply(canvas, args);
      else holder[word] = args[0];
    }
    return true;
  }
}
