import type { Property, Unit } from './property.js';

/** How units are written behind a number. */
const SHORT: Readonly<Record<Unit, string>> = {
  radians: '°',
  metres: ' m',
  '1 / metre': ' / m',
  nanometres: ' nm',
  'metres / second': ' m/s',
  'metres / second²': ' m/s²',
  seconds: ' s',
  milliseconds: ' ms',
  pixels: ' px',
  texels: ' texels',
  lux: ' lx',
  candela: ' cd',
  'candela / metre²': ' cd/m²',
  kelvin: ' K',
  stops: ' stops',
};

/** The unit of a member, by the type of the thing that has it where it depends on that. */
export const unitOf = ({ unit }: Property, type?: string): Unit | undefined =>
  typeof unit === 'object' ? unit[type ?? ''] : unit;

/** A value as people read it: four digits, angles in degrees, units behind. Of what is no number: its JSON. */
export function inUnits(value: unknown, property: Property, type?: string): string {
  const unit = unitOf(property, type);
  const short = (n: number): string =>
    n === Infinity
      ? 'no limit'
      : `${Number((unit === 'radians' ? (n * 180) / Math.PI : n).toPrecision(4))}${unit === undefined ? '' : SHORT[unit]}`;
  if (typeof value === 'number') return short(value);
  const isList = Array.isArray(value) || ArrayBuffer.isView(value);
  if (isList && property.type === 'numbers') return Array.from(value as ArrayLike<number>, short).join(' ');
  return JSON.stringify(value) ?? 'nothing';
}
