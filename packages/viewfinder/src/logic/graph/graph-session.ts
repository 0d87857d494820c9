import { applyEdits, type TextEdit, undoEdits } from '@umber-lens/core/engine';
import {
  type CompiledGraph,
  compileGraph,
  type Graph,
  type GraphChange,
  graphEdit,
  type GraphFinding,
  lookAtGraph,
  readGraph,
  readLooks,
} from '@umber-lens/core/graphs';
import { freeName } from '../free-name.js';
import { type BoardGraph, boardGraph, onBoard, outward } from './board-graph.js';
import { graphDifferences } from './graph-differences.js';

interface Done {
  name: string;
  changes: readonly GraphChange[];
  /** Of the text before. */
  edits: readonly TextEdit[];
  before: string;
  merge: string | undefined;
}

/** A graph that is edited: its text, what became of it, and every change, to be taken back without limit. It draws nothing. */
export class GraphSession {
  text: string;
  graph: Graph;
  findings: GraphFinding[] = [];
  /** Of the last text that was right. */
  compiled: CompiledGraph;
  /** Nodes that are chosen, the last one last. */
  readonly chosen = new Set<string>();
  /** The function of the graph whose nodes are on the board; undefined: the graph's own. */
  opened: string | undefined;
  private shown: { of: Graph; opened: string | undefined; board: BoardGraph } | undefined;
  /** The last one that the compiler found nothing wrong with. */
  private proven: CompiledGraph;
  /** Whether what the compiler finds is among the findings. */
  private isLookedThrough = false;
  private readonly done: Done[] = [];
  private undone: Done[] = [];
  private savedAt = 0;
  private savedText: string;
  private readonly listeners = new Set<() => void>();

  /**
   * @param file its name on the server, or in the page
   * @param sources texts of the WGSL files that it uses
   * @throws LensError what `readGraph` and `compileGraph` throw: a graph that is wrong is not opened
   */
  constructor(
    text: string,
    readonly file: string,
    readonly sources: Readonly<Record<string, string>> = {},
  ) {
    this.text = this.savedText = text;
    this.graph = readGraph(text, file);
    this.compiled = this.proven = compileGraph(this.graph, { file, sources });
    this.look(false);
  }

  onChange(listener: () => void): () => void {
    this.listeners.add(listener);
    return () => void this.listeners.delete(listener);
  }

  tell(): void {
    for (const listener of this.listeners) listener();
  }

  /**
   * @param merge changes of one name that follow each other are taken back together
   * @throws LensError those of `graphEdit`; nothing is changed then
   */
  edit(name: string, changes: readonly GraphChange[], merge?: string): void {
    const before = this.text;
    const edits = graphEdit(before, changes, this.file);
    if (edits.length === 0) return;
    const last = this.done.at(-1);
    if (
      merge !== undefined &&
      last?.merge === merge &&
      this.undone.length === 0 &&
      this.done.length > this.savedAt
    ) {
      const all = [...last.changes, ...changes];
      this.done[this.done.length - 1] = {
        ...last,
        changes: all,
        edits: graphEdit(last.before, all, this.file),
      };
    } else this.done.push({ name, changes, edits, before, merge });
    this.undone = [];
    this.take(applyEdits(before, edits), changes);
  }

  /** What is on the board. */
  get board(): BoardGraph {
    const { graph, opened } = this;
    if (this.shown?.of !== graph || this.shown.opened !== opened)
      this.shown = { of: graph, opened, board: boardGraph(graph, opened) };
    return this.shown.board;
  }

  /** What each node on the board gives, as WGSL has it; and what a function takes. */
  get types(): ReadonlyMap<string, string> {
    const { board, compiled, opened } = this;
    const types = onBoard(compiled.types, opened);
    return board.takes ? new Map([...Object.entries(board.takes), ...types]) : types;
  }

  /** Puts the nodes of a function on the board, or the graph's own. */
  open(name: string | undefined): void {
    if (name === this.opened) return;
    this.opened = name;
    this.chosen.clear();
    this.tell();
  }

  /** The same as `edit`, of what is on the board. */
  editBoard(name: string, changes: readonly GraphChange[], merge?: string): void {
    this.edit(name, outward(changes, this.opened), merge);
  }

  /** Calls the function on the board otherwise. @throws LensError those of `graphEdit` */
  renameOpened(name: string): void {
    const { opened } = this;
    if (opened === undefined || name === opened) return;
    const before = this.graph;
    this.opened = name;
    try {
      this.edit(`call ${opened} ${name}`, [{ type: 'renameFunction', function: opened, name }]);
    } finally {
      if (this.graph === before) this.opened = opened;
    }
  }

  /** Looks at the text: at once at what the graph tells, and after a rest at what the compiler finds in the WGSL. */
  private look(isQuick: boolean): void {
    const { file, sources, text } = this;
    const { compiled, findings, graph } = lookAtGraph(text, { file, sources, isQuick });
    this.findings = findings;
    this.isLookedThrough = !isQuick;
    // What is wrong with its form is told by the findings: until it is right again the last good one stays.
    if (graph) this.graph = graph;
    if (compiled) this.compiled = compiled;
    if (!isQuick) {
      if (compiled) this.proven = compiled;
      else this.compiled = this.proven;
    }
  }

  /** Looks at all of it, where that was not done since it was changed. */
  lookThrough(): void {
    if (this.isLookedThrough) return;
    const { compiled, graph } = this;
    this.look(false);
    // Of the same text: what shows it needs nothing anew.
    this.graph = graph;
    if (this.compiled.wgsl === compiled.wgsl) this.compiled = this.proven = compiled;
    this.tell();
  }

  private take(text: string, changes: readonly GraphChange[]): void {
    this.text = text;
    // Where things stand is no other shader, and the rest is as it was read.
    if (changes.every((change) => change.type === 'set' && LOOKS.has(change.at[0]!))) {
      const { frames: _frames, layout: _layout, notes: _notes, ...rest } = this.graph;
      this.graph = { ...rest, ...readLooks(text) };
    } else this.look(true);
    // What was opened may be gone, or be called otherwise.
    if (this.opened !== undefined && !(this.opened in (this.graph.functions ?? {}))) this.opened = undefined;
    const { nodes = {}, takes = {} } = this.board;
    for (const node of this.chosen) if (!(node in nodes) && !(node in takes)) this.chosen.delete(node);
    this.tell();
  }

  /** Whether there are errors: what is shown is of before. */
  get isWrong(): boolean {
    return this.findings.some(({ severity }) => severity === 'error');
  }

  get undoes(): string | undefined {
    return this.done.at(-1)?.name;
  }

  get redoes(): string | undefined {
    return this.undone.at(-1)?.name;
  }

  undo(): boolean {
    const last = this.done.pop();
    if (!last) return false;
    this.undone.push(last);
    this.take(applyEdits(this.text, undoEdits(last.before, last.edits)), last.changes);
    return true;
  }

  redo(): boolean {
    const next = this.undone.pop();
    if (!next) return false;
    this.done.push(next);
    this.take(applyEdits(this.text, next.edits), next.changes);
    return true;
  }

  choose(nodes: Iterable<string>, isMore = false): void {
    if (!isMore) this.chosen.clear();
    for (const node of nodes) this.chosen.add(node);
    this.tell();
  }

  get isUnsaved(): boolean {
    return this.text !== this.savedText;
  }

  /** What the file is to be changed by: the smallest that is known. */
  get unsaved(): GraphChange[] {
    if (this.done.length >= this.savedAt)
      return this.done.slice(this.savedAt).flatMap(({ changes }) => changes);
    return graphDifferences(readGraph(this.savedText, this.file), this.graph);
  }

  /** The file has what is here now. */
  noteSaved(): void {
    this.savedAt = this.done.length;
    this.savedText = this.text;
    this.tell();
  }

  /** A name that nothing on the board has. */
  freeName(wanted: string): string {
    const { nodes = {}, takes = {} } = this.board;
    return freeName(wanted, (name) => name in nodes || name in takes);
  }

  /** Severity of what is found at a node: the worst. */
  gravityOf(node: string): 'error' | 'warning' | undefined {
    const own = this.findings.filter((one) => one.node === node && one.function === this.opened);
    return own.find(({ severity }) => severity === 'error') ? 'error' : own[0]?.severity;
  }
}

/** What of a graph is for eyes alone. */
const LOOKS: ReadonlySet<string | number> = new Set(['layout', 'frames', 'notes']);
