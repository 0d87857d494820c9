// Compiles the library's own shaders, so that pages carry them without the compiler: packages/lens/src/compiled
// gains compiled-wgsl.ts and compiled-glsl.ts, one for each GPU interface, each with a part of its own for scenes that
// have more around them than lights, and layouts.ts; core's shading gains library.ts, the texts that shader materials
// build on.
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { basename, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import { build } from 'esbuild';

const folder = 'packages/lens/src/compiled';
const shading = 'packages/core/src/shading';
const note = '// Made by scripts/compile-shaders.mjs out of .wgsl files.\n';
/** Texts by the name of their file: folders are for whoever looks for them. */
const library = Object.fromEntries(
  readdirSync(`${shading}/library`, { recursive: true })
    .filter((file) => file.endsWith('.wgsl'))
    .sort((a, b) => (basename(a) < basename(b) ? -1 : 1))
    .map((file) => [
      `umber/${basename(file)}`,
      readFileSync(`${shading}/library/${file}`, 'utf8').replace(/\r\n/g, '\n'),
    ]),
);
/** Passes of the library's own effects are compiled here alone: nobody builds on them. */
const OWN_PASSES =
  /^umber\/(effect-.*|put-layer|place|expose|bloom|shafts|ambient-occlusion|smooth-occlusion|reflections)\.wgsl$/;
const shared = Object.fromEntries(Object.entries(library).filter(([file]) => !OWN_PASSES.test(file)));
write(
  `${shading}/library.ts`,
  `${note}\n/** Texts of the library's own modules, by the names that \`import\` lines know them by. */\nexport const LIBRARY: Readonly<Record<string, string>> = ${JSON.stringify(shared, undefined, 2)};\n`,
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
const cullSources = Object.fromEntries(
  readdirSync(cullFolder)
    .filter((file) => file.endsWith('.wgsl'))
    .map((file) => [`umber/${file}`, readFileSync(`${cullFolder}/${file}`, 'utf8').replace(/\r\n/g, '\n')]),
);
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

// Where the members of structures lie that script writes, and which numbers the bindings of the frame's group have.
const LAYOUTS = [
  ['frame', 'Frame'],
  ['lights', 'LightSource'],
  ['air', 'Air'],
  ['air', 'Probe'],
  ['shadows', 'ShadowMap'],
  ['shadows', 'ShadowMaps'],
  ['finish-look', 'Look'],
  ['clusters', 'Clusters'],
  ['clipping', 'Clipping'],
  ['motion', 'Motion'],
  ['effect-colors', 'ColorOperations'],
  ['effect-blur', 'Blur'],
  ['effect-shadow', 'DropShadow'],
  ['effect-offset', 'Offset'],
  ['effect-morphology', 'Morphology'],
  ['effect-convolve', 'Convolve'],
  ['effect-blend', 'Blend'],
  ['effect-flood', 'Flood'],
  ['effect-displacement', 'Displacement'],
  ['effect-turbulence', 'Turbulence'],
  ['put-layer', 'PutLayer'],
  ['pixel', 'EffectFrame'],
  ['bloom', 'Bloom'],
  ['effect-sharpen', 'Sharpen'],
  ['effect-fringe', 'Fringe'],
  ['effect-distortion', 'Distortion'],
  ['effect-grain', 'Grain'],
  ['effect-lut', 'Lut'],
  ['effect-depth-of-field', 'DepthOfField'],
  ['effect-outline', 'Outline'],
  ['velocity', 'EffectMotion'],
  ['shafts', 'Shafts'],
  ['effect-dither', 'Dither'],
  ['effect-masked', 'Masked'],
  ['effect-smooth-edges', 'Edges'],
];
const FRAME_GROUP =
  'frame lights behind transforms air shadows transmission clusters area tone peel probes bend swarm clipping motion openness'.split(
    ' ',
  );
const reflected = new Map();
const reflectedOf = (file, sources = library) => {
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
/** Constants that script counts with as well. */
const NUMBERS = [
  ['lights', 'MOST_LIGHTS'],
  ['shadows', 'MOST_MAPS'],
  ['effect-colors', 'MOST_OPERATIONS'],
];
const constantCase = (name) => name.replace(/(?<=[a-z])[A-Z]/g, (letter) => `_${letter}`).toUpperCase();
const layoutText = ({ name, size, members }) =>
  [...members.map((member) => [member.name, member.offset]), ['floats', size]]
    .map(([member, bytes]) => `export const ${constantCase(name)}_${constantCase(member)} = ${bytes / 4};\n`)
    .join('');
const bindings = FRAME_GROUP.flatMap((file) =>
  reflectedOf(file).resources.filter(({ group }) => group === 0),
);
const numbers = new Map(bindings.map(({ name, binding }) => [name, binding]));
if (new Set(numbers.values()).size !== numbers.size)
  throw new Error('two bindings of the frame have one number');
write(
  `${folder}/layouts.ts`,
  `${note}// In floats: where the members of each structure begin, and how large it is. Bindings are of group 0.\n${LAYOUTS.map(
    ([file, struct]) => layoutText(reflectedOf(file).structs.find(({ name }) => name === struct)),
  ).join('')}${NUMBERS.map(([file, name]) => {
    const [, value] = new RegExp(`const ${name} = (\\d+);`).exec(library[`umber/${file}.wgsl`]);
    return `export const ${name} = ${value};\n`;
  }).join('')}${[...numbers]
    .map(([name, binding]) => `export const BINDING_${constantCase(name)} = ${binding};\n`)
    .join('')}`,
);

/** Only a change is written: the type checker goes by the time of the file. */
function write(path, text) {
  if (!existsSync(path) || readFileSync(path, 'utf8') !== text) writeFileSync(path, text);
}
