import { AreaLights } from './area-lights/area-lights.js';
import { ClippedScene } from './clipping/clipping.js';
import { DebugViews } from './debug-views/debug-views.js';
import { DeferredPath } from './deferred/deferred-path.js';
import { BackdropPass } from './environment/backdrop-pass.js';
import { EnvironmentStore } from './environment/environment-store.js';
import { ImageLight } from './environment/image-light.js';
import { Occlusion } from './occlusion/occlusion.js';
import { Probes } from './environment/probes.js';
import { Exposure } from './exposure/exposure.js';
import { NodeEffects } from './effects/node-effects.js';
import type { Feature, FeatureHost } from './feature.js';
import { FogNumbers } from './fog/fog.js';
import { Tones } from './look/tones.js';
import { ManyLights } from './many-lights/many-lights.js';
import { MaterialLayers } from './material-layers/material-layers.js';
import { Prepass } from './prepass/prepass.js';
import { Metres } from './kept-depth/metres.js';
import { KeptDepth } from './kept-depth/kept-depth.js';
import { Reflections } from './reflections/reflections.js';
import { Samples } from './samples.js';
import { SeenThrough } from './seen-through/seen-through.js';
import { Shadows } from './shadows/shadows.js';
import { Skinning } from './skinning/skinning.js';
import { Swarms } from './swarms/swarms.js';
import { ThingMarks } from './thing-marks.js';
import { Things } from './things/things.js';
import { Surfaces } from './surfaces/surfaces.js';
import { Peeling } from './transparency/peeling.js';

/** All features, in the order in which they are prepared and add their passes. */
export function allFeatures(host: FeatureHost): {
  swarms: Swarms;
  layers: NodeEffects;
  keptDepth: KeptDepth;
  surfaces: Surfaces;
  features: readonly Feature[];
} {
  const environments = new EnvironmentStore(host.device, host.shaders);
  const swarms = new Swarms(host);
  const layers = new NodeEffects(host);
  const keptDepth = new KeptDepth(host);
  const marks = new ThingMarks(host.device);
  const skinning = new Skinning(host);
  const surfaces = new Surfaces(host, skinning);
  return {
    swarms,
    layers,
    keptDepth,
    surfaces,
    features: [
      keptDepth,
      skinning,
      swarms,
      new ClippedScene(host, marks),
      new Things(marks),
      new Samples(),
      surfaces,
      new Occlusion(host),
      new Shadows(host),
      new AreaLights(host),
      new ManyLights(host),
      new MaterialLayers(host),
      new DebugViews(host),
      layers,
      new Prepass(),
      new DeferredPath(host),
      new Peeling(host),
      new ImageLight(host, environments),
      new Probes(host, environments),
      new BackdropPass(host, environments),
      new FogNumbers(host),
      new Tones(host),
      new SeenThrough(host),
      new Reflections(host),
      new Metres(host),
      new Exposure(host),
    ],
  };
}
