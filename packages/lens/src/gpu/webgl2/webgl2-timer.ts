import type { DeviceTimer } from '../device.js';

export interface DisjointTimer {
  readonly TIME_ELAPSED_EXT: number;
  readonly GPU_DISJOINT_EXT: number;
}

/** Milliseconds, about, after which a result is given up. */
const MOST_POLLS = 2000;

/** One query around a pass, by EXT_disjoint_timer_query_webgl2. */
export class Webgl2Timer implements DeviceTimer {
  readonly kind = 'timer';
  private readonly query: WebGLQuery;
  private wasUsed = false;

  constructor(
    private readonly gl: WebGL2RenderingContext,
    private readonly extension: DisjointTimer,
    readonly label: string,
  ) {
    this.query = gl.createQuery();
  }

  begin(): void {
    this.wasUsed = true;
    this.gl.beginQuery(this.extension.TIME_ELAPSED_EXT, this.query);
  }

  end(): void {
    this.gl.endQuery(this.extension.TIME_ELAPSED_EXT);
  }

  async milliseconds(): Promise<number | undefined> {
    const { gl } = this;
    if (!this.wasUsed) return undefined;
    gl.flush();
    // Results come between tasks of the page; some drivers never give one.
    const isDone = (): boolean => gl.getQueryParameter(this.query, gl.QUERY_RESULT_AVAILABLE) as boolean;
    for (let polls = 0; !gl.isContextLost() && !isDone(); polls++) {
      if (polls === MOST_POLLS) return undefined;
      await new Promise((resolve) => setTimeout(resolve, 1));
    }
    if (gl.isContextLost() || gl.getParameter(this.extension.GPU_DISJOINT_EXT)) return undefined;
    return (gl.getQueryParameter(this.query, gl.QUERY_RESULT) as number) / 1e6;
  }

  dispose(): void {
    this.gl.deleteQuery(this.query);
  }
}
