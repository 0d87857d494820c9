import type { Warning } from '../../errors/lens-error.js';
import type { Material, TextureUse } from '../../material/material.js';
import { textOf } from '../bytes/words.js';

/** A material as MTL has it, pictures named but not read. */
export interface MtlMaterial {
  material: Material;
  maps: MtlMap[];
}

export interface MtlMap {
  /** Its word, in small letters. */
  word: string;
  /** Where in the material it stands; `opacity` stands nowhere by itself. */
  place: TexturePlace | 'opacity';
  /** The file as it is written. */
  path: string;
  line: number;
  use: Omit<TextureUse, 'texture'>;
  isClamped: boolean;
}

export type TexturePlace =
  | 'baseColorTexture'
  | 'metallicRoughnessTexture'
  | 'normalTexture'
  | 'emissiveTexture'
  | 'occlusionTexture'
  | 'clearcoatTexture'
  | 'clearcoatRoughnessTexture'
  | 'sheenColorTexture';

/** Words whose pictures stand for a place of ours. */
const MAPS: Readonly<Record<string, MtlMap['place']>> = {
  map_d: 'opacity',
  map_kd: 'baseColorTexture',
  map_ke: 'emissiveTexture',
  map_pr: 'metallicRoughnessTexture',
  map_pm: 'metallicRoughnessTexture',
  map_pc: 'clearcoatTexture',
  map_pcr: 'clearcoatRoughnessTexture',
  norm: 'normalTexture',
  map_kn: 'normalTexture',
};
/** Pictures that nothing here stands for, and why. */
const DROPPED: Readonly<Record<string, string>> = {
  map_ks: 'colours of mirroring do not go with metal and roughness',
  map_ns: 'exponents of highlights do not go with roughness',
  map_ka: 'light from all around is the scene’s',
  map_bump: 'heights need to be made into normals',
  bump: 'heights need to be made into normals',
  disp: 'heights move no vertices',
  decal: 'it is drawn over nothing',
  refl: 'what is mirrored is the scene’s environment',
  map_ps: 'sheen here has a colour',
};
/** How many words each option of a picture takes. */
const OPTIONS: Readonly<Record<string, number>> = {
  blendu: 1,
  blendv: 1,
  boost: 1,
  bm: 1,
  cc: 1,
  clamp: 1,
  imfchan: 1,
  mm: 2,
  texres: 1,
  type: 1,
};

interface Values {
  [word: string]: number[];
}

/**
 * Reads an MTL file into materials of metal and roughness, by name.
 *
 * - Words of physically based MTL count as they are: `Pr` roughness, `Pm` metal, `Pc` and `Pcr` lacquer, `Ps` sheen, `aniso`.
 * - Else roughness is that whose highlight is as wide as Phong's exponent: r = (2 / (Ns + 2)) ^ 1/4, as r squared is the
 *   width of GGX (Karis, "Specular BRDF Reference", 2013); without `Ns`, it is 1.
 * - `illum` 0 is a colour without light; `d`, and 1 - `Tr`, is alpha; colours are linear.
 */
export function readMtl(
  bytes: Uint8Array,
  file: string,
): { materials: Map<string, MtlMaterial>; warnings: Warning[] } {
  const materials = new Map<string, MtlMaterial>();
  const warnings: Warning[] = [];
  const told = new Set<string>();
  const warn = (code: string, message: string, line: number): void => {
    if (told.has(message) || warnings.length >= 100) return;
    told.add(message);
    warnings.push({ code, message, where: { file, line } });
  };
  let current: { made: MtlMaterial; values: Values } | undefined;
  const finish = (): void => {
    if (current) settle(current.made, current.values);
  };
  // A byte order mark is no part of the first word.
  const lines = textOf(bytes, 0, bytes.length)
    .replace(/^\uFEFF/, '')
    .split(/\r\n|\n|\r/);
  lines.forEach((text, i) => {
    const trimmed = text.trim();
    if (trimmed === '' || trimmed.startsWith('#')) return;
    const [, word = '', remainder = ''] = /^(\S+)\s*(.*)$/s.exec(trimmed) ?? [];
    const line = i + 1;
    const key = word.toLowerCase();
    if (key === 'newmtl') {
      finish();
      if (materials.has(remainder))
        warn('mtl/double', `the material "${remainder}" is there twice: the last one counts`, line);
      current = { made: { material: { name: remainder }, maps: [] }, values: {} };
      materials.set(remainder, current.made);
      return;
    }
    if (!current) {
      warn('mtl/outside', `"${word}" stands before the first newmtl`, line);
      return;
    }
    if (key in MAPS || key in DROPPED) {
      const map = readMap(remainder);
      if (map.path === '') {
        warn('mtl/map', `${word} names no picture`, line);
        return;
      }
      const isNormals = /^(map_)?bump$/.test(key) && /normal|_nrm|_nor\b/i.test(map.path);
      const place = isNormals ? 'normalTexture' : MAPS[key];
      if (!place)
        warn('mtl/map', `${word} is left out: ${DROPPED[key]!}`, line); // it is one of them
      else current.made.maps.push({ ...map, word: key, place, line });
      return;
    }
    if (/^(ka|kd|ks|ke|tf|ns|ni|d|tr|illum|pr|pm|pc|pcr|ps|aniso|anisor|sharpness)$/.test(key)) {
      if (/^(spectral|xyz)\b/.test(remainder)) {
        warn('mtl/colour', `${word} is given as ${remainder.split(/\s/)[0]!}, which is not read`, line); // split gives one
        return;
      }
      const numbers = remainder
        .replace(/^-halo\s+/, '')
        .split(/\s+/)
        .map(Number);
      if (!numbers.every(Number.isFinite))
        warn('mtl/number', `"${remainder.slice(0, 40)}" is no number for ${word}`, line);
      else current.values[key] = numbers;
      return;
    }
    warn('mtl/statement', `"${word}" is passed over`, line);
  });
  finish();
  return { materials, warnings };
}

/** Options, then a path that may have blanks in it. */
function readMap(text: string): Pick<MtlMap, 'path' | 'use' | 'isClamped'> {
  const words = text.split(/\s+/);
  const use: Omit<TextureUse, 'texture'> = {};
  let isClamped = false;
  let [offset, scale] = [
    [0, 0],
    [1, 1],
  ] as [[number, number], [number, number]];
  let i = 0;
  while (i < words.length - 1 && words[i]!.startsWith('-')) {
    const option = words[i++]!.slice(1).toLowerCase(); // i < length
    if (option === 'o' || option === 's' || option === 't') {
      const numbers: number[] = [];
      while (
        numbers.length < 3 &&
        i < words.length - 1 &&
        /^[-+.\d]/.test(words[i]!) &&
        Number.isFinite(Number(words[i]))
      )
        numbers.push(Number(words[i++]));
      const [u = option === 's' ? 1 : 0, v = u] = numbers;
      if (option === 'o') offset = [u, numbers.length > 1 ? v : 0];
      if (option === 's') scale = [u, v];
      continue;
    }
    if (option === 'clamp') isClamped = words[i] === 'on';
    if (option === 'bm') use.strength = Number(words[i]) || 1;
    i += OPTIONS[option] ?? 1;
  }
  if (offset.some((part) => part !== 0) || scale.some((part) => part !== 1)) {
    // The file counts from below: v' = 1 - (v_s (1 - v) + v_o).
    use.transform = { offset: [offset[0], 1 - scale[1] - offset[1]], rotation: 0, scale };
  }
  // Behind the options the path is as it was written, blanks included.
  let path = text;
  for (let k = 0; k < i; k++) path = path.replace(/^\s*\S+\s*/, '');
  return { path: path.trim(), use, isClamped };
}

const color = (numbers: readonly number[] | undefined): [number, number, number] | undefined => {
  if (!numbers || numbers.length === 0) return undefined;
  const [r = 0, g = r, b = r] = numbers;
  return [r, g, b].map((part) => Math.min(1, Math.max(0, part))) as [number, number, number];
};

/** Numbers into factors. */
function settle({ material, maps }: MtlMaterial, values: Values): void {
  const one = (word: string): number | undefined => values[word]?.[0];
  const share = (word: string): number | undefined => {
    const value = one(word);
    return value === undefined ? undefined : Math.min(1, Math.max(0, value));
  };
  const has = (place: TexturePlace): boolean => maps.some((map) => map.place === place);
  const isPainted = has('baseColorTexture');
  const diffuse = color(values['kd']) ?? [0.8, 0.8, 0.8];
  // Writers that mean the picture alone leave the colour black.
  const base = isPainted && diffuse.every((part) => part === 0) ? [1, 1, 1] : diffuse;
  const opacity = share('d') ?? (one('tr') === undefined ? 1 : 1 - share('tr')!); // told just before
  material.baseColorFactor = [base[0]!, base[1]!, base[2]!, opacity];
  const metal = share('pm');
  const roughness = share('pr');
  const isMetalMapped = maps.some(({ word }) => word === 'map_pm');
  const isRoughMapped = maps.some(({ word }) => word === 'map_pr');
  material.metallicFactor = metal ?? (isMetalMapped ? 1 : 0);
  const exponent = one('ns');
  material.roughnessFactor =
    roughness ??
    (isRoughMapped ? 1 : exponent === undefined ? 1 : Math.min(1, (2 / (Math.max(0, exponent) + 2)) ** 0.25));
  const emissive = values['ke'];
  if (emissive?.some((part) => part > 0) || has('emissiveTexture')) {
    const light = emissive && emissive.length > 0 ? emissive : [1, 1, 1];
    const most = Math.max(1, ...light);
    material.emissiveFactor = color(light.map((part) => part / most))!; // given above
    if (most > 1) material.emissiveStrength = most;
  }
  if (opacity < 1) material.alphaMode = 'blend';
  if (one('illum') === 0) material.unlit = true;
  const ior = one('ni');
  if (ior !== undefined && ior > 1 && ior <= 4 && Math.abs(ior - 1.5) > 1e-6) material.ior = ior;
  const lacquer = share('pc');
  if (lacquer || has('clearcoatTexture')) {
    material.clearcoatFactor = lacquer ?? 1;
    material.clearcoatRoughnessFactor = share('pcr') ?? 0;
  }
  const sheen = color(values['ps']);
  if (sheen?.some((part) => part > 0)) material.sheenColorFactor = sheen;
  const brushed = share('aniso');
  if (brushed) {
    material.anisotropyStrength = brushed;
    material.anisotropyRotation = 2 * Math.PI * (one('anisor') ?? 0);
  }
}
