/** Frames in which what no scene holds any more may still come back. */
const GRACE = 2;

/** Notes that a scene may have let go of something, so that what is on the GPU is only gone through when that pays. */
export class Leavings {
  private due = Infinity;
  private isNoted = false;

  /** To be called when a scene let go of a mesh, or a material of a texture. */
  note(): void {
    this.isNoted = true;
  }

  /** Whether something is left to be freed. */
  get isPending(): boolean {
    return this.isNoted || this.due < Infinity;
  }

  /** Whether it is time to free what no scene holds. To be called once a frame. */
  isDue(frame: number): boolean {
    if (this.isNoted) {
      this.isNoted = false;
      // Whoever lets go of something in every frame puts nothing off.
      this.due = Math.min(this.due, frame + GRACE);
    }
    if (frame < this.due) return false;
    this.due = Infinity;
    return true;
  }
}
