import type { AssetNode, ModelAsset } from './asset.js';

/** Nodes that hang from none, in their order. */
export function rootsOf(nodes: readonly AssetNode[]): AssetNode[] {
  const children = new Set(nodes.flatMap((node) => node.children));
  return nodes.filter((node) => !children.has(node));
}

/** Top nodes of what a model shows: of a file without scenes, a library of nodes, all that hang from none. */
export const shownRoots = ({
  defaultScene,
  nodes,
  scenes,
}: Pick<ModelAsset, 'nodes' | 'scenes' | 'defaultScene'>): readonly AssetNode[] =>
  (defaultScene ?? scenes[0])?.nodes ?? rootsOf(nodes);
