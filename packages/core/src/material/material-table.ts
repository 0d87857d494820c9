import { MOST_MATERIALS } from '../compiled/layouts.js';
import { type DrawState, drawStateOf, isBlended, isStateOf } from './draw-state.js';
import type { Material, Texture } from './material.js';
import { layersOf, TEXTURE_SLOTS } from './features.js';

/** Materials that lie in one table on the GPU, and that a shader tells apart by 6 bits. */
export const PAGE_SLOTS = MOST_MATERIALS;

/** Places for materials side by side in one table: a shader reads one of them by its number. */
export interface MaterialPage {
  /** By number; undefined where none lies. */
  readonly slots: (Material | undefined)[];
  /** How many lie in it. */
  used: number;
  /** The only kind that it is for; undefined: any. */
  readonly owner: string | undefined;
}

/** Materials of one page that differ in numbers alone: whatever they are on, if it is one geometry, is one draw. */
export interface MaterialKind {
  readonly page: MaterialPage;
  traits: KindTraits;
  /** How many materials are of it. */
  members: number;
}

/** What one draw cannot change from one instance to the next. */
export interface KindTraits {
  /** Alpha mode, sides, unlit, and which coordinates textures are read at. */
  bits: number;
  textures: readonly (Texture | undefined)[];
  /** The material itself, where it has more than numbers and the five textures: a shader, layers, or the user's wish. */
  alone: Material | undefined;
  /** How it meets what was drawn, where that is not as usual. */
  state: DrawState | undefined;
  /** It may move vertices farther than another. */
  shader: Material['shader'];
}

interface Placed {
  kind: MaterialKind;
  slot: number;
  users: number;
}

/**
 * Where the materials of a scene lie in tables. Materials are plain objects that may be written to at any time, so
 * what kind each is of is looked at again by whoever draws.
 */
export class MaterialTable {
  private readonly placed = new Map<Material, Placed>();
  private readonly kinds: MaterialKind[] = [];
  private readonly pages: MaterialPage[] = [];

  /** Enters a user of a material. */
  add(material: Material): { kind: MaterialKind; slot: number } {
    let placed = this.placed.get(material);
    if (!placed) this.placed.set(material, (placed = this.place(material)));
    placed.users++;
    return placed;
  }

  /** Takes a user of a material away. */
  remove(material: Material): void {
    const placed = this.placed.get(material)!; // it was added
    if (--placed.users > 0) return;
    this.placed.delete(material);
    this.leave(placed);
  }

  /** The materials that were written to such that they are of another kind now; mostly none. */
  changed(): Material[] {
    let found = NONE;
    for (const [material, { kind }] of this.placed) {
      if (isOf(material, kind.traits)) continue;
      if (found === NONE) found = [];
      found.push(material);
    }
    return found;
  }

  /**
   * Puts a material that changed its kind where it belongs.
   *
   * @returns whether it lies elsewhere now; the only one of its kind stays, where none is of the new one
   */
  replace(material: Material): boolean {
    const placed = this.placed.get(material)!; // it was added
    const { kind: before, slot: at } = placed;
    if (before.members === 1 && !this.kindOf(material)) {
      before.traits = traitsOf(material);
      return false;
    }
    this.leave(placed);
    ({ kind: placed.kind, slot: placed.slot } = this.place(material));
    return placed.kind !== before || placed.slot !== at;
  }

  /** Where a material lies; undefined for one that nobody added. */
  placeOf(material: Material): { kind: MaterialKind; slot: number } | undefined {
    return this.placed.get(material);
  }

  private leave({ kind, slot }: Placed): void {
    const { page } = kind;
    page.slots[slot] = undefined;
    if (--page.used === 0) this.pages.splice(this.pages.indexOf(page), 1);
    if (--kind.members === 0) this.kinds.splice(this.kinds.indexOf(kind), 1);
  }

  private kindOf(material: Material): MaterialKind | undefined {
    return this.kinds.find(({ page, traits }) => page.used < PAGE_SLOTS && isOf(material, traits));
  }

  private place(material: Material): Placed {
    let kind = this.kindOf(material);
    if (!kind) {
      const traits = traitsOf(material);
      // Without textures there are few kinds, of many materials each: every one has pages to itself.
      const owner =
        traits.alone || traits.textures.some(Boolean) ? undefined : `${traits.bits} ${traits.state?.id ?? 0}`;
      let page = this.pages.find((p) => p.used < PAGE_SLOTS && p.owner === owner);
      if (!page) this.pages.push((page = { slots: [], used: 0, owner }));
      kind = { page, traits, members: 0 };
      this.kinds.push(kind);
    }
    const { page } = kind;
    let slot = 0;
    while (page.slots[slot]) slot++;
    page.slots[slot] = material;
    page.used++;
    kind.members++;
    return { kind, slot, users: 0 };
  }
}

const NONE: Material[] = [];

function traitsOf(material: Material): KindTraits {
  return {
    bits: bitsOf(material),
    textures: TEXTURE_SLOTS.map((slot) => material[slot]?.texture),
    alone: isAlone(material) ? material : undefined,
    state: drawStateOf(material),
    shader: material.shader,
  };
}

function isOf(material: Material, { bits, textures, alone, shader, state }: KindTraits): boolean {
  if (material.shader !== shader || !isStateOf(material, state)) return false;
  if (alone ? alone !== material || !isAlone(material) : isAlone(material)) return false;
  if (bitsOf(material) !== bits) return false;
  for (let i = 0; i < TEXTURE_SLOTS.length; i++)
    if (material[TEXTURE_SLOTS[i]!]?.texture !== textures[i]) return false; // i < length
  return true;
}

const isAlone = (material: Material): boolean =>
  material.shader !== undefined || material.batch === false || layersOf(material) !== 0;

function bitsOf(material: Material): number {
  const { alphaMode } = material;
  let bits = alphaMode === 'mask' ? 1 : isBlended(material) ? 2 : 0;
  if (material.doubleSided) bits |= 4;
  if (material.unlit) bits |= 8;
  for (let i = 0; i < TEXTURE_SLOTS.length; i++)
    if (material[TEXTURE_SLOTS[i]!]?.texCoord === 1) bits |= 16 << i; // i < length
  return bits;
}
