/** Waves of the storm: direction, length in metres, height in metres, speed. As in sea.wgsl. */
const WAVES = [
  [0.9, 0.44, 17, 0.85, 1],
  [0.66, -0.75, 11, 0.42, 1.2],
  [1, 0.1, 7.3, 0.27, 1.35],
  [0.35, 0.94, 4.9, 0.15, 1.6],
] as const;

/** Height of the sea at a place, and its slopes along X and Z. */
export function seaAt(x: number, z: number, time: number): [height: number, alongX: number, alongZ: number] {
  let [height, alongX, alongZ] = [0, 0, 0];
  for (const [dx, dz, length, high, speed] of WAVES) {
    const k = (2 * Math.PI) / length;
    const phase = (dx * x + dz * z) * k + time * speed * Math.sqrt(9.81 * k) * 0.6;
    height += high * Math.sin(phase);
    alongX += high * k * dx * Math.cos(phase);
    alongZ += high * k * dz * Math.cos(phase);
  }
  return [height, alongX, alongZ];
}
