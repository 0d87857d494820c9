/** Where things came from that were loaded: models by their lists of nodes, pictures, panoramas, tables. */
const addresses = new WeakMap<object, string>();

/** Notes where something was loaded from, so that `writeSheet` can name it. */
export function noteAddress(thing: object, address: string): void {
  addresses.set(thing, address);
}

export const addressOf = (thing: object): string | undefined => addresses.get(thing);

/** Whether an address is of a file in a folder nearby, and neither of another host nor from the top. */
export const isLocalAddress = (address: string): boolean => !/^([a-z][a-z0-9+.-]*:|\/)/i.test(address);

/** An address as one that stands in a file: relative to it, where both are of one place. */
export function relativeAddress(address: string, file: string): string {
  const [from, to] = [file.split('/').slice(0, -1), address.split('/')];
  const isWeb = /^[a-z][a-z0-9+.-]*:\/\//i;
  // Other hosts are named in whole.
  if (isWeb.test(file) !== isWeb.test(address)) return address;
  if (isWeb.test(file) && from.slice(0, 3).join('/') !== to.slice(0, 3).join('/')) return address;
  let shared = 0;
  while (shared < from.length && shared < to.length - 1 && from[shared] === to[shared]) shared++;
  return [...from.slice(shared).map(() => '..'), ...to.slice(shared)].join('/');
}
