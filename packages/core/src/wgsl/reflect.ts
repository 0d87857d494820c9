import type { FunctionDecl, GlobalVar, IoAttributes } from './parse/ast.js';
import type { Shader } from './compile.js';
import { reachable } from './check/check-entry-points.js';
import { isBreak } from './parse/source.js';
import { linearFromSrgb } from '../math/srgb.js';
import { sizeOf, type Struct, type Type, typeName } from './types/types.js';

export interface ReflectedIo {
  name: string;
  type: string;
  location?: number;
  builtin?: string;
}

export interface ReflectedEntryPoint {
  name: string;
  stage: 'vertex' | 'fragment' | 'compute';
  inputs: ReflectedIo[];
  outputs: ReflectedIo[];
  /** Names of the resources it reaches. */
  resources: string[];
  workgroupSize?: number[];
}

export interface ReflectedResource {
  name: string;
  kind: 'uniform' | 'storage' | 'texture' | 'sampler';
  group: number;
  binding: number;
  type: string;
  /** Bytes, for buffers; of an array sized at run time, one element counts. */
  size?: number;
  access?: 'read' | 'read_write' | 'write';
}

export interface ReflectedStruct {
  name: string;
  /** Bytes. */
  size: number;
  align: number;
  members: { name: string; type: string; offset: number; size: number; align: number }[];
}

/** One value that a shader offers to be set. */
export interface ShaderSetting {
  name: string;
  type: string;
  /** What the author wrote behind it. */
  documentation: string;
  /** `number` unless the comment names another, such as `color`. */
  kind: string;
  range?: [number, number];
  default?: number | number[] | boolean;
  offset: number;
}

export interface Reflection {
  entryPoints: ReflectedEntryPoint[];
  resources: ReflectedResource[];
  structs: ReflectedStruct[];
  /** Members of the structure `Settings`, when there is one. */
  settings: ShaderSetting[];
  /** Members of the structure `InstanceSettings`, when there is one. */
  instanceSettings: ShaderSetting[];
  functions: { name: string; params: { name: string; type: string }[]; result: string }[];
  overrides: { name: string; type: string; id?: number }[];
}

/** What a shader has, for tools and for those who bind it. */
export function reflect(shader: Shader): Reflection {
  const { checked } = shader;
  const structs = checked.order.flatMap((d) =>
    d.kind === 'struct' && d.type?.kind === 'struct' ? [d.type] : [],
  );
  const settings = structs.find((s) => s.name === 'Settings');
  const instanceSettings = structs.find((s) => s.name === 'InstanceSettings');
  return {
    entryPoints: checked.entryPoints.map((entry) => ({
      name: entry.name,
      stage: entry.stage!, // entry points have one
      inputs: entry.params.flatMap((p) => io(p.name, p.local!.type, p.io ?? {})),
      outputs: io('', entry.returnType!, entry.returnIo ?? {}),
      resources: usedBy(entry)
        .filter((g) => g.group !== undefined)
        .map((g) => g.name),
      ...(entry.workgroupSize ? { workgroupSize: entry.workgroupSize } : {}),
    })),
    resources: checked.globals.filter((g) => g.group !== undefined).map(resourceOf),
    structs: structs.map(reflectStruct),
    settings: settings ? readSettings(settings) : [],
    instanceSettings: instanceSettings ? readSettings(instanceSettings) : [],
    functions: checked.functions.map((fn) => ({
      name: fn.name,
      params: fn.params.map((p) => ({ name: p.name, type: typeName(p.local!.type) })),
      result: typeName(fn.returnType!),
    })),
    overrides: checked.globals
      .filter((g) => g.form === 'override')
      .map((g) => ({
        name: g.name,
        type: typeName(g.type!),
        ...(g.overrideId === undefined ? {} : { id: g.overrideId }),
      })),
  };
}

/** The resources that entry points reach: modules that are linked may have others of the same names. */
export function reachedResources({ checked }: Shader, entries: readonly string[]): ReflectedResource[] {
  const used = new Set(
    checked.entryPoints.filter(({ name }) => entries.includes(name)).flatMap((entry) => usedBy(entry)),
  );
  return checked.globals.filter((g) => g.group !== undefined && used.has(g)).map(resourceOf);
}

const usedBy = (entry: FunctionDecl): GlobalVar[] => [
  ...new Set(reachable(entry).flatMap((fn) => [...(fn.uses ?? [])])),
];

function resourceOf(g: GlobalVar): ReflectedResource {
  const type = g.type!;
  const isBuffer = g.space === 'uniform' || g.space === 'storage';
  return {
    name: g.name,
    kind: isBuffer ? (g.space as 'uniform') : (type.kind as 'texture'),
    group: g.group!,
    binding: g.binding!,
    type: typeName(type),
    ...(isBuffer ? { size: sizeOf(type), access: g.access! } : {}),
  };
}

function io(name: string, type: Type, attributes: IoAttributes): ReflectedIo[] {
  if (type.kind === 'struct') return type.members.flatMap((m) => io(m.name, m.type, m.io));
  if (type.kind === 'void') return [];
  const { location, builtin } = attributes;
  return [
    {
      name,
      type: typeName(type),
      ...(location === undefined ? {} : { location }),
      ...(builtin === undefined ? {} : { builtin }),
    },
  ];
}

function reflectStruct(type: Struct): ReflectedStruct {
  const { name, size, align } = type;
  const members = type.members.map((m) => ({
    name: m.name,
    type: typeName(m.type),
    offset: m.offset,
    size: m.size,
    align: m.align,
  }));
  return { name, size, align, members };
}

/**
 * Reads the comment behind each member: `edge: f32, // 0.5..6 = 2.5   how fast the rim falls off`.
 * In order, each may be left out: a range or the word for a kind, `=` and a default, the description.
 */
export function readSettings(type: Struct): ShaderSetting[] {
  return type.members.map((member, i) => {
    const decl = type.decl!.members[i]!; // structures of the author's have declarations
    const { text } = decl.span.source;
    let end = decl.span.to;
    while (end < text.length && !isBreak(text.charCodeAt(end))) end++;
    const comment = /\/\/\s*(.*)$/.exec(text.slice(decl.span.to, end))?.[1]?.trim() ?? '';
    const match =
      /^(?:(-?[\d.]+)\s*\.\.\s*(-?[\d.]+)|([a-z][\w-]*)(?=\s*=))?\s*(?:=\s*(#[0-9a-fA-F]{3,8}|\[[^\]]*\]|\S+))?\s*(.*)$/.exec(
        comment,
      );
    const [, low, high, kind, given, documentation = ''] = match ?? [];
    const setting: ShaderSetting = {
      name: member.name,
      type: typeName(member.type),
      documentation,
      kind: kind ?? 'number',
      offset: member.offset,
    };
    if (low !== undefined && high !== undefined) setting.range = [Number(low), Number(high)];
    const value = given === undefined ? undefined : defaultValue(given);
    if (value !== undefined) setting.default = value;
    return setting;
  });
}

function defaultValue(text: string): ShaderSetting['default'] {
  if (text === 'true' || text === 'false') return text === 'true';
  if (text.startsWith('#')) {
    const hex = text.length <= 5 ? [...text.slice(1)].map((c) => c + c).join('') : text.slice(1);
    const channel = (i: number): number => Number.parseInt(hex.slice(i * 2, i * 2 + 2), 16) / 255;
    // Colours are written as screens show them and used as light.
    const rgb = [0, 1, 2].map((i) => linearFromSrgb(channel(i)));
    return hex.length === 8 ? [...rgb, channel(3)] : rgb;
  }
  try {
    const value = JSON.parse(text) as unknown;
    return typeof value === 'number' || (Array.isArray(value) && value.every((v) => typeof v === 'number'))
      ? value
      : undefined;
  } catch {
    return undefined;
  }
}
