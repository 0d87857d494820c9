import type { Scene, SceneNode } from '@umber-lens/core/engine';

/**
 * A node in words that last over reloads: names from the top, and of siblings that have one name, which of them: `lamps/lamp#2`. Numbers count
 * from 0. Signs that join are written otherwise within names.
 */
export type NodeAddress = string;

export const escapedName = (name: string): string =>
  name.replace(/[%/#]/g, (sign) => `%${sign.charCodeAt(0).toString(16)}`);

export function addressOfNode(node: SceneNode): NodeAddress {
  const parts: string[] = [];
  for (let at = node; at.parent; at = at.parent) parts.unshift(partOf(at, at.parent));
  return parts.join('/');
}

function partOf(node: SceneNode, parent: SceneNode): string {
  let before = 0;
  for (const sibling of parent.children()) {
    if (sibling === node) break;
    if (sibling.name === node.name) before++;
  }
  return escapedName(node.name) + (before > 0 ? `#${before}` : '');
}

/** The node of an address; the scene's root for an empty one; undefined where there is none. */
export function nodeAt(scene: Scene, address: NodeAddress): SceneNode | undefined {
  let at: SceneNode | undefined = scene.root;
  if (address === '') return at;
  for (const part of address.split('/')) {
    const [name = '', number = '0'] = part.split('#');
    let left = Number(number);
    let found: SceneNode | undefined;
    for (const child of at.children())
      if (escapedName(child.name) === name && left-- === 0) {
        found = child;
        break;
      }
    if (!found) return undefined;
    at = found;
  }
  return at;
}
