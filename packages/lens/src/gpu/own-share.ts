import type { Device } from './device.js';

interface Disposable {
  dispose(): void;
}

const CREATES = new Set<PropertyKey>([
  'createBuffer',
  'createTexture',
  'createSampler',
  'createShader',
  'createBindGroup',
  'createRenderPipeline',
  'createTimer',
]);

/**
 * A device that was handed in, for somebody who does not own it: `dispose` frees what was made through here and nothing else.
 * All else is the device itself.
 */
export function ownShareOf(device: Device): Device {
  const made = new Set<Disposable>();
  const noted = <T>(thing: T): T => {
    const one = thing as (T & Partial<Disposable>) | undefined;
    const dispose = one?.dispose;
    if (!one || typeof dispose !== 'function') return thing;
    const entry = one as T & Disposable;
    made.add(entry);
    entry.dispose = () => {
      made.delete(entry);
      dispose.call(entry);
    };
    return thing;
  };
  const own = new Map<PropertyKey, unknown>();
  own.set('dispose', () => {
    for (const thing of [...made]) thing.dispose();
  });
  return new Proxy(device, {
    get(target, name) {
      const known = own.get(name);
      if (known !== undefined) return known;
      const value: unknown = Reflect.get(target, name, target);
      if (typeof value !== 'function') return value;
      const method = value as (...given: unknown[]) => unknown;
      const bound = !CREATES.has(name)
        ? method.bind(target)
        : (...given: unknown[]): unknown => {
            const result = method.apply(target, given);
            return result instanceof Promise ? result.then(noted) : noted(result);
          };
      own.set(name, bound);
      return bound;
    },
    set: (target, name, value) => Reflect.set(target, name, value, target),
  });
}
