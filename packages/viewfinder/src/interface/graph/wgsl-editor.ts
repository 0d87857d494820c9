import { defaultKeymap, history, historyKeymap, indentWithTab } from '@codemirror/commands';
import { HighlightStyle, StreamLanguage, type StringStream, syntaxHighlighting } from '@codemirror/language';
import { type Diagnostic, lintGutter, setDiagnostics } from '@codemirror/lint';
import { Compartment, EditorState, type Extension, StateEffect, StateField } from '@codemirror/state';
import {
  Decoration,
  type DecorationSet,
  drawSelection,
  EditorView,
  keymap,
  lineNumbers,
} from '@codemirror/view';
import { tags } from '@lezer/highlight';

/** Something to tell about a line, from 0. */
export interface LineFault {
  line: number;
  message: string;
  severity: 'error' | 'warning';
}

interface WgslEditorOptions {
  text: string;
  /** Hears every change that is typed. */
  onType(text: string): void;
  /** Hears where the cursor was put, while nothing can be typed: a line, from 0. */
  onLine(line: number): void;
}

/** A field for WGSL: numbered lines, words told apart, lines marked and faults beside them. */
export class WgslEditor {
  private readonly view: EditorView;
  private readonly typing = new Compartment();
  private isTyping = false;

  constructor(parent: HTMLElement, { onLine, onType, text }: WgslEditorOptions) {
    this.view = new EditorView({
      parent,
      root: parent.getRootNode() as ShadowRoot,
      state: EditorState.create({
        doc: text,
        extensions: [
          lineNumbers(),
          lintGutter(),
          history(),
          drawSelection(),
          WGSL,
          syntaxHighlighting(COLORS),
          LOOKS,
          marked,
          this.typing.of(ways(false)),
          keymap.of([...defaultKeymap, ...historyKeymap, indentWithTab]),
          EditorView.updateListener.of((update) => {
            if (
              update.docChanged &&
              this.isTyping &&
              !update.transactions.some((one) => one.isUserEvent('given'))
            )
              onType(this.text);
            if (
              !this.isTyping &&
              update.selectionSet &&
              update.transactions.some((one) => one.isUserEvent('select'))
            )
              onLine(update.state.doc.lineAt(update.state.selection.main.head).number - 1);
          }),
        ],
      }),
    });
  }

  get text(): string {
    return this.view.state.doc.toString();
  }

  /** Puts another text in its place: lines that are as they were keep their place on the screen. */
  show(text: string): void {
    const before = this.text;
    if (text === before) return;
    let from = 0;
    while (from < text.length && from < before.length && text[from] === before[from]) from++;
    let end = 0;
    const most = Math.min(text.length, before.length) - from;
    while (end < most && text[text.length - 1 - end] === before[before.length - 1 - end]) end++;
    this.view.dispatch({
      changes: { from, to: before.length - end, insert: text.slice(from, text.length - end) },
      userEvent: 'given',
    });
  }

  allowTyping(isTyping: boolean): void {
    if (isTyping === this.isTyping) return;
    this.isTyping = isTyping;
    this.view.dispatch({ effects: this.typing.reconfigure(ways(isTyping)) });
    if (isTyping) this.view.focus();
  }

  /** Lines that stand out, from 0, in place of those before. */
  mark(lines: readonly number[]): void {
    this.view.dispatch({ effects: markLines.of(lines) });
  }

  /** Marks what is wrong, in place of what was. */
  tell(faults: readonly LineFault[]): void {
    const { doc } = this.view.state;
    const told = faults.map(({ line, message, severity }): Diagnostic => {
      const { from, text, to } = doc.line(Math.min(doc.lines, Math.max(1, line + 1)));
      return { from: from + (text.length - text.trimStart().length), to, message, severity };
    });
    this.view.dispatch(setDiagnostics(this.view.state, told));
  }

  dispose(): void {
    this.view.destroy();
  }
}

const ways = (isTyping: boolean): Extension[] => [
  EditorState.readOnly.of(!isTyping),
  EditorView.contentAttributes.of({ 'aria-label': isTyping ? 'WGSL, typed' : 'WGSL' }),
];

const markLines = StateEffect.define<readonly number[]>();
const marked = StateField.define<DecorationSet>({
  create: () => Decoration.none,
  update(lines, { changes, effects, state }) {
    let now = lines.map(changes);
    for (const effect of effects)
      if (effect.is(markLines))
        now = Decoration.set(
          [...effect.value]
            .filter((line) => line < state.doc.lines)
            .sort((a, b) => a - b)
            .map((line) => CHOSEN.range(state.doc.line(line + 1).from)),
        );
    return now;
  },
  provide: (field) => EditorView.decorations.from(field),
});
const CHOSEN = Decoration.line({ class: 'chosen-line' });

const KEYWORDS =
  /^(?:alias|break|case|const|const_assert|continue|continuing|default|diagnostic|discard|else|enable|fn|for|if|import|let|loop|override|requires|return|struct|switch|var|while)$/;
const TYPES =
  /^(?:bool|[fiu]32|f16|vec[234](?:[fiuh])?|mat[234]x[234][fh]?|array|atomic|ptr|sampler(?:_comparison)?|texture_\w+|[A-Z]\w*)$/;

/** WGSL word by word: what it means is the compiler's to say. */
const WGSL = StreamLanguage.define<{ depth: number }>({
  name: 'WGSL',
  startState: () => ({ depth: 0 }),
  token(stream, state) {
    if (state.depth > 0) return comment(stream, state);
    if (stream.eatSpace()) return null;
    if (stream.match('//')) {
      stream.skipToEnd();
      return 'comment';
    }
    if (stream.match('/*')) {
      state.depth = 1;
      return comment(stream, state);
    }
    if (stream.match(/^(?:0x[\da-f.]+(?:p[+-]?\d+)?|\d*\.?\d+(?:e[+-]?\d+)?\.?)[iufh]?/i)) return 'number';
    if (stream.match(/^@\w+/)) return 'meta';
    const word = stream.match(/^[\p{XID_Start}_][\p{XID_Continue}]*/u) as RegExpMatchArray | null;
    if (word) {
      if (/^(?:true|false)$/.test(word[0])) return 'atom';
      if (KEYWORDS.test(word[0])) return 'keyword';
      if (TYPES.test(word[0])) return 'typeName';
      return stream.match(/^\s*\(/, false) ? 'variableName.function' : 'variableName';
    }
    stream.next();
    return null;
  },
  languageData: { commentTokens: { line: '//', block: { open: '/*', close: '*/' } } },
});

/** Comments lie within each other. */
function comment(stream: StringStream, state: { depth: number }): string {
  while (state.depth > 0 && !stream.eol()) {
    if (stream.match('/*')) state.depth++;
    else if (stream.match('*/')) state.depth--;
    else stream.next();
  }
  return 'comment';
}

const COLORS = HighlightStyle.define([
  { tag: tags.comment, color: 'var(--quiet)', fontStyle: 'italic' },
  { tag: [tags.keyword, tags.atom], color: 'var(--brass)' },
  { tag: tags.typeName, color: 'var(--new)' },
  { tag: tags.number, color: 'var(--gone)' },
  { tag: tags.meta, color: 'var(--quiet)' },
  { tag: tags.function(tags.variableName), fontWeight: '600' },
]);

const LOOKS = EditorView.theme({
  '&': { flex: '1', minHeight: '0', background: 'var(--field)', color: 'var(--text)' },
  '&.cm-focused': { outline: '2px solid var(--brass)', outlineOffset: '-2px' },
  '.cm-scroller': {
    font: '12px/1.55 ui-monospace, SFMono-Regular, Menlo, monospace',
    overflow: 'auto',
  },
  '.cm-content': { padding: '8px 0', caretColor: 'var(--text)' },
  '.cm-line': { padding: '0 10px' },
  '.cm-gutters': { background: 'var(--field)', color: 'var(--quiet)', border: '0' },
  '.cm-cursor': { borderLeftColor: 'var(--text)' },
  '.cm-selectionBackground, &.cm-focused > .cm-scroller > .cm-selectionLayer .cm-selectionBackground': {
    background: 'var(--line)',
  },
  '.chosen-line': { boxShadow: 'inset 3px 0 var(--brass)', background: 'var(--raised)' },
  '.cm-tooltip': {
    background: 'var(--raised)',
    color: 'var(--text)',
    border: '1px solid var(--line)',
    borderRadius: '4px',
    font: '12px/1.4 system-ui, sans-serif',
  },
  '.cm-diagnostic-error': { borderLeft: '3px solid var(--wrong)' },
  '.cm-diagnostic-warning': { borderLeft: '3px solid var(--brass)' },
});
