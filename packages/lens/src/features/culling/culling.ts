/** What is left out before it is drawn, and who finds it out. Its members may be written to at any time. */
export interface Culling {
  /**
   * Looks at scenes of 16,384 things and more cluster by cluster, so that what stays outside of the view costs nothing. The
   * clusters are made in the background (`treeMilliseconds`) and follow what moves; where more than a quarter moves, things
   * are looked at one by one. Default true.
   */
  clusters?: boolean;
  /**
   * Leaves out what stands wholly behind opaque things, on WebGPU, where the render path is `forward`. What was seen in the frame
   * before is drawn first; what that hides is found out on the GPU, and the rest is drawn then: nothing comes late, however
   * fast the camera turns. Pays where much is hidden by much; costs a second pass and a pyramid of depths. Default false.
   */
  occlusion?: boolean;
  /**
   * Has the GPU choose tiles, levels and counts of swarms, on WebGPU: the script's cost follows the number of swarms then
   * instead of that of their tiles. The picture is the same. Default false; `occlusion` brings it along.
   */
  gpu?: boolean;
}

/** Figures of what the GPU chose for the last frame. */
export interface CullingStats {
  /** Instances that were drawn, of those that were in view: swarms besides. */
  instances: number;
  inView: number;
  /** Instances of swarms that were drawn, some of them perhaps only to find that they are too small. */
  swarmInstances: number;
  triangles: number;
}
