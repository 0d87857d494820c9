import { CALLS, type GraphInput, hasMembers, nodesNamedIn } from '@umber-lens/core/graphs';
import type { BoardGraph } from './board-graph.js';

/** An input as a card shows it. */
export interface CardInput {
  label: string;
  /** As it is typed: `0.5`, `@facing`, `1 - @inside`. Empty: its default. */
  text: string;
  /** What counts where it is empty. */
  placeholder: string;
  /** Nodes whose values arrive there. */
  from: readonly string[];
  /** The way down to it. */
  path: readonly (string | number)[];
  /** Whether text of its own stands there: what lies deeper is shown as a formula, and edited as JSON. */
  isNested: boolean;
}

/** A node, or what a hook gives, as a card. */
export interface Card {
  /** `facing`, or of a hook `surface`. */
  name: string;
  isHook: boolean;
  /** Whether it is what a function takes: no node. */
  isTaken: boolean;
  /** What it calls, in words. */
  call: string;
  line: string;
  /** What it gives, as WGSL has it. */
  type: string;
  inputs: CardInput[];
  isMuted: boolean;
  note: string;
}

const TABLE = new Map(Object.values(CALLS).flatMap((group) => Object.entries(group)));

/**
 * The cards of a graph: nodes as they stand in it, then what its hooks give. Of a function first what it takes.
 *
 * @param types of what they give, by name
 */
export function cardsOf(graph: BoardGraph, types: ReadonlyMap<string, string>): Card[] {
  const sources = { ...graph.takes, ...graph.nodes };
  const input = (
    label: string,
    given: GraphInput | undefined,
    path: CardInput['path'],
    usual?: unknown,
  ): CardInput => ({
    label,
    text: given === undefined || given === null ? '' : formula(given),
    placeholder: usual === undefined ? '' : formula(usual as GraphInput),
    from: nodesNamedIn(given, sources),
    path,
    isNested: typeof given === 'object' && given !== null && !Array.isArray(given),
  });
  const plain = { isHook: false, isTaken: false, line: '', type: '', isMuted: false, note: '' };
  const cards: Card[] = Object.entries(graph.takes ?? {}).map(([name, type]) => ({
    ...plain,
    ...{ name, isTaken: true, call: 'taken', line: 'What the function takes.', type, inputs: [] },
  }));
  for (const [name, node] of Object.entries(graph.nodes ?? {})) {
    const { call, in: given = [], muted = false, note = '', value } = node;
    const path = ['nodes', name];
    const row = call === undefined ? undefined : TABLE.get(call);
    const own = call === undefined ? undefined : graph.functions?.[call];
    const labels =
      row?.inputs ?? Object.keys(own?.takes ?? {}).map((label) => ({ name: label, default: undefined }));
    const count = call === '-' && given.length === 1 ? 1 : Math.max(given.length, labels.length);
    const inputs =
      call === undefined
        ? [input('value', value, [...path, 'value'])]
        : Array.from({ length: count }, (_, i) =>
            input(labels[i]?.name ?? `input ${i + 1}`, given[i], [...path, 'in', i], labels[i]?.default),
          );
    cards.push({
      ...plain,
      ...{ name, call: call ?? 'value', inputs, isMuted: muted, note },
      line: row?.line ?? own?.note ?? '',
      type: types.get(name) ?? '',
    });
  }
  for (const [hook, given] of Object.entries(graph.hooks)) {
    if (typeof given === 'object' && given !== null && 'code' in given) continue;
    const inputs = hasMembers(given)
      ? Object.entries(given).map(([member, one]) => input(member, one, ['hooks', hook, member]))
      : [input('gives', given as GraphInput, ['hooks', hook])];
    cards.push({ ...plain, ...{ name: hook, isHook: true, call: graph.takes ? 'output' : 'hook', inputs } });
  }
  return cards;
}

/** An input as people write it. */
export function formula(input: GraphInput): string {
  if (input === null) return '';
  if (Array.isArray(input)) return `[${(input as readonly number[]).map(short).join(', ')}]`;
  if (typeof input === 'number') return short(input);
  if (typeof input !== 'object') return String(input);
  const { call, in: inputs = [] } = input as { call: string; in?: readonly GraphInput[] };
  const parts = inputs.map((one) => (isOperation(one) ? `(${formula(one)})` : formula(one)));
  if (!/^\W/.test(call) || call === '[]') return `${call}(${parts.join(', ')})`;
  return parts.length === 1 ? `${call}${parts[0]}` : parts.join(` ${call} `); // one
}

const isOperation = (input: GraphInput): boolean =>
  typeof input === 'object' &&
  input !== null &&
  'call' in input &&
  /^\W/.test(input.call) &&
  (input.in?.length ?? 0) > 1;

const short = (value: number): string => String(Number(value.toPrecision(6)));

/**
 * What is typed into an input: a number, numbers, a color, a node with or without its @, JSON.
 *
 * @returns undefined for nothing: the input's default
 */
export function typedInput(text: string, names: readonly string[]): GraphInput | undefined {
  const plain = text.trim();
  if (plain === '') return undefined;
  try {
    return JSON.parse(plain) as GraphInput;
  } catch {
    // It is a name, a color, or numbers without brackets.
  }
  if (/^-?[\d.]+(e-?\d+)?([\s,]+-?[\d.]+(e-?\d+)?){1,3}$/i.test(plain))
    return plain.split(/[\s,]+/).map(Number);
  if (plain.startsWith('@') || plain.startsWith('#')) return plain;
  const [first = ''] = plain.split('.');
  return names.includes(plain) || names.includes(first) ? `@${plain}` : plain;
}
