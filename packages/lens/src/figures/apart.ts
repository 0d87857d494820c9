// Loaded when somebody asks.
export { whyApart } from '@umber-lens/core';
