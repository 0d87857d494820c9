import { LensError } from '../../errors/lens-error.js';
import type { FunctionDecl, GlobalVar, IoAttributes } from '../parse/ast.js';
import { findFunction, type Shader } from '../compile.js';
import { Evaluator } from './evaluate.js';
import type { Lane, Resources, TraceStep } from './lane.js';
import { nearest } from '../../errors/near-names.js';
import { BOOL, F32, isFloat, type Type, typeName, U32, vec, VOID } from '../types/types.js';
import { rounder, type Value, zeroValue } from '../types/values.js';

export interface RunOptions {
  /**
   * Buffers, textures and samplers by the name of their variable. Buffers as plain values in the
   * shape of their type, structures as objects; what the shader writes is found in them afterwards.
   */
  resources?: Record<string, unknown>;
  /** Filled with what happened at each line. */
  trace?: TraceStep[];
  /** The pixels that a GPU compares this one with; left out: it is alone, and what changes from pixel to pixel is 0. */
  quad?: Quad;
}

/** Two by two pixels. */
export interface Quad {
  /** Arguments of all four: the two upper ones from the left, then the two lower ones. */
  args: readonly (readonly unknown[])[];
  /** Which of them is meant: 0 to 3. */
  lane: number;
}

/** One evaluator a shader: functions are turned into closures once. */
const evaluators = new WeakMap<Shader, Evaluator>();

function evaluatorOf(shader: Shader): Evaluator {
  let found = evaluators.get(shader);
  if (!found) evaluators.set(shader, (found = new Evaluator(shader.checked)));
  return found;
}

/**
 * Runs a function of the shader on the CPU, in f32 and whole numbers as the GPU has them.
 *
 * Vectors and arrays are arrays, matrices arrays of columns, structures objects.
 *
 * @throws LensError `wgsl/no-function`, `wgsl/argument`, `wgsl/too-long`
 */
export function runWgsl(
  shader: Shader,
  name: string,
  args: unknown[] = [],
  options: RunOptions = {},
): unknown {
  const fn = needFunction(shader, name);
  if (args.length !== fn.params.length) {
    throw new LensError(
      'wgsl/argument',
      `"${name}" takes ${fn.params.length} arguments, not ${args.length}`,
      {
        hint: `It is fn ${name}(${fn.params.map((p) => `${p.name}: ${typeName(p.local!.type)}`).join(', ')}).`,
      },
    );
  }
  const evaluator = evaluatorOf(shader);
  const resources = resourceValues(shader, options.resources ?? {});
  const valuesOf = (own: readonly unknown[]): Value[] =>
    fn.params.map((param, i) => fromJson(own[i], param.local!.type, `argument ${i + 1} (${param.name})`));
  const { quad, trace } = options;
  if (quad) {
    const all = [0, 1, 2, 3].map((i) => valuesOf(i === quad.lane ? args : (quad.args[i] ?? args)));
    const results = runQuad(
      evaluator,
      evaluator.function(fn),
      all,
      resources,
      trace && { lane: quad.lane, trace },
    );
    return toJson(results[quad.lane]!.color, fn.returnType!); // one of four
  }
  const lane = evaluator.lane(resources, trace);
  const result = evaluator.function(fn)(valuesOf(args), lane);
  writeBack(shader, lane, options.resources ?? {});
  return toJson(result, fn.returnType!);
}

function needFunction(shader: Shader, name: string): FunctionDecl {
  const fn = findFunction(shader, name);
  if (fn) return fn;
  const names = shader.checked.functions.map((f) => f.name);
  const near = nearest(name, names);
  throw new LensError('wgsl/no-function', `there is no function "${name}"`, {
    hint: near ? `Did you mean "${near}"?` : `There are ${names.join(', ') || 'none'}.`,
    where: { file: shader.file },
  });
}

function isHandle(global: GlobalVar): boolean {
  return global.space === 'handle';
}

function resourceValues(shader: Shader, given: Record<string, unknown>): Resources {
  const out: Resources = {};
  for (const global of shader.checked.globals) {
    const value = given[global.name];
    if (value === undefined) continue;
    out[global.name] = isHandle(global)
      ? (value as Value)
      : fromJson(value, global.type!, `"${global.name}"`);
  }
  return out;
}

function writeBack(shader: Shader, lane: Lane, given: Record<string, unknown>): void {
  for (const global of shader.checked.globals) {
    if (global.space !== 'storage' || global.access !== 'read_write' || given[global.name] === undefined)
      continue;
    given[global.name] = toJson(lane.memory.get(global)!, global.type!);
  }
}

/** JSON in the shape of a type as a value of it. @throws LensError `wgsl/argument` */
export function fromJson(json: unknown, type: Type, what: string): Value {
  const wrong = (expected: string): LensError =>
    new LensError(
      'wgsl/argument',
      `${what} should be ${expected}, not ${JSON.stringify(json) ?? 'nothing'}`,
      {
        hint: `Its type is ${typeName(type)}.`,
      },
    );
  const list = (n: number | undefined): unknown[] => {
    const isList = Array.isArray(json) || ArrayBuffer.isView(json);
    const values = isList ? Array.from(json as ArrayLike<unknown>) : [];
    if (!isList || (n !== undefined && values.length !== n))
      throw wrong(`an array of ${n ?? 'any number of'} elements`);
    return values;
  };
  switch (type.kind) {
    case 'scalar':
      if (type === BOOL) {
        if (typeof json !== 'boolean') throw wrong('true or false');
        return json;
      }
      if (typeof json !== 'number') throw wrong('a number');
      if (!isFloat(type) && !Number.isInteger(json)) throw wrong('a whole number');
      return rounder(type)(json);
    case 'vec':
      return list(type.size).map((v, i) => fromJson(v, type.of, `${what}[${i}]`));
    case 'mat':
      return list(type.columns).map((v, i) => fromJson(v, type.column, `${what}[${i}]`));
    case 'array':
      return list(type.count).map((v, i) => fromJson(v, type.of, `${what}[${i}]`));
    case 'atomic':
      return fromJson(json, type.of, what);
    case 'buffer': {
      // Bytes, or a list of 32-bit words.
      const bytes = json instanceof ArrayBuffer ? new Uint8Array(json) : json;
      if (bytes instanceof Uint8Array) {
        const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
        return Array.from({ length: bytes.byteLength >> 2 }, (_, i) => view.getUint32(i * 4, true));
      }
      return list(type.size === undefined ? undefined : type.size / 4).map((v, i) =>
        fromJson(v, U32, `${what}[${i}]`),
      );
    }
    case 'struct': {
      if (typeof json !== 'object' || json === null || Array.isArray(json)) throw wrong('an object');
      const object = json as Record<string, unknown>;
      const stray = Object.keys(object).find((key) => !type.members.some((m) => m.name === key));
      if (stray !== undefined) throw wrong(`an object with ${type.members.map((m) => m.name).join(', ')}`);
      return type.members.map((m) =>
        object[m.name] === undefined
          ? zeroValue(m.type)
          : fromJson(object[m.name], m.type, `${what}.${m.name}`),
      );
    }
    case 'ptr':
      return pointerTo(fromJson(json, type.of, what));
    default:
      return json as Value;
  }
}

function pointerTo(start: Value): Value {
  let value = start;
  const pointer = { get: () => value, set: (fresh: Value) => void (value = fresh) };
  return pointer as unknown as Value;
}

/** A value as JSON: numbers that JSON cannot hold become strings. */
export function toJson(value: Value, type: Type): unknown {
  if (type === VOID) return null;
  if (type.kind === 'struct')
    return Object.fromEntries(type.members.map((m, i) => [m.name, toJson((value as Value[])[i]!, m.type)]));
  if (Array.isArray(value)) {
    const of =
      type.kind === 'vec' || type.kind === 'array' ? type.of : type.kind === 'mat' ? type.column : type;
    return value.map((v) => toJson(v, of));
  }
  if (typeof value === 'number' && !Number.isFinite(value)) return String(value);
  return value;
}

export interface DrawOptions extends RunOptions {
  width: number;
  height: number;
  /**
   * What the vertex stage would hand over at a pixel, by the input's name: given the place on the
   * picture, u and v from the upper left. Left out: inputs named `uv` get u and v, other numbers 0.
   */
  inputs?: (name: string, u: number, v: number) => unknown;
}

/** A picture: 4 floats a pixel as the entry point gave them, top row first. Discarded pixels are 0. */
export interface DrawnPicture {
  width: number;
  height: number;
  data: Float32Array;
}

/**
 * Draws a fragment entry point over a whole picture, pixel by pixel in quads of 2x2, so that
 * derivatives and levels of detail are what they are on a GPU.
 */
export function drawWgsl(shader: Shader, name: string, options: DrawOptions): DrawnPicture {
  const entry = needFunction(shader, name);
  if (entry.stage !== 'fragment')
    throw new LensError('wgsl/not-fragment', `"${name}" is not a fragment entry point`);
  const { width, height } = options;
  const evaluator = evaluatorOf(shader);
  const call = evaluator.function(entry);
  const resources = resourceValues(shader, options.resources ?? {});
  const data = new Float32Array(width * height * 4);
  for (let y = 0; y < height; y += 2) {
    for (let x = 0; x < width; x += 2) {
      const places = [0, 1, 2, 3].map((i) => [x + (i & 1), y + (i >> 1)] as const);
      const args = places.map(([px, py]) =>
        entry.params.map((p) => inputValue(p.local!.type, p.io ?? {}, p.name, px, py, options)),
      );
      const results = runQuad(evaluator, call, args, resources);
      places.forEach(([px, py], i) => {
        const { color, isDiscarded } = results[i]!;
        if (px >= width || py >= height || isDiscarded) return;
        data.set(colorOf(color, entry), (py * width + px) * 4);
      });
    }
  }
  return { width, height, data };
}

/**
 * Runs four neighbours. Where they ask for differences, the answer takes all four values: the lanes
 * are run again with the answers so far until no answer changes.
 */
function runQuad(
  evaluator: Evaluator,
  call: (args: Value[], lane: Lane) => Value,
  args: Value[][],
  resources: Resources,
  told?: { lane: number; trace: TraceStep[] },
): { color: Value; isDiscarded: boolean }[] {
  let answers: Lane['answers'][] = [[], [], [], []];
  for (let round = 0; ; round++) {
    if (told) told.trace.length = 0;
    const lanes = args.map((own, i) => {
      const lane = evaluator.lane(resources, i === told?.lane ? told.trace : undefined);
      lane.answers = answers[i]!;
      return { lane, color: call(own, lane) };
    });
    const asked = Math.max(...lanes.map(({ lane }) => lane.asked.length));
    const next = lanes.map((_, i) =>
      Array.from({ length: asked }, (_q, k) =>
        answer(
          lanes.map(({ lane }) => lane.asked[k]),
          i,
        ),
      ),
    );
    const isSettled = asked === 0 || JSON.stringify(next) === JSON.stringify(answers);
    answers = next;
    if (isSettled || round > asked + 1)
      return lanes.map(({ lane, color }) => ({ color, isDiscarded: lane.isDiscarded }));
  }
}

/** Differences within the quad, in the row and the column of lane i; a lane that did not ask counts as this one. */
function answer(values: (Value | undefined)[], i: number): Lane['answers'][number] {
  const own = values[i] ?? 0;
  const row = i & 2;
  const column = i & 1;
  const minus = (a: Value, b: Value): Value =>
    Array.isArray(a)
      ? a.map((x, k) => Math.fround((x as number) - ((b as number[])[k] ?? 0)))
      : Math.fround((a as number) - (b as number));
  return {
    dx: minus(values[row | 1] ?? own, values[row] ?? own),
    dy: minus(values[2 | column] ?? own, values[column] ?? own),
  };
}

function inputValue(
  type: Type,
  io: IoAttributes,
  name: string,
  x: number,
  y: number,
  options: DrawOptions,
): Value {
  if (type.kind === 'struct') return type.members.map((m) => inputValue(m.type, m.io, m.name, x, y, options));
  const [u, v] = [(x + 0.5) / options.width, (y + 0.5) / options.height];
  if (io.builtin === 'position') return [x + 0.5, y + 0.5, 0.5, 1];
  if (io.builtin === 'front_facing') return true;
  const given = options.inputs?.(name, u, v);
  if (given !== undefined) return fromJson(given, type, `input "${name}"`);
  if (/^(uv|texcoord\d?|texCoord)$/.test(name) && type === vec(2, F32))
    return [Math.fround(u), Math.fround(v)];
  return zeroValue(type);
}

/** The color at location 0, missing components filled as a target would: 0, 0, 0, 1. */
function colorOf(value: Value, entry: FunctionDecl): number[] {
  const type = entry.returnType!;
  let color: Value = value;
  if (type.kind === 'struct') {
    const at = type.members.findIndex((m) => m.io.location === 0);
    color = at < 0 ? [0, 0, 0, 0] : (value as Value[])[at]!;
  }
  const list = (Array.isArray(color) ? color : [color]) as number[];
  return [list[0] ?? 0, list[1] ?? 0, list[2] ?? 0, list[3] ?? 1];
}
