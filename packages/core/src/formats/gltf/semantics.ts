import type { PrimitiveMode } from '../../geometry/geometry.js';

/** By glTF's number of the mode. */
export const MODES: PrimitiveMode[] = [
  'points',
  'lines',
  'line-loop',
  'line-strip',
  'triangles',
  'triangle-strip',
  'triangle-fan',
];

/** `TEXCOORD_0` → `texcoord0`; the user's own `_SWAY_PHASE` → `swayPhase`. */
export function attributeName(semantic: string): string {
  if (!semantic.startsWith('_')) return semantic.toLowerCase().replace('_', '');
  return semantic
    .slice(1)
    .toLowerCase()
    .replace(/_+([a-z0-9])/g, (_, letter: string) => letter.toUpperCase());
}

/** The inverse of `attributeName`. */
export function attributeSemantic(name: string): string {
  const match = /^(position|normal|tangent|texcoord|color|joints|weights)(\d*)$/.exec(name);
  if (match) return match[2] ? `${match[1]!.toUpperCase()}_${match[2]}` : match[1]!.toUpperCase();
  return `_${name.replace(/[A-Z]/g, (letter) => `_${letter}`).toUpperCase()}`;
}
