/** What several may ask for at once: loaded for the first, shared by the others, and stopped when all have gone. */
export class SharedLoads<Value, News> {
  private readonly loads = new Map<string, Load<Value, News>>();

  /**
   * @param free is called when the last user of a value has released it
   */
  constructor(private readonly free: (value: Value) => void) {}

  /**
   * Joins a load or begins it.
   *
   * @param signal stops waiting, and the load too if nobody else waits
   * @param onNews hears what the load tells
   * @param start begins it, where nobody has
   */
  async join(
    key: string,
    signal: AbortSignal | undefined,
    onNews: ((news: News) => void) | undefined,
    start: (signal: AbortSignal, tell: (news: News) => void) => Promise<Value>,
  ): Promise<Value> {
    signal?.throwIfAborted();
    let load = this.loads.get(key);
    if (!load) {
      const stop = new AbortController();
      const listeners = new Set<(news: News) => void>();
      let last: News | undefined;
      const tell = (news: News): void => {
        last = news;
        for (const listener of listeners) listener(news);
      };
      const made: Load<Value, News> = {
        users: 0,
        stop,
        listeners,
        last: () => last,
        value: start(stop.signal, tell).catch((error: unknown) => {
          // It may work the next time.
          if (this.loads.get(key) === made) this.loads.delete(key);
          throw error;
        }),
      };
      // Whoever waits hears of it below.
      made.value.catch(() => undefined);
      this.loads.set(key, (load = made));
    }
    const joined = load;
    joined.users++;
    if (onNews) {
      joined.listeners.add(onNews);
      const last = joined.last();
      if (last !== undefined) onNews(last);
    }
    let leave: (() => void) | undefined;
    try {
      return await Promise.race([
        joined.value,
        new Promise<never>((_, reject) => {
          leave = () => reject(signal?.reason as Error);
          signal?.addEventListener('abort', leave, { once: true });
        }),
      ]);
    } catch (error) {
      this.leave(key, joined, error);
      throw error;
    } finally {
      if (leave) signal?.removeEventListener('abort', leave);
      if (onNews) joined.listeners.delete(onNews);
    }
  }

  /** Gives up a value that `join` gave; the last to do so has it freed. */
  release(key: string, value: Value): void {
    const load = this.loads.get(key);
    if (!load || --load.users > 0) return;
    this.loads.delete(key);
    this.free(value);
  }

  private leave(key: string, load: Load<Value, News>, reason: unknown): void {
    if (--load.users > 0) return;
    load.stop.abort(reason);
    if (this.loads.get(key) === load) this.loads.delete(key);
  }
}

interface Load<Value, News> {
  users: number;
  stop: AbortController;
  listeners: Set<(news: News) => void>;
  last: () => News | undefined;
  value: Promise<Value>;
}
