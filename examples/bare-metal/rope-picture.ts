/** A square picture of twisted rope: RGBA, top row first. */
export function ropePicture(size: number): { width: number; height: number; data: Uint8Array } {
  const color = [214, 168, 104];
  const data = new Uint8Array(size * size * 4);
  for (let y = 0; y < size; y++) {
    for (let x = 0; x < size; x++) {
      const strand = Math.abs(Math.sin(((x * 12 + y * 4) / size) * Math.PI));
      const fibre = 0.9 + 0.1 * Math.sin(((x * 90 - y * 160) / size) * Math.PI);
      for (let k = 0; k < 3; k++) data[(y * size + x) * 4 + k] = color[k]! * (0.3 + 0.7 * strand) * fibre;
      data[(y * size + x) * 4 + 3] = 255;
    }
  }
  return { width: size, height: size, data };
}
