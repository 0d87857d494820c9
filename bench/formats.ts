/** Readers and writers of models in megabytes a second and in memory, each in a process of its own. */
import { spawnSync } from 'node:child_process';
import { closeSync, mkdtempSync, openSync, rmSync, statSync, writeFileSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { encodeToKTX2 } from 'ktx2-encoder';
import { assetFrom, geometryFrom, writeGlb } from '@umber-lens/core/engine';
import { type Row, row } from './measure.js';

/** Megabytes of the files that are made, about. `UMBER_MEGABYTES=1000` tries the largest that people have. */
const WANTED = Number(process.env['UMBER_MEGABYTES'] ?? 48);

interface Run {
  seconds: number;
  megabytes: number;
  written: number;
}

function run(how: string, file: string): Run {
  const child = spawnSync(
    process.execPath,
    ['--max-old-space-size=8000', '../node_modules/tsx/dist/cli.mjs', 'read-one.ts', how, file],
    { encoding: 'utf8' },
  );
  if (child.status !== 0) throw new Error(`${how} ${file}: ${child.stderr}`);
  return JSON.parse(child.stdout.trim().split('\n').at(-1)!) as Run;
}

/** A swell of the sea, cell by cell: two triangles each. */
const height = (x: number, z: number): number => Math.sin(x * 0.05) * Math.cos(z * 0.07);

/** Writes a file in pieces, so that those of a gigabyte can be made. */
function inPieces(file: string, write: (put: (piece: string | Uint8Array) => void) => void): string {
  const to = openSync(file, 'w');
  write((piece) => writeSync(to, typeof piece === 'string' ? new TextEncoder().encode(piece) : piece));
  closeSync(to);
  return file;
}

function obj(file: string): string {
  // 85 bytes a place, about: itself and two faces.
  const side = Math.round(Math.sqrt((WANTED * 1e6) / 85));
  return inPieces(file, (put) => {
    for (let z = 0; z < side; z++) {
      let text = '';
      for (let x = 0; x < side; x++)
        text += `v ${(x * 0.1).toFixed(4)} ${height(x, z).toFixed(6)} ${(z * 0.1).toFixed(4)}\n`;
      put(text);
    }
    for (let z = 0; z + 1 < side; z++) {
      let text = '';
      for (let x = 0; x + 1 < side; x++) {
        const a = z * side + x + 1;
        text += `f ${a} ${a + side} ${a + 1}\nf ${a + 1} ${a + side} ${a + side + 1}\n`;
      }
      put(text);
    }
  });
}

function stl(file: string): string {
  const cells = Math.round((WANTED * 1e6) / 100);
  const side = Math.round(Math.sqrt(cells));
  return inPieces(file, (put) => {
    const head = new Uint8Array(84);
    new DataView(head.buffer).setUint32(80, side * side * 2, true);
    put(head);
    for (let z = 0; z < side; z++) {
      const bytes = new Uint8Array(side * 100);
      const view = new DataView(bytes.buffer);
      for (let x = 0; x < side; x++) {
        const corner = (at: number, dx: number, dz: number): void => {
          view.setFloat32(at, (x + dx) * 0.1, true);
          view.setFloat32(at + 4, height(x + dx, z + dz), true);
          view.setFloat32(at + 8, (z + dz) * 0.1, true);
        };
        [
          [0, 0, 0, 1, 1, 0],
          [1, 0, 0, 1, 1, 1],
        ].forEach((places, k) => {
          for (let c = 0; c < 3; c++)
            corner(x * 100 + k * 50 + 12 + c * 12, places[c * 2]!, places[c * 2 + 1]!);
        });
      }
      put(bytes);
    }
  });
}

function ply(file: string): string {
  // Twelve bytes a place, and two faces of thirteen.
  const side = Math.round(Math.sqrt((WANTED * 1e6) / 38));
  return inPieces(file, (put) => {
    put(
      `ply\nformat binary_little_endian 1.0\nelement vertex ${side * side}\nproperty float x\nproperty float y\nproperty float z\nelement face ${(side - 1) ** 2 * 2}\nproperty list uchar uint vertex_indices\nend_header\n`,
    );
    for (let z = 0; z < side; z++)
      put(
        new Uint8Array(
          Float32Array.from({ length: side * 3 }, (_, i) =>
            i % 3 === 1 ? height((i / 3) | 0, z) : i % 3 === 0 ? i / 30 : z / 10,
          ).buffer,
        ),
      );
    for (let z = 0; z + 1 < side; z++) {
      const bytes = new Uint8Array((side - 1) * 26);
      const view = new DataView(bytes.buffer);
      for (let x = 0; x + 1 < side; x++) {
        const a = z * side + x;
        [a, a + side, a + 1, a + 1, a + side, a + side + 1].forEach((index, i) => {
          const at = x * 26 + (i < 3 ? 0 : 13);
          bytes[at] = 3;
          view.setUint32(at + 1 + (i % 3) * 4, index, true);
        });
      }
      put(bytes);
    }
  });
}

/** A swell as glTF of so many places a side. */
function swell(side: number): Uint8Array {
  const position = new Float32Array(side * side * 3);
  const indices = new Uint32Array((side - 1) ** 2 * 6);
  for (let i = 0; i < side * side; i++)
    position.set([(i % side) * 0.1, height(i % side, (i / side) | 0), ((i / side) | 0) * 0.1], i * 3);
  let at = 0;
  for (let z = 0; z + 1 < side; z++)
    for (let x = 0; x + 1 < side; x++) {
      const a = z * side + x;
      indices.set([a, a + side, a + 1, a + 1, a + side, a + side + 1], at);
      at += 6;
    }
  const geometry = geometryFrom({ position }, indices);
  return writeGlb(
    assetFrom('glTF', [{ name: 'swell', children: [], mesh: { primitives: [{ geometry }] } }], {}),
  );
}

async function universal(isUASTC: boolean): Promise<Uint8Array> {
  const [width, height] = [1024, 1024];
  const data = Uint8Array.from({ length: width * height * 4 }, (_, i) =>
    i % 4 === 3 ? 255 : ((i >> 2) % width) * (i % 4 === 0 ? 0.2 : 0.1) + (((i >> 6) ^ (i >> 14)) & 31),
  );
  const { log } = console;
  console.log = () => undefined;
  const options = {
    isUASTC,
    uastcLDRQualityLevel: 0,
    generateMipmap: false,
    needSupercompression: true,
    imageDecoder: () => Promise.resolve({ data, width, height }),
  };
  return encodeToKTX2(new Uint8Array(1), options).finally(() => (console.log = log));
}

export async function formats(): Promise<Row[]> {
  const folder = mkdtempSync(join(tmpdir(), 'umber-formats-'));
  const rows: Row[] = [];
  try {
    const at = (name: string): string => join(folder, name);
    const files = [obj(at('swell.obj')), ply(at('swell.ply')), stl(at('swell.stl'))];
    for (const file of files) {
      const kind = file.slice(-3);
      const megabytes = statSync(file).size / 1e6;
      const [plain, read] = [run('bytes', file), run('read', file)];
      const rate = ({ seconds }: Run): number => megabytes / seconds;
      rows.push({
        ...row(
          `${kind.toUpperCase()} of ${megabytes.toFixed(0)} MB read as a stream, against its bytes alone`,
          rate(read),
          rate(plain),
          'MB/s',
        ),
        ratio: read.seconds / plain.seconds,
      });
      rows.push(
        row(
          `${kind.toUpperCase()}: most memory beyond that of its bytes alone, against the file`,
          read.megabytes - plain.megabytes,
          megabytes,
          'MB',
        ),
      );
      if (WANTED > 200) continue;
      const write = run(`write ${kind}`, file);
      rows.push(row(`${kind.toUpperCase()} written, against reading it`, write.seconds, read.seconds, 's'));
    }
    const side = Math.round(Math.sqrt((Math.min(WANTED, 200) * 1e6) / 36));
    writeFileSync(at('swell.glb'), swell(side));
    const megabytes = statSync(at('swell.glb')).size / 1e6;
    const [plain, read] = [run('bytes', at('swell.glb')), run('read whole', at('swell.glb'))];
    rows.push({
      ...row(
        `GLB of ${megabytes.toFixed(0)} MB read, against its bytes alone`,
        megabytes / read.seconds,
        megabytes / plain.seconds,
        'MB/s',
      ),
      ratio: read.seconds / plain.seconds,
    });
    rows.push(
      row(
        'GLB: most memory beyond that of its bytes alone, against the file',
        read.megabytes - plain.megabytes,
        megabytes,
        'MB',
      ),
    );
    writeFileSync(at('small.glb'), swell(600));
    for (const [option, name] of [
      ['--draco', 'Draco'],
      ['--meshopt', 'meshopt'],
    ] as const) {
      const packed = at(`${option}.glb`);
      const made = spawnSync(
        process.execPath,
        ['../packages/cli/bin/umber.mjs', 'recast', at('small.glb'), packed, option],
        { encoding: 'utf8' },
      );
      if (made.status !== 0) throw new Error(made.stderr);
      const whole = run('read whole', packed);
      if (option === '--draco')
        rows.push(
          row(
            `GLB of 360,000 places packed by ${name} read, against the decoder alone`,
            whole.seconds,
            run('packed mesh', packed).seconds,
            's',
          ),
        );
      else
        rows.push(
          row(
            `GLB of 360,000 places packed by ${name} read, against unpacked`,
            whole.seconds,
            run('read whole', at('small.glb')).seconds,
            's',
          ),
        );
    }
    for (const isUastc of [true, false]) {
      const file = at(`${String(isUastc)}.ktx2`);
      writeFileSync(file, await universal(isUastc));
      rows.push(
        row(
          `${isUastc ? 'UASTC' : 'ETC1S'} of 1024 x 1024 decoded to pixels, against its bytes alone`,
          run('picture', file).seconds,
          run('bytes', file).seconds,
          's',
        ),
      );
    }
  } finally {
    rmSync(folder, { recursive: true });
  }
  return rows;
}
