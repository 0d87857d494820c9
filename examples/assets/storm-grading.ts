/** Evening in bad weather, as a `.cube` file: cold shadows, warm lights, the dark a little darker. */
export function stormGrading(): string {
  const size = 9;
  const lines = ['TITLE "storm"', `LUT_3D_SIZE ${size}`];
  // Red goes first.
  for (let b = 0; b < size; b++)
    for (let g = 0; g < size; g++)
      for (let r = 0; r < size; r++) {
        const given = [r, g, b].map((part) => part / (size - 1));
        const light = given[0]! * 0.2126 + given[1]! * 0.7152 + given[2]! * 0.0722;
        const warm = light * light * (3 - 2 * light);
        const graded = [0.94 + 0.14 * warm, 0.99 + 0.02 * warm, 1.12 - 0.2 * warm].map((tint, k) => {
          const part = given[k]! * tint;
          return Math.min(1, Math.max(0, part * (0.82 + 0.3 * part)) ** 0.95);
        });
        lines.push(graded.map((part) => part.toFixed(4)).join(' '));
      }
  return `${lines.join('\n')}\n`;
}
