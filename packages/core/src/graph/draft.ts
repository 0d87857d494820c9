import type { Graph } from './document.js';
import type { GraphFault, GraphSpot } from './faults.js';
import { textureType, type Type } from './types.js';
import { calledBy, type Path } from './walk.js';

export interface CompileGraphOptions {
  /** Its name, for messages; what it uses is relative to it. Default `shader.graph.json`. */
  file?: string;
  /** Texts of the WGSL files that it uses, by path. */
  sources?: Readonly<Record<string, string>>;
}

/** One step of indentation. */
export const INDENT = '  ';

/** A graph on its way into WGSL: the lines that are written, and what is found on the way. */
export class Draft {
  readonly faults: GraphFault[] = [];
  readonly lines: { text: string; spot: GraphSpot | undefined }[] = [];
  /** Of each node what it gives, and what it is called in the WGSL. */
  readonly types = new Map<string, string>();
  readonly names = new Map<string, string>();
  readonly file: string;
  /** Names of everything that is called. */
  readonly called: ReadonlySet<string>;
  readonly textures: ReadonlyMap<string, Type>;
  readonly isEffect: boolean;
  readonly importLines: string[] = [];
  /** Names that come from files, and not from the library. */
  readonly fromFiles = new Set<string>();

  constructor(
    readonly graph: Graph,
    readonly options: CompileGraphOptions,
  ) {
    this.file = options.file ?? 'shader.graph.json';
    this.called = calledBy(graph);
    this.isEffect = graph.hooks.effect !== undefined;
    this.textures = new Map(
      Object.entries(graph.textures ?? {}).map(([name, { shape = '2d' }]) => [name, textureType(shape)]),
    );
  }

  fault(
    severity: GraphFault['severity'],
    code: string,
    path: Path,
    summary: string,
    hint: string,
    more: Partial<GraphFault> = {},
  ): void {
    this.faults.push({ severity, code, path, summary, hint, ...more });
  }

  /** @param text of one line or several */
  line(text: string, spot?: GraphSpot): void {
    for (const one of text.split('\n')) this.lines.push({ text: one, spot });
  }

  /** An empty line, but not two. */
  gap(): void {
    if (this.lines.length > 0 && this.lines.at(-1)!.text !== '') this.line(''); // length > 0
  }
}
