#!/usr/bin/env node
// The command's entry: it is in the repository as it stands, so that installing links it, also before the build.
import { existsSync } from 'node:fs';

const built = new URL('../dist/command/umber.js', import.meta.url);
if (existsSync(built)) await import(built.href);
else {
  console.error('umber is not built yet: run "npm run build" in its repository first.');
  process.exitCode = 1;
}
