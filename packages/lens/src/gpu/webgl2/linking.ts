import type { PendingProgram } from './shader.js';

interface ParallelCompile {
  readonly COMPLETION_STATUS_KHR: number;
}

/** Waits until the driver is done with a program, where it says when, and links it. @throws LensError of `linked` */
export async function linking(
  gl: WebGL2RenderingContext,
  { program, linked }: PendingProgram,
): Promise<void> {
  const parallel = gl.getExtension('KHR_parallel_shader_compile') as ParallelCompile | null;
  const isDone = (): boolean =>
    !parallel || (gl.getProgramParameter(program, parallel.COMPLETION_STATUS_KHR) as boolean);
  while (!isDone()) await new Promise((resolve) => setTimeout(resolve, 4));
  linked();
}
