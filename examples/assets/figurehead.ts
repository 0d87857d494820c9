import {
  attributeFloats,
  attributeFrom,
  type Attribute,
  type Geometry,
  geometryFrom,
  type MorphTarget,
  withSmoothNormals,
  type WritableAsset,
} from '@umber-lens/core/engine';
import { layers } from './noise.js';

type Vec3 = [number, number, number];

/** What the face can do. */
const TARGETS = [
  'blink left',
  'blink right',
  'smile',
  'frown',
  'jaw open',
  'brows up',
  'brows down',
  'puff',
  'pucker',
] as const;
type Target = (typeof TARGETS)[number];
type Face = Partial<Record<Target, number>>;

const OAK: Vec3 = [0.52, 0.3, 0.15];
const LIPS: Vec3 = [0.36, 0.07, 0.05];
const BROWS: Vec3 = [0.12, 0.05, 0.02];
const HAIR: Vec3 = [0.42, 0.16, 0.03];
const ROBE: Vec3 = [0.03, 0.12, 0.22];
const GOLD: Vec3 = [0.66, 0.42, 0.1];
const IVORY: Vec3 = [0.72, 0.66, 0.54];
const SEA: Vec3 = [0.03, 0.2, 0.16];
const BLACK: Vec3 = [0.01, 0.01, 0.01];

/** A hill over the face: `a` across, `e` upwards, radians. */
const hill = (a: number, e: number, a0: number, e0: number, wide: number, high: number): number =>
  Math.exp(-(((a - a0) / wide) ** 2) - ((e - e0) / high) ** 2);
/** The same on both sides. */
const both = (a: number, e: number, a0: number, e0: number, wide: number, high: number): number =>
  hill(Math.abs(a), e, a0, e0, wide, high);

/** A place of the head, the beak of the ship towards +Z. */
function head(a: number, e: number, face: Face): Vec3 {
  const { smile = 0, frown = 0, puff = 0, pucker = 0 } = face;
  const up = (face['brows up'] ?? 0) - 0.8 * (face['brows down'] ?? 0);
  const jaw = face['jaw open'] ?? 0;
  const isHair = Math.abs(a) > 1.25 || e > 0.78;
  let r = 1;
  r += 0.2 * hill(a, e, 0, -0.02, 0.1, 0.2) + 0.13 * hill(a, e, 0, -0.19, 0.13, 0.08);
  r += 0.06 * both(a, e, 0.3, 0.3, 0.24, 0.07) - 0.1 * both(a, e, 0.35, 0.11, 0.18, 0.12);
  r += 0.06 * both(a, e, 0.5, -0.14, 0.22, 0.18) - 0.03 * hill(a, e, 0, -0.33, 0.3, 0.06);
  r += 0.06 * hill(a, e, 0, -0.42, 0.2, 0.045) + 0.065 * hill(a, e, 0, -0.55, 0.17, 0.05);
  r -= 0.05 * hill(a, e, 0, -0.485, 0.24, 0.02) + 0.04 * hill(a, e, 0, -0.64, 0.2, 0.05);
  r += 0.09 * hill(a, e, 0, -0.78, 0.22, 0.1);
  r += puff * 0.1 * both(a, e, 0.42, -0.38, 0.2, 0.2) + smile * 0.05 * both(a, e, 0.42, -0.22, 0.16, 0.13);
  r += pucker * 0.07 * hill(a, e, 0, -0.48, 0.14, 0.09) - jaw * 0.09 * hill(a, e, 0, -0.5, 0.16, 0.05);
  if (isHair) r += 0.06 + 0.025 * Math.sin(14 * a + 5 * Math.sin(3 * e));
  let x = 0.4 * r * Math.sin(a) * Math.cos(e);
  let y = 0.54 * r * Math.sin(e);
  const z = 0.45 * r * Math.cos(a) * Math.cos(e);
  const corner = both(a, e, 0.24, -0.48, 0.13, 0.12);
  y += (0.055 * smile - 0.05 * frown) * corner + 0.05 * up * both(a, e, 0.3, 0.32, 0.26, 0.12);
  x += Math.sign(a) * 0.03 * smile * corner;
  x *= 1 - 0.4 * pucker * hill(a, e, 0, -0.48, 0.3, 0.14);
  const below = 1 / (1 + Math.exp((e + 0.49) * 60));
  if (Math.abs(a) < 1.25) y -= 0.13 * jaw * below * Math.exp(-((a / 0.75) ** 2));
  return [x, y, z];
}

/** Parts one after the other; each knows where a vertex is for any face. */
class Carving {
  private readonly places: ((face: Face) => Vec3)[] = [];
  private readonly colors: number[] = [];
  private readonly indices: number[] = [];

  grid(
    columns: number,
    rows: number,
    place: (u: number, v: number, face: Face) => Vec3,
    color: (u: number, v: number) => Vec3,
  ): void {
    const first = this.places.length;
    for (let j = 0; j <= rows; j++)
      for (let i = 0; i <= columns; i++) {
        const [u, v] = [i / columns, j / rows];
        this.places.push((face) => place(u, v, face));
        // The grain of the wood runs upwards.
        const grain = 0.78 + 0.3 * layers(u * 0.9, v * 0.14, 24, 3, 5);
        this.colors.push(...color(u, v).map((part) => part * grain), 1);
      }
    for (let j = 0; j < rows; j++)
      for (let i = 0; i < columns; i++) {
        const a = first + j * (columns + 1) + i;
        const b = a + columns + 1;
        this.indices.push(a, a + 1, b + 1, a, b + 1, b);
      }
  }

  geometry(): Geometry {
    const at = (face: Face): Geometry =>
      withSmoothNormals(
        geometryFrom(
          { position: this.places.flatMap((place) => place(face)), color0: this.colors },
          this.indices,
        ),
      );
    const rest = at({});
    const colors = attributeFloats(rest.attributes['color0']!); // given above, as all here and below
    rest.attributes['color0'] = packed(colors, 4, 255, Uint8Array);
    rest.targets = TARGETS.map((name): MorphTarget => {
      const moved = at({ [name]: 1 });
      const by = (key: string): Float32Array => {
        const from = attributeFloats(rest.attributes[key]!);
        return attributeFloats(moved.attributes[key]!).map((value, i) => value - from[i]!);
      };
      return {
        name,
        attributes: {
          position: packed(by('position'), 3, 32767, Int16Array),
          normal: packed(
            by('normal').map((value) => Math.max(-1, Math.min(1, value))),
            3,
            127,
            Int8Array,
          ),
        },
      };
    });
    return rest;
  }
}

/** Whole numbers that stand for -1 to 1, each vertex on four bytes. */
function packed(
  values: Float32Array,
  components: 3 | 4,
  most: number,
  kind: typeof Uint8Array | typeof Int8Array | typeof Int16Array,
): Attribute {
  const width = kind.BYTES_PER_ELEMENT * components;
  const byteStride = Math.ceil(width / 4) * 4;
  const count = values.length / components;
  const step = byteStride / kind.BYTES_PER_ELEMENT;
  const array = new kind(count * step);
  for (let i = 0; i < count; i++)
    for (let k = 0; k < components; k++) array[i * step + k] = Math.round(values[i * components + k]! * most);
  return {
    ...attributeFrom(values, components),
    bytes: new Uint8Array(array.buffer),
    componentType: kind === Uint8Array ? 'u8' : kind === Int8Array ? 'i8' : 'i16',
    normalized: true,
    byteStride,
  };
}

function carve(): Geometry {
  const carving = new Carving();
  const across = (u: number): number => {
    // Finer in front than behind.
    const s = u * 2 - 1;
    return Math.PI * (0.45 * s + 0.55 * s ** 3);
  };
  const upwards = (v: number): number => (v - 0.5) * Math.PI * 0.998;
  carving.grid(
    46,
    46,
    (u, v, face) => head(across(u), upwards(v), face),
    (u, v) => {
      const [a, e] = [across(u), upwards(v)];
      if (Math.abs(a) > 1.25 || e > 0.78) return HAIR;
      if (hill(a, e, 0, -0.485, 0.23, 0.085) > 0.45) return LIPS;
      if (both(a, e, 0.31, 0.32, 0.22, 0.045) > 0.5) return BROWS;
      return OAK;
    },
  );
  for (const [side, name] of [
    [-1, 'blink right'],
    [1, 'blink left'],
  ] as const)
    eye(carving, side, name);
  // Neck and shoulders under a robe with a golden hem, and a scroll towards the ship.
  carving.grid(
    20,
    9,
    (u, v) => {
      const angle = u * Math.PI * 2;
      const flare = 0.19 + 0.42 * v ** 2.2 + 0.02 * Math.sin(angle * 9) * v;
      return [
        flare * 1.15 * Math.sin(angle),
        -0.38 - 0.75 * v,
        flare * 0.8 * Math.cos(angle) - 0.08 - 0.12 * v,
      ];
    },
    (_, v) => (v < 0.3 ? OAK : v < 0.4 ? GOLD : ROBE),
  );
  return carving.geometry();
}

function eye(carving: Carving, side: 1 | -1, blink: Target): void {
  const center: Vec3 = [side * 0.137, 0.06, 0.345];
  const on = (r: number, lateral: number, upward: number): Vec3 => [
    center[0] + r * Math.sin(lateral),
    center[1] + r * Math.cos(lateral) * Math.sin(upward),
    center[2] + r * Math.cos(lateral) * Math.cos(upward),
  ];
  // Finer where the iris is.
  const span = (t: number): number => (t - 0.5) * 1.4 + (t - 0.5) ** 3 * 6.4;
  carving.grid(
    20,
    20,
    (u, v) => on(0.07, span(u), span(v)),
    (u, v) => {
      const off = Math.hypot(span(u), span(v));
      return off < 0.28 ? BLACK : off < 0.6 ? SEA : IVORY;
    },
  );
  for (const [open, closed, far] of [
    [0.45, -0.35, 1.75],
    [-0.5, -0.36, -1.6],
  ] as const)
    carving.grid(
      10,
      4,
      (u, v, face) => {
        const edge = open + (closed - open) * (face[blink] ?? 0);
        const t = open > 0 ? v : 1 - v;
        return on(0.084, (u - 0.5) * 2.9, edge + (far - edge) * t);
      },
      () => OAK,
    );
}

/** A carved face from the bow of a ship, with nine morph targets. */
export function figurehead(): WritableAsset {
  return {
    generator: 'Umber Lens demo assets',
    nodes: [
      {
        name: 'figurehead',
        children: [],
        mesh: {
          name: 'figurehead',
          primitives: [
            {
              geometry: carve(),
              material: { name: 'painted oak', metallicFactor: 0, roughnessFactor: 0.55, doubleSided: true },
            },
          ],
          weights: TARGETS.map(() => 0),
        },
      },
    ],
  };
}
