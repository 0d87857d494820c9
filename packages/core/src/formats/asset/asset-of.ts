import type { Animation, Skin } from '../../animation/animation.js';
import { placingOf } from '../../animation/placings.js';
import type { Warning } from '../../errors/lens-error.js';
import { affineFromTrs, affineToMatrix, affineToTrs } from '../../math/affine.js';
import type { Mesh } from '../../scene/components.js';
import { poseOf } from '../../pose/pose-node.js';
import type { Scene } from '../../scene/scene.js';
import { readLocal, SceneNode } from '../../scene/scene-node.js';
import { Swarm, swarmPart } from '../../swarm/swarm.js';
import { assetFrom, type AssetNode, type ModelAsset } from './asset.js';

/**
 * A scene, or what is below one of its nodes, as an asset for writers: nodes, meshes, materials, cameras, lights, skins,
 * targets with their weights, swarms as copies, and the clips of models that were placed there.
 *
 * Nothing is copied but transforms. What no file has a place for is told in `warnings`: materials' own shaders (their other
 * members stand for them), levels of meshes (the nearest counts), environments, fog, probes.
 */
export function assetOf(from: Scene | SceneNode): ModelAsset {
  return new Gatherer().asset(from);
}

class Gatherer {
  private readonly nodeOf = new Map<SceneNode, AssetNode>();
  private readonly nodes: AssetNode[] = [];
  private readonly warnings: Warning[] = [];
  private readonly told = new Set<unknown>();
  private readonly swarms = new Map<Swarm, AssetNode[]>();

  asset(from: Scene | SceneNode): ModelAsset {
    const isNode = from instanceof SceneNode;
    const scene = isNode ? from.scene : from;
    scene.update();
    const roots = isNode ? [this.node(from)] : [...scene.root.children()].map((child) => this.node(child));
    const skins = this.bend();
    const animations = this.clips();
    if (!isNode) this.tellAround(scene);
    return assetFrom('glTF', this.nodes, {
      roots,
      skins,
      animations,
      warnings: this.warnings,
      ...(isNode ? {} : { name: scene.name }),
    });
  }

  private node(from: SceneNode): AssetNode {
    const { name, camera, light, mesh, visible, extras } = from;
    const made: AssetNode = { children: [], ...transformOf(from) };
    this.nodeOf.set(from, made);
    this.nodes.push(made);
    if (name) made.name = name;
    if (camera) made.camera = camera;
    if (light) made.light = light;
    if (!visible) made.visible = false;
    if (extras !== undefined) made.extras = extras;
    if (mesh instanceof Swarm) this.copies(mesh, made);
    else if (mesh) {
      made.mesh = mesh;
      this.tellShaders(mesh);
    }
    for (const child of from.children()) made.children.push(this.node(child));
    return made;
  }

  /** The nearest level of each shape, as many times as there are copies of it; one by itself is a mesh. */
  private copies(swarm: Swarm, node: AssetNode): void {
    const known = this.swarms.get(swarm);
    if (known) {
      for (const child of known) node.children.push(this.added({ ...child, children: [] }));
      return;
    }
    const children: AssetNode[] = [];
    const matrix = new Float32Array(12);
    swarm.shapes.forEach(({ levels, order }, shape) => {
      const primitive = swarm.primitives.find(({ geometry }) => {
        const part = swarmPart(geometry);
        return part?.shape === shape && part.level === 0;
      });
      const part = primitive && swarmPart(primitive.geometry);
      if (!primitive || !part || order.length === 0) return;
      if (levels.length > 1)
        this.tell(swarm, 'asset/levels', 'of the levels of a swarm the nearest is written');
      const { material } = primitive;
      const mesh: Mesh = { primitives: [{ geometry: part.geometry, ...(material ? { material } : {}) }] };
      this.tellShaders(mesh);
      const [translations, rotations, scales] = [3, 4, 3].map((n) => new Float32Array(order.length * n)) as [
        Float32Array,
        Float32Array,
        Float32Array,
      ];
      for (let i = 0; i < order.length; i++) {
        swarm.readTransform(order[i]!, matrix); // i < length
        // Hidden copies have no size: they stay at their place, as small as can be.
        if (!affineToTrs(matrix, 0, translations, i * 3, rotations, i * 4, scales, i * 3)) {
          translations.set([matrix[3]!, matrix[7]!, matrix[11]!], i * 3); // twelve numbers
          rotations.set([0, 0, 0, 1], i * 4);
        }
      }
      const isOne = order.length === 1;
      const child: AssetNode = {
        children: [],
        mesh,
        ...(isOne
          ? {
              translation: [...translations] as [number, number, number],
              rotation: [...rotations] as [number, number, number, number],
              scale: [...scales] as [number, number, number],
            }
          : { instances: { count: order.length, translations, rotations, scales, own: {} } }),
      };
      children.push(child);
      node.children.push(this.added(child));
    });
    this.swarms.set(swarm, children);
  }

  private added(node: AssetNode): AssetNode {
    this.nodes.push(node);
    return node;
  }

  /** Skins and weights of what is bent, and of a skin one for all that have it. */
  private bend(): Skin<AssetNode>[] {
    const skins = new Map<object, Skin<AssetNode>>();
    for (const [from, node] of this.nodeOf) {
      const pose = poseOf(from);
      if (!pose) continue;
      if (pose.weights.length > 0) node.weights = [...pose.weights];
      const { skin } = pose;
      if (!skin) continue;
      let made = skins.get(skin);
      if (!made) {
        const joints = skin.joints.map((joint) => this.nodeOf.get(joint));
        if (joints.some((joint) => joint === undefined)) {
          this.tell(
            skin,
            'asset/skin',
            `the joints of "${from.name}" are not among what is written: it stands as it was made`,
          );
          continue;
        }
        const { name, inverseBindMatrices } = skin;
        made = {
          joints: joints as AssetNode[],
          ...(name === undefined ? {} : { name }),
          ...(inverseBindMatrices ? { inverseBindMatrices } : {}),
        };
        skins.set(skin, made);
      }
      node.skin = made;
    }
    return [...skins.values()];
  }

  /** Clips of models that were placed, for the nodes that they became. */
  private clips(): Animation<AssetNode>[] {
    const clips: Animation<AssetNode>[] = [];
    for (const from of this.nodeOf.keys()) {
      const placing = placingOf(from);
      for (const clip of placing?.animations ?? []) {
        const toOurs = (of: object | undefined): AssetNode | undefined => {
          const placed = of && placing?.nodeOf.get(of);
          return placed && this.nodeOf.get(placed);
        };
        const channels = clip.channels.flatMap(
          ({ target, property, ...rest }): Animation<AssetNode>['channels'] => {
            if (property) {
              const owner = toOurs(property.owner) ?? property.owner;
              return [{ ...rest, property: { ...property, owner } }];
            }
            const ours = toOurs(target);
            return ours ? [{ ...rest, target: ours }] : [];
          },
        );
        if (channels.length > 0) clips.push({ ...clip, channels });
      }
    }
    return clips;
  }

  private tellShaders({ primitives }: Mesh): void {
    for (const { material, overlays } of primitives) {
      if (overlays?.length)
        this.tell(
          overlays[0],
          'asset/overlays',
          `what lies over material "${material?.name ?? ''}" is not written: files of models have one material a primitive`,
        );
      if (material?.shader)
        this.tell(
          material,
          'asset/shader',
          `the shader ${material.shader.file} of material "${material.name ?? ''}" is not written: its factors and textures stand for it`,
        );
    }
  }

  private tellAround({ imageLight: environment, fog, probes }: Scene): void {
    const around = [environment && 'the environment', fog && 'fog', probes.length > 0 && 'probes'].filter(
      Boolean,
    );
    if (around.length > 0)
      this.tell(around, 'asset/around', `${around.join(', ')} of the scene have no place in a model`);
  }

  private tell(about: unknown, code: string, message: string): void {
    if (this.told.has(about)) return;
    this.told.add(about);
    this.warnings.push({ code, message, where: {} });
  }
}

/** Three parts where they say it all, else a matrix; nothing for a node that stands where its parent does. */
function transformOf(node: SceneNode): Pick<AssetNode, 'translation' | 'rotation' | 'scale' | 'matrix'> {
  const translation = node.readTranslation([0, 0, 0] as [number, number, number]);
  const rotation = node.readRotation([0, 0, 0, 1] as [number, number, number, number]);
  const scale = node.readScale([1, 1, 1] as [number, number, number]);
  const local = readLocal(node, new Float32Array(12));
  const made = new Float32Array(12);
  affineFromTrs(made, 0, translation, 0, rotation, 0, scale, 0);
  const size = Math.max(...local.map(Math.abs), 1e-12);
  if (made.some((value, k) => Math.abs(value - local[k]!) > size * 1e-5))
    // twelve numbers
    return { matrix: [...affineToMatrix(new Float32Array(16), local)] };
  return {
    ...(translation.some((part) => part !== 0) ? { translation } : {}),
    ...(rotation.some((part, k) => part !== (k === 3 ? 1 : 0)) ? { rotation } : {}),
    ...(scale.some((part) => part !== 1) ? { scale } : {}),
  };
}
