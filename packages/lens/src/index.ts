/**
 * What a page is written with. The GPU by itself is in `/device`, shaders are compiled by `/shaders`, what a frame costs
 * is put into words by `/figures`, and held against limits in Jest by `/jest`.
 *
 * @module umber-lens
 */
export * from '@umber-lens/core';
export { flyRig, type FlyKey, type FlyRig, type FlyRigOptions } from './input/fly-rig.js';
export { followRig, type FollowRig, type FollowRigOptions } from './input/follow-rig.js';
export type { FreeLookOptions } from './input/free-look.js';
export { orbitRig, type OrbitRig, type OrbitRigOptions } from './input/orbit-rig.js';
export { type PathKey, pathRig, type PathRig, type PathRigOptions } from './input/path-rig.js';
export { planRig, type PlanRig, type PlanRigOptions, type PlanSide } from './input/plan-rig.js';
export type {
  NodeDragEvent,
  NodeEvent,
  NodeEvents,
  NodeEventType,
  NodeWheelEvent,
} from './input/node-events.js';
export { type PointerEvents, pointerEvents, type PointerEventsOptions } from './input/pointer-events.js';
export { wantsLessMotion } from './input/reachable.js';
export { handOver, type Rig, type RigOptions } from './input/rig.js';
export type { KeysOf } from './input/held-keys.js';
export type { ViewKey } from './input/view-keys.js';
export { walkRig, type WalkKey, type WalkRig, type WalkRigOptions } from './input/walk-rig.js';
export type { CullingStats, Culling } from './features/culling/culling.js';
export { captureLight, type CaptureOptions } from './inspect/capture.js';
export { type ShownQuantity, SHOWS } from './features/debug-views/show.js';
export {
  type AutomaticExposure,
  type Look,
  type ToneMapping,
  TONES,
  type Vignette,
} from './features/look/look.js';
export { RENDER_PATHS, type RenderPath } from './features/deferred/render-path.js';
export type { FrameView, View } from './view/view.js';
export { pixelCamera } from './view/pixel-camera.js';
export type { TypedNumbers } from './gpu/device.js';
export type { SnapshotOptions } from './inspect/snapshot.js';
export type { PartOptions } from './view/draw-options.js';
export { drawCube, type CubeOptions } from './inspect/draw-cube.js';
export type { RenderTarget, TargetOptions } from './view/render-target.js';
export type { PictureFault } from './inspect/find-faults.js';
export { Ledger, type LedgerPart } from './ledger/ledger.js';
export {
  type DrawOptions,
  type FrameTime,
  Lens,
  type LensTool,
  type LensOptions,
  type LensEvents,
  type LensState,
  openLens,
  pageLenses,
  type OpenLensOptions,
} from './lens.js';
export type { LayerPlace, LayerTap } from './features/effects/node-layer.js';
export type { PictureOver } from './frame/frame-plan.js';
export type { PickHit, PickOptions, PickRegionOptions, PictureSize } from './inspect/pick.js';
export { glslMaterialShader, type GlslMaterialShaderOptions } from './shaders/glsl-material-shader.js';
export { createMaterial, type MaterialWith } from './create-material.js';
export { SHADER_FEEDS } from './shaders/shader-feeds.js';
export { lensOn } from './lens-on.js';
export { decodeImage } from './resources/decode-image.js';
export { loadModel, type LoadModelOptions, loadModels, type Progress } from './load/load-model.js';
export {
  loadSheet,
  type LoadedSheetFile,
  type LoadSheetOptions,
  type SheetImport,
} from './load/load-sheet.js';
export { type Model, modelOf } from './load/model.js';
export type { FetchOptions } from './load/queue.js';
export { saveModel, type SavedModel, type SaveModelOptions } from './load/save-model.js';
export {
  loadTexture,
  type LoadTextureOptions,
  type LoadedTexture,
  type PictureElement,
} from './load/load-texture.js';
export { loadEnvironment, type LoadEnvironmentOptions } from './load/load-environment.js';
export { forwardCanvas } from './worker/forward-canvas.js';
export { receiveCanvas } from './worker/receive-canvas.js';
export type { ImportedShader } from '@umber-lens/core/shading';
export type { Backend, OpenDeviceOptions } from './gpu/open-device.js';
export type { Comparison, CompareOptions } from './figures/compare.js';
export type { FrameReport } from './ledger/frame-report.js';
export type { BatchBreak, BatchBreakReason } from '@umber-lens/core/engine';
export type { Device, DeviceTexture } from './gpu/device.js';
