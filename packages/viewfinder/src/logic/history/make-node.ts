import {
  type Camera,
  type Light,
  type Geometry,
  madeOf,
  type Material,
  type NodeOptions,
  noteMade,
  type Primitive,
  rotationOfDegrees,
  type Scene,
  type SceneNode,
  SHAPE_MAKERS,
} from '@umber-lens/core/engine';
import { copied } from './apply-edit.js';
import type { NodeSpec } from './edit.js';

/** Makes a node, with all below it, as its words say. Materials stand where they are used. */
export function makeNode(scene: Scene, parent: SceneNode, spec: NodeSpec): SceneNode {
  const {
    camera,
    castsShadow,
    children = [],
    degrees,
    extras,
    light,
    mesh,
    name = '',
    receivesShadow,
  } = spec;
  const { rotation = degrees && rotationOfDegrees(degrees), scale, translation, visible, visibleTo } = spec;
  const options: NodeOptions = { parent, name };
  if (translation) options.translation = translation;
  if (rotation) options.rotation = rotation;
  if (scale) options.scale = scale;
  if (visible !== undefined) options.visible = visible;
  if (visibleTo !== undefined) options.visibleTo = visibleTo;
  if (castsShadow !== undefined) options.castsShadow = castsShadow;
  if (receivesShadow !== undefined) options.receivesShadow = receivesShadow;
  if (camera) options.camera = copied(camera) as Camera;
  if (light) options.light = copied(light) as Light;
  if (extras !== undefined) options.extras = copied(extras);
  if (spec.effects) options.effects = copied(spec.effects) as never;
  if (spec.settings) options.settings = copied(spec.settings);
  const primitives = [mesh ?? []]
    .flat()
    .flatMap((one) => ('shape' in one ? [primitiveOf(one as Shape)] : []));
  if (primitives.length > 0) options.mesh = primitives;
  const node = scene.createNode(options);
  for (const child of children) makeNode(scene, node, child);
  return node;
}

interface Shape {
  shape: string;
  material?: Material;
  [option: string]: unknown;
}

function primitiveOf({ material, shape, ...options }: Shape): Primitive {
  return { geometry: shapeOf(shape, options), material: copied(material ?? {}) };
}

/** A geometry of a shape, which knows what it is made of in production, too. @throws LensError for options that it does not take */
export function shapeOf(shape: string, options: object): Geometry {
  const geometry = SHAPE_MAKERS[shape]!(options as never); // by its name
  noteMade(geometry, shape, options);
  return geometry;
}

/**
 * A node in words, with all below it; undefined where something of it has none: geometry that is no shape, shaders.
 */
export function specOf(node: SceneNode): NodeSpec | undefined {
  const spec: NodeSpec = {
    name: node.name,
    translation: node.readTranslation([0, 0, 0]),
    rotation: node.readRotation([0, 0, 0, 1]),
    scale: node.readScale([1, 1, 1]),
  };
  if (!node.visible) spec.visible = false;
  if (!node.castsShadow) spec.castsShadow = false;
  if (!node.receivesShadow) spec.receivesShadow = false;
  if (node.visibleTo !== 0xffffffff) spec.visibleTo = node.visibleTo;
  if (node.camera) spec.camera = copied(node.camera);
  if (node.light) spec.light = copied(node.light);
  if (node.extras !== undefined) spec.extras = copied(node.extras);
  if (node.effects.length > 0) spec.effects = copied(node.effects) as never;
  if (node.settings) spec.settings = copied(node.settings) as never;
  if (node.mesh) {
    const mesh = node.mesh.primitives.map(({ geometry, material, overlays }) => {
      const made = material?.shader || overlays ? undefined : madeOf(geometry);
      return (
        made && { shape: made.shape, ...made.options, ...(material ? { material: copied(material) } : {}) }
      );
    });
    if (mesh.some((one) => one === undefined)) return undefined;
    spec.mesh = mesh as never;
  }
  const children = [...node.children()].map(specOf);
  if (children.some((child) => child === undefined)) return undefined;
  if (children.length > 0) spec.children = children as NodeSpec[];
  return spec;
}
