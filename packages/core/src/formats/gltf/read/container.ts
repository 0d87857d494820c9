import { LensError, type SourcePlace } from '../../../errors/lens-error.js';

/** The two parts of a model file before anything in them is understood. */
export interface Container {
  json: unknown;
  /** Text of the JSON, kept to find a line again. */
  text: string;
  /** The GLB's binary chunk: a view, not a copy. */
  binary?: Uint8Array;
}

const MAGIC = 0x46546c67;
const JSON_CHUNK = 0x4e4f534a;
const BIN_CHUNK = 0x004e4942;

/**
 * Splits GLB bytes (glTF 2.0, section 4) or takes plain JSON text.
 *
 * @throws LensError `gltf/empty`, `gltf/not-gltf`, `glb/...`, `gltf/json`
 */
export async function readContainer(bytes: Uint8Array, file: string): Promise<Container> {
  const where: SourcePlace = file ? { file } : {};
  if (bytes.length === 0) {
    throw new LensError('gltf/empty', 'the file is empty', {
      where,
      hint: 'Export or copy the model again.',
    });
  }
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length >= 4 && view.getUint32(0, true) === MAGIC) {
    const { text, binary } = splitGlb(view, bytes, where);
    return { json: await parseJson(text, where), text, ...(binary ? { binary } : {}) };
  }
  const first = bytes.find((b) => b !== 0x20 && b !== 0x09 && b !== 0x0a && b !== 0x0d && !BOM.includes(b));
  if (first !== 0x7b) {
    throw new LensError(
      'gltf/not-gltf',
      `this is neither glTF JSON nor GLB: it starts with ${startOf(bytes)}`,
      {
        where,
        hint: 'A .gltf file starts with "{", a .glb file with the four letters "glTF".',
      },
    );
  }
  const text = decodeText(bytes, where);
  return { json: await parseJson(text, where), text };
}

const BOM = [0xef, 0xbb, 0xbf];

function splitGlb(
  view: DataView,
  bytes: Uint8Array,
  where: SourcePlace,
): { text: string; binary?: Uint8Array } {
  if (bytes.length < 20) {
    throw new LensError('glb/truncated', `a GLB of ${bytes.length} bytes has no room for its header`, {
      where,
    });
  }
  const version = view.getUint32(4, true);
  if (version !== 2) {
    throw new LensError('glb/version', `GLB version ${version} is not known`, {
      where,
      hint: 'Only version 2 is read; export the model as glTF 2.0.',
    });
  }
  const total = view.getUint32(8, true);
  if (total > bytes.length || total < 20) {
    throw new LensError(
      'glb/length',
      `the GLB says it is ${total} bytes long, but there are ${bytes.length}`,
      {
        where,
        hint: 'The file was cut short or changed in transfer; get it again.',
      },
    );
  }
  let text: string | undefined;
  let binary: Uint8Array | undefined;
  for (let at = 12, index = 0; at < total; index++) {
    if (at + 8 > total) {
      throw new LensError('glb/chunk', `chunk ${index} starts at byte ${at} without room for its header`, {
        where,
      });
    }
    const length = view.getUint32(at, true);
    const type = view.getUint32(at + 4, true);
    if (length > total - at - 8) {
      throw new LensError(
        'glb/chunk',
        `chunk ${index} says it is ${length} bytes long, but ${total - at - 8} are left`,
        { where, hint: 'The file was cut short or its lengths are wrong; export it again.' },
      );
    }
    const chunk = bytes.subarray(at + 8, at + 8 + length);
    if (index === 0) {
      if (type !== JSON_CHUNK) {
        throw new LensError('glb/chunk', `the first chunk is of type 0x${type.toString(16)}, not JSON`, {
          where,
        });
      }
      text = decodeText(chunk, where);
    } else if (index === 1 && type === BIN_CHUNK) {
      binary = chunk;
    }
    // Chunks of other types are extensions' own and are passed over (section 4.4.1).
    at += 8 + length;
  }
  if (text === undefined) throw new LensError('glb/chunk', 'the GLB has no JSON chunk', { where });
  return { text, ...(binary ? { binary } : {}) };
}

declare class TextDecoder {
  constructor(label: string, options: { fatal: boolean });
  decode(bytes: Uint8Array): string;
}

function decodeText(bytes: Uint8Array, where: SourcePlace): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch (cause) {
    throw new LensError('gltf/utf8', 'the JSON is not valid UTF-8', { where, cause });
  }
}

async function parseJson(text: string, where: SourcePlace): Promise<unknown> {
  try {
    return JSON.parse(text) as unknown;
  } catch (cause) {
    // The engine's own message differs from engine to engine, so the place is found by a scanner
    // that is loaded only now.
    const { parse, printParseErrorCode } = await import('jsonc-parser');
    const errors: { error: number; offset: number; length: number }[] = [];
    try {
      parse(text, errors, { disallowComments: true, allowTrailingComma: false });
    } catch {
      throw new LensError('gltf/json', 'broken JSON: nested too deeply', { where, cause });
    }
    const found = errors[0];
    const offset = found?.offset ?? 0;
    const reason = found ? words(printParseErrorCode(found.error)) : 'not valid JSON';
    throw new LensError('gltf/json', `broken JSON: ${reason}`, {
      where: { ...where, ...lineAt(text, offset) },
      cause,
    });
  }
}

/** `CommaExpected` → `comma expected`. */
function words(code: string): string {
  return code.replace(/([a-z])([A-Z])/g, '$1 $2').toLowerCase();
}

/** 1-based line and column of an offset. */
export function lineAt(text: string, offset: number): { line: number; column: number } {
  const before = text.slice(0, offset).split('\n');
  return { line: before.length, column: (before[before.length - 1]?.length ?? 0) + 1 };
}

export function startOf(bytes: Uint8Array): string {
  const start = [...bytes.subarray(0, 8)];
  return start.every((b) => b >= 0x20 && b < 0x7f)
    ? JSON.stringify(String.fromCharCode(...start))
    : `bytes ${start.map((b) => b.toString(16).padStart(2, '0')).join(' ')}`;
}
