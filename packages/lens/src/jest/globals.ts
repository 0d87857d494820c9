import type { Budget } from '@umber-lens/core/engine';
import type {} from 'expect';

/** The matchers' types for those who import `expect` from `@jest/globals`. */
declare module 'expect' {
  // eslint-disable-next-line @typescript-eslint/no-unused-vars
  interface Matchers<R extends void | Promise<void>, T = unknown> {
    /** Whether a steady frame of `{ scene, camera }` keeps within limits. */
    toKeepWithin(budget: Budget): Promise<void>;
  }
}

export * from './index.js';
