import { readBack } from './read-back.js';

/** A context that needs a while: what it was told, in order. */
function slow(
  waits: number,
  { failed = false, lost = false } = {},
): { gl: WebGL2RenderingContext; told: string[] } {
  const told: string[] = [];
  const say =
    (name: string, gives?: unknown) =>
    (...given: unknown[]): unknown => {
      told.push(name === 'readPixels' ? `readPixels ${typeof given[6]}` : name);
      return gives;
    };
  let left = waits;
  const gl = {
    ...{ TIMEOUT_EXPIRED: 1, CONDITION_SATISFIED: 2, WAIT_FAILED: 3, RGBA: 4, UNSIGNED_BYTE: 5 },
    createBuffer: say('createBuffer', {}),
    bindBuffer: () => undefined,
    bufferData: () => undefined,
    readPixels: say('readPixels'),
    fenceSync: say('fenceSync', {}),
    flush: say('flush'),
    clientWaitSync: () => (left-- > 0 ? 1 : failed ? 3 : 2),
    deleteSync: say('deleteSync'),
    isContextLost: () => lost,
    getBufferSubData: (_target: number, _offset: number, out: Uint8Array) => {
      told.push('getBufferSubData');
      out.fill(7);
    },
    deleteBuffer: say('deleteBuffer'),
  };
  return { gl: gl as unknown as WebGL2RenderingContext, told };
}

test('the page goes on until the pixels are there, and nothing is left behind', async () => {
  const { gl, told } = slow(3);
  const out = new Uint8Array(4);
  let passed = 0;
  const ticking = setInterval(() => passed++, 0);
  await readBack(gl, 1, 1, gl.UNSIGNED_BYTE, out);
  clearInterval(ticking);
  expect([...out]).toEqual([7, 7, 7, 7]);
  expect(passed).toBeGreaterThan(0);
  expect(told).toEqual([
    'createBuffer',
    'readPixels number',
    'fenceSync',
    'flush',
    'deleteSync',
    'getBufferSubData',
    'deleteBuffer',
  ]);
});

test('whoever measures has it at once', async () => {
  const { gl, told } = slow(3);
  await readBack(gl, 1, 1, gl.UNSIGNED_BYTE, new Uint8Array(4), true);
  expect(told).toEqual(['readPixels object']);
});

test.each([{ failed: true }, { lost: true }])('a context that is lost meanwhile is told: %j', async (how) => {
  const { gl, told } = slow(1, how);
  await expect(readBack(gl, 1, 1, gl.UNSIGNED_BYTE, new Uint8Array(4))).rejects.toThrow(
    'the graphics context is lost',
  );
  expect(told.at(-1)).toBe('deleteBuffer');
  expect(told).not.toContain('getBufferSubData');
});
