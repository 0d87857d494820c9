import { prepare, resolvePath } from './parse/link.js';
import { scan } from './parse/scan.js';
import type { Source } from './parse/source.js';

/** The words of a module and of what it imports: not those of comments, nor of parts that `#if` leaves out. */
export interface Words {
  /** Names that are no members. */
  names: ReadonlySet<string>;
  /** Those behind a dot. */
  members: ReadonlySet<string>;
  /** Names with the member that is asked of them, as `frame.time`. */
  pairs: ReadonlySet<string>;
  /** Names of which no member is asked where they stand. */
  whole: ReadonlySet<string>;
}

/**
 * Lists the words that a module uses. What cannot be read is left out: whoever compiles it tells why.
 *
 * @param sources texts of the modules whose words count when they are imported, by file name
 */
export function wordsOf(
  text: string,
  file: string,
  sources: Readonly<Record<string, string>> = {},
  features: readonly string[] = [],
): Words {
  const [names, members, pairs, whole] = Array.from({ length: 4 }, () => new Set<string>()) as [
    Set<string>,
    Set<string>,
    Set<string>,
    Set<string>,
  ];
  const seen = new Set<string>();
  const open: Source[] = [{ file, text }];
  for (let source = open.pop(); source; source = open.pop()) {
    if (seen.has(source.file)) continue;
    seen.add(source.file);
    try {
      const { text: code, imports } = prepare(source, features);
      for (const { from } of imports) {
        const path = sources[from] === undefined ? resolvePath(source.file, from) : from;
        const found = sources[path];
        if (found !== undefined) open.push({ file: path, text: found });
      }
      const tokens = scan({ file: source.file, text: code });
      tokens.forEach(({ kind, text: word }, i) => {
        if (kind !== 'name') return;
        if (tokens[i - 1]?.text === '.') {
          members.add(word);
          if (tokens[i - 2]?.kind === 'name') pairs.add(`${tokens[i - 2]!.text}.${word}`); // looked at
          return;
        }
        names.add(word);
        if (tokens[i + 1]?.text !== '.') whole.add(word);
      });
    } catch {
      // Its `#if` lines do not fit together, or it has a letter that is none.
    }
  }
  return { names, members, pairs, whole };
}
