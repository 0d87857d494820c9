/** How opaque things are drawn: see `Lens.path`. */
export type DrawPath = (typeof DRAW_PATHS)[number];

export const DRAW_PATHS = ['forward', 'prepass', 'deferred'] as const;
