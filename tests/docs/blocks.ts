import { readdirSync, readFileSync } from 'node:fs';

/** A fenced block of a page. */
export interface Block {
  file: string;
  /** Of its first line of code. */
  line: number;
  language: string;
  text: string;
}

/** Pages that are read: the READMEs and the guides. */
export const PAGES = [
  'README.md',
  ...['core', 'lens', 'vite', 'cli'].map((name) => `packages/${name}/README.md`),
  ...readdirSync('docs')
    .filter((name) => name.endsWith('.md'))
    .map((name) => `docs/${name}`),
];

/** All fenced blocks of some languages. */
export function blocksOf(...languages: string[]): Block[] {
  return PAGES.flatMap((file) => {
    const lines = readFileSync(file, 'utf8').split('\n');
    const blocks: Block[] = [];
    let open: Block | undefined;
    lines.forEach((text, i) => {
      const fence = /^\s*```(\S*)\s*$/.exec(text);
      if (!fence) {
        if (open) open.text += `${text}\n`;
      } else if (open) {
        if (languages.includes(open.language)) blocks.push(open);
        open = undefined;
      } else open = { file, line: i + 2, language: fence[1]!, text: '' };
    });
    return blocks;
  });
}
