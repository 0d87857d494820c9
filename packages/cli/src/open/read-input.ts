import { open, readFile } from 'node:fs/promises';
import { LensError } from '@umber-lens/core/engine';
import { parse, type ParseError, printParseErrorCode } from 'jsonc-parser';

/**
 * The bytes of a file; of standard input for `-`.
 *
 * @param usedBy the model that names the file, for messages
 * @throws LensError `file/missing`, `file/folder`, `file/unreadable`
 */
export async function readInput(path: string, usedBy?: string): Promise<Uint8Array> {
  const where = { file: usedBy ?? path };
  if (path === '-' && usedBy === undefined) return readStandardInput();
  try {
    const handle = await open(path);
    try {
      if ((await handle.stat()).isDirectory()) {
        throw new LensError('file/folder', `${path} is a folder`, {
          where,
          hint: 'Name a file in it.',
        });
      }
      return await readFile(handle);
    } finally {
      await handle.close();
    }
  } catch (error) {
    if (error instanceof LensError) throw error;
    const { code } = error as NodeJS.ErrnoException;
    if (code === 'ENOENT' || code === 'ENOTDIR') {
      throw new LensError(
        'file/missing',
        usedBy ? `the model needs ${path}, which is not there` : `there is no file ${path}`,
        {
          where,
          cause: error,
          hint: usedBy
            ? 'Put it beside the model, or export the model as .glb.'
            : 'See whether the name and the folder are right.',
        },
      );
    }
    throw new LensError('file/unreadable', `${path} cannot be read (${code ?? 'unknown reason'})`, {
      where,
      cause: error,
    });
  }
}

async function readStandardInput(): Promise<Uint8Array> {
  const parts: Buffer[] = [];
  for await (const part of process.stdin) parts.push(part as Buffer);
  return new Uint8Array(Buffer.concat(parts));
}

/**
 * JSON as people write it: comments and trailing commas are read over.
 *
 * @param code of the error, `finish/json`
 * @throws LensError with line and column
 */
export function parseJson(text: string, file: string, code: string): unknown {
  const faults: ParseError[] = [];
  const json: unknown = parse(text, faults, { allowTrailingComma: true });
  const [fault] = faults;
  if (!fault) return json;
  const before = text.slice(0, fault.offset).split('\n');
  const reason = printParseErrorCode(fault.error)
    .replace(/(?<=[a-z])[A-Z]/g, (letter) => ` ${letter.toLowerCase()}`)
    .toLowerCase();
  throw new LensError(code, `${file} is no JSON: ${reason}`, {
    where: { file, line: before.length, column: before.at(-1)!.length + 1 }, // split gives one part at least
    hint: 'Comments and trailing commas are fine.',
  });
}
