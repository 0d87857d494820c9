// Loaded where frames are to be kept steady.
export { SteadyResolution } from '@umber-lens/core';
