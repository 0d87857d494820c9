import { readCube } from './read-cube.js';

const IDENTITY = `TITLE "none"
# a comment
LUT_3D_SIZE 2
DOMAIN_MIN 0 0 0
DOMAIN_MAX 1 1 1

0 0 0
1 0 0
0 1 0
1 1 0
0 0 1
1 0 1
0 1 1
1 1 1
`;

test('a table in three dimensions', () => {
  const { size, colors } = readCube(IDENTITY.replace(/\n/g, '\r\n'));
  expect(size).toBe(2);
  expect([...(colors as Float32Array)].slice(0, 9)).toEqual([0, 0, 0, 1, 0, 0, 0, 1, 0]);
});

test('curves of single channels become a table', () => {
  const { size, colors } = readCube('LUT_1D_SIZE 3\n0 0 1\n.25 0.5 0.5\n1 1 0\n');
  const at = (r: number, g: number, b: number): number[] => {
    const first = ((b * size + g) * size + r) * 3;
    return [colors[first]!, colors[first + 1]!, colors[first + 2]!];
  };
  expect(at(16, 16, 16)).toEqual([0.25, 0.5, 0.5]);
  expect(at(8, 0, 32)).toEqual([0.125, 0, 0]);
});

test.each([
  ['', /says no LUT_3D_SIZE/],
  ['LUT_3D_SIZE 1', /LUT_3D_SIZE is 1/],
  ['LUT_3D_SIZE 2\n0 0 0', /has 1 colors/],
  ['LUT_3D_SIZE 2\n0 0', /"0 0" is no color/],
  ['LUT_3D_SIZE 2\n0 0 red', /"0 0 red" is no color/],
  ['DOMAIN_MAX 4 4 4', /DOMAIN_MAX is 4 4 4/],
])('%j is refused with its line', (text, said) => {
  expect(() => readCube(text, 'dusk.cube')).toThrow(said);
});
