import type { FunctionDecl, GlobalVar, Local } from '../parse/ast.js';
import { type Span, WgslFault } from '../parse/source.js';
import type { Struct } from '../types/types.js';
import { GlslHelpers } from './glsl-helpers.js';
import { GlslNames } from './glsl-names.js';

/** One stage in GLSL ES 3.00, and how its resources are bound. */
export interface GlslShader {
  text: string;
  stage: 'vertex' | 'fragment';
  /** Uniform blocks: their GLSL name to group and binding. */
  blocks: Record<string, [group: number, binding: number]>;
  /** GLSL samplers: which texture and which sampler each combines. */
  samplers: Record<string, { texture: [number, number]; sampler?: [number, number] }>;
  /** Read-only storage buffers, read from `usampler2D` of four words a texel. */
  storage: Record<string, { binding: [number, number]; lengthUniform: string }>;
  /** Overrides that were not given: defining their macro ahead of the text gives them a value. */
  overrides: Record<string, string>;
}

/** Texels in one row of a storage buffer's texture. */
export const STORAGE_ROW = 1024;

/** Where a buffer's data is: a variable, a known offset in bytes, and what is only known at run time. */
export interface Place {
  root: GlobalVar;
  offset: number;
  /** GLSL expressions in bytes. */
  dynamic: string[];
  /** Whether all of `dynamic` are whole texels of 16 bytes, so that the component is known while compiling. */
  isWhole: boolean;
  /** GLSL expression in bytes: where a view into the buffer ends, counted from its start. */
  end?: string;
}

/** What a parameter or pointer stands for in one instance of a function. */
export type Alias =
  { kind: 'handle'; global: GlobalVar } | { kind: 'buffer'; place: Place } | { kind: 'place'; text: string };

/** A function for one set of textures, samplers and buffers that it is called with. */
export interface Instance {
  decl: FunctionDecl;
  name: string;
  aliases: Map<Local, Alias>;
}

/** The text of one stage while it is written: its parts by kind, and the function at hand. */
export class GlslState {
  readonly names = new GlslNames();
  readonly helpers = new GlslHelpers();
  readonly structs = new Map<Struct, { name: string; members: string[] }>();
  readonly structText: string[] = [];
  readonly globals = new Map<GlobalVar, string>();
  readonly globalText: string[] = [];
  readonly instances = new Map<string, Instance>();
  readonly functionText: string[] = [];
  /** Names of functions of our own by what they do. */
  readonly loaders = new Map<string, string>();
  readonly loaderText: string[] = [];
  readonly blocks: GlslShader['blocks'] = {};
  readonly samplers: GlslShader['samplers'] = {};
  readonly storage: GlslShader['storage'] = {};
  readonly overrides: GlslShader['overrides'] = {};
  locals = new Map<Local, string>();
  instance!: Instance; // set before any body is written
  lines: string[] = [];
  indent = 1;
  /** Whether something depends on the target's size and on which way up it is. */
  usesTarget = false;

  constructor(
    readonly entry: FunctionDecl,
    readonly constants: Record<string, number | boolean>,
  ) {}

  line(text: string): void {
    this.lines.push('  '.repeat(this.indent) + text);
  }

  inner(act: () => void): void {
    this.indent++;
    act();
    this.indent--;
  }

  refuse(message: string, span: Span, hint = ''): WgslFault {
    return new WgslFault('webgl2', message, span, hint);
  }
}
