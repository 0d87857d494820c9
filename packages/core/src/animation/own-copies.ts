import type { Material } from '../material/material.js';
import type { Camera, Light, Mesh } from '../scene/components.js';
import type { SceneNode } from '../scene/scene-node.js';
import type { AnimatedProperty } from './animation.js';

/** Where the values of a property go. */
export interface Place {
  /** Object and name that stand for the property among others. */
  owner: object;
  key: string;
  read(out: Float64Array): void;
  write(from: Float64Array, at: number): void;
}

type Holder = Record<string, unknown>;

/**
 * Materials, lights and cameras below a node that are animated there: each becomes a copy of this subtree's own when
 * it is first asked for, so that other placings of the same model keep theirs.
 */
export class OwnCopies {
  private readonly copies = new Map<object, object>();

  constructor(private readonly root: SceneNode) {}

  /** @returns undefined where nothing in the subtree has such a thing */
  placeOf(
    { owner, names, default: usual }: AnimatedProperty,
    node: SceneNode | undefined,
  ): Place | undefined {
    if (node) return names[0] === 'visible' ? visibility(node) : undefined;
    const own = this.copyOf(owner);
    return own && numbersAt(own as Holder, names, usual ?? 0);
  }

  private copyOf(owner: object): object | undefined {
    const known = this.copies.get(owner);
    if (known) return known;
    const copy = deepCopy(owner as Holder);
    let isUsed = false;
    for (const node of [this.root, ...this.root.descendants()]) {
      if (node.light === owner) {
        node.setLight(copy as unknown as Light);
        isUsed = true;
      }
      if (node.camera === owner) {
        node.setCamera(copy as unknown as Camera);
        isUsed = true;
      }
      const mesh = node.mesh && withMaterial(node.mesh, owner as Material, copy as Material);
      if (!mesh) continue;
      node.setMesh(mesh);
      isUsed = true;
    }
    if (!isUsed) return undefined;
    this.copies.set(owner, copy);
    return copy;
  }
}

/** The mesh with a material exchanged; undefined when it does not have it. */
function withMaterial(mesh: Mesh, from: Material, to: Material): Mesh | undefined {
  let isChanged = false;
  const exchanged = (material: Material): Material => {
    if (material !== from) return material;
    isChanged = true;
    return to;
  };
  const primitives = mesh.primitives.map((primitive) => {
    const { material, standard, variants } = primitive;
    return {
      ...primitive,
      ...(material ? { material: exchanged(material) } : {}),
      ...(standard ? { standard: exchanged(standard) } : {}),
      ...(variants
        ? { variants: Object.fromEntries(Object.entries(variants).map(([name, m]) => [name, exchanged(m)])) }
        : {}),
    };
  });
  return isChanged ? { ...mesh, primitives } : undefined;
}

/** Own numbers and lists, and how textures lie; images, textures and shaders stay shared. */
function deepCopy(from: Holder): Holder {
  const out: Holder = { ...from };
  for (const [key, value] of Object.entries(from)) {
    if (Array.isArray(value) || ArrayBuffer.isView(value))
      out[key] = Array.from(value as unknown as ArrayLike<unknown>);
    else if (key === 'settings') out[key] = deepCopy(value as Holder);
    else if (value !== null && typeof value === 'object' && 'texture' in value) {
      const use = value as Holder & { transform?: Holder };
      out[key] = { ...use, ...(use.transform ? { transform: deepCopy(use.transform) } : {}) };
    }
  }
  return out;
}

function numbersAt(
  owner: Holder,
  names: readonly string[],
  usual: number | readonly number[],
): Place | undefined {
  let holder = owner;
  for (const name of names.slice(0, -1)) {
    // A texture that is not there cannot be moved about; how one lies may be left out.
    if (holder[name] === undefined && name !== 'transform') return undefined;
    holder[name] ??= { offset: [0, 0], rotation: 0, scale: [1, 1] };
    holder = holder[name] as Holder;
  }
  const key = names.at(-1);
  if (key === undefined) return undefined;
  holder[key] ??= typeof usual === 'number' ? usual : [...usual];
  const isList = typeof holder[key] !== 'number';
  return {
    owner: holder,
    key,
    read(out) {
      if (isList) out.set((holder[key] as number[]).slice(0, out.length));
      else out[0] = holder[key] as number;
    },
    write(from, at) {
      if (!isList) {
        holder[key] = from[at]!; // one number
        return;
      }
      const list = holder[key] as number[];
      for (let k = 0; k < list.length; k++) list[k] = from[at + k]!; // as many as it has
    },
  };
}

/** Animated as 0 and 1 (KHR_node_visibility). */
function visibility(node: SceneNode): Place {
  return {
    owner: node,
    key: 'visible',
    read(out) {
      out[0] = node.visible ? 1 : 0;
    },
    write(from, at) {
      const visible = from[at]! >= 0.5; // one number
      if (node.isAlive && visible !== node.visible) node.setVisible(visible);
    },
  };
}
