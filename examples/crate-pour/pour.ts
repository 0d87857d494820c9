import RAPIER from '@dimforge/rapier3d-compat';

/** Half a crate's side, metres. */
export const HALF = 0.31;
/** Where the net hangs, metres. */
export const NET = 6.5;
/** The quay: its middle and half its size, metres. */
export const QUAY = { middle: [0, 0.5, 0], half: [4.5, 0.5, 2.6] } as const;

const STEP = 1 / 60;
/** Steps at the most for one picture: a slow page falls behind instead of standing still. */
const MOST_STEPS = 4;

/** Crates as rigid bodies, poured on the quay; what falls into the sea is poured again. */
export class Pour {
  /** Affine 3x4 by rows, a crate each, as `setWorldTransforms` takes them. */
  readonly transforms: Float32Array;
  private readonly world: RAPIER.World;
  private readonly bodies: RAPIER.RigidBody[] = [];
  private time = 0;
  private poured = 0;

  static async begin(count: number): Promise<Pour> {
    await RAPIER.init();
    return new Pour(count);
  }

  private constructor(private readonly count: number) {
    this.transforms = new Float32Array(count * 12);
    const world = (this.world = new RAPIER.World({ x: 0, y: -9.81, z: 0 }));
    world.timestep = STEP;
    const [x, y, z] = QUAY.middle;
    const quay = RAPIER.ColliderDesc.cuboid(...QUAY.half).setTranslation(x, y, z);
    world.createCollider(quay.setFriction(0.8));
    // They wait out of sight until they are poured.
    for (let i = 0; i < count; i++) {
      const body = world.createRigidBody(RAPIER.RigidBodyDesc.dynamic().setTranslation(0, -50 - i, 0));
      world.createCollider(
        RAPIER.ColliderDesc.cuboid(HALF, HALF, HALF).setDensity(160).setFriction(0.6),
        body,
      );
      body.setEnabled(false);
      this.bodies.push(body);
    }
    world.createCollider(
      RAPIER.ColliderDesc.cuboid(8, 0.2, 8)
        .setTranslation(0, NET + 0.2, 0)
        .setFriction(0.9),
    );
    this.write();
  }

  /** Metres a second squared, upwards. */
  set gravity(up: number) {
    this.world.gravity = { x: 0, y: up, z: 0 };
    for (const body of this.bodies) body.wakeUp();
  }

  /** How many still move. */
  get awake(): number {
    return this.bodies.filter((body) => body.isEnabled() && !body.isSleeping()).length;
  }

  /** Gives a crate a push. @param way metres a second */
  push(crate: number, way: readonly [number, number, number]): void {
    this.bodies[crate]?.setLinvel({ x: way[0], y: way[1], z: way[2] }, true);
  }

  /**
   * Goes on to a time in equal steps.
   *
   * @param mayFallBehind whether a long time may be cut short
   */
  advance(to: number, mayFallBehind: boolean): void {
    if (mayFallBehind) this.time = Math.max(this.time, to - MOST_STEPS * STEP);
    for (; this.time + STEP <= to; this.time += STEP) {
      // Sixteen a second.
      if (this.poured < this.count && Math.floor(this.time * 16) > this.poured) this.drop(this.poured++);
      this.world.step();
      this.bodies.forEach((body, i) => {
        if (body.isEnabled() && body.translation().y < -2) this.drop(i);
      });
    }
    this.write();
  }

  private drop(number: number): void {
    const own = (k: number): number => ((number + 1) * k) % 1;
    const body = this.bodies[number]!; // one of them
    const [x, z] = [own(0.618034) * 2.6 - 1.3, own(0.754878) * 1.8 - 0.9];
    body.setTranslation({ x, y: 4.2 + own(0.569841) * 1.4, z }, false);
    const turn = own(0.414214) * Math.PI;
    body.setRotation(
      { x: Math.sin(turn) * 0.5, y: Math.sin(turn) * 0.7, z: Math.sin(turn) * 0.5, w: Math.cos(turn) },
      false,
    );
    body.setLinvel({ x: 0, y: -1, z: 0 }, false);
    body.setAngvel({ x: own(0.3) - 0.5, y: own(0.7) - 0.5, z: own(0.9) - 0.5 }, false);
    body.setEnabled(true);
    body.wakeUp();
  }

  private write(): void {
    const { bodies, transforms } = this;
    for (let i = 0; i < bodies.length; i++) {
      const { x: tx, y: ty, z: tz } = bodies[i]!.translation(); // i < length, here and below
      const { x, y, z, w } = bodies[i]!.rotation();
      const at = i * 12;
      transforms[at] = 1 - 2 * (y * y + z * z);
      transforms[at + 1] = 2 * (x * y - w * z);
      transforms[at + 2] = 2 * (x * z + w * y);
      transforms[at + 3] = tx;
      transforms[at + 4] = 2 * (x * y + w * z);
      transforms[at + 5] = 1 - 2 * (x * x + z * z);
      transforms[at + 6] = 2 * (y * z - w * x);
      transforms[at + 7] = ty;
      transforms[at + 8] = 2 * (x * z - w * y);
      transforms[at + 9] = 2 * (y * z + w * x);
      transforms[at + 10] = 1 - 2 * (x * x + y * y);
      transforms[at + 11] = tz;
    }
  }
}
