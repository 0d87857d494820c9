import type { GraphInput } from '@umber-lens/core/graphs';

/** Inputs with a value at one of them; those before it have their defaults. */
export const inputsWith = (given: readonly GraphInput[], place: number, value: GraphInput): GraphInput[] =>
  Array.from({ length: Math.max(given.length, place + 1) }, (_, i) =>
    i === place ? value : (given[i] ?? null),
  );
