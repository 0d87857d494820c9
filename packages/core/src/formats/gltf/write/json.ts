/** What is written of a model, before it is text. */
export type Json = Record<string, unknown>;

/** Gives each object met a number, in the order of meeting. */
export class Numbering<T extends object> {
  readonly items: T[] = [];
  private readonly index = new Map<T, number>();

  constructor(first: readonly T[] = []) {
    for (const item of first) this.of(item);
  }

  of(item: T): number {
    let at = this.index.get(item);
    if (at === undefined) {
      at = this.items.push(item) - 1;
      this.index.set(item, at);
    }
    return at;
  }

  /** Its number, or -1 when it was never met. */
  find(item: object): number {
    return this.index.get(item as T) ?? -1;
  }
}

/** Writes every item of a list that may grow while it is written. */
export function each<T extends object>(list: Numbering<T>, write: (item: T, index: number) => Json): Json[] {
  const out: Json[] = [];
  for (let i = 0; i < list.items.length; i++) out.push(write(list.items[i]!, i));
  return out;
}

export function clean(json: Json): Json {
  return Object.fromEntries(Object.entries(json).filter(([, value]) => value !== undefined));
}

export function filled<T>(list: T[]): T[] | undefined {
  return list.length > 0 ? list : undefined;
}

export function filledObject(json: Json): Json | undefined {
  return Object.keys(json).length > 0 ? json : undefined;
}

/** JSON has no infinity: what is without limit is left out. */
export function finite(value: unknown): unknown {
  return value === Infinity ? undefined : value;
}
