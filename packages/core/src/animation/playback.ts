import { LensError } from '../errors/lens-error.js';
import { nearHint } from '../errors/near-names.js';
import type { BoundAnimation } from './bind.js';

/** What happens at a clip's end: it stays there, begins again, or goes back and forth. */
export type Loop = 'once' | 'repeat' | 'back-and-forth';
const LOOPS: readonly string[] = ['once', 'repeat', 'back-and-forth'];

export interface PlayOptions {
  /** Default `repeat`. */
  loop?: Loop;
  /** How many times it goes through the clip (there and back are two). Default Infinity; `once` has one. */
  times?: number;
  /** Clip seconds a second; below 0 backwards. Default 1. */
  speed?: number;
  /** Seconds in the clip to begin at. Default 0, or the end when it is played backwards. */
  from?: number;
  /** 0 to 1, default 1. Weights that add up to less than one leave the rest to the pose below. */
  weight?: number;
  /** Seconds in which the weight grows from nothing. Default 0. */
  fade?: number;
  /** What lies in a higher layer covers what lies below by its weight. Within a layer weights are shared. Default 0. */
  layer?: number;
  /** Adds what differs from the clip's pose at `reference` to what the others give. Default false. */
  additive?: boolean;
  /** Clip seconds of the pose that an additive clip differs from. Default 0. */
  reference?: number;
}

interface Moment {
  time: number;
  call: (playback: Playback) => void;
}

/** Moments that one step may pass: more than that are an accident. */
const MOST_MOMENTS = 100_000;

/**
 * One playing of a clip. Where it stands depends on the time that passed alone, not on the steps in which it did.
 */
export class Playback {
  /** Clip seconds a second; below 0 backwards. */
  speed: number;
  isPaused = false;
  /** Called once when a clip that ends has come to its end. */
  onEnd: ((playback: Playback) => void) | undefined;
  readonly loop: Loop;
  readonly times: number;
  readonly layer: number;
  readonly isAdditive: boolean;
  readonly reference: number;
  /** @internal False once it was stopped and has faded away. */
  isLiving = true;
  /** @internal Whether its pose differs from the last one that was taken. */
  isStale = true;
  /** In an array, since a number of an object is a new one each time that it changes. */
  private readonly place = new Float64Array(1);
  /** Where it would begin by itself. */
  private readonly origin: number;
  private ended = false;
  /** Whether the place where it stands has not been played yet: moments there are still to come. */
  private isFresh = true;
  private weightNow: number;
  private weightGoal: number;
  private fadeRate = 0;
  private endsSilent = false;
  private readonly moments: Moment[] = [];
  /** Changes when somebody puts it elsewhere, which ends a step under way. */
  private generation = 0;

  /** @internal Made by `Motion.play`. */
  constructor(
    readonly bound: BoundAnimation,
    options: PlayOptions,
  ) {
    const { loop = 'repeat', speed = 1, weight = 1, fade = 0, layer = 0, additive = false } = options;
    if (!LOOPS.includes(loop))
      throw new LensError('animation/loop', `an animation cannot be played "${String(loop)}"`, {
        hint: nearHint(String(loop), LOOPS),
      });
    const { times = loop === 'once' ? 1 : Infinity, reference = 0 } = options;
    finite('speed', speed);
    finite('weight', weight);
    finite('fade', fade);
    finite('reference', reference);
    if (!(times > 0)) refuse('times', times, 'Give a number above 0, or Infinity.');
    this.loop = loop;
    this.times = loop === 'once' ? 1 : times;
    this.speed = speed;
    this.layer = layer;
    this.isAdditive = additive;
    this.reference = reference;
    this.weightNow = this.weightGoal = weight;
    const { duration } = bound.animation;
    const end = Number.isFinite(this.times) ? this.times * duration : duration;
    this.origin = speed < 0 ? end : 0;
    this.position = options.from ?? this.origin;
    finite('from', this.position);
    if (fade > 0) {
      this.weightNow = 0;
      this.fadeTo(weight, fade);
    }
  }

  /** Name of the clip. */
  get name(): string {
    return this.bound.animation.name ?? '';
  }

  /** Seconds in the clip, 0 to its duration. */
  get time(): number {
    const { duration } = this.bound.animation;
    if (!(duration > 0)) return 0;
    if (this.loop === 'once') return Math.min(Math.max(this.position, 0), duration);
    if (this.loop === 'repeat') {
      if (this.position === this.times * duration) return duration;
      // Where a round meets the next it is the one that is coming.
      const rounds = this.position / duration;
      return this.position - (this.speed < 0 ? Math.ceil(rounds) - 1 : Math.floor(rounds)) * duration;
    }
    const there = this.position - Math.floor(this.position / (2 * duration)) * 2 * duration;
    return there <= duration ? there : 2 * duration - there;
  }

  /** Share of the clip that is behind it, 0 to 1. */
  get progress(): number {
    const { duration } = this.bound.animation;
    return duration > 0 ? this.time / duration : 1;
  }

  /** Times it went through the clip, with the share of the present one: 1.5 is the middle of the second. */
  get played(): number {
    const { duration } = this.bound.animation;
    return duration > 0 ? Math.abs(this.position - this.origin) / duration : 1;
  }

  /** Whether it stands at the end of a clip that ends. */
  get isEnded(): boolean {
    return this.ended;
  }

  /** What it counts now, 0 to 1: on its way while it fades. */
  get weight(): number {
    return this.weightNow;
  }

  set weight(weight: number) {
    finite('weight', weight);
    if (weight === this.weightNow && weight === this.weightGoal) return;
    this.weightNow = this.weightGoal = weight;
    this.fadeRate = 0;
    this.endsSilent = false;
    this.isStale = true;
  }

  pause(): this {
    this.isPaused = true;
    return this;
  }

  resume(): this {
    this.isPaused = false;
    return this;
  }

  /** Puts it at a time of the clip, in seconds. Moments in between do not come; one at that time does, once it goes on. */
  seek(time: number): this {
    finite('time', time);
    this.position = time;
    this.ended = false;
    this.isFresh = true;
    this.isStale = true;
    this.generation++;
    return this;
  }

  /** Lets the weight go evenly to another one, in seconds of real time whatever the speed. */
  fadeTo(weight: number, seconds: number): this {
    finite('weight', weight);
    if (!(seconds >= 0)) refuse('seconds', seconds, 'Give 0 or more.');
    this.weightGoal = weight;
    this.endsSilent = false;
    if (seconds === 0) this.weightNow = weight;
    else this.fadeRate = Math.abs(weight - this.weightNow) / seconds;
    this.isStale = true;
    return this;
  }

  /** Ends it, at once or in some seconds. */
  stop(options: { fade?: number } = {}): this {
    this.fadeTo(0, options.fade ?? 0);
    this.endsSilent = true;
    if (this.weightNow === 0) this.end();
    return this;
  }

  /**
   * Has something called whenever the clip comes to a time: each time it does and once each time, however large the
   * steps and however short the clip, also at its ends and turns.
   *
   * @param time seconds in the clip
   * @returns what takes it back
   */
  at(time: number, call: (playback: Playback) => void): () => void {
    const { duration } = this.bound.animation;
    if (!(time >= 0 && time <= duration))
      refuse('time', time, `"${this.name}" lasts from 0 to ${duration} seconds.`);
    const moment = { time, call };
    this.moments.push(moment);
    return () => {
      const i = this.moments.indexOf(moment);
      if (i >= 0) this.moments.splice(i, 1);
    };
  }

  /** Seconds played, not folded into the clip: it goes on beyond the duration when the clip is repeated. */
  private get position(): number {
    return this.place[0]!; // one
  }

  private set position(seconds: number) {
    this.place[0] = seconds;
  }

  /** @internal Goes on by some seconds. */
  advance(delta: number): void {
    this.fade(delta);
    if (this.isPaused || this.ended || !this.isLiving) return;
    const { duration } = this.bound.animation;
    const step = delta * this.speed;
    if (step === 0 && !this.isFresh) return;
    const from = this.position;
    let to = from + step;
    if (Number.isFinite(this.times)) to = Math.min(Math.max(to, 0), this.times * duration);
    this.isStale = true;
    const { generation, isFresh } = this;
    this.isFresh = false;
    if (this.moments.length > 0 && duration > 0) this.pass(from, to, isFresh, generation);
    if (generation !== this.generation) return;
    this.position = to;
    const isAtEnd =
      Number.isFinite(this.times) && step !== 0 && to === (step > 0 ? this.times * duration : 0);
    if (!isAtEnd) return;
    this.ended = true;
    this.onEnd?.(this);
  }

  private fade(delta: number): void {
    const { weightNow, weightGoal } = this;
    if (weightNow === weightGoal) return;
    const step = this.fadeRate * delta;
    this.weightNow =
      weightNow < weightGoal
        ? Math.min(weightGoal, weightNow + step)
        : Math.max(weightGoal, weightNow - step);
    this.isStale = true;
    if (this.endsSilent && this.weightNow === weightGoal) this.end();
  }

  private end(): void {
    this.isLiving = false;
    this.generation++;
  }

  /** Calls what lies between two positions, in the order in which it is passed. */
  private pass(from: number, to: number, isFresh: boolean, generation: number): void {
    const { moments } = this;
    if (isFresh) {
      const here = this.time;
      for (let i = 0; i < moments.length; i++) {
        const { time, call } = moments[i]!; // i < length
        if (time === here) call(this);
        if (generation !== this.generation) return;
      }
    }
    // Backwards all is turned over, so that one direction has to be thought of.
    const sign = to < from ? -1 : 1;
    let at = from * sign;
    for (let calls = 0; ;) {
      let next = Infinity;
      for (let i = 0; i < moments.length; i++) next = Math.min(next, this.nextOf(moments[i]!.time, sign, at));
      if (next > to * sign) return;
      this.position = next * sign;
      for (let i = 0; i < moments.length; i++) {
        const { time, call } = moments[i]!; // i < length
        if (this.nextOf(time, sign, at) !== next) continue;
        call(this);
        if (generation !== this.generation) return;
        if (++calls > MOST_MOMENTS)
          throw new LensError(
            'animation/moments',
            `one step of "${this.name}" passes more than ${MOST_MOMENTS} moments`,
            { hint: 'Hand shorter steps to update, as those of lens.run are.' },
          );
      }
      at = next;
    }
  }

  /** The first position behind `at` where a time of the clip comes by; positions are times `sign`. */
  private nextOf(time: number, sign: number, at: number): number {
    const { duration } = this.bound.animation;
    const first = time * sign;
    if (this.loop === 'once') return first > at ? first : Infinity;
    if (this.loop === 'back-and-forth')
      return Math.min(behind(first, 2 * duration, at), behind(-first, 2 * duration, at));
    const next = behind(first, duration, at);
    // At the very end no further round begins.
    const last = sign > 0 ? this.times * duration : 0;
    const isLast = Number.isFinite(this.times) && next === last;
    return isLast && time === (sign > 0 ? 0 : duration) ? Infinity : next;
  }
}

/** The first of `first`, `first + every`, `first - every`, ... that is behind `at`. */
function behind(first: number, every: number, at: number): number {
  let round = Math.floor((at - first) / every);
  while (!(first + round * every > at)) round++;
  return first + round * every;
}

function finite(what: string, value: number): void {
  if (!Number.isFinite(value)) refuse(what, value, 'Give a finite number.');
}

function refuse(what: string, value: number, hint: string): never {
  throw new LensError('animation/number', `${what} is ${value}`, { hint });
}
