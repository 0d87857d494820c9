import { LensError, type Warning } from '../../errors/lens-error.js';
import { geometryFrom } from '../../geometry/geometry.js';
import type { Material } from '../../material/material.js';
import { linearFromSrgb } from '../../math/srgb.js';
import type { Mesh } from '../../scene/components.js';
import { assetFrom, type AssetNode, type ModelAsset } from '../asset/asset.js';
import { behind, type ByteSource, piecesOf } from '../bytes/byte-source.js';
import { textOf } from '../bytes/words.js';
import { Lines } from '../bytes/lines.js';
import { StlSolid } from './solid.js';
import { StlText } from './stl-text.js';

export interface ReadStlOptions {
  /** Name for messages. */
  file?: string;
  /** Bytes of the whole file, where they come in pieces: they tell a binary file whose header lies. */
  size?: number;
}

const HEADER = 84;
const TRIANGLE = 50;

/**
 * Reads an STL file, ASCII or binary, told by its contents: a binary file may begin with "solid", but has as many bytes as
 * its number of triangles says.
 *
 * - Corners at the same place are one vertex; no normals are kept, so that faces are flat, as they are meant.
 * - Solids of ASCII files are nodes by their names.
 * - Colours by face: the two bytes behind a triangle are red, green and blue in 5 bits each, from the highest on where the
 *   header says `COLOR=` (then a set highest bit stands for that colour), and from the lowest on elsewhere (then it must be
 *   set). sRGB.
 *
 * @throws LensError `stl/truncated`, `stl/number`, `stl/word`, `stl/empty` with the line, or the byte in the message
 */
export async function readStl(source: ByteSource, options: ReadStlOptions = {}): Promise<ModelAsset> {
  const { file = '' } = options;
  const size = source instanceof Uint8Array ? source.length : options.size;
  const warnings: Warning[] = [];
  const solids: StlSolid[] = [];
  let head: Uint8Array = new Uint8Array(0);
  let sink: { push(piece: Uint8Array): void; end(): void } | undefined;
  for await (const piece of piecesOf(source)) {
    if (sink) {
      sink.push(piece);
      continue;
    }
    head = behind(head, piece);
    if (head.length < 1024 && size !== head.length) continue;
    sink = begin(head, size, file, solids, warnings);
    sink.push(head);
  }
  if (!sink) {
    sink = begin(head, head.length, file, solids, warnings);
    sink.push(head);
  }
  sink.end();
  return assetOf(solids, warnings);
}

function begin(
  head: Uint8Array,
  size: number | undefined,
  file: string,
  solids: StlSolid[],
  warnings: Warning[],
): { push(piece: Uint8Array): void; end(): void } {
  if (isText(head, size)) {
    const text = new StlText(file, solids, warnings);
    const lines = new Lines(text.take, false);
    return {
      push: (piece) => lines.push(piece),
      end: () => {
        lines.end();
        text.end();
      },
    };
  }
  return new BinaryStl(file, solids);
}

/** Whether it is ASCII: what is as long as a binary file says is one, whatever its header begins with. */
export function isText(head: Uint8Array, size: number | undefined): boolean {
  if (!/^\s*solid\b/i.test(textOf(head, 0, Math.min(head.length, 80)))) return false;
  if (head.length >= HEADER) {
    const count = new DataView(head.buffer, head.byteOffset).getUint32(80, true);
    if (size !== undefined && size === HEADER + count * TRIANGLE) return false;
  }
  // Bytes that no text has: the header lies, and the file was cut off or has something behind it.
  for (let i = 0; i < Math.min(head.length, 1024); i++) {
    const byte = head[i]!; // i < length
    if (byte === 0 || (byte < 32 && byte !== 9 && byte !== 10 && byte !== 13 && byte !== 11 && byte !== 12))
      return false;
  }
  return true;
}

/** Triangles of fifty bytes behind a header. */
class BinaryStl {
  private rest: Uint8Array = new Uint8Array(0);
  private at = 0;
  private count = -1;
  private done = 0;
  private readonly solid = new StlSolid(undefined);
  private base: number[] | undefined;
  private readonly corners = new Float32Array(9);

  constructor(
    private readonly file: string,
    solids: StlSolid[],
  ) {
    solids.push(this.solid);
  }

  push(piece: Uint8Array): void {
    const bytes = behind(this.rest, piece);
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    let at = 0;
    if (this.count < 0 && bytes.length >= HEADER) {
      this.count = view.getUint32(80, true);
      this.base = baseColor(bytes);
      at = HEADER;
    }
    if (this.count >= 0) {
      for (; this.done < this.count && at + TRIANGLE <= bytes.length; at += TRIANGLE) {
        this.take(view, at);
        this.done++;
      }
    }
    this.at += at;
    this.rest = bytes.slice(at);
    if (this.done === this.count) this.rest = new Uint8Array(0);
  }

  end(): void {
    const { count, done, file } = this;
    if (count < 0 || done < count) {
      throw new LensError(
        'stl/truncated',
        count < 0
          ? `${this.rest.length} bytes are too few for an STL file, whose header has ${HEADER}`
          : `the file ends at byte ${this.at + this.rest.length} with ${done} of ${count} triangles`,
        { where: { file }, hint: 'It was cut off: copy or load it again.' },
      );
    }
  }

  private take(view: DataView, at: number): void {
    for (let k = 0; k < 9; k++) {
      const value = view.getFloat32(at + 12 + k * 4, true);
      if (!Number.isFinite(value)) {
        throw new LensError(
          'stl/number',
          `the triangle at byte ${this.at + at} has a corner that is nowhere`,
          {
            where: { file: this.file },
            hint: 'The file is damaged.',
          },
        );
      }
      this.corners[k] = value;
    }
    const bits = view.getUint16(at + 48, true);
    const isOwn = this.base ? (bits & 0x8000) === 0 : (bits & 0x8000) !== 0;
    if (!isOwn) this.solid.add(this.corners, this.base);
    else {
      const five = (shift: number): number => linearFromSrgb(((bits >> shift) & 31) / 31);
      this.solid.add(this.corners, this.base ? [five(0), five(5), five(10)] : [five(10), five(5), five(0)]);
    }
  }
}

/** What `COLOR=` in a header says, linear. */
function baseColor(bytes: Uint8Array): number[] | undefined {
  const at = textOf(bytes, 0, 80).indexOf('COLOR=');
  // Bytes behind it are no text: they are found by bytes.
  if (at < 0) return undefined;
  for (let i = 0; i + 10 <= 80; i++) {
    if (textOf(bytes, i, i + 6) !== 'COLOR=') continue;
    return [0, 1, 2].map((k) => linearFromSrgb(bytes[i + 6 + k]! / 255)); // within the header
  }
  return undefined;
}

function assetOf(solids: readonly StlSolid[], warnings: Warning[]): ModelAsset {
  const material: Material = { metallicFactor: 0, roughnessFactor: 0.7, baseColorFactor: [0.8, 0.8, 0.8, 1] };
  const painted: Material = { metallicFactor: 0, roughnessFactor: 0.7 };
  const meshes: Mesh[] = [];
  const nodes: AssetNode[] = [];
  for (const solid of solids) {
    if (solid.isEmpty) continue;
    const { position, color0, indices } = solid.arrays();
    const { name } = solid;
    const named = name === undefined ? {} : { name };
    const geometry = geometryFrom({ position, ...(color0 ? { color0 } : {}) }, indices, named);
    const mesh: Mesh = { ...named, primitives: [{ geometry, material: color0 ? painted : material }] };
    meshes.push(mesh);
    nodes.push({ ...named, children: [], mesh });
  }
  const used = new Set(meshes.flatMap(({ primitives }) => primitives.map((primitive) => primitive.material)));
  const materials = [material, painted].filter((one) => used.has(one));
  return assetFrom('STL', nodes, { meshes, materials, warnings });
}
