import { readFileSync } from 'node:fs';
import { umberCommand } from '../cli/run.js';
import { PAGES } from './blocks.js';

/** Every `umber ...` in blocks and in running text, with its place. */
function linesOf(page: string): { at: string; command: string; flags: string[] }[] {
  return readFileSync(page, 'utf8')
    .split('\n')
    .flatMap((text, i) =>
      [...text.matchAll(/(?:^|`)(?:npx )?umber ([a-z]+)\b([^`#|]*)/g)].map(([, command, rest]) => ({
        at: `${page}:${i + 1}`,
        command: command!, // groups of the pattern, here and below
        flags: [...rest!.matchAll(/(?<=\s)--[a-z][a-z0-9-]*/g)].map(([flag]) => flag),
      })),
    );
}

test('every command and flag that the pages name is there', async () => {
  const { out } = await umberCommand('--help');
  const commands = [...out.matchAll(/^ {2}([a-z]+) /gm)].map(([, name]) => name!);
  const lines = PAGES.flatMap(linesOf);
  expect(lines.length).toBeGreaterThan(30);
  expect(lines.filter(({ command }) => !commands.includes(command))).toEqual([]);
  const known = new Map<string, string[]>();
  for (const name of new Set(lines.map(({ command }) => command))) {
    const { out: help } = await umberCommand(name, '--help');
    known.set(
      name,
      [...help.matchAll(/--[a-z][a-z0-9-]*/g)].map(([flag]) => flag),
    );
  }
  const wrong = lines.flatMap(({ at, command, flags }) =>
    flags
      .filter((flag) => !known.get(command)!.includes(flag))
      .map((flag) => `${at}: umber ${command} ${flag}`),
  );
  expect(wrong).toEqual([]);
});
