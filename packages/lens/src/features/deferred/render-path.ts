/** How opaque things are drawn: see `View.renderPath`. */
export type RenderPath = (typeof RENDER_PATHS)[number];

export const RENDER_PATHS = ['forward', 'prepass', 'deferred'] as const;
