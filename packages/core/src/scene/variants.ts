import { LensError } from '../errors/lens-error.js';
import type { Mesh } from './components.js';
import type { SceneNode } from './scene-node.js';

/** Names of the variants that the meshes of a subtree have, each once. */
export function variantsOf(node: SceneNode): string[] {
  const names = new Set<string>();
  for (const one of [node, ...node.descendants()])
    for (const { variants } of one.mesh?.primitives ?? [])
      for (const name of Object.keys(variants ?? {})) names.add(name);
  return [...names];
}

/**
 * Gives the meshes of a subtree the materials of a variant (KHR_materials_variants), or their own again. Other placings
 * of the same model keep theirs.
 *
 * @param name left out: the materials that the file gives without a variant
 * @throws LensError `model/no-variant`
 */
export function setVariant(node: SceneNode, name?: string): void {
  if (name !== undefined) {
    const names = variantsOf(node);
    if (!names.includes(name)) {
      throw new LensError('model/no-variant', `"${node.name}" has no variant "${name}"`, {
        hint:
          names.length > 0
            ? `It has ${names.map((n) => `"${n}"`).join(', ')}.`
            : 'It has no variants at all.',
      });
    }
  }
  for (const one of [node, ...node.descendants()]) {
    const { mesh } = one;
    if (mesh?.primitives.some(({ variants }) => variants)) one.setMesh(variantOf(mesh, name));
  }
}

function variantOf(mesh: Mesh, name: string | undefined): Mesh {
  const primitives = mesh.primitives.map((primitive) => {
    const { variants, standard = primitive.material } = primitive;
    if (!variants) return primitive;
    const material = (name === undefined ? undefined : variants[name]) ?? standard;
    return { ...primitive, ...(standard ? { standard } : {}), ...(material ? { material } : {}) };
  });
  return { ...mesh, primitives };
}
