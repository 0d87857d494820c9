import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { typesPath } from '@umber-lens/core/shading';

/** Writes the types of what is imported beside it; only a change, since the type checker watches these files. */
export function writeTypes(path: string, text: string): void {
  const target = typesPath(path);
  if (!existsSync(target) || readFileSync(target, 'utf8') !== text) writeFileSync(target, text);
}
