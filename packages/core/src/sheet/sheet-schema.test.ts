import { readdirSync, readFileSync } from 'node:fs';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { parseJsonc } from '../json/strict-json.js';
import { checkSheet } from './read-sheet.js';
import { sheetSchema } from './sheet-schema.js';

const validate = new Ajv2020({ strict: false, allErrors: true }).compile(sheetSchema());
const isRight = (text: string): boolean => validate(parseJsonc(text, 'test', 'test'));

describe('the schema of sheets', () => {
  test('is what is published', () => {
    const published = readFileSync(new URL('../../schema/sheet.schema.json', import.meta.url), 'utf8');
    expect(JSON.parse(published)).toEqual(JSON.parse(JSON.stringify(sheetSchema())));
  });

  test('takes the sheets of the examples', () => {
    const folder = new URL('../../../../examples/public/models/', import.meta.url);
    const sheets = readdirSync(folder).filter((name) => name.endsWith('.sheet.json'));
    expect(sheets.length).toBeGreaterThan(0);
    for (const name of sheets) {
      const text = readFileSync(new URL(name, folder), 'utf8');
      expect(checkSheet(text, name)).toEqual([]);
      expect([isRight(text), validate.errors]).toEqual([true, null]);
    }
  });

  // What a form says is refused by both; what names mean by the reader alone.
  test.each([
    ['an unknown member', '{ "sheet": 1, "node": [] }'],
    ['no version', '{ "nodes": [] }'],
    ['a word that there is not', '{ "sheet": 1, "look": { "toneMapping": "softer" } }'],
    ['a number out of range', '{ "sheet": 1, "materials": { "a": { "metallicFactor": 2 } } }'],
    ['an open end', '{ "sheet": 1, "nodes": [{ "mesh": { "shape": "sphere", "radius": 0 } }] }'],
    ['a fraction', '{ "sheet": 1, "nodes": [{ "mesh": { "shape": "sphere", "slices": 3.5 } }] }'],
    ['a shape that there is not', '{ "sheet": 1, "nodes": [{ "mesh": { "shape": "ball" } }] }'],
    ["another shape's member", '{ "sheet": 1, "nodes": [{ "mesh": { "shape": "box", "radius": 1 } }] }'],
    ['too few numbers', '{ "sheet": 1, "nodes": [{ "translation": [1, 2] }] }'],
    [
      'two words for one thing',
      '{ "sheet": 1, "nodes": [{ "degrees": [0, 0, 0], "rotation": [0, 0, 0, 1] }] }',
    ],
    [
      'a light without a type',
      '{ "sheet": 1, "nodes": [{ "children": [{ "light": { "intensity": 1 } }] }] }',
    ],
    ['an image light of nothing', '{ "sheet": 1, "imageLight": {} }'],
  ])('refuses what the reader refuses: %s', (_what, text) => {
    expect(isRight(text)).toBe(false);
    expect(checkSheet(text)).not.toEqual([]);
  });
});
