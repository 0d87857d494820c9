import { LensError } from '../errors/lens-error.js';
import { linkHooks } from '../shading/check-hooks.js';
import { typeName } from '../wgsl/types/types.js';
import type { Known, Signature, Struct } from './types.js';

/** What graphs may name of the library, of files, and of their own WGSL. */
export interface Environment extends Known {
  /** Why WGSL that the graph brings is not right: then nothing of it is known. */
  fault?: LensError;
}

/** Parts of the library are there for who names them: a graph is offered all of them. */
const MATERIAL_HOOKS = `fn surface(p: Fragment) -> Surface {
  var out = surfaceDefaults(p);
  out.emissive = p.objectPosition + p.objectNormal + p.objectToWorld[0] + vec3f(p.screenPosition, p.depth);
  out.emissive += sceneColor(p.screenPosition).rgb * sceneDepth(p.screenSize);
  out.clearcoat = out.sheenRoughness + out.specular + out.transmission + out.iridescence + out.anisotropy;
  out.clearcoat += out.diffuseTransmission;
  return out;
}
`;
const EFFECT_HOOKS = `fn effect(p: Pixel) -> vec4f {
  let place = p.place;
  return p.color + secondAt(place) + beforeAt(place) + depthAt(place) + vec4f(normalAt(place), distanceAt(place));
}
`;

/** Those that were made last, by their text. */
const made = new Map<string, Environment>();
const MOST = 12;

/**
 * What is known behind some lines of WGSL.
 *
 * @param header imports, structures, declarations and functions
 * @param isEffect whether it is one of effects on pictures
 */
export function environmentOf(
  header: string,
  isEffect: boolean,
  file: string,
  sources: Readonly<Record<string, string>> = {},
): Environment {
  const key = JSON.stringify([header, isEffect, file, sources]);
  const known = made.get(key);
  if (known) {
    made.delete(key);
    made.set(key, known);
    return known;
  }
  const environment = build(header, isEffect, file, sources);
  made.set(key, environment);
  for (const old of made.keys()) {
    if (made.size <= MOST) break;
    made.delete(old);
  }
  return environment;
}

function build(
  header: string,
  isEffect: boolean,
  file: string,
  sources: Readonly<Record<string, string>>,
): Environment {
  const functions = new Map<string, Signature>();
  const structs = new Map<string, Struct>();
  try {
    const { checked } = linkHooks(`${header}\n${isEffect ? EFFECT_HOOKS : MATERIAL_HOOKS}`, {
      file,
      sources: { ...sources },
    });
    for (const decl of checked.order)
      if (decl.kind === 'struct' && decl.type?.kind === 'struct') structs.set(decl.name, decl.type);
    for (const { name, params, returnType, stage } of checked.functions) {
      if (stage || !returnType || typeName(returnType) === 'void' || functions.has(name)) continue;
      functions.set(name, {
        name,
        params: params.map((param) => ({ name: param.name, type: param.local!.type })), // checked
        result: returnType,
      });
    }
    return { functions, structs };
  } catch (error) {
    if (!(error instanceof LensError)) throw error;
    // What the library has is known all the same.
    const plain = header === '' ? { functions, structs } : build('', isEffect, file, {});
    return { ...plain, fault: error };
  }
}
