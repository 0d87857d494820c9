import type { Light, ShadowOptions } from '../../../scene/components.js';
import type { AssetNode } from '../../asset/asset.js';
import type { Cursor } from '../read/cursor.js';
import { clean, filledObject, type Json } from '../write/json.js';

const PUNCTUAL = ['directional', 'point', 'spot'] as const;
const OWN = ['area', 'ambient', 'hemisphere'] as const;
const SHADOW_NUMBERS = ['distance', 'cascades', 'near', 'bias'] as const;

/** Whether KHR_lights_punctual has lights of this kind; the others are kept in their node's extras. */
export const isPunctual = ({ type }: Light): boolean => (PUNCTUAL as readonly string[]).includes(type);

/** KHR_lights_punctual; what it has no word for, shadows, in the light's extras. */
export function readLights(root: Cursor): Light[] {
  const lights = root.extension('KHR_lights_punctual')?.list('lights') ?? [];
  return lights.map((at) => {
    const light = readLight(at, PUNCTUAL);
    if (light.type === 'spot') {
      const spot = at.need('spot').object();
      const inner = spot.number('innerConeAngle', 0, Math.PI / 2) ?? 0;
      const outer = spot.number('outerConeAngle', Number.MIN_VALUE, Math.PI / 2 + 1e-6) ?? Math.PI / 4;
      if (inner >= outer) spot.fail('range', `innerConeAngle ${inner} is not below outerConeAngle ${outer}`);
      light.innerConeAngle = inner;
      light.outerConeAngle = outer;
    }
    const shadow = readShadow(ownExtra(at, 'umberShadow', light));
    if (shadow !== undefined) light.shadow = shadow;
    return light;
  });
}

/** Lights that the standard does not have, as `ownLight` leaves them in a node's extras. */
export function readOwnLight(at: Cursor, node: AssetNode): void {
  const place = ownExtra(at, 'umberLight', node);
  if (!place) return;
  const light = readLight(place, OWN);
  const groundColor = place.numbers('groundColor', 3, 0);
  if (groundColor) light.groundColor = groundColor as [number, number, number];
  const shape = place.choice('shape', ['rectangle', 'disc'] as const);
  if (shape) light.shape = shape;
  const size = place.numbers('size', 2, 0);
  if (size) light.size = size as [number, number];
  const shadow = readShadow(place.get('shadow'));
  if (shadow !== undefined) light.shadow = shadow;
  node.light = light;
}

/** What all lights have in common. */
function readLight<T extends Light['type']>(at: Cursor, types: readonly T[]): Light {
  at.object().need('type');
  const type = at.choice('type', types)!; // needed just above
  const light: Light = { type, ...at.common() };
  const color = at.numbers('color', 3, 0);
  if (color) light.color = color as [number, number, number];
  const intensity = at.number('intensity', 0);
  if (intensity !== undefined) light.intensity = intensity;
  const range = at.number('range', Number.MIN_VALUE);
  if (range !== undefined) light.range = range;
  return light;
}

function readShadow(at: Cursor | undefined): boolean | ShadowOptions | undefined {
  if (!at || typeof at.value === 'boolean') return at?.value as boolean | undefined;
  const options: ShadowOptions = {};
  at.object();
  for (const key of SHADOW_NUMBERS) {
    const value = at.number(key, 0);
    if (value !== undefined) options[key] = value;
  }
  return options;
}

/** Something of ours among the extras, which it is taken out of. */
function ownExtra(at: Cursor, key: string, owner: { extras?: unknown }): Cursor | undefined {
  const extras = at.get('extras')?.value;
  if (typeof extras !== 'object' || extras === null || !(key in extras)) return undefined;
  const rest = filledObject(Object.fromEntries(Object.entries(extras).filter(([name]) => name !== key)));
  if (rest) owner.extras = rest;
  else delete owner.extras;
  return at.need('extras').need(key);
}

export function writeLight(light: Light): Json {
  const { type, name, color, intensity, range, innerConeAngle, outerConeAngle, shadow, extras } = light;
  return clean({
    type,
    name,
    color,
    intensity,
    range,
    spot: type === 'spot' ? clean({ innerConeAngle, outerConeAngle }) : undefined,
    extras: shadow === undefined ? extras : { ...(extras as object | undefined), umberShadow: shadow },
  });
}

/** A light that the standard has no kind for, whole. */
export const ownLight = (light: Light): Json => clean({ ...light });
