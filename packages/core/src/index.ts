export type { NodeColumns } from './columns/columns.js';
export { SpanLog } from './columns/span-log.js';
export * from './animation/animation.js';
export type { Animation } from './animation/animation.js';
export type { BindOptions, BindReport, BoundAnimation, BoundChannel } from './animation/bind.js';
export { Motion, type MotionOptions, type StartOptions } from './animation/motion.js';
export { type PlaybackDirection, Playback, type PlayOptions } from './animation/playback.js';
export type * from './animation/states/definition.js';
export { checkStates, type CheckedStates } from './animation/states/flatten.js';
export { type LayerView, StateMachine, type TransitionReason } from './animation/states/state-machine.js';
export { sampleAnimation } from './animation/sample.js';
export type { NodeSkin, Pose, ScenePoses } from './scene/pose.js';
export { aim, type AimOptions, type Goal, twoBoneIk, type TwoBoneIkOptions } from './procedural/aim.js';
export { easing, type Easing, type EasingName } from './procedural/easing.js';
export { hashFloat, noise } from './procedural/noise.js';
export { type Path, pathThrough } from './procedural/path.js';
export { spring, type SpringOptions } from './procedural/spring.js';
export { castRay, castRayAll, type CastOptions, type Hit, type Ray } from './pick/cast-ray.js';
export { cameraRay } from './pick/camera-ray.js';
export { cameraFrustum } from './pick/camera-frustum.js';
export { findInBox, findInRegion, type FindOptions, type Region } from './pick/find-in-region.js';
export { findInSphere, type SphereHit } from './pick/find-in-sphere.js';
export type { TargetOptions } from './pick/targets.js';
export { preparePicking } from './pick/tree-store.js';
export { cropView, type PictureRegion } from './draw/crop-view.js';
export { poseNode } from './pose/pose-node.js';
export { posedGeometry } from './pose/posed-geometry.js';
export { type CameraView, createCameraView, updateCameraView, writeProjection } from './draw/camera-view.js';
export { type Slice, sliceEnds, writeCascadeView, writeLightView } from './draw/light-view.js';
export { DrawList, type TransformSlots } from './draw/draw-list.js';
export { type DecalOptions, placeDecal } from './decal/place-decal.js';
export { frameBounds, frameNode, type Framing, type FramingOptions } from './draw/framing.js';
export { formatPlace, LensError, type Place, type Warning } from './errors/lens-error.js';
export { nearest, nearHint } from './errors/near-names.js';
export type { Resolve } from './formats/gltf/accessors.js';
export type { AssetInstances, AssetLevel, AssetNode, AssetScene, ModelAsset } from './formats/asset/asset.js';
export { assetFrom } from './formats/asset/asset.js';
export { type AssetDifference, diffAssets, type DiffOptions } from './formats/asset/diff-assets.js';
export { assetOf } from './formats/asset/asset-of.js';
export { placeAsset, type Placed, type PlaceOptions } from './formats/asset/place.js';
export { readGltf, type ReadGltfOptions, SUPPORTED_EXTENSIONS } from './formats/gltf/read.js';
export type { PackMode, ViewPacker } from './formats/gltf/packed-views.js';
export {
  type PackedGeometry,
  writeGlb,
  writeGltf,
  type WritableAsset,
  type WriteOptions,
} from './formats/gltf/write.js';
export { type ByteSource, peek, wholeOf } from './formats/bytes/byte-source.js';
export { imageTypeOf } from './formats/bytes/image-type.js';
export { readObj, type ReadObjOptions } from './formats/obj/read-obj.js';
export { type WrittenModel, writeObj } from './formats/obj/write-obj.js';
export { writePly, type WritePlyOptions } from './formats/ply/write-ply.js';
export { writeStl, type WriteStlOptions } from './formats/stl/write-stl.js';
export { readPly, type ReadPlyOptions } from './formats/ply/read-ply.js';
export { formatOf, type ModelFormat, readModel, type ReadModelOptions } from './formats/read-model.js';
export { readStl, type ReadStlOptions } from './formats/stl/read-stl.js';
export { type DeepPicture, readPng16 } from './formats/png/read-png16.js';
export { readHdr, writeHdr } from './formats/hdr/hdr.js';
export * from './geometry/flat-shapes.js';
export {
  type Attribute,
  attributeFloats,
  attributeFrom,
  COMPONENT_BYTES,
  type ComponentType,
  drawCount,
  type Geometry,
  type GeometryArrays,
  geometryFrom,
  type Indices,
  interleave,
  type MorphTarget,
  type PrimitiveMode,
  vertexCount,
  attributeBounds,
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
export type { Backdrop, ImageLight as Environment, Fog, Probe } from './light/environment.js';
export { type Irradiance, irradianceAt, irradianceOf } from './light/irradiance.js';
export { LOBE_COUNTS, lobeSamples, MIRROR_SIDE } from './light/lobe.js';
export { bakePanorama, type BakedLight, type BakeOptions } from './light/bake.js';
export { cubeDirection, cubePlace, type LightCube, panoramaOfCube, panoramaOfSides } from './light/cube.js';
export { decodeKtx2, unpackDraco } from './formats/apart/decode-apart.js';
export type { DracoMesh, DracoWanted } from './formats/draco/decode-draco.js';
export { type DecodeKtx2Options, linearPixels, type TexelLevels } from './formats/ktx2/decode-ktx2.js';
export { type Ktx2Texture, readKtx2 } from './formats/ktx2/read-ktx2.js';
export {
  type PackedFormat,
  ASTC_SIZES,
  srgbFormat,
  texelBlock,
  texelBytes,
  type TexelFormat,
} from './material/texel-formats.js';
export { readKtx2Panorama } from './formats/ktx2/panorama-file.js';
export { isKtx2, readBakedKtx2, writeBakedKtx2 } from './formats/ktx2/environment-file.js';
export { fromHalfFloats, toHalfFloats } from './math/half-floats.js';
export { type Panorama, panoramaOfBytes, panoramaCoordinates, panoramaDirection } from './light/panorama.js';
export { temperatureColor } from './light/temperature.js';
export { skyPanorama, type SkyOptions, sunIrradiance } from './light/sky.js';
export * from './material/material.js';
export type {
  CompiledShader,
  CustomInput,
  FullMaterial,
  PackedShader,
  MaterialSetting,
  MaterialShader,
  TextureSetting,
} from './material/shader-types.js';
export {
  type Layer,
  LAYER_FLOATS,
  LAYER_TEXTURES,
  type LayerName,
  type LayerTexture,
  LAYERS,
  packLayers,
} from './material/layers.js';
export {
  FEATURE,
  FULL_SHADER_FEATURES,
  LAYER_FEATURES,
  MATERIAL_FLOATS,
  materialFeatures,
  packMaterial,
  packTransform,
  TEXTURE_SLOTS,
} from './material/pack.js';
export * from './math/affine.js';
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
export { type Batch, DEFAULT_MATERIAL, type Drawables } from './scene/drawables.js';
export { MANY_ITEMS } from './columns/flags.js';
export { ItemTree } from './scene/item-tree.js';
export {
  BATCH_BREAK_REASONS,
  type BatchBreak,
  type BatchBreakReason,
  batchBreaks,
} from './explain/batch-breaks.js';
export {
  type Budget,
  BUDGET_LIMITS,
  type BudgetLimit,
  type BudgetLine,
  checkedBudget,
  type Figures,
  holdAgainst,
} from './figures/budget.js';
export { type Spread, spreadOf, type Verdict, type VerdictOptions, verdictOn } from './figures/verdict.js';
export { type DynamicResolutionOptions, DynamicResolution } from './pace/dynamic-resolution.js';
export { scatterAlong, type AlongOptions } from './scatter/along-path.js';
export { type Clump, clumpAt, type Clumps, clumpsOf } from './scatter/clumps.js';
export { type Density, densityOf } from './scatter/density.js';
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
export type { ScatterAnswer, ScatterRequest } from './scatter/scatter-request.js';
export { type InWorkerOptions, scatterInWorker, swarmInWorker } from './formats/apart/in-worker.js';
export { type MeshLevel, meshLevels } from './swarm/mesh-levels.js';
export type { InstanceTransforms } from './swarm/instance-transforms.js';
export {
  type SwarmLevel,
  Swarm,
  type SwarmOptions,
  SwarmPart,
  swarmPart,
  type SwarmShape,
  type SwarmDensity,
} from './swarm/swarm.js';
export { TILE_FLOATS } from './swarm/tiles.js';
export { INSTANCE_WORDS } from './swarm/instance-words.js';
export { type SwarmCamera, type SwarmRun, SwarmView } from './swarm/swarm-view.js';
export { type MaterialKind, type MaterialPage, PAGE_SLOTS } from './material/material-table.js';
export { type InstanceSettings, type NodeOptions, Scene } from './scene/scene.js';
export { readLocal, SceneNode } from './scene/scene-node.js';
export { setVariant, variantsOf } from './scene/variants.js';
export * from './wgsl/index.js';
export {
  type Fault,
  faultsOf,
  isNumbers,
  type Meant,
  type Property,
  type Table,
} from './properties/property.js';
export * from './properties/tables.js';
