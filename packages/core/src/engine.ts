// What the lens and the command line are built on. It may change with any version.
export * from './index.js';
export * from './formats/index.js';
export * from './wgsl/index.js';
export { addressOf, isLocalAddress, noteAddress, relativeAddress } from './sheet/addresses.js';
export { addTo } from './math/lists.js';
export { lookThrough } from './sheet/read-sheet.js';
export { appliedTo, offerNode } from './sheet/apply-sheet.js';
export { writeNodes, type WrittenNodes } from './sheet/write/write-sheet.js';
export { madeOf, noteMade } from './properties/made-of.js';
export { readMember, writeMember } from './access/member.js';
export { settingsTable } from './access/settings-table.js';
export { type KindName } from './properties/kinds.js';
export { type Unit } from './properties/property.js';
export { srgbFromLinear } from './math/srgb.js';
export { SHAPE_MAKERS } from './geometry/shape-makers.js';
export { SHAPE_TABLES } from './properties/tables/shapes.js';
export { type Form, type Member, type MembersForm } from './json/forms.js';
export { SHEET_FORM } from './sheet/sheet-forms.js';
export type { Container, Slot } from './json/json-scan.js';
export { roundedAt } from './sheet/edit/rounding.js';
export { indentAt, insertSlot, removeSlot } from './json/slots.js';
export { EditedText } from './json/text-edit.js';
export { same as sameJson } from './sheet/same.js';
export { formAt } from './sheet/edit/rounding.js';
export { strictJson } from './json/strict-json.js';
export { shownRoots } from './formats/asset/roots.js';
export { withLists } from './formats/asset/with-lists.js';
export { type Words, wordsOf } from './wgsl/words.js';
export type { NodeColumns } from './columns/columns.js';
export { motionsOf } from './animation/motion.js';
export { placingOf } from './animation/placings.js';
export { machineOf } from './animation/states/state-machine.js';
export { SpanLog } from './columns/span-log.js';
export type { BindOptions, BindReport, BoundAnimation, BoundChannel } from './animation/bind.js';
export type { TargetOptions } from './pick/targets.js';
export { cropView } from './draw/crop-view.js';
export { type PictureRegion } from './draw/narrow.js';
export {
  type CameraView,
  createCameraView,
  type PicturePart,
  updateCameraView,
  writeProjection,
} from './draw/camera-view.js';
export { type ViewSlice, sliceEnds, writeCascadeView, writeLightView } from './draw/light-view.js';
export { DrawList } from './draw/draw-list.js';
export type { TransformSlots } from './draw/item-positions.js';
export { inWords, isNumbers } from './errors/in-words.js';
export { nearest, nearHint } from './errors/near-names.js';
export { type Irradiance, irradianceAt, irradianceOf } from './light/irradiance.js';
export { LOBE_COUNTS, lobeSamples, MIRROR_SIDE } from './light/lobe.js';
export {
  type MaterialLayer,
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
  materialFeatures,
  TEXTURE_SLOTS,
} from './material/features.js';
export { packMaterial, packTransform } from './material/pack.js';
export {
  LAYERS_FLOATS,
  MATERIAL_FLOATS,
  NO_SHADOW_CAST,
  SLOT_BITS,
  TRAIT_SHIFT,
} from './compiled/layouts.js';
export * from './math/affine.js';
export type { BlendFactors, BlendState, DrawState, MaterialBlend } from './material/draw-state.js';
export { type Batch, DEFAULT_MATERIAL, type Drawables } from './scene/drawables.js';
export { MANY_ITEMS } from './columns/flags.js';
export { planesOf } from './scene/clipping.js';
export { Poses } from './pose/poses.js';
export { ItemTree } from './draw/item-tree.js';
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
  readBudget,
  type Figures,
  holdAgainst,
} from './figures/budget.js';
export { type Spread, spreadOf, type Verdict, type VerdictOptions, verdictOn } from './figures/verdict.js';
export { type DynamicResolutionOptions, DynamicResolution } from './pace/dynamic-resolution.js';
export type { ScatterAnswer, ScatterRequest } from './scatter/scatter-request.js';
export { TILE_FLOATS } from './swarm/tiles.js';
export { INSTANCE_WORDS } from './swarm/instance-words.js';
export { type SwarmCamera, type SwarmRun, SwarmView } from './swarm/swarm-view.js';
export { type MaterialKind, type MaterialPage, PAGE_SLOTS } from './material/material-table.js';
export { type Fault, faultsOf } from './properties/faults.js';
export { inUnits } from './properties/in-units.js';
export { KINDS } from './properties/kinds.js';
export type { Meant, Property, Table } from './properties/property.js';
export { EFFECT_TABLE } from './properties/tables/effect.js';
export { wrongInFinish } from './properties/wrong-in-finish.js';
export * from './properties/tables/light.js';
export * from './properties/tables/material.js';
export * from './properties/tables/node.js';
export * from './properties/tables/rigs.js';
export * from './properties/tables/view.js';
export { attributeBounds, COMPONENT_BYTES, drawCount, placedBy, type PlacedBy } from './geometry/geometry.js';
export { SwarmPart, swarmPart, type SwarmShape } from './swarm/swarm.js';
export { readLocal } from './scene/scene-node.js';
export { panoramaCoordinates, panoramaDirection } from './light/panorama.js';
export { cubeDirection, cubePlace } from './light/cube.js';
export * from './material/material.js';
export { NONE, SHOWN } from './columns/flags.js';
export { changesSince } from './geometry/geometry-changes.js';
export { effectReach } from './effects/effect-reach.js';
export { ScreenBounds } from './draw/screen-bounds.js';
export { COLOR_EFFECTS, type ColorEffect, MAP_CHANNELS } from './effects/effect.js';
export { LATTICE_FLOATS, writeNoiseLattice } from './effects/noise-lattice.js';
export { OPERATION_FLOATS, writeColorOperation } from './effects/color-operation.js';
export { FIRST_CUSTOM_LOCATION, LOCATION, LOCATIONS } from './shading/locations.js';
export { unpackShader } from './shading/packed-shader.js';
