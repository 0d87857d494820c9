/**
 * What a page is written with. Files are read and written by `/formats`, shaders compiled by `/wgsl`, models made smaller
 * by `/trim`; `/engine` is for the lens and promised to nobody.
 *
 * @module @umber-lens/core
 */
export * from './animation/animation.js';
export type { Animation } from './animation/animation.js';
export { Motion, type MotionOptions, type StartOptions } from './animation/motion.js';
export { type PlaybackDirection, Playback, type PlayOptions } from './animation/playback.js';
export type * from './animation/states/definition.js';
export { checkStates, type CheckedStates } from './animation/states/flatten.js';
export { readStates } from './animation/states/read-states.js';
export { type LayerView, StateMachine, type TransitionReason } from './animation/states/state-machine.js';
export { sampleAnimation } from './animation/sample.js';
export type { NodeSkin, Pose } from './pose/pose.js';
export type { NodeWeights, SceneGuest } from './scene/guests.js';
export { aim, type AimOptions, type AimGoal, twoBoneIk, type TwoBoneIkOptions } from './procedural/aim.js';
export { easing, type Easing, type EasingName } from './procedural/easing.js';
export { hashFloat, noise } from './procedural/noise.js';
export { type SmoothPath, pathThrough } from './procedural/path.js';
export { spring, type SpringOptions } from './procedural/spring.js';
export { castRay, castRayAll, type CastOptions, type RayHit, type Ray } from './pick/cast-ray.js';
export { cameraRay } from './pick/camera-ray.js';
export { cameraFrustum } from './pick/camera-frustum.js';
export { findInBox, findInRegion, type ConvexRegion, type FindOptions } from './pick/find-in-region.js';
export { findInSphere, type SphereHit } from './pick/find-in-sphere.js';
export { preparePicking } from './pick/tree-store.js';
export { poseNode, poseOf } from './pose/pose-node.js';
export { posedGeometry } from './pose/posed-geometry.js';
export { type DecalOptions, placeDecal } from './decal/place-decal.js';
export { geometryChanged, type GeometryChange } from './geometry/geometry-changes.js';
export { readCube } from './formats/cube/read-cube.js';
export { card, type CardOptions } from './flat/card.js';
export { faceCamera, type FaceOptions } from './flat/face-camera.js';
export { fitPixelCamera } from './flat/pixel-camera.js';
export { planeOf, reflectCamera, type WorldPlane } from './draw/reflect-camera.js';
export { frameBounds, frameNode, type Framing, type FramingOptions } from './draw/framing.js';
export { formatPlace, LensError, type SourcePlace, type Warning } from './errors/lens-error.js';
export * from './geometry/flat-shapes.js';
export {
  type Attribute,
  attributeFloats,
  attributeFrom,
  type ComponentType,
  type Geometry,
  type GeometryArrays,
  geometryFrom,
  type Indices,
  interleave,
  type MorphTarget,
  type PrimitiveMode,
  vertexCount,
} from './geometry/geometry.js';
export { eachTriangle, triangleCount } from './geometry/triangles.js';
export { asTriangles, withFlatNormals, withSmoothNormals } from './geometry/normals.js';
export {
  convexHull,
  type ConvexHullOptions,
  polyhedron,
  type PolyhedronOptions,
} from './geometry/polyhedra.js';
export {
  capsule,
  type CapsuleOptions,
  cone,
  type ConeOptions,
  cylinder,
  type CylinderOptions,
  icosphere,
  type IcosphereOptions,
  sphere,
  type SphereOptions,
  torus,
  type TorusOptions,
} from './geometry/round-shapes.js';
export { lathe, type LatheOptions, tube, type TubeOptions } from './geometry/swept-shapes.js';
export { withTangents } from './geometry/tangents.js';
export type { Clipping } from './scene/clipping.js';
export type { Backdrop, ImageLight as Environment, Fog, Probe } from './light/environment.js';
export { type LightCube, panoramaOfCube, panoramaOfSides } from './light/cube.js';
export { type Panorama, panoramaOfBytes } from './light/panorama.js';
export { temperatureColor } from './light/temperature.js';
export { skyPanorama, type SkyOptions, sunIrradiance } from './light/sky.js';
export type {
  AlphaMode,
  Image,
  ImageContent,
  Material,
  Sampler,
  SettingValue,
  Texture,
  TextureUse,
  Wrap,
} from './material/material.js';
export type {
  BlendFactors,
  BlendState,
  DepthCompare,
  MaterialBlend,
  StencilOperation,
  StencilState,
} from './material/draw-state.js';
export type {
  CompiledShader,
  ComputeShader,
  CustomInput,
  EffectInput,
  FullMaterial,
  PackedShader,
  MaterialSetting,
  MaterialShader,
  TextureSetting,
} from './material/shader-types.js';
export {
  type AmbientOcclusionEffect,
  type AmountEffect,
  BLEND_MODES,
  type BlendEffect,
  type BlendMode,
  type BloomEffect,
  type BlurEffect,
  type ChromaticAberrationEffect,
  type ColorInterpolation,
  type ColorMatrixEffect,
  type ColorTable,
  COMPOSITE_OPERATORS,
  type CompositeEffect,
  type ComponentTransferEffect,
  type ConvolveEffect,
  type DepthOfFieldEffect,
  type DisplacementEffect,
  type DitherEffect,
  type DropShadowEffect,
  type EdgeMode,
  type Effect,
  EFFECT_TYPES,
  type EffectFocus,
  type EffectMap,
  type EffectType,
  type FilmGrainEffect,
  type FloodEffect,
  type HueRotateEffect,
  type LensDistortionEffect,
  LIGHT_EFFECTS,
  type LightShaftsEffect,
  type LutEffect,
  type MorphologyEffect,
  type MotionBlurEffect,
  type OffsetEffect,
  type OutlineEffect,
  type OwnEffectShader,
  PICTURE_EFFECTS,
  type ScreenSpaceReflectionsEffect,
  type ShaderEffect,
  type SharpenEffect,
  type SmoothEdgesEffect,
  type TemporalAntialiasingEffect,
  type TransferFunction,
  type TurbulenceEffect,
} from './effects/effect.js';
export { readFinish } from './properties/read-finish.js';
export { color, colorWithAlpha } from './math/color.js';
export { linearFromSrgb } from './math/srgb.js';
export {
  type Bounds,
  boundsCenter,
  boundsRadius,
  emptyBounds,
  growBounds,
  isEmptyBounds,
} from './math/bounds.js';
export type { Numbers, Vec3 } from './math/vectors.js';
export { multiplyRotations, normalizeRotation, slerp } from './math/quaternions.js';
export { facing, type Rotation, axisAngle } from './math/rotation.js';
export { setWorldTransforms, transformsChanged, worldTransformsChanged } from './scene/bulk.js';
export * from './scene/components.js';
export { scatterAlong, type AlongOptions } from './scatter/along-path.js';
export { type Clump, clumpAt, type Clumps, clumpsOf } from './scatter/clumps.js';
export { type ScatterDensity, densityOf } from './scatter/density.js';
export { type GridOptions, scatterOnGrid } from './scatter/on-grid.js';
export { scatterOnSurface, type SurfaceOptions } from './scatter/on-surface.js';
export { transformsBy, type TransformsByOptions } from './scatter/transforms-by.js';
export {
  type DensityGiven,
  type PictureDensity,
  transformsOf,
  type Scattered,
  type TurnOptions,
} from './scatter/scattered.js';
export { type InWorkerOptions, scatterInWorker, swarmInWorker } from './formats/apart/in-worker.js';
export { type MeshLevel, meshLevels } from './swarm/mesh-levels.js';
export type { InstanceTransforms } from './swarm/instance-transforms.js';
export { Swarm } from './swarm/swarm.js';
export type { SwarmDensity, SwarmLevel, SwarmOptions } from './swarm/swarm-options.js';
export { type InstanceSettings, type NodeOptions, Scene } from './scene/scene.js';
export { SceneNode } from './scene/scene-node.js';
export { setVariant, variantsOf } from './scene/variants.js';
export type { BindOptions, BindReport, BoundAnimation, BoundChannel } from './animation/bind.js';
export type { ModelAsset, AssetNode } from './formats/asset/asset.js';
export type { TargetOptions } from './pick/targets.js';
export type { ScatterAnswer, ScatterRequest } from './scatter/scatter-request.js';
export type { NodeColumns } from './columns/columns.js';
export * from './sheets.js';
