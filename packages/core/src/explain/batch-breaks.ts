import type { DrawList } from '../draw/draw-list.js';
import type { Batch } from '../scene/drawables.js';
import { TEXTURE_SLOTS } from '../material/features.js';
import type { Geometry } from '../geometry/geometry.js';

/** Why a draw could not be one with the draw before it. */
export type BatchBreakReason = keyof typeof BATCH_BREAK_REASONS;

/** In words. */
export const BATCH_BREAK_REASONS = {
  first: 'it is the first',
  apart: 'it lies over another material, in a layer of effects, or is seen by other cameras',
  geometry: 'another geometry',
  layout: 'another geometry, whose vertices are laid out otherwise',
  shader: 'another shader',
  texture: 'another texture',
  alpha: 'another alpha mode',
  sides: 'one is drawn from both sides',
  light: 'one is lit, the other is not',
  layers: 'a material has layers of its own (coat, sheen, glass)',
  settings: 'materials with shaders of their own have settings of their own',
  asked: 'its material asks for a draw of its own',
  mirrored: 'its nodes are mirrored: faces wind the other way',
  between: 'something blended is drawn between',
  page: 'a table of materials is full: it holds 64',
} as const;

/** A draw of a list, and why it stands by itself. */
export interface BatchBreak {
  /** Names of its geometry and of its material, as far as they have any. */
  geometry: string;
  material: string;
  instances: number;
  reason: BatchBreakReason;
  /** The reason in words, with the texture's or the shader's name. */
  words: string;
}

/** Why each draw of a list was not merged with the one before it. */
export function batchBreaks(list: DrawList): BatchBreak[] {
  const seen = new Set<number>();
  return Array.from({ length: list.commands }, (_, command) => {
    const number = list.commandBatch[command]!; // command < commands, here and below
    const batch = list.batches[number]!; // commands name living batches
    const before = command === 0 ? undefined : list.batches[list.commandBatch[command - 1]!];
    const isMirrored = list.commandMirrored[command] === 1;
    const { reason, detail = '' } =
      seen.has(number) && command >= list.opaqueCommands
        ? {
            reason:
              isMirrored !== (list.commandMirrored[command - 1] === 1) ? 'mirrored' : ('between' as const),
          }
        : reasonOf(batch, before, isMirrored);
    seen.add(number);
    return {
      geometry: batch.geometry.name ?? '',
      material: batch.material.name ?? '',
      instances: list.commandCount[command]!,
      reason: reason as BatchBreakReason,
      words: `${BATCH_BREAK_REASONS[reason as BatchBreakReason]}${detail && `: ${detail}`}`,
    };
  });
}

function reasonOf(
  batch: Batch,
  before: Batch | undefined,
  isMirrored: boolean,
): { reason: BatchBreakReason; detail?: string } {
  if (!before) return { reason: 'first' };
  if (before === batch) return { reason: isMirrored ? 'mirrored' : 'between' };
  const [a, b] = [before.material, batch.material];
  if (before.kind !== batch.kind) {
    if (a.shader !== b.shader)
      return { reason: 'shader', detail: nameOf(b.shader?.file ?? "the lens's own") };
    if (a.batch === false || b.batch === false) return { reason: 'asked' };
    if ((a.alphaMode ?? 'opaque') !== (b.alphaMode ?? 'opaque'))
      return { reason: 'alpha', detail: b.alphaMode ?? 'opaque' };
    if (Boolean(a.doubleSided) !== Boolean(b.doubleSided)) return { reason: 'sides' };
    if (Boolean(a.unlit) !== Boolean(b.unlit)) return { reason: 'light' };
    for (const slot of TEXTURE_SLOTS) {
      if (a[slot]?.texture === b[slot]?.texture && a[slot]?.texCoord === b[slot]?.texCoord) continue;
      return { reason: 'texture', detail: `${slot}${nameIn(b[slot]?.texture?.name)}` };
    }
    if (before.kind.traits.alone || batch.kind.traits.alone)
      return { reason: b.shader ? 'settings' : 'layers', ...(b.name ? { detail: b.name } : {}) };
    return { reason: 'page' };
  }
  if (before.apart !== batch.apart) return { reason: 'apart' };
  return { reason: layoutOf(before.geometry) === layoutOf(batch.geometry) ? 'geometry' : 'layout' };
}

const nameOf = (file: string): string => file.split('/').at(-1)!; // there is one
const nameIn = (name: string | undefined): string => (name ? ` "${name}"` : '');

/** What vertices bring along, and in which form. */
function layoutOf({ attributes, indices, mode = 'triangles' }: Geometry): string {
  const parts = Object.entries(attributes).map(
    ([name, { componentType, components, byteStride }]) =>
      `${name}${componentType}${components}/${byteStride}`,
  );
  return [mode, indices?.BYTES_PER_ELEMENT ?? 0, ...parts.sort()].join(' ');
}
