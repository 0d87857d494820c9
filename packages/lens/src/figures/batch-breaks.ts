// Loaded when somebody asks.
export { batchBreaks } from '@umber-lens/core/engine';
