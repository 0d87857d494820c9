import { Scene, type SceneNode, sphere } from '@umber-lens/core/engine';
import type { DrawOptions, Lens, RenderTarget } from 'umber-lens';

/** Half the height of what is seen of it, metres: a little room about a ball of radius 1. */
const HALF = 1.06;
const AWAY = 3;
/** CSS pixels of its side, and pixels of its picture: where there are two of them to one, it is as sharp as the rest. */
export const BALL = 104;
export const BALL_PIXELS = 208;

/** Less than what is seen of a turn, or of an intensity. */
const ALIKE = 5e-4;

/** A polished ball under the scene's image light, seen as the picture is: what turns the light is seen in it. It is drawn only where that is another. */
export class LightBall {
  /** Hears of each picture. */
  onPicture: ((picture: ImageData) => void) | undefined;
  private readonly scene = new Scene();
  private readonly camera: SceneNode;
  private target: RenderTarget | undefined;
  /** What its picture is of: the camera's matrix, intensity and turn of the light. */
  private readonly drawn = new Float64Array(18).fill(NaN);
  private readonly matrix = new Float32Array(16);
  private looks = '';
  private panorama: object | undefined;
  private isBusy = false;
  private isOver = false;

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
  follow(lens: Lens, { imageLight }: Scene, through: SceneNode, look: DrawOptions['look']): void {
    if (!imageLight || !this.onPicture || this.isBusy) return;
    const { camera, matrix: m, scene } = this;
    through.readWorldMatrix(m);
    // As it is turned, at an arm's length from the ball.
    m[12] = m[8]! * AWAY;
    m[13] = m[9]! * AWAY;
    m[14] = m[10]! * AWAY;
    const { intensity = 1, panorama, rotation = 0 } = imageLight;
    let isOther = panorama !== this.panorama;
    for (let i = 0; i < 18; i++) {
      const value = i < 16 ? m[i]! : i === 16 ? intensity : rotation; // sixteen
      if (Math.abs(value - this.drawn[i]!) < ALIKE) continue;
      this.drawn[i] = value;
      isOther = true;
    }
    const looks = JSON.stringify([look, lens.look]);
    if (!isOther && looks === this.looks) return;
    this.looks = looks;
    this.panorama = panorama;
    scene.imageLight = imageLight;
    camera.setMatrix(m);
    void this.read(lens, look);
  }

  private async read(lens: Lens, look: DrawOptions['look']): Promise<void> {
    this.isBusy = true;
    try {
      const target = (this.target ??= lens.createTarget({ width: BALL_PIXELS, height: BALL_PIXELS }));
      await lens.load(this.scene);
      if (this.isOver) return;
      lens.draw(this.scene, this.camera, {
        ...(look ? { look } : {}),
        target,
        finish: [],
        show: 'shaded',
        onDemand: false,
        renderPath: 'forward',
      });
      const bytes = await target.read();
      if (this.isOver) return;
      const picture = new ImageData(BALL_PIXELS, BALL_PIXELS);
      picture.data.set(bytes);
      this.onPicture?.(picture);
    } catch {
      // It was closed meanwhile, or the GPU was lost: the next frame looks again.
      this.again();
    } finally {
      this.isBusy = false;
      // What was loaded since it was let go of.
      if (this.isOver) lens.release(this.scene);
    }
  }

  /** Has the next frame draw it, whatever it was. */
  again(): void {
    this.drawn.fill(NaN);
  }

  dispose(lens: Lens): void {
    this.isOver = true;
    this.onPicture = undefined;
    this.target?.dispose();
    lens.release(this.scene);
  }
}
