import { LensError } from '@umber-lens/core/engine';

/** What went wrong, as an error of ours: what was thrown, where it is one already. */
export const faultOf = (what: string, error: unknown): LensError =>
  error instanceof LensError
    ? error
    : new LensError('lens/failed', `${what}: ${String(error)}`, { cause: error });
