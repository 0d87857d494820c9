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
} from '@umber-lens/core/engine';

/** A loaded model: place it as often as you like; geometry and textures are shared. */
export interface Model {
  readonly asset: ModelAsset;
  /** Names of its animations; a `Motion` of a placing plays them. */
  readonly animationNames: string[];
  /** The material of this name, the first of several; undefined where there is none. What is written to it is seen in every placing. */
  findMaterial(name: string): Material | undefined;
  /**
   * The same, where it has to be there.
   *
   * @throws LensError `model/no-material` with the name that is near and all that there are
   */
  getMaterial(name: string): Material;
  /** The texture of this name, or whose picture has it. */
  findTexture(name: string): Texture | undefined;
  /** @throws LensError `model/no-texture` */
  getTexture(name: string): Texture;
  findAnimation(name: string): Animation<AssetNode> | undefined;
  /** @throws LensError `model/no-animation` */
  getAnimation(name: string): Animation<AssetNode>;
  /** The node of this name, as the file has it: `placeIn(...).find(name)` gives the one in the scene. */
  findNode(name: string): AssetNode | undefined;
  /** @throws LensError `model/no-node` */
  getNode(name: string): AssetNode;
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
 * @param tell hears what is doubtful in it; default the console
 */
export function modelOf(
  asset: ModelAsset,
  release?: () => void,
  tell: (message: LensError) => void = (message) => console.warn(`${message.code}: ${message.toString()}`),
): Model {
  const placed = new Set<SceneNode>();
  let isDisposed = false;
  /** The first of a name; of several that is said, once for each. */
  const found = <T extends { name?: string }>(
    key: string,
    list: readonly T[],
    name: string,
  ): T | undefined => {
    const all = list.filter((one) => one.name === name);
    if (all.length > 1) {
      const places = all.slice(0, 2).map((one) => `/${key}/${list.indexOf(one)}`);
      tell(
        new LensError(
          'model/name-twice',
          `${all.length} ${key} are called "${name}", ${places.join(' and ')}; the first is taken`,
        ),
      );
    }
    return all[0];
  };
  const named = <T extends { name?: string }>(kind: string, list: readonly T[], name: string): T => {
    const one = found(`${kind}s`, list, name);
    if (one) return one;
    throw new LensError(`model/no-${kind}`, `the model has no ${kind} "${name}"`, {
      hint: nearHint(
        name,
        list.flatMap((other) => other.name ?? []),
      ),
    });
  };
  const textures = (): { name: string; texture: Texture }[] =>
    asset.textures.map((texture) => ({
      name: texture.name ?? texture.image.name ?? texture.image.uri ?? '',
      texture,
    }));
  return {
    asset,
    animationNames: asset.animations.map(({ name }, i) => name ?? `animation ${i}`),
    findMaterial: (name) => found('materials', asset.materials, name),
    getMaterial: (name) => named('material', asset.materials, name),
    findTexture: (name) => found('textures', textures(), name)?.texture,
    getTexture: (name) => named('texture', textures(), name).texture,
    findAnimation: (name) => found('animations', asset.animations, name),
    getAnimation: (name) => named('animation', asset.animations, name),
    findNode: (name) => found('nodes', asset.nodes, name),
    getNode: (name) => named('node', asset.nodes, name),
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
