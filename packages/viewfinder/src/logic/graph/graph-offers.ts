import { CALLS, callsFor, type Graph } from '@umber-lens/core/graphs';

/** A call that can be added. */
export interface Offer {
  call: string;
  group: string;
  line: string;
  /** Which input takes what was dragged; 0 where nothing was. */
  place: number;
}

/**
 * Calls by what is typed, the best first: those that begin so, those with such a word, those whose line has it.
 *
 * @param type of a value that is dragged there: only what takes it is offered
 */
export function offersOf(graph: Graph, typed: string, type?: string): Offer[] {
  const places = type === undefined ? undefined : callsFor(type);
  const all: (Offer & { words: string })[] = Object.entries(CALLS).flatMap(([group, calls]) =>
    Object.entries(calls).map(([call, { line, words = '' }]) => ({
      call,
      group,
      line,
      words,
      place: places?.get(call) ?? 0,
    })),
  );
  for (const [call, { note = 'A function of the graph.' }] of Object.entries(graph.functions ?? {}))
    all.push({ call, group: 'functions', line: note, words: '', place: 0 });
  const wanted = typed.trim().toLowerCase();
  const score = ({ call, line, words }: { call: string; line: string; words: string }): number => {
    const name = call.toLowerCase();
    if (wanted === '' || name === wanted) return 0;
    if (name.startsWith(wanted)) return 1;
    if (words.split(' ').some((word) => word.startsWith(wanted))) return 2;
    if (name.includes(wanted)) return 3;
    return line.toLowerCase().includes(wanted) ? 4 : Infinity;
  };
  return all
    .filter(({ call, group }) => places === undefined || group === 'functions' || places.has(call))
    .map((offer) => ({ offer, at: score(offer) }))
    .filter(({ at }) => at < Infinity)
    .sort((a, b) => a.at - b.at)
    .map(({ offer: { words: _, ...offer } }) => offer);
}
