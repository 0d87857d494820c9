/** The twin of watch.ts for production: what was wrong has been told while developing. */
export function watchOptions(_what: string, _given: object): void {}
export function watchTable(_given: object, _table: object, _what: string, _meant?: object): void {}
export function watchIndices(_indices: ArrayLike<number>, _count: number, _name: string | undefined): void {}
export function watchNode(_given: Readonly<Record<string, unknown>>): void {}
export const watchMade = <T extends object>(made: T, _what: string, _options: object): T => made;
