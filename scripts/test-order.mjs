import { readFileSync } from 'node:fs';
import Sequencer from '@jest/test-sequencer';

/**
 * What measures the heap goes first, while a process has little on it: what other suites left behind is let go of bit by bit, and each such
 * bit has a measurement begin anew. The rest as usual, the longest first.
 */
export default class TestOrder extends Sequencer {
  sort(tests) {
    const sorted = super.sort(tests);
    const measures = ({ path }) => /from '.*\/heap\.js'/.test(readFileSync(path, 'utf8'));
    return [...sorted.filter(measures), ...sorted.filter((test) => !measures(test))];
  }
}
