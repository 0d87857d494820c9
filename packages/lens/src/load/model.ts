import {
  type Animation,
  type AssetNode,
  LensError,
  type Material,
  type ModelAsset,
  nearHint,
  placeAsset,
  type PlaceOptions,
  type Scene,
  type SceneNode,
  type Texture,
} from '@umber-lens/core';

/** A loaded model: place it as often as you like; geometry and textures are shared. */
export interface Model {
  readonly asset: ModelAsset;
  /** Names of its clips; a `Motion` of a placing plays them. */
  readonly animationNames: string[];
  /**
   * The material of this name, the first of several (which is told); what is written to it is seen in every placing.
   *
   * @throws LensError `model/no-material` with the name that is near and all that there are
   */
  material(name: string): Material;
  /**
   * The texture of this name, or whose picture has it.
   *
   * @throws LensError `model/no-texture`
   */
  texture(name: string): Texture;
  /**
   * The clip of this name.
   *
   * @throws LensError `model/no-animation`
   */
  animation(name: string): Animation<AssetNode>;
  /**
   * The node of this name, as the file has it: `placeIn(...).find(name)` gives the one in the scene.
   *
   * @throws LensError `model/no-node`
   */
  node(name: string): AssetNode;
  /** Hangs the model into a scene and returns the node it hangs from. */
  placeIn(scene: Scene, options?: PlaceOptions): SceneNode;
  /**
   * Takes its placings out of their scenes, and frees its pictures unless another model of its address, or with the same
   * pictures, has them. What it had on GPUs is freed when it was not drawn for 120 frames. Calling it twice does nothing.
   */
  dispose(): void;
}

/**
 * A model of an asset that was read elsewhere, its pictures decoded or not.
 *
 * @param release is called when it is disposed of
 */
export function modelOf(asset: ModelAsset, release?: () => void): Model {
  const placed = new Set<SceneNode>();
  let isDisposed = false;
  const named = <T extends { name?: string }>(
    kind: string,
    key: string,
    list: readonly T[],
    name: string,
  ): T => {
    const found = list.filter((one) => one.name === name);
    if (found.length > 1) {
      const places = found.slice(0, 2).map((one) => `/${key}/${list.indexOf(one)}`);
      console.warn(
        `model/name-twice: ${found.length} ${key} are called "${name}", ${places.join(' and ')}; the first is taken`,
      );
    }
    if (found[0]) return found[0];
    throw new LensError(`model/no-${kind}`, `the model has no ${kind} "${name}"`, {
      hint: nearHint(
        name,
        list.flatMap((one) => one.name ?? []),
      ),
    });
  };
  return {
    asset,
    animationNames: asset.animations.map(({ name }, i) => name ?? `animation ${i}`),
    material: (name) => named('material', 'materials', asset.materials, name),
    texture: (name) => {
      const list = asset.textures.map((texture) => ({
        name: texture.name ?? texture.image.name ?? texture.image.uri ?? '',
        texture,
      }));
      return named('texture', 'textures', list, name).texture;
    },
    animation: (name) => named('animation', 'animations', asset.animations, name),
    node: (name) => named('node', 'nodes', asset.nodes, name),
    placeIn(scene, placeOptions) {
      if (isDisposed)
        throw new LensError('model/disposed', 'the model was disposed of', { hint: 'Load it again.' });
      const { node } = placeAsset(asset, scene, placeOptions);
      placed.add(node);
      return node;
    },
    dispose() {
      if (isDisposed) return;
      isDisposed = true;
      for (const node of placed) node.remove();
      placed.clear();
      release?.();
    },
  };
}
