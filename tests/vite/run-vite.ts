import { spawn } from 'node:child_process';
import { resolve } from 'node:path';
import { seenOnce } from '../waiting.js';

export interface RunningVite {
  stop: () => void;
  /** When it has ended, with its exit code and all it printed. */
  done: Promise<{ code: number | null; text: string }>;
  /** What it has printed so far. */
  text: () => string;
}

/** Runs Vite as a process of its own in `folder`, as users do. */
export function runVite(folder: string, ...args: string[]): RunningVite {
  const child = spawn(process.execPath, [resolve('node_modules/vite/bin/vite.js'), ...args], {
    cwd: folder,
    env: { ...process.env, NODE_OPTIONS: '', NO_COLOR: '1' },
  });
  let text = '';
  child.stdout.on('data', (data: Buffer) => (text += data.toString()));
  child.stderr.on('data', (data: Buffer) => (text += data.toString()));
  return {
    stop: () => child.kill(),
    text: () => text,
    done: new Promise((end) => child.on('close', (code) => end({ code, text }))),
  };
}

/** The address a starting server prints, waited for. */
export async function addressOf(server: RunningVite): Promise<string> {
  const addressIn = (text: string): string | undefined => /http:\/\/[\d.]+:\d+/.exec(text)?.[0];
  const address = await seenOnce(
    () => addressIn(server.text()),
    (one) => one !== undefined,
  );
  if (address !== undefined) return address;
  throw new Error(`Vite serves nothing: ${server.text()}`);
}
