import type { Plugin } from 'vite';

export interface ViewfinderPluginOptions {
  /** A key that opens and closes it: modifiers and `KeyboardEvent.code`. Default `Alt+KeyV`. */
  key?: string;
  /** On which side nodes and properties stand. Default right. */
  side?: 'left' | 'right';
  /** The sheet that takes what neither a sheet nor a literal of the sources can say. Default `adjustments.sheet.json`. */
  adjustments?: string;
}

/**
 * Adds the viewfinder to pages under development: it opens by a key, or at once where the address has `?viewfinder`. A production build has
 * nothing of it. Needs `@umber-lens/viewfinder` in the project; with `saving` beside it, what is changed is written into the sources.
 */
export function viewfinder(options: ViewfinderPluginOptions = {}): Plugin {
  return {
    name: 'umber-lens-viewfinder',
    apply: 'serve',
    transformIndexHtml: {
      order: 'pre',
      handler: () => [
        {
          tag: 'script',
          attrs: { type: 'module' },
          children: `import { watchPage } from '@umber-lens/viewfinder';\nwatchPage(${JSON.stringify(options)});`,
          injectTo: 'body',
        },
      ],
    },
  };
}
