const host = globalThis as unknown as { setTimeout(act: () => void, milliseconds: number): void };

/** Lets others have their turn: what goes on for long asks for it now and then. */
export const pause = (): Promise<void> => new Promise((resolve) => host.setTimeout(resolve, 0));
