import type { Texture } from '../../../material/material.js';
import type { Accessors } from '../read/accessors.js';
import type { Cursor } from '../read/cursor.js';
import type { Json } from '../write/json.js';

/**
 * Extensions that mean nothing to pictures and are kept for those to whom they mean something, with what they refer to: bytes
 * of views (EXT_structural_metadata's tables of properties) and textures.
 */
export const KEPT_EXTENSIONS = ['EXT_structural_metadata', 'EXT_mesh_features'] as const;

/** Keys of EXT_structural_metadata that number a view. */
const VIEW_KEYS = new Set(['values', 'arrayOffsets', 'stringOffsets']);

/** What is kept at a place, by extension; undefined where there is nothing. */
export function readKept(
  at: Cursor,
  accessors: Accessors,
  textures: readonly (Texture | undefined)[],
): Record<string, unknown> | undefined {
  const found = KEPT_EXTENSIONS.flatMap((name) => {
    const place = at.extension(name);
    return place ? [[name, taken(place, accessors, textures, 0)] as const] : [];
  });
  return found.length > 0 ? Object.fromEntries(found) : undefined;
}

/** Nesting at most: files may not have us go deeper. */
const DEEPEST = 32;

function taken(
  at: Cursor,
  accessors: Accessors,
  textures: readonly (Texture | undefined)[],
  depth: number,
): unknown {
  const { value } = at;
  if (typeof value !== 'object' || value === null) return value;
  if (depth > DEEPEST) return at.fail('too-deep', `it is nested more than ${DEEPEST} deep`);
  if (Array.isArray(value)) return at.items().map((item) => taken(item, accessors, textures, depth + 1));
  const out: Json = {};
  for (const key of Object.keys(value)) {
    const place = at.need(key);
    if (VIEW_KEYS.has(key) && typeof place.value === 'number') out[key] = accessors.view(place);
    else if (key === 'index' && typeof place.value === 'number')
      out['texture'] = place.pick(textures, 'texture');
    else out[key] = taken(place, accessors, textures, depth + 1);
  }
  return out;
}

/** What was kept, as JSON again. */
export function writeKept(
  kept: Record<string, unknown> | undefined,
  uses: (extension: string) => string,
  viewOf: (bytes: Uint8Array) => number,
  textureOf: (texture: Texture) => number,
): Json {
  const out: Json = {};
  for (const [name, value] of Object.entries(kept ?? {})) out[uses(name)] = given(value);
  return out;

  function given(value: unknown): unknown {
    if (value instanceof Uint8Array) return viewOf(value);
    if (Array.isArray(value)) return value.map(given);
    if (typeof value !== 'object' || value === null) return value;
    return Object.fromEntries(
      Object.entries(value).map(([key, one]: [string, unknown]) =>
        key === 'texture' && isTexture(one) ? ['index', textureOf(one)] : [key, given(one)],
      ),
    );
  }
}

const isTexture = (value: unknown): value is Texture =>
  typeof value === 'object' && value !== null && 'image' in value;
