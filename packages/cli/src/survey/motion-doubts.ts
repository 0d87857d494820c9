import { attributeFloats, type Geometry, type ModelAsset } from '@umber-lens/core/engine';

type Tell = (code: string, message: string, pointer: string) => void;

/** What of skins and clips is right by the format but seldom meant. */
export function doubtMotion(asset: ModelAsset, tell: Tell): void {
  asset.meshes.forEach((mesh, m) => {
    mesh.primitives.forEach(({ geometry }, p) => {
      const wrong = wrongSums(geometry);
      if (wrong > 0)
        tell(
          'joint-weights',
          `the joint weights of ${wrong} vertices do not add up to 1; they are drawn as if they did`,
          `/meshes/${m}/primitives/${p}/attributes/WEIGHTS_0`,
        );
    });
  });
  const shown = new Set<object>();
  const open = (asset.defaultScene?.nodes ?? asset.nodes).slice();
  for (let node = open.pop(); node; node = open.pop()) {
    shown.add(node);
    open.push(...node.children);
  }
  asset.skins.forEach(({ name, joints }, s) => {
    const outside = joints.filter((joint) => !shown.has(joint)).length;
    if (outside > 0)
      tell(
        'joints-outside',
        `${outside} of ${joints.length} joints of skin "${name ?? s}" are outside the scene, so nothing moves them`,
        `/skins/${s}/joints`,
      );
  });
  asset.animations.forEach(({ name, channels }, a) => {
    const idle = channels.filter(
      ({ target, path }) => path !== 'property' && (!target || !shown.has(target)),
    ).length;
    if (idle > 0)
      tell(
        'idle-channels',
        `${idle} of ${channels.length} channels of "${name ?? a}" move nothing that the scene shows`,
        `/animations/${a}/channels`,
      );
  });
}

/** Vertices whose weights do not add up to 1, as far as bytes can say it. */
function wrongSums({ attributes }: Geometry): number {
  const sets: Float32Array[] = [];
  for (let i = 0; attributes[`weights${i}`]; i++) sets.push(attributeFloats(attributes[`weights${i}`]!)); // there
  let wrong = 0;
  for (let v = 0; v + 3 < (sets[0]?.length ?? 0); v += 4) {
    let sum = 0;
    for (const weights of sets) for (let k = 0; k < 4; k++) sum += weights[v + k]!; // four a vertex
    if (Math.abs(sum - 1) > 0.01) wrong++;
  }
  return wrong;
}
