import { spawn } from 'node:child_process';

export interface Run {
  code: number | null;
  out: string;
  err: string;
  milliseconds: number;
}

/** Runs the built command as a process of its own. */
export function umberCommand(...args: string[]): Promise<Run> {
  const start = performance.now();
  const child = spawn(process.execPath, ['packages/cli/bin/umber.mjs', ...args], {
    env: { ...process.env, NODE_OPTIONS: '' },
  });
  let [out, err] = ['', ''];
  child.stdout.on('data', (data: Buffer) => (out += data.toString()));
  child.stderr.on('data', (data: Buffer) => (err += data.toString()));
  return new Promise((done) =>
    child.on('close', (code) => done({ code, out, err, milliseconds: performance.now() - start })),
  );
}
