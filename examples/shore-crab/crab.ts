import { castRay, Motion, twoBoneIk, type Scene, type SceneNode } from 'umber-lens';

type Vec3 = [number, number, number];

/** Metres a second, sideways. */
const SPEED = 0.14;
/** Seconds that a leg is in the air. */
const STEP = 0.17;
/** Metres that a foot is lifted. */
const LIFT = 0.022;
/** Metres from a foot's place to where it ought to be, at which it is set anew. */
const STRAY = 0.014;
/** Metres from the shell's middle to the ground. */
const CLEARANCE = 0.034;

interface Leg {
  hip: SceneNode;
  knee: SceneNode;
  tip: SceneNode;
  /** Where the foot is when the crab stands, from the shell's middle. */
  home: Vec3;
  /** Two groups of four take turns. */
  group: number;
  at: Vec3;
  from: Vec3;
  to: Vec3;
  /** Share of the step that is done; 1 on the ground. */
  t: number;
}

/** A crab that walks sideways to where it is told, its feet set down one group after the other, wherever the ground is. */
export class Crab {
  /** Metres that all its feet went so far. */
  steps = 0;
  private goal: readonly [x: number, z: number];
  private x = 0;
  private z = 0;
  private y = CLEARANCE;
  private heading = 0;
  private speed = 0;
  private group = 0;
  private readonly legs: Leg[] = [];
  private readonly motion: Motion;

  /** @param ground what it walks on */
  constructor(
    private readonly scene: Scene,
    readonly node: SceneNode,
    private readonly ground: (node: SceneNode) => boolean,
  ) {
    this.goal = [0, 0];
    this.motion = new Motion(node);
    this.motion.play('idle');
    scene.update();
    for (const [side, s] of [
      ['left', -1],
      ['right', 1],
    ] as const)
      for (let i = 1; i <= 4; i++) {
        const joint = (name: string): SceneNode => node.find(`${side} ${name} ${i}`)!; // the model has them
        const tip = joint('tip');
        const [x, , z] = tip.readWorldPosition([0, 0, 0]);
        const home: Vec3 = [x * 0.92, -CLEARANCE, z];
        this.legs.push({
          hip: joint('hip'),
          knee: joint('knee'),
          tip,
          home,
          group: (i + (s > 0 ? 1 : 0)) % 2,
          at: this.onGround(home[0], home[2]),
          from: [0, 0, 0],
          to: [0, 0, 0],
          t: 1,
        });
      }
    this.pose();
  }

  get isWalking(): boolean {
    return this.speed > 0.01;
  }

  /** Metres that are left. */
  get wayLeft(): number {
    return Math.hypot(this.goal[0] - this.x, this.goal[1] - this.z);
  }

  walkTo(x: number, z: number): void {
    this.goal = [x, z];
  }

  /** Lifts the claws against whatever comes near, or puts them down again. */
  threaten(isAngry: boolean): void {
    this.motion.crossFade(isAngry ? 'threaten' : 'idle', { fade: 0.3 });
  }

  step(delta: number): void {
    const way = [this.goal[0] - this.x, this.goal[1] - this.z] as const;
    const distance = Math.hypot(...way);
    // Whichever side is nearer to the way goes first.
    const wanted = Math.atan2(-way[1], way[0]);
    let turn = distance > 0.02 ? wanted - this.heading : 0;
    turn -= Math.round(turn / Math.PI) * Math.PI;
    this.heading += Math.max(-1.6 * delta, Math.min(1.6 * delta, turn));
    const most = Math.min(SPEED, Math.sqrt(0.5 * distance)) * Math.max(0, Math.cos(turn * 1.6));
    this.speed += (Math.min(most, distance / Math.max(delta, 1e-3)) - this.speed) * Math.min(1, delta * 8);
    const share = distance > 1e-4 ? (this.speed * delta) / distance : 0;
    const moved: [number, number] = [way[0] * Math.min(1, share), way[1] * Math.min(1, share)];
    this.x += moved[0];
    this.z += moved[1];
    const velocity = delta > 0 ? ([moved[0] / delta, moved[1] / delta] as const) : ([0, 0] as const);
    this.setFeet(velocity, delta);
    this.motion.update(delta);
    this.pose();
  }

  /** Lifts the feet of the group whose turn it is, where they have strayed; the others carry. */
  private setFeet(velocity: readonly [number, number], delta: number): void {
    const { legs } = this;
    const isCarried = legs.every(({ t }) => t >= 1);
    if (isCarried) {
      const strays = [0, 1].map((group) =>
        Math.max(...legs.filter((leg) => leg.group === group).map((leg) => this.strayOf(leg))),
      );
      if (strays[this.group]! < STRAY && strays[1 - this.group]! > STRAY) this.group = 1 - this.group;
      if (strays[this.group]! > STRAY) {
        for (const leg of legs) if (leg.group === this.group) this.lift(leg, velocity);
        this.group = 1 - this.group;
      }
    }
    for (const leg of legs) {
      if (leg.t >= 1) continue;
      leg.t = Math.min(1, leg.t + delta / STEP);
      const s = leg.t * leg.t * (3 - 2 * leg.t);
      for (let k = 0; k < 3; k++) leg.at[k] = leg.from[k]! + (leg.to[k]! - leg.from[k]!) * s;
      leg.at[1] += LIFT * 4 * leg.t * (1 - leg.t);
    }
  }

  private lift(leg: Leg, velocity: readonly [number, number]): void {
    const [x, z] = this.homeOf(leg);
    leg.from = [...leg.at];
    // Where it will be in the middle of the time that the foot stands there.
    leg.to = this.onGround(x + velocity[0] * STEP * 1.4, z + velocity[1] * STEP * 1.4);
    leg.t = 0;
    this.steps++;
  }

  private strayOf(leg: Leg): number {
    const [x, z] = this.homeOf(leg);
    return Math.hypot(leg.at[0] - x, leg.at[2] - z);
  }

  private homeOf({ home }: Leg): [x: number, z: number] {
    const [sin, cos] = [Math.sin(this.heading), Math.cos(this.heading)];
    return [this.x + cos * home[0] + sin * home[2], this.z - sin * home[0] + cos * home[2]];
  }

  private onGround(x: number, z: number): Vec3 {
    const hit = castRay(
      this.scene,
      { origin: [x, 1, z], direction: [0, -1, 0] },
      { far: 3, filter: this.ground },
    );
    return [x, hit ? hit.point[1] : 0, z];
  }

  /** The shell over its feet, tilted as they stand, and the legs bent so that they come to them. */
  private pose(): void {
    const { legs, node } = this;
    const mean = (of: (leg: Leg) => boolean): number => {
      const some = legs.filter(of);
      return some.reduce((sum, { at, t }) => sum + at[1] - LIFT * 4 * t * (1 - t), 0) / some.length;
    };
    const level = mean(() => true);
    this.y += (level + CLEARANCE - this.y) * 0.25;
    const roll = Math.atan2(mean(({ home }) => home[0] > 0) - mean(({ home }) => home[0] < 0), 0.16);
    const pitch = Math.atan2(mean(({ home }) => home[2] < 0) - mean(({ home }) => home[2] > 0), 0.07);
    // It sways a little against the legs that are in the air.
    const sway = legs.reduce((sum, { home, t }) => sum + Math.sign(home[0]) * t * (1 - t), 0) * 0.02;
    node.setTranslation(this.x, this.y, this.z);
    const [sy, cy] = [Math.sin(this.heading / 2), Math.cos(this.heading / 2)];
    const [sz, cz] = [Math.sin((roll * 0.6 + sway) / 2), Math.cos((roll * 0.6 + sway) / 2)];
    const [sx, cx] = [Math.sin(pitch * 0.3), Math.cos(pitch * 0.3)];
    // About Y, then Z, then X.
    const [x, y, z, w] = [sy * sz, sy * cz, cy * sz, cy * cz];
    node.setRotation(x * cx + w * sx, y * cx + z * sx, z * cx - y * sx, w * cx - x * sx);
    for (const { hip, knee, tip, at } of legs) {
      // Anew each time, so that nothing adds up.
      hip.setRotation(0, 0, 0, 1);
      knee.setRotation(0, 0, 0, 1);
      const [hx, hy, hz] = hip.readWorldPosition([0, 0, 0]);
      // Knees bend upwards.
      twoBoneIk(hip, knee, tip, at, { pole: [(hx + at[0]) / 2, hy + 0.2, (hz + at[2]) / 2] });
    }
  }
}
