import { castRay, type LensError, readBudget, type Scene, type SceneNode } from '@umber-lens/core/engine';
import type { Lens } from 'umber-lens';
import { showInterface } from './interface/app.js';
import { Imports } from './interface/imports.js';
import { STYLE } from './interface/style.js';
import { Editor } from './logic/editor.js';
import { SaveClient } from './logic/saving/save-client.js';
import type { Kept } from './logic/history/history.js';
import type { Viewfinder, ViewfinderOptions } from './options.js';
import { Stage } from './stage/stage.js';

/** The viewfinder as it stands over a page; see `openViewfinder`. */
export class OpenViewfinder implements Viewfinder {
  readonly editor: Editor;
  private readonly host = document.createElement('div');
  private readonly stage: Stage;
  private readonly hide: () => void;
  private readonly release = new AbortController();
  private readonly stops: (() => void)[] = [];
  private readonly glass: HTMLElement;
  private isOpen = true;

  constructor(
    readonly lens: Lens,
    readonly scene: Scene,
    private readonly options: ViewfinderOptions,
  ) {
    this.editor = new Editor({ scene, look: lens.look, view: lens.view, kept: keptOf(options) });
    const shadow = this.host.attachShadow({ mode: 'open' });
    const root = element('div', 'root');
    const style = document.createElement('style');
    style.textContent = STYLE;
    this.glass = element('div', 'glass');
    this.glass.tabIndex = 0;
    this.glass.setAttribute('role', 'application');
    this.glass.setAttribute('aria-label', 'picture');
    const ink = document.createElement('canvas');
    ink.className = 'ink';
    ink.setAttribute('aria-hidden', 'true');
    const panels = element('div', '');
    panels.setAttribute('role', 'region');
    panels.setAttribute('aria-label', 'viewfinder');
    const shown = element('div', '');
    root.append(panels);
    panels.append(this.glass, ink, shown);
    shadow.append(style, root);
    document.body.append(this.host);
    const { editor } = this;
    const client = new SaveClient(tokenOf(), location.origin);
    const imports = new Imports(editor, client);
    this.stage = new Stage(lens, editor, this.glass, ink);
    this.hear(imports);
    const { adjustments = 'adjustments.sheet.json', budget = {}, side = 'right' } = options;
    readBudget(budget);
    const isLight = matchMedia('(prefers-color-scheme: light)').matches;
    const theme = options.theme ?? (isLight ? 'light' : 'dark');
    const onClose = (): void => this.close();
    this.hide = showInterface(shown, {
      editor,
      stage: this.stage,
      lens,
      client,
      imports,
      adjustments,
      budget,
      side,
      theme,
      root,
      onClose,
    });
    const count = editor.history.restore();
    if (count > 0)
      editor.say(`${count} ${count === 1 ? 'change' : 'changes'} of before the reload made again`);
    this.glass.focus({ preventScroll: true });
  }

  private hear(imports: Imports): void {
    const { editor, glass, lens, stage } = this;
    const { signal } = this.release;
    this.stops.push(lens.on('message', (message) => this.tell(message)));
    glass.addEventListener('dragover', (event) => event.preventDefault(), { signal });
    glass.addEventListener(
      'drop',
      (event) => {
        event.preventDefault();
        const files = [...(event.dataTransfer?.files ?? [])];
        const { left, top } = stage.place;
        const { direction, origin } = stage.eye.ray(event.clientX - left, event.clientY - top);
        const hit = castRay(this.scene, { origin: [...origin], direction: [...direction] } as never);
        void imports.drop(files, hit?.node, hit?.point ?? editor.own.target);
      },
      { signal },
    );
  }

  /** A message, with the node that it names. */
  private tell({ code, hint, summary }: LensError): void {
    const [, path] = /node "([^"]+)"/.exec(summary) ?? [];
    const node = path === undefined ? undefined : (this.scene.findPath(path) ?? this.scene.find(path));
    this.editor.told.push({ code, text: summary, hint: hint ?? '', node });
    this.editor.tell();
  }

  get selection(): readonly SceneNode[] {
    return this.editor.selection.nodes;
  }

  select(nodes: Iterable<SceneNode>): void {
    this.editor.selection.choose(nodes);
  }

  offer(values: Record<string, number | boolean | string | number[]>): void {
    Object.assign(this.editor.editing.edited.offers, values);
    this.editor.tell();
  }

  offered<T>(name: string): T | undefined {
    return this.editor.editing.edited.offers[name] as T | undefined;
  }

  openGraph(shaded: Parameters<Viewfinder['openGraph']>[0]): void {
    this.editor.showGraph(shaded);
  }

  undo(): void {
    this.editor.undo();
  }

  redo(): void {
    this.editor.redo();
  }

  close(): void {
    if (!this.isOpen) return;
    this.isOpen = false;
    this.release.abort();
    for (const stop of this.stops) stop();
    this.hide();
    this.stage.dispose();
    this.editor.dispose();
    this.host.remove();
    this.options.onClose?.();
  }
}

function element(name: 'div', className: string): HTMLElement {
  const made = document.createElement(name);
  made.className = className;
  return made;
}

/** Of the server that the page came from, where it saves. */
const tokenOf = (): string | undefined =>
  document.querySelector<HTMLMetaElement>('meta[name="umber-save"]')?.content || undefined;

/** What was not saved lasts over reloads of the page, for as long as its tab. */
function keptOf({ keep = true }: ViewfinderOptions): Kept {
  const key = `umber-viewfinder ${location.pathname}${location.search.replace(/[?&]viewfinder\b[^&]*/, '')}`;
  return {
    read: () => (keep ? (sessionStorage.getItem(key) ?? undefined) : undefined),
    write(text) {
      if (!keep) return;
      try {
        if (text === undefined) sessionStorage.removeItem(key);
        else sessionStorage.setItem(key, text);
      } catch {
        // The tab's room is used up: what was kept of before would be wrong.
        sessionStorage.removeItem(key);
      }
    },
  };
}
