import { checkWgsl, formatFinding } from '@umber-lens/core/engine';
import { checkHooks, holdsHooks, LIBRARY, PRELUDE } from '@umber-lens/core/shading';
import { blocksOf } from './blocks.js';

/** Modules that blocks import, as they stand elsewhere in the guides. */
const SOURCES = {
  './noise.wgsl': 'fn noise(p: vec3f) -> f32 { return fract(p.x); }',
};

test('every block of WGSL in the README and the guides is right', () => {
  const faults = blocksOf('wgsl').flatMap(({ file, line, text }) => {
    // What a block leaves out is no fault of it.
    const whole = text.replace(/\{ \.\.\. \}/g, (_, at: number) => bodyFor(text.slice(0, at)));
    const found = holdsHooks(whole, file)
      ? checkHooks(whole, { file, sources: SOURCES })
      : checkWgsl(whole, { file, sources: { ...LIBRARY, ...SOURCES }, prelude: PRELUDE });
    return found
      .filter(({ severity }) => severity === 'error')
      .map((finding) => `${file}:${line + finding.line - 1} ${formatFinding(finding)}`);
  });
  expect(faults).toEqual([]);
});

/** A body that gives back what the function before it promises. */
function bodyFor(before: string): string {
  const type = /->\s*(?:@\w+(?:\([^)]*\))?\s*)*([\w<>]+)\s*$/.exec(before)?.[1];
  return type ? `{ var out: ${type}; return out; }` : '{ }';
}
