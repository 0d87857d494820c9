import { LensError, type SourcePlace } from '../../errors/lens-error.js';
import { decodeDraco } from '../draco/decode-draco.js';
import { decodeKtx2 } from '../ktx2/decode-ktx2.js';
import { decodeMeshopt } from '../meshopt/decode-meshopt.js';
import { scatterInPieces, type ScatterRequest } from '../../scatter/scatter-request.js';
import { layOutSwarm, type OnProgress, type SwarmInput, type SwarmLayout } from '../../swarm/swarm-layout.js';

/** Work that takes long enough to be done on a thread of its own. What comes in and goes out is plain data. */
export const JOBS = {
  draco: decodeDraco,
  ktx2: decodeKtx2,
  meshopt: decodeMeshopt,
  scatter: (request: ScatterRequest, report?: OnProgress) => scatterInPieces(request, report),
  swarm: (input: SwarmInput, report?: OnProgress): Promise<SwarmLayout> =>
    Promise.resolve(layOutSwarm(input, report)),
};

export type Jobs = typeof JOBS;
export type JobName = keyof Jobs;

/** What a thread is asked. */
export interface JobRequest {
  name: JobName;
  args: unknown[];
  /** Whether it is to say how much is done, to a function behind its arguments. */
  reports?: boolean;
}

/** What it answers: errors as plain fields, since threads pass no classes on. */
export type JobAnswer =
  | { result: unknown }
  | { progress: number }
  | { error: { code?: string; message: string; hint?: string; where?: SourcePlace } };

export async function answer({ args, name, reports }: JobRequest, report: OnProgress): Promise<JobAnswer> {
  try {
    const job = JOBS[name] as (...args: unknown[]) => Promise<unknown>;
    return { result: await job(...args, ...(reports ? [report] : [])) };
  } catch (error) {
    if (error instanceof LensError) {
      const { code, hint, summary: message, where } = error;
      return { error: { code, message, ...(hint ? { hint } : {}), ...(where ? { where } : {}) } };
    }
    return { error: { message: error instanceof Error ? error.message : String(error) } };
  }
}

/** The buffers that data holds, which are handed over instead of being copied. */
export function buffersOf(data: unknown, found = new Set<ArrayBuffer>()): Set<ArrayBuffer> {
  if (ArrayBuffer.isView(data)) {
    if (data.buffer instanceof ArrayBuffer) found.add(data.buffer);
  } else if (typeof data === 'object' && data !== null) {
    for (const value of Object.values(data)) buffersOf(value, found);
  }
  return found;
}
