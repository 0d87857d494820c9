import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { PAGES } from './blocks.js';

/** As anchors are made of headings. */
const anchorOf = (heading: string): string =>
  heading
    .toLowerCase()
    .replace(/[`*]/g, '')
    .replace(/[^\p{L}\p{N}\s-]/gu, '')
    .trim()
    .replace(/\s/g, '-');

test('every link between the pages leads somewhere, also to a heading', () => {
  const decisions = readdirSync('docs/decisions').map((file) => `docs/decisions/${file}`);
  const pages = [...PAGES, ...decisions, 'ARCHITECTURE.md', 'CONTRIBUTING.md', 'CHANGELOG.md'];
  const dead: string[] = [];
  let links = 0;
  for (const page of pages) {
    const text = readFileSync(page, 'utf8').replace(/```[^]*?```/g, '');
    for (const [, to] of text.matchAll(/\]\(([^)\s]+)\)/g)) {
      if (/^[a-z]+:/.test(to!)) continue; // a group of the pattern, here and below
      links++;
      const [path, anchor] = to!.split('#');
      const file = path ? join(dirname(page), path) : page;
      if (!existsSync(file)) dead.push(`${page}: ${to!}`);
      else if (anchor) {
        const headings = [...readFileSync(file, 'utf8').matchAll(/^#+ (.*)$/gm)].map(([, title]) =>
          anchorOf(title!),
        );
        if (!headings.includes(anchor)) dead.push(`${page}: ${to!}`);
      }
    }
  }
  expect(links).toBeGreaterThan(30);
  expect(dead).toEqual([]);
});
