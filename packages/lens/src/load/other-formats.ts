/** Readers that most pages never need: a part of its own. */
export { readModel } from '@umber-lens/core/engine';
