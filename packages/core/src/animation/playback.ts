import { watchOptions } from '#watch';
import { LensError } from '../errors/lens-error.js';
import { nearHint } from '../errors/near-names.js';
import type { BoundAnimation } from './bind.js';

/** Which way an animation is played, as Web Animations has it: `alternate` goes there and back, an iteration each way. */
export type PlaybackDirection = 'normal' | 'reverse' | 'alternate';
const DIRECTIONS: readonly string[] = ['normal', 'reverse', 'alternate'];

export interface PlayOptions {
  /** How many times the animation is played, above 0; there and back are two. Default Infinity. At the end its pose stays. */
  iterations?: number;
  /** Default `normal`. */
  direction?: PlaybackDirection;
  /** Seconds of the animation a second; below 0 it runs the other way. Default 1. */
  playbackRate?: number;
  /** Seconds in the animation to begin at. Default 0, or the end when it is played backwards. */
  from?: number;
  /** 0 to 1, default 1. Weights that add up to less than one leave the rest to the pose below. */
  weight?: number;
  /** Seconds in which the weight grows from nothing. Default 0. */
  fade?: number;
  /** What lies in a higher layer covers what lies below by its weight. Within a layer weights are shared. Default 0. */
  layer?: number;
  /** Adds what differs from the animation's pose at `reference` to what the others give. Default false. */
  additive?: boolean;
  /** Animation seconds of the pose that an additive animation differs from. Default 0. */
  reference?: number;
}

interface Moment {
  time: number;
  call: (playback: Playback) => void;
}

/** Moments that one step may pass: more than that are an accident. */
const MOST_MOMENTS = 100_000;

/**
 * One playing of an animation. Where it stands depends on the time that passed alone, not on the steps in which it did.
 */
export class Playback {
  /** Seconds of the animation a second; below 0 it runs the other way. */
  playbackRate: number;
  isPaused = false;
  readonly direction: PlaybackDirection;
  readonly iterations: number;
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
  private readonly endListeners = new Set<(playback: Playback) => void>();
  /** Changes when somebody puts it elsewhere, which ends a step under way. */
  private generation = 0;

  /** @internal Made by `Motion.play`. */
  constructor(
    readonly bound: BoundAnimation,
    options: PlayOptions,
  ) {
    watchOptions('play', options);
    const { direction = 'normal', iterations = Infinity, playbackRate = 1 } = options;
    const { weight = 1, fade = 0, layer = 0, additive = false, reference = 0 } = options;
    if (!DIRECTIONS.includes(direction))
      throw new LensError('animation/direction', `an animation cannot be played "${String(direction)}"`, {
        hint: nearHint(String(direction), DIRECTIONS),
      });
    finite('playbackRate', playbackRate);
    finite('weight', weight);
    finite('fade', fade);
    finite('reference', reference);
    if (!(iterations > 0)) refuse('iterations', iterations, 'Give a number above 0, or Infinity.');
    this.direction = direction;
    this.iterations = iterations;
    this.playbackRate = playbackRate;
    this.layer = layer;
    this.isAdditive = additive;
    this.reference = reference;
    this.weightNow = this.weightGoal = weight;
    const { duration } = bound.animation;
    const end = Number.isFinite(iterations) ? iterations * duration : duration;
    this.origin = this.rate < 0 ? end : 0;
    this.position = options.from ?? this.origin;
    finite('from', this.position);
    if (fade > 0) {
      this.weightNow = 0;
      this.fadeTo(weight, fade);
    }
  }

  /** Name of the animation. */
  get name(): string {
    return this.bound.animation.name ?? '';
  }

  /** Seconds in the animation, 0 to its duration. */
  get time(): number {
    const { duration } = this.bound.animation;
    if (!(duration > 0)) return 0;
    if (this.isOnce) return Math.min(Math.max(this.position, 0), duration);
    if (this.direction !== 'alternate') {
      if (this.position === this.iterations * duration) return duration;
      // Where a round meets the next it is the one that is coming.
      const rounds = this.position / duration;
      return this.position - (this.rate < 0 ? Math.ceil(rounds) - 1 : Math.floor(rounds)) * duration;
    }
    const there = this.position - Math.floor(this.position / (2 * duration)) * 2 * duration;
    return there <= duration ? there : 2 * duration - there;
  }

  /** Share of the animation that is behind it, 0 to 1. */
  get progress(): number {
    const { duration } = this.bound.animation;
    return duration > 0 ? this.time / duration : 1;
  }

  /** Times it went through the animation, with the share of the present one: 1.5 is the middle of the second. */
  get played(): number {
    const { duration } = this.bound.animation;
    return duration > 0 ? Math.abs(this.position - this.origin) / duration : 1;
  }

  /** Whether it stands at the end of an animation that ends. */
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

  /** Puts it at a time of the animation, in seconds. Moments in between do not come; one at that time does, once it goes on. */
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
   * Calls back once each time that an animation which ends has come to its end.
   *
   * @returns a function that stops it
   */
  on(type: 'end', listener: (playback: Playback) => void): () => void {
    if ((type as string) !== 'end')
      throw new LensError('animation/event', `a playback knows no event "${String(type)}"`, {
        hint: 'There is "end".',
      });
    const entry = (playback: Playback): void => listener(playback);
    this.endListeners.add(entry);
    return () => void this.endListeners.delete(entry);
  }

  /**
   * Has something called whenever the animation comes to a time: each time it does and once each time, however large the
   * steps and however short the animation, also at its ends and turns.
   *
   * @param time seconds in the animation
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

  /** Which way and how fast positions run. */
  private get rate(): number {
    return this.direction === 'reverse' ? -this.playbackRate : this.playbackRate;
  }

  /** Nothing lies beyond its ends. */
  private get isOnce(): boolean {
    return this.iterations === 1 && this.direction !== 'alternate';
  }

  /** Seconds played, not folded into the animation: it goes on beyond the duration when the animation is repeated. */
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
    const step = delta * this.rate;
    if (step === 0 && !this.isFresh) return;
    const from = this.position;
    let to = from + step;
    if (Number.isFinite(this.iterations)) to = Math.min(Math.max(to, 0), this.iterations * duration);
    this.isStale = true;
    const { generation, isFresh } = this;
    this.isFresh = false;
    if (this.moments.length > 0 && duration > 0) this.pass(from, to, isFresh, generation);
    if (generation !== this.generation) return;
    this.position = to;
    const isAtEnd =
      Number.isFinite(this.iterations) && step !== 0 && to === (step > 0 ? this.iterations * duration : 0);
    if (!isAtEnd) return;
    this.ended = true;
    for (const listener of [...this.endListeners]) listener(this);
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

  /** The first position behind `at` where a time of the animation comes by; positions are times `sign`. */
  private nextOf(time: number, sign: number, at: number): number {
    const { duration } = this.bound.animation;
    const first = time * sign;
    if (this.isOnce) return first > at ? first : Infinity;
    if (this.direction === 'alternate')
      return Math.min(behind(first, 2 * duration, at), behind(-first, 2 * duration, at));
    const next = behind(first, duration, at);
    // At the very end no further round begins.
    const last = sign > 0 ? this.iterations * duration : 0;
    const isLast = Number.isFinite(this.iterations) && next === last;
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
