import { updateCameraView } from '@umber-lens/core/engine';
import type { FrameAt } from '../features/feature.js';
import type { EffectChain } from '../features/effects/effect-chain.js';
import type { LookFinish } from '../features/look/look-finish.js';
import type { Surroundings } from '../features/surroundings.js';
import type { FullPipelines } from '../features/full-pipelines.js';
import { isLinearFormat } from '../frame/finish-pass.js';
import type { FramePlan, FrameShape } from '../frame/frame-plan.js';
import { KEEP_FRAMES, type Renderer } from './renderer.js';

/** The frame at hand: what it is drawn of, and what its steps tell each other. */
export interface Frame extends FrameAt {
  /** When it began, milliseconds. */
  start: number;
  /** How pipelines are built, where the picture has features. */
  full: FullPipelines | undefined;
  /** The features, where it has some. */
  surroundings: Surroundings | undefined;
  /** Which of them have passes: a bit of each. */
  passes: number;
  /** The finish, where the look has something of its own. */
  finish: LookFinish | undefined;
  /** The passes of effects, where there are some. */
  chain: EffectChain | undefined;
  /** Whether the list, what was chosen besides and what the GPU chooses are others than before. */
  isListed: boolean;
  isFollowed: boolean;
  isChosen: boolean;
  /** Pipelines that were begun. */
  made: number;
  plan: FramePlan;
  /** Which plan that is. */
  readonly shape: FrameShape;
}

/** A part of a frame; the later ones read what those before them wrote. @returns whether the frame ends with it */
type Step = (renderer: Renderer, frame: Frame) => boolean | void;

/** A frame from the scene to the picture. */
export const FRAME_STEPS: readonly Step[] = [
  begin,
  updateScene,
  lookThroughCamera,
  prepareBatches,
  prepareFeatures,
  listWhatIsSeen,
  chooseBesides,
  makePipelines,
  planPasses,
  endWhereNothingChanged,
  drawPasses,
  account,
];

function begin({ messages, scenePass, device }: Renderer, { scene, settings, ledger }: Frame): void {
  messages.around(scene);
  messages.look(settings.look, settings.culling);
  messages.finish(settings.finish, scene);
  scenePass.beginFrame();
  device.counts.resetCommands();
  ledger.beginStalls();
}

function updateScene(renderer: Renderer, { scene, settings }: Frame): void {
  scene.update();
  const { frameCulling } = renderer;
  if (frameCulling) frameCulling.followClusters(scene, settings);
  else void renderer.cull(scene, settings);
}

function lookThroughCamera(renderer: Renderer, frame: Frame): void {
  const { camera, given, ledger, settings, target } = frame;
  const { width, height } = settings.part?.part ?? target;
  frame.state = renderer.cameraState(camera, target);
  const sees = camera.camera?.sees ?? -1;
  const isOther = sees !== frame.state.sees;
  frame.state.sees = sees;
  frame.state.draws++;
  const { tile } = settings;
  const wholeWidth = tile?.wholeWidth ?? width;
  const wholeHeight = tile?.wholeHeight ?? height;
  frame.isListed = updateCameraView(frame.state.view, camera, wholeWidth / wholeHeight, tile) || isOther;
  given.exposure = 2 ** (settings.look.exposure ?? 0);
  given.isParallel = camera.camera?.type === 'orthographic';
  const resolution = renderer.effects.resolutionOf(settings.finish);
  given.width = Math.round(width * resolution);
  given.height = Math.round(height * resolution);
  given.left = (tile?.x ?? 0) * resolution;
  given.top = (tile?.y ?? 0) * resolution;
  given.wholeWidth = wholeWidth * (given.width / width);
  given.wholeHeight = wholeHeight * (given.height / height);
  given.scale = target === renderer.device.canvasTexture ? ledger.resolution * resolution : resolution;
  frame.whole.width = width;
  frame.whole.height = height;
}

function prepareBatches(renderer: Renderer, frame: Frame): void {
  const { given, settings } = frame;
  const prepared = (frame.prepared = renderer.scenePass.sceneOf(frame.scene));
  prepared.prepare(frame.frame);
  if (renderer.textures.leavings.isDue(frame.frame)) renderer.letGo(frame.frame - 1);
  frame.layers = prepared.layers;
  // Time that nobody asks for would change what is sent in every frame.
  const hasTime = !settings.onDemand || prepared.isTimed;
  given.time = hasTime ? settings.time : 0;
  given.delta = hasTime ? settings.delta : 0;
}

function prepareFeatures({ around, effects, uniforms }: Renderer, frame: Frame): void {
  const { given, prepared, scene, settings, state } = frame;
  frame.lights = uniforms.lightsOf(scene);
  const full = (frame.full = around.useFor(frame));
  prepared.setFull(full);
  const surroundings = (frame.surroundings = full && around.surroundings);
  frame.passes = (full && surroundings?.prepare(full, frame)) ?? 0;
  frame.finish = around.finishFor(settings.look);
  frame.finish?.prepare(settings.look, given);
  frame.chain = effects.chainFor(settings.finish);
  uniforms.update(scene, state.view, given, surroundings);
  frame.chain?.prepareFrame(frame, surroundings?.surfaces);
  surroundings?.layers.takeFrame(uniforms.frameValues);
}

function listWhatIsSeen({ messages, scenePass }: Renderer, frame: Frame): void {
  const { camera, given, prepared, scene, settings, state } = frame;
  const { view, list, instances } = state;
  const { minPixels } = settings;
  const perMetre = (given.height * view.projection[5]!) / 2; // sixteen numbers
  list.leaveOutSmall(minPixels, minPixels > 0 ? (given.isParallel ? -perMetre : perMetre) : 0);
  const isListed = (frame.isListed = list.update(scene, view, frame.isListed, prepared.transforms));
  if (isListed) messages.list(list, scene);
  messages.camera(scene, camera, list.instanceCount, given.width / given.height);
  instances.upload(list, isListed, scenePass.instancesFromStorage);
}

function chooseBesides({ frameCulling }: Renderer, frame: Frame): void {
  const { given, isListed, scene, state, surroundings } = frame;
  const isChosen = frameCulling?.choose(frame, surroundings?.swarms, isListed) ?? false;
  frame.isChosen = isChosen;
  frame.isFollowed =
    surroundings?.followList(
      state,
      scene,
      state.view,
      isListed || isChosen,
      given.isParallel,
      given.height,
    ) ?? false;
}

function makePipelines({ device, waits }: Renderer, frame: Frame): void {
  const { ledger, prepared, scene, start, state } = frame;
  const { pipelines } = device.counts;
  const before = performance.now();
  prepared.makePipelines(state.list);
  frame.made = device.counts.pipelines - pipelines;
  if (frame.made > 0 && waits) ledger.stall(`${frame.made} pipelines`, performance.now() - before);
  const { instanceFeeds } = prepared;
  if (instanceFeeds) (state.settings ??= instanceFeeds.instanceSettings(device)).update(state.list, scene);
  ledger.beginFrame(performance.now() - start);
}

function planPasses(renderer: Renderer, frame: Frame): void {
  const { full, given, passes, prepared, settings, shape, state, target } = frame;
  const { choice } = state;
  shape.width = given.width;
  shape.height = given.height;
  shape.wholeWidth = frame.whole.width;
  shape.wholeHeight = frame.whole.height;
  shape.readsBehind = prepared.behind !== undefined;
  shape.features = passes;
  shape.sampleCount = full?.sampleCount ?? renderer.sampleCount;
  const part = settings.part?.part;
  shape.isPart = part !== undefined || isLinearFormat(target.format);
  shape.details = frame.surroundings?.details ?? 0;
  shape.chain = frame.chain;
  shape.over = settings.over;
  shape.layers = frame.surroundings?.layers.arrangement ?? 0;
  shape.choice = !choice ? 'script' : choice.isHidden ? 'hidden' : 'swarms';
  frame.plan = renderer.planFor(frame);
  frame.plan.part = part;
}

function endWhereNothingChanged(renderer: Renderer, frame: Frame): boolean {
  const { device } = renderer;
  const isOther = renderer.keep(frame);
  const { isChosen, isFollowed, isListed, ledger, made, prepared, settings } = frame;
  if (!settings.onDemand || isOther || isListed || isFollowed || isChosen || prepared.isTimed || made > 0)
    return false;
  // What it reads and sends is as before, and the picture is still there.
  if (device.counts.bytesUploaded > 0) return false;
  ledger.unchanged++;
  device.submit();
  return true;
}

function drawPasses({ clock, device }: Renderer, { frame, ledger, plan, target }: Frame): void {
  plan.graph.bind(plan.target, target);
  plan.graph.run(frame, ledger, clock);
  device.submit();
  clock?.endFrame();
}

function account(renderer: Renderer, { frame, ledger, prepared, start, state, surroundings }: Frame): void {
  const { list } = state;
  ledger.endFrame(
    renderer.device.counts,
    list.culledCount,
    surroundings?.takesAllLights ? 0 : renderer.uniforms.lightsLeftOut,
    prepared.leftOut,
    performance.now() - start,
  );
  ledger.small = list.smallCount;
  ledger.clustersLeft = list.clusters?.left ?? 0;
  if (frame % KEEP_FRAMES === 0) renderer.sweep(frame - KEEP_FRAMES + 1);
}
