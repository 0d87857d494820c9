import { Scene, type SceneNode, sphere } from '@umber-lens/core/engine';
import type { DrawOptions, Lens } from 'umber-lens';

/** Half the height of what is seen of it, metres: a little room about a ball of radius 1. */
const HALF = 1.06;
const AWAY = 3;

/** Where it stands, CSS pixels, in the corner that the live picture has while something is chosen. */
export const BALL_PLACE = { x: 16, y: 58, width: 104, height: 104 };

/** A polished ball under the scene's image light, seen as the picture is: what turns the light is seen in it. */
export class LightBall {
  private readonly scene = new Scene();
  private readonly camera: SceneNode;

  constructor() {
    this.scene.createNode({
      mesh: {
        geometry: sphere({ radius: 1 }),
        material: { baseColorFactor: [0.94, 0.9, 0.84, 1], metallicFactor: 1, roughnessFactor: 0.16 },
      },
    });
    this.camera = this.scene.createNode({
      camera: { type: 'orthographic', xmag: HALF, ymag: HALF, znear: 0.1, zfar: 10 },
    });
  }

  /** @param through what the picture is seen through */
  draw(lens: Lens, { imageLight }: Scene, through: SceneNode, options: DrawOptions): void {
    if (!imageLight) return;
    const { camera, scene } = this;
    scene.imageLight = imageLight;
    const m = through.readWorldMatrix(new Float32Array(16));
    // As it is turned, at an arm's length from the ball.
    m[12] = m[8]! * AWAY;
    m[13] = m[9]! * AWAY;
    m[14] = m[10]! * AWAY;
    camera.setMatrix(m);
    lens.drawPast(scene, camera, options);
  }

  dispose(lens: Lens): void {
    lens.release(this.scene);
  }
}
