// Loaded where frames are to be kept steady.
export { DynamicResolution } from '@umber-lens/core/engine';
