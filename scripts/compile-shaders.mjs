// Compiles the library's own shaders, so that pages carry them without the compiler: packages/lens/src/compiled
// gains compiled-wgsl.ts and compiled-glsl.ts, one for each GPU interface, each with a part of its own for scenes that
// have more around them than lights; core's shading gains library.ts, the texts that shader materials build on. Where
// script writes what shaders read, it takes the offsets from files that are written here: layouts.ts of core and of the
// lens, and compiled-layouts.ts of what is chosen on the GPU, and of the editor's grid.
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { basename, dirname, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import { build } from 'esbuild';

const folder = 'packages/lens/src/compiled';
const shading = 'packages/core/src/shading';
const note = '// Made by scripts/compile-shaders.mjs out of .wgsl files.\n';
/** Texts by the name of their file: folders are for whoever looks for them. */
const texts = (folder, isWanted) =>
  Object.fromEntries(
    readdirSync(folder, { recursive: true })
      .filter((file) => file.endsWith('.wgsl') && isWanted(file))
      .sort((a, b) => (basename(a) < basename(b) ? -1 : 1))
      .map((file) => [
        `umber/${basename(file)}`,
        readFileSync(`${folder}/${file}`, 'utf8').replace(/\r\n/g, '\n'),
      ]),
  );
/** What stands in place of modules of the same names, where a shader stands alone. */
const BARE_FOLDER = `${shading}/library/bare`;
const library = texts(`${shading}/library`, (file) => dirname(file) !== basename(BARE_FOLDER));
/** Passes of the library's own effects are compiled here alone: nobody builds on them. */
const OWN_PASSES =
  /^umber\/(effect-.*|put-layer|place|expose|bloom|shafts|ambient-occlusion|smooth-occlusion|reflections)\.wgsl$/;
const shared = Object.fromEntries(Object.entries(library).filter(([file]) => !OWN_PASSES.test(file)));
write(
  `${shading}/library.ts`,
  `${note}\n/** Texts of the library's own modules, by the names that \`import\` lines know them by. */\nexport const LIBRARY: Readonly<Record<string, string>> = ${JSON.stringify(shared, undefined, 2)};\n`,
);
write(
  `${shading}/bare-library.ts`,
  `${note}\n/** Texts that stand in place of those of \`LIBRARY\` in shaders that stand alone. */\nexport const BARE_LIBRARY: Readonly<Record<string, string>> = ${JSON.stringify(
    texts(BARE_FOLDER, () => true),
    undefined,
    2,
  )};\n`,
);

mkdirSync('.cache', { recursive: true });
await build({
  stdin: {
    contents: ['compile-entry-points', 'compile-hooks', 'own-shaders', 'packed-shader']
      .map((file) => `export * from './shading/${file}.ts';`)
      .concat("export * from './wgsl/compile.ts'; export { reflect } from './wgsl/reflect.ts';")
      .join(''),
    resolveDir: 'packages/core/src',
  },
  outfile: '.cache/compile-shaders.mjs',
  bundle: true,
  format: 'esm',
  platform: 'node',
  logLevel: 'warning',
  // The packages are built after this.
  plugins: [
    {
      name: 'unwatched',
      setup: (building) =>
        building.onResolve({ filter: /^#watch$/ }, () => ({
          path: resolve('packages/core/src/properties/unwatched.ts'),
        })),
    },
  ],
});
const {
  FULL_FEATURES,
  compileCompute,
  compileEntryPoints,
  compileWgsl,
  compileModule,
  inLanguage,
  ownFullMesh,
  ownMesh,
  ownShadow,
  ownSurfaces,
  reflect,
} = await import(`${pathToFileURL('.cache/compile-shaders.mjs').href}?${Date.now()}`);

const mesh = ownMesh().shader;
const full = ownFullMesh().shader;
const shadow = ownShadow().shader;
const surfaces = ownSurfaces().shader;
/** Full-screen passes with what scenes may have around them. */
const lit = (name) =>
  compileEntryPoints(
    compileWgsl(library[`umber/${name}.wgsl`], {
      file: `umber/${name}.wgsl`,
      sources: library,
      features: FULL_FEATURES,
    }),
    `${name}Vertex`,
    `${name}Fragment`,
    true,
  );
const own = (name, entries) =>
  compileModule(library[`umber/${name}.wgsl`], entries, { file: `umber/${name}.wgsl`, sources: library });
const finish = own('finish', { vertex: 'finishVertex', fragment: 'finishFragment' });
const fullShaders = {
  mesh: full,
  shadow,
  surfaces,
  deferred: lit('deferred'),
  reflections: lit('reflections'),
  backdrop: own('backdrop', { vertex: 'backdropVertex', fragment: 'backdropFragment' }),
  finishLook: own('finish-look', { vertex: 'finishLookVertex', fragment: 'finishLookFragment' }),
  toLayer: own('to-layer', { vertex: 'toLayerVertex', fragment: 'toLayerFragment' }),
  toCube: own('to-cube', { vertex: 'toCubeVertex', fragment: 'toCubeFragment' }),
  prefilter: own('prefilter', { vertex: 'prefilterVertex', fragment: 'prefilterFragment' }),
  toOctahedral: own('to-octahedral', { vertex: 'octahedralVertex', fragment: 'octahedralFragment' }),
  layerOver: own('layer-over', { vertex: 'layerVertex', fragment: 'layerFragment' }),
  keptDepth: own('kept-depth', { vertex: 'keptVertex', fragment: 'keptFragment' }),
  metres: own('metres', { vertex: 'metresVertex', fragment: 'metresFragment' }),
  occlusion: own('ambient-occlusion', { vertex: 'occlusionVertex', fragment: 'occlusionFragment' }),
  smoothOcclusion: own('smooth-occlusion', { vertex: 'smoothVertex', fragment: 'smoothFragment' }),
  meter: own('meter', { vertex: 'meterVertex', fragment: 'meterFragment' }),
};
const effects = Object.fromEntries(
  [
    'colors',
    'blur',
    'shadow',
    'offset',
    'morphology',
    'convolve',
    'blend',
    'flood',
    'displacement',
    'turbulence',
    'bloomDown',
    'bloomUp',
    'bloom',
    'sharpen',
    'fringe',
    'distortion',
    'grain',
    'lut',
    'smoothEdges',
    'outline',
    'depthOfField',
    'temporal',
    'age',
    'motionTiles',
    'motionBlur',
    'shafts',
    'addShafts',
    'dither',
    'masked',
  ].map((name) => {
    const file = name.replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`);
    return [name, own(`effect-${file}`, { vertex: `${name}Vertex`, fragment: `${name}Fragment` })];
  }),
);
effects.place = own('place', { vertex: 'placeVertex', fragment: 'placeFragment' });
effects.put = own('put-layer', { vertex: 'putVertex', fragment: 'putFragment' });
// WebGL2 has these two built in.
const webgpuAlone = {
  SHRINK: own('shrink', { vertex: 'shrinkVertex', fragment: 'shrinkFragment' }),
  COPY_DEPTH: own('copy-depth', { vertex: 'copyVertex', fragment: 'copyFragment' }),
};
const onWebgpu = (shader) => inLanguage(shader, 'wgsl');
const onWebgl2 = (shader) => inLanguage(shader, 'glsl');
const json = (shader) => JSON.stringify(shader);
write(
  `${folder}/compiled-wgsl.ts`,
  `${note}import type { CompiledShader } from '@umber-lens/core/engine';
import type { LensShaders } from './lens-shaders.js';

export const SHADERS: LensShaders = { mesh: ${json(onWebgpu(mesh))}, finish: ${json(onWebgpu(finish))}, full: async () => (await import('./compiled-wgsl-full.js')).SHADERS, effects: async () => (await import('./compiled-wgsl-effects.js')).SHADERS };
${Object.entries(webgpuAlone)
  .map(([name, shader]) => `export const ${name}: CompiledShader = ${json(onWebgpu(shader))};\n`)
  .join('')}`,
);
write(
  `${folder}/compiled-glsl.ts`,
  `${note}import type { LensShaders } from './lens-shaders.js';

export const SHADERS: LensShaders = { mesh: ${json(onWebgl2(mesh))}, finish: ${json(onWebgl2(finish))}, full: async () => (await import('./compiled-glsl-full.js')).SHADERS, effects: async () => (await import('./compiled-glsl-effects.js')).SHADERS };
`,
);
for (const [language, only] of [
  ['wgsl', onWebgpu],
  ['glsl', onWebgl2],
]) {
  for (const [part, type, shaders] of [
    ['full', 'FullShaders', fullShaders],
    ['effects', 'EffectShaders', effects],
  ]) {
    const members = Object.entries(shaders).map(([name, shader]) => `  ${name}: ${json(only(shader))},\n`);
    write(
      `${folder}/compiled-${language}-${part}.ts`,
      `${note}import type { ${type} } from './lens-shaders.js';

export const SHADERS: ${type} = {
${members.join('')}};
`,
    );
  }
}

// What chooses on the GPU is for WebGPU alone, and beside what calls it.
const cullFolder = 'packages/lens/src/features/culling';
const cullSources = {
  ...library,
  ...Object.fromEntries(
    readdirSync(cullFolder)
      .filter((file) => file.endsWith('.wgsl'))
      .map((file) => [`umber/${file}`, readFileSync(`${cullFolder}/${file}`, 'utf8').replace(/\r\n/g, '\n')]),
  ),
};
const computes = ['firstLevel', 'firstLevelSamples', 'nextLevel', 'chooseInstances', 'chooseTiles'].map(
  (name) => {
    const file = `umber/${name.replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`)}.wgsl`;
    const entry = name.replace('Samples', '');
    return [name, compileCompute(cullSources[file], entry, { file, sources: cullSources })];
  },
);
write(
  `${cullFolder}/compiled-wgsl.ts`,
  `${note}import type { ComputeShader } from '../../gpu/compute.js';

export const CULL_SHADERS: Readonly<Record<${computes.map(([name]) => `'${name}'`).join(' | ')}, ComputeShader>> = {
${computes.map(([name, shader]) => `  ${name}: ${json(shader)},\n`).join('')}};
`,
);

// What the editor draws over a finished picture, for both interfaces: it is not part of what pages carry.
const stageFolder = 'packages/viewfinder/src/stage';
const gridSources = {
  'umber/grid.wgsl': readFileSync(`${stageFolder}/grid.wgsl`, 'utf8').replace(/\r\n/g, '\n'),
};
const grid = compileModule(
  gridSources['umber/grid.wgsl'],
  { vertex: 'gridVertex', fragment: 'gridFragment' },
  { file: 'umber/grid.wgsl', sources: gridSources },
);
write(
  `${stageFolder}/compiled-grid.ts`,
  `${note}import type { CompiledShader } from '@umber-lens/core/engine';\n\nexport const GRID: CompiledShader = ${json(grid)};\n`,
);

// Where the members of structures lie that script writes, which numbers the bindings have, and what both count with.
const FRAME_GROUP =
  'frame lights behind transforms air shadows transmission clusters area tone peel probes bend swarm clipping motion openness';
const LAYOUTS = {
  'packages/core/src/compiled/layouts.ts': {
    sources: library,
    structs: { material: 'TextureUse Material', layers: 'LayerUse Layers' },
    numbers: {
      material: 'MOST_MATERIALS',
      transforms: 'SLOT_BITS MATERIAL_SHIFT TRAIT_SHIFT NO_SHADOW_CAST NO_SHADOW_RECEIVE',
      swarm: 'REPEAT_SHIFT LEVEL_SHIFT SHOWN_SHIFT',
    },
  },
  [`${folder}/layouts.ts`]: {
    sources: library,
    structs: {
      frame: 'Frame',
      lights: 'LightSource',
      air: 'Air Probe',
      shadows: 'ShadowMap ShadowMaps',
      'finish-look': 'Look',
      clusters: 'Clusters',
      clipping: 'Clipping',
      motion: 'Motion',
      'effect-colors': 'ColorOperations',
      'effect-blur': 'Blur',
      'effect-shadow': 'DropShadow',
      'effect-offset': 'Offset',
      'effect-morphology': 'Morphology',
      'effect-convolve': 'Convolve',
      'effect-blend': 'Blend',
      'effect-flood': 'Flood',
      'effect-displacement': 'Displacement',
      'effect-turbulence': 'Turbulence',
      'put-layer': 'PutLayer',
      pixel: 'EffectFrame',
      bloom: 'Bloom',
      'effect-sharpen': 'Sharpen',
      'effect-fringe': 'Fringe',
      'effect-distortion': 'Distortion',
      'effect-grain': 'Grain',
      'effect-lut': 'Lut',
      'effect-depth-of-field': 'DepthOfField',
      'effect-outline': 'Outline',
      velocity: 'EffectMotion',
      shafts: 'Shafts',
      'effect-dither': 'Dither',
      'effect-masked': 'Masked',
      'effect-smooth-edges': 'Edges',
    },
    numbers: {
      lights: 'MOST_LIGHTS',
      shadows: 'MOST_MAPS',
      'effect-colors': 'MOST_OPERATIONS',
      clusters: 'CELLS_ACROSS CELLS_DOWN CELLS_DEEP',
    },
    // By group: which modules have them.
    bindings: [FRAME_GROUP, 'material', '', 'layers'],
  },
  [`${cullFolder}/compiled-layouts.ts`]: {
    sources: cullSources,
    structs: { hidden: 'Choosing', 'choose-instances': 'Command', 'choose-tiles': 'Shape GpuTile' },
    numbers: { 'choose-instances': 'ROW', 'choose-tiles': 'NO_DRAW' },
  },
  [`${stageFolder}/compiled-layouts.ts`]: {
    sources: gridSources,
    structs: { grid: 'Grid' },
    numbers: {},
  },
};
const reflected = new Map();
const reflectedOf = (file, sources) => {
  if (!reflected.has(file))
    reflected.set(
      file,
      reflect(
        compileWgsl(sources[`umber/${file}.wgsl`], {
          file: `umber/${file}.wgsl`,
          sources,
          features: [...FULL_FEATURES, 'sceneDepth', 'sceneColor'],
        }),
      ),
    );
  return reflected.get(file);
};
const constantCase = (name) => name.replace(/(?<=[a-z])[A-Z]/g, (letter) => `_${letter}`).toUpperCase();
const constant = (name, value) => `export const ${name} = ${value};\n`;
const pairs = (byFile) =>
  Object.entries(byFile).flatMap(([file, names]) => names.split(' ').map((name) => [file, name]));
for (const [path, { sources, structs, numbers, bindings = [] }] of Object.entries(LAYOUTS)) {
  let text = `${note}// In floats: where the members of each structure begin, and how large it is.\n`;
  for (const [file, name] of pairs(structs)) {
    const { size, members } = reflectedOf(file, sources).structs.find((struct) => struct.name === name);
    for (const [member, bytes] of [
      ...members.map((member) => [member.name, member.offset]),
      ['floats', size],
    ])
      text += constant(`${constantCase(name)}_${constantCase(member)}`, bytes / 4);
  }
  for (const [file, name] of pairs(numbers)) {
    const [, value] = new RegExp(`const ${name} = (0x[0-9a-f]+|\\d+)u?;`).exec(sources[`umber/${file}.wgsl`]);
    text += constant(name, value);
  }
  bindings.forEach((files, group) => {
    const found = new Map();
    for (const file of files.split(' ').filter(Boolean))
      for (const { name, binding, group: of } of reflectedOf(file, sources).resources)
        if (of === group) found.set(name, binding);
    if (new Set(found.values()).size !== found.size)
      throw new Error(`two bindings of group ${group} have one number`);
    for (const [name, binding] of found) text += constant(`BINDING_${constantCase(name)}`, binding);
  });
  mkdirSync(dirname(path), { recursive: true });
  write(path, text);
}

/** Only a change is written: the type checker goes by the time of the file. */
function write(path, text) {
  if (!existsSync(path) || readFileSync(path, 'utf8') !== text) writeFileSync(path, text);
}
