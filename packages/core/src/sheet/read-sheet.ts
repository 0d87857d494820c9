import { LensError } from '../errors/lens-error.js';
import { inWords } from '../errors/in-words.js';
import { check, type Found, isObject, type NamedFile } from '../json/forms.js';
import { checkNames } from './check-names.js';
import type { Sheet } from './sheet.js';
import { SHEET_FORM } from './sheet-forms.js';
import { JsonPlaces, parseJsonc } from '../json/strict-json.js';

/** Most characters of a text in which names that stand twice in one object are looked for. */
const LOOKED_THROUGH = 2_000_000;

/** Whether a file is a sheet, by its name. */
export const isSheetName = (file: string): boolean => file.endsWith('.sheet.json');

/**
 * A scene out of a text in JSON, with comments and trailing commas; checked: its form by the tables of properties, and what its
 * names mean. What other files hold is looked at when they are loaded.
 *
 * @param file its name, for messages
 * @throws LensError `sheet/json`, `sheet/version`, or what `checkSheet` finds: one by itself, several as `sheet/faults`
 */
export function readSheet(text: string, file = 'sheet'): Sheet {
  const { faults, sheet } = lookThrough(text, file);
  if (faults.length > 0) throw faultsAsOne(faults, file);
  return sheet!; // nothing is wrong
}

/** Everything that is wrong with a sheet, each with line and column, in their order. Empty: it can be read. */
export const checkSheet = (text: string, file = 'sheet'): LensError[] => lookThrough(text, file).faults;

/** A sheet as it was read. */
export interface LookedThrough {
  /** Undefined where the text is no sheet at all. */
  sheet?: Sheet;
  faults: LensError[];
  /** Other files that it names, in no order. */
  files: NamedFile[];
  places: JsonPlaces;
}

/** What `readSheet` and `gatherSheet` begin with. */
export function lookThrough(text: string, file: string): LookedThrough {
  const places = new JsonPlaces(text, file);
  const refused = (error: LensError): LookedThrough => ({ faults: [error], files: [], places });
  let json: unknown;
  try {
    json = parseJsonc(text, file, 'sheet/json');
  } catch (error) {
    if (error instanceof LensError) return refused(error);
    throw error;
  }
  if (!isObject(json) || !('sheet' in json))
    return refused(
      new LensError(
        'sheet/version',
        `${file} is ${isObject(json) ? 'no sheet: it has no "sheet"' : `${inWords(json)}, and no sheet`}`,
        { where: { file }, hint: 'A sheet begins so: { "sheet": 1, "nodes": [] }.' },
      ),
    );
  if (typeof json['sheet'] === 'number' && json['sheet'] > 1)
    return refused(
      new LensError('sheet/version', `${file} is a sheet of version ${json['sheet']}`, {
        where: places.of(['sheet']),
        hint: 'This reads version 1: take a newer version of the library.',
      }),
    );
  const { faults: found, files } = check(json, SHEET_FORM);
  checkNames(json, found);
  if (text.length < LOOKED_THROUGH)
    for (const { offset, path } of places.twice())
      found.push({
        code: 'sheet/key-twice',
        path,
        offset,
        summary: `"${path.at(-1)!}" stands twice in one object`,
        hint: 'The last one counts: take the other away.',
      });
  return { sheet: json as unknown as Sheet, faults: faultsAt(found, places), files, places };
}

/** What was found, with its places, in their order. */
export const faultsAt = (found: readonly Found[], places: JsonPlaces): LensError[] =>
  inOrder(
    found.map(
      ({ code, hint, isKey = false, offset, path, summary }) =>
        new LensError(code, summary, { hint, where: places.of(path, isKey, offset) }),
    ),
  );

/** As they stand in the file; those of one file after those of another. */
export const inOrder = (faults: readonly LensError[]): LensError[] =>
  [...faults].sort(
    ({ where: a }, { where: b }) =>
      (a.file ?? '').localeCompare(b.file ?? '') ||
      (a.line ?? 0) - (b.line ?? 0) ||
      (a.column ?? 0) - (b.column ?? 0),
  );

/** Faults that are told in one error. */
const MOST_TOLD = 30;

/** All faults as one error. */
export function faultsAsOne(faults: readonly LensError[], file: string): LensError {
  if (faults.length === 1) return faults[0]!; // one
  const more = faults.length > MOST_TOLD ? [`and ${faults.length - MOST_TOLD} more`] : [];
  const told = [...faults.slice(0, MOST_TOLD).map((fault) => fault.toString()), ...more];
  return new LensError('sheet/faults', `${faults.length} things are wrong in ${file}:\n${told.join('\n')}`, {
    cause: faults,
  });
}
