import {
  type AssetNode,
  attributeFloats,
  attributeFrom,
  type Geometry,
  geometryFrom,
  type Material,
  withSmoothNormals,
} from '@umber-lens/core/engine';

type Vec3 = [number, number, number];
export type Place = (u: number, v: number) => Vec3;
/** Which joints hold a place, with their shares. */
export type Hold = (p: Vec3) => [joint: number, share: number][];

/** Vertices of all parts in one list. */
export class JointedShape {
  private readonly position: number[] = [];
  private readonly color: number[] = [];
  private readonly joints: number[] = [];
  private readonly weights: number[] = [];
  private readonly indices: number[] = [];

  grid(columns: number, rows: number, place: Place, color: (p: Vec3) => Vec3, hold: Hold): void {
    const first = this.position.length / 3;
    for (let j = 0; j <= rows; j++)
      for (let i = 0; i <= columns; i++) {
        const p = place(i / columns, j / rows);
        this.position.push(...p);
        this.color.push(...color(p), 1);
        const held = wholeShares(hold(p));
        for (let k = 0; k < 4; k++) {
          this.joints.push(held[k]?.[0] ?? 0);
          this.weights.push(held[k]?.[1] ?? 0);
        }
      }
    for (let j = 0; j < rows; j++)
      for (let i = 0; i < columns; i++) {
        const a = first + j * (columns + 1) + i;
        const b = a + columns + 1;
        this.indices.push(a, b, b + 1, a, b + 1, a + 1);
      }
  }

  geometry(): Geometry {
    const { position, color, joints, weights } = this;
    const arrays = { position, color0: color, joints0: joints, weights0: weights };
    const geometry = withSmoothNormals(geometryFrom(arrays, this.indices));
    // A byte each will do for colours and joints.
    geometry.attributes['joints0'] = bytes(geometry, 'joints0', 1, false);
    geometry.attributes['weights0'] = bytes(geometry, 'weights0', 1, true);
    geometry.attributes['color0'] = bytes(geometry, 'color0', 255, true);
    return geometry;
  }
}

/** Each joint once, with shares of 255 that are whole and come to 255; those of none are left out. */
function wholeShares(held: ReturnType<Hold>): [joint: number, share: number][] {
  const shares = new Map<number, number>();
  for (const [joint, share] of held) shares.set(joint, (shares.get(joint) ?? 0) + share);
  const sum = [...shares.values()].reduce((a, b) => a + b, 0);
  const whole = [...shares]
    .map(([joint, share]): [number, number] => [joint, Math.round((share / sum) * 255)])
    .filter(([, share]) => share > 0)
    .sort((a, b) => b[1] - a[1]);
  // What rounding gave or took goes to the largest.
  whole[0]![1] += 255 - whole.reduce((a, [, share]) => a + share, 0); // a place is held by something
  return whole;
}

function bytes(
  geometry: Geometry,
  name: string,
  factor: number,
  normalized: boolean,
): Geometry['attributes'][string] {
  const values = attributeFloats(geometry.attributes[name]!); // given above
  const packed = Uint8Array.from(values, (value) => Math.round(value * factor));
  const plain = attributeFrom(values, 4);
  return { ...plain, bytes: packed, componentType: 'u8', normalized, byteStride: 4 };
}

/** A tube along Z of elliptic cross-sections. */
export const tube =
  (sections: readonly [z: number, y: number, rx: number, ry: number][]): Place =>
  (u, v) => {
    const at = v * (sections.length - 1);
    const i = Math.min(sections.length - 2, Math.floor(at));
    const t = at - i;
    const [z, y, rx, ry] = sections[i]!.map((low, k) => low + (sections[i + 1]![k]! - low) * t) as [
      number,
      number,
      number,
      number,
    ];
    const angle = u * Math.PI * 2;
    return [rx * Math.cos(angle), y + ry * Math.sin(angle), z];
  };

/** A joint with the joint that it hangs on, which comes before it, and its place at rest. */
export type Joint = [name: string, parent: string | undefined, at: Vec3];

/** A skeleton, and a node whose mesh it holds. */
export function jointed(
  name: string,
  table: readonly Joint[],
  body: string,
  geometry: Geometry,
  material: Material,
): {
  joints: AssetNode[];
  nodes: ReadonlyMap<string, AssetNode>;
  skin: NonNullable<AssetNode['skin']>;
  skinned: AssetNode;
} {
  const nodes = new Map<string, AssetNode>();
  for (const [joint, parent, at] of table) {
    const up = table.find(([known]) => known === parent)?.[2] ?? [0, 0, 0];
    const node: AssetNode = { name: joint, children: [], translation: at.map((v, k) => v - up[k]!) as Vec3 };
    nodes.set(joint, node);
    if (parent !== undefined) nodes.get(parent)!.children.push(node); // parents come first
  }
  const joints = table.map(([joint]) => nodes.get(joint)!); // entered above
  const inverseBindMatrices = Float32Array.from(
    table.flatMap(([, , at]) => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, ...at.map((v) => -v), 1]),
  );
  const skin = { name, joints, inverseBindMatrices };
  const mesh = { name, primitives: [{ geometry, material: { name: body, ...material } }] };
  return { joints, nodes, skin, skinned: { name: body, children: [], mesh, skin } };
}
