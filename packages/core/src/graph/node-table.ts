/** An input of a call, as the table has it. */
export interface CallInput {
  name: string;
  /**
   * What counts where it is left out, as a graph writes it. A number counts for all parts of a vector, where that is wanted. Undefined: it has
   * none, and must be given.
   */
  default?: number | readonly number[] | string;
  /** Whether a call makes little sense with its default: then it is told. */
  isWanted?: true;
}

/** A call that nodes may make. */
export interface CallRow {
  line: string;
  inputs: readonly CallInput[];
  /** Whether more inputs of the last kind may follow. */
  isOpen?: true;
  /** Words by which it is looked for besides its name and its line. */
  words?: string;
}

export type CallGroup =
  | 'numbers'
  | 'comparison'
  | 'rounding'
  | 'curves'
  | 'directions'
  | 'choice'
  | 'making'
  | 'textures'
  | 'change from pixel to pixel'
  | 'whole numbers'
  | 'patterns'
  | 'colors'
  | 'shaping'
  | 'distances'
  | 'scene';

const of = (name: string, usual?: CallInput['default'], isWanted?: true): CallInput => ({
  name,
  ...(usual === undefined ? {} : { default: usual }),
  ...(isWanted ? { isWanted } : {}),
});
const row = (line: string, inputs: readonly CallInput[], words?: string, isOpen?: true): CallRow => ({
  line,
  inputs,
  ...(words === undefined ? {} : { words }),
  ...(isOpen ? { isOpen } : {}),
});
/** One that has a value of its own to begin with: what is done to it does nothing yet. */
const x = (usual: CallInput['default'] = 0): CallInput => of('x', usual, true);
const pair = (usual: number): CallInput[] => [of('a', usual, true), of('b', usual)];
const UP = [0, 0, 1] as const;
const PLACE = [0, 0, 0] as const;
const uv = of('texcoord', '@p.texcoord0');
const picture = of('texture');
const place = of('place', '@p.position');
const seed = of('seed', 1);

/** What nodes may call, by what it is for: operators, functions of WGSL, and functions of the library. */
export const CALLS: Readonly<Record<CallGroup, Readonly<Record<string, CallRow>>>> = {
  numbers: {
    '+': row('The sum.', pair(0), 'add plus', true),
    '-': row('The difference; of one input its opposite.', pair(0), 'subtract minus negate'),
    '*': row(
      'The product; of a matrix and a vector the vector turned.',
      pair(1),
      'multiply times scale',
      true,
    ),
    '/': row('The quotient.', pair(1), 'divide'),
    '%': row('What is left of a division.', pair(1), 'remainder modulo'),
    abs: row('Without its sign.', [x()], 'absolute'),
    sign: row('-1, 0 or 1.', [x()]),
    min: row('The smaller.', pair(0), 'minimum darker'),
    max: row('The larger.', pair(0), 'maximum lighter'),
    clamp: row('Kept between two others.', [x(), of('low', 0), of('high', 1)], 'limit'),
    saturate: row('Kept between 0 and 1.', [x()], 'clamp limit'),
    fma: row('a times b plus c, in one.', [of('a', 1), of('b', 1), of('c', 0)]),
  },
  rounding: {
    floor: row('The whole number below.', [x()], 'round down'),
    ceil: row('The whole number above.', [x()], 'round up'),
    round: row('The nearest whole number; of two the even one.', [x()]),
    trunc: row('Without what follows the point.', [x()], 'truncate'),
    fract: row('What follows the point: x - floor(x).', [x()], 'fraction repeat'),
  },
  curves: {
    pow: row(
      'A power. Of what is below 0 it is not a number.',
      [x(1), of('exponent', 1, true)],
      'power gloss',
    ),
    exp: row('e to a power.', [x()], 'exponential'),
    exp2: row('2 to a power.', [x()]),
    log: row('Natural logarithm.', [x(1)]),
    log2: row('Logarithm by 2.', [x(1)]),
    sqrt: row('The square root.', [x()], 'root'),
    inverseSqrt: row('One over the square root.', [x(1)]),
    sin: row('The sine; radians.', [x()], 'wave'),
    cos: row('The cosine; radians.', [x()], 'wave'),
    tan: row('The tangent; radians.', [x()]),
    asin: row('The angle of a sine.', [x()]),
    acos: row('The angle of a cosine.', [x()], 'angle between'),
    atan: row('The angle of a tangent.', [x()]),
    atan2: row('The angle of a way up and across.', [of('y', 0, true), of('x', 1)], 'polar'),
    step: row('0 below an edge, 1 from it on.', [of('edge', 0.5), x()], 'threshold cutoff'),
    smoothstep: row(
      'From 0 to 1 between two edges, smooth at both.',
      [of('low', 0), of('high', 1), x()],
      'soft edge ramp',
    ),
    mix: row(
      'Between two values by a share.',
      [of('a', 0, true), of('b', 1), of('share', 0.5)],
      'blend interpolate between',
    ),
    degrees: row('Radians as degrees.', [x()]),
    radians: row('Degrees as radians.', [x()]),
  },
  directions: {
    dot: row(
      'How far two directions agree: the cosine between those of length 1.',
      [of('a', UP, true), of('b', UP)],
      'facing angle',
    ),
    cross: row('A direction that stands square on two others.', [
      of('a', [1, 0, 0], true),
      of('b', [0, 1, 0]),
    ]),
    normalize: row('The same direction with length 1.', [of('v', UP, true)], 'unit'),
    length: row('How long it is.', [of('v', PLACE, true)], 'size distance'),
    distance: row('How far two places are apart.', [of('a', PLACE, true), of('b', PLACE)]),
    reflect: row(
      'Mirrored at a surface whose normal has length 1.',
      [of('v', [0, 0, -1], true), of('normal', '@p.normal')],
      'mirror',
    ),
    refract: row(
      'Bent by a surface; `ratio` of the indices of refraction.',
      [of('v', [0, 0, -1], true), of('normal', '@p.normal'), of('ratio', 0.75)],
      'glass',
    ),
    faceForward: row('Turned so that it faces against a way.', [
      of('v', UP, true),
      of('way', [0, 0, -1]),
      of('normal', UP),
    ]),
  },
  comparison: {
    '<': row('Whether a is smaller.', pair(0), 'less'),
    '<=': row('Whether a is smaller, or the same.', pair(0)),
    '>': row('Whether a is larger.', pair(0), 'greater'),
    '>=': row('Whether a is larger, or the same.', pair(0)),
    '==': row('Whether both are the same.', pair(0), 'equal'),
    '!=': row('Whether they differ.', pair(0), 'unequal'),
  },
  choice: {
    select: row(
      'The first where the condition is false, the second where it is true.',
      [of('otherwise', 0), of('chosen', 1), of('condition')],
      'if switch',
    ),
    '&&': row('Whether both are true.', [of('a'), of('b')], 'and', true),
    '||': row('Whether one is true.', [of('a'), of('b')], 'or', true),
    '!': row('Whether it is false.', [of('a')], 'not'),
    any: row('Whether one part is true.', [of('v')]),
    all: row('Whether all parts are true.', [of('v')]),
  },
  making: {
    vec2f: row('Two numbers together; of one number twice.', [of('x', 0), of('y', 0)], 'combine join'),
    vec3f: row(
      'Three numbers together; of one number three times.',
      [of('x', 0), of('y', 0), of('z', 0)],
      'combine join color',
    ),
    vec4f: row(
      'Four numbers together; a color and its alpha.',
      [of('color', PLACE), of('alpha', 1)],
      'combine join',
    ),
    f32: row('As a number.', [x()], 'float convert'),
    i32: row('As a whole number; what follows the point is cut.', [x()], 'int convert'),
    u32: row('As a whole number without sign.', [x()], 'uint convert'),
  },
  textures: {
    textureSample: row(
      'A texture where the texture coordinates say. Fragments alone.',
      [picture, uv],
      'picture image',
    ),
    textureSampleLevel: row(
      'One level of a texture; 0 is the finest.',
      [picture, uv, of('level', 0)],
      'picture mipmap',
    ),
    textureSampleBias: row('A texture, sharper or softer by levels.', [picture, uv, of('bias', 0)]),
    textureLoad: row('One texel, by whole numbers.', [picture, of('at'), of('level', 0)]),
    textureDimensions: row('Width and height of a texture.', [picture, of('level', 0)], 'size'),
    triplanar: row(
      'A texture laid on from three sides.',
      [picture, place, of('normal', '@p.normal'), of('sharpness', 4)],
      'without texture coordinates',
    ),
  },
  'change from pixel to pixel': {
    dpdx: row('Change to the next pixel on the right. Fragments alone.', [x()], 'derivative'),
    dpdy: row('Change to the next pixel below.', [x()], 'derivative'),
    fwidth: row('Change over a pixel, both ways together.', [x()], 'derivative antialias'),
  },
  'whole numbers': {
    '[]': row(
      'A part by its number, from 0: of a vector, a column of a matrix, an entry of an array.',
      [of('of'), of('number')],
      'index',
    ),
    '&': row('Bits that both have.', [of('a'), of('b')], 'and'),
    '|': row('Bits that one has.', [of('a'), of('b')], 'or'),
    '^': row('Bits that one alone has.', [of('a'), of('b')], 'xor'),
    '~': row('Bits turned over.', [of('a')], 'not'),
    '<<': row('Bits moved up.', [of('a'), of('b')], 'shift'),
    '>>': row('Bits moved down.', [of('a'), of('b')], 'shift'),
  },
  patterns: {
    noise: row('Smooth noise, about -1 to 1.', [place, seed], 'perlin gradient random'),
    noise2: row('Smooth noise in the plane, about -1 to 1.', [uv, seed], 'perlin random'),
    layeredNoise: row(
      'Noise with finer noises on top.',
      [place, of('octaves', 4), seed],
      'fractal clouds turbulence',
    ),
    cells: row(
      'Distances to the nearest and to the second nearest of points thrown by chance.',
      [place, seed],
      'worley voronoi stones',
    ),
    checker: row('0 and 1 in squares of side 1.', [uv], 'checkerboard squares'),
    stripes: row('1 on stripes, one to a unit, and 0 between them.', [x(), of('width', 0.5)], 'lines bands'),
    ditherThreshold: row(
      'A threshold for each pixel, in an even pattern.',
      [of('pixel', '@p.screenPosition')],
      'screen door',
    ),
    hashFloat: row('A number by chance, 0 to below 1, that belongs to a cell.', [of('cell'), seed], 'random'),
  },
  colors: {
    luminance: row('How bright a linear color is.', [of('color', [1, 1, 1], true)], 'grey brightness'),
    hsvFromRgb: row('Hue, saturation and value, each 0 to 1.', [of('color', [1, 1, 1], true)]),
    rgbFromHsv: row('The color of hue, saturation and value.', [of('hsv', [0, 0, 1], true)], 'rainbow'),
    oklabFromRgb: row('Lightness and two axes of color as eyes tell them apart.', [
      of('color', [1, 1, 1], true),
    ]),
    rgbFromOklab: row('The linear color of a place in Oklab.', [of('lab', [1, 0, 0], true)]),
    mixEvenly: row(
      'Between two colors in even steps for the eye.',
      [of('a', PLACE, true), of('b', [1, 1, 1]), of('share', 0.5)],
      'gradient',
    ),
    encodeSrgb: row('Linear light as screens have it.', [of('color', [1, 1, 1], true)], 'gamma'),
    decodeSrgb: row('What screens have as linear light.', [of('color', [1, 1, 1], true)], 'gamma'),
    toneMap: row('Light beyond 1 bent into what a screen shows.', [of('color', [1, 1, 1], true)]),
    blendScreen: row('Light on light: never darker than either.', [
      of('below', PLACE, true),
      of('above', PLACE),
    ]),
    blendOverlay: row('Dark parts multiplied, light parts screened.', [
      of('below', PLACE, true),
      of('above', [0.5, 0.5, 0.5]),
    ]),
    blendHardLight: row('The same by what lies above.', [
      of('below', PLACE, true),
      of('above', [0.5, 0.5, 0.5]),
    ]),
    blendSoftLight: row('Softer than overlay.', [of('below', PLACE, true), of('above', [0.5, 0.5, 0.5])]),
    blendDifference: row('How far apart two colors are.', [of('below', PLACE, true), of('above', PLACE)]),
  },
  shaping: {
    remap: row(
      'From between two numbers to between two others.',
      [x(), of('fromLow', 0), of('fromHigh', 1), of('toLow', 0), of('toHigh', 1)],
      'range map',
    ),
    easeIn: row('Slow at first.', [of('t', 0, true), of('power', 2)]),
    easeOut: row('Slow at last.', [of('t', 0, true), of('power', 2)]),
    easeInOut: row('Slow at both ends.', [of('t', 0, true), of('power', 2)]),
    mirroredShare: row(
      'Share of light that is mirrored, by how directly one looks.',
      [of('facing', 1, true), of('headOn', 0.04)],
      'fresnel schlick rim',
    ),
    stepped: row(
      'In even steps, each with a soft edge.',
      [x(), of('steps', 3), of('soft', 0.1)],
      'toon bands posterize cel',
    ),
    turnAbout: row(
      'Turned about an axis of length 1; radians.',
      [of('v', [1, 0, 0], true), of('axis', [0, 1, 0]), of('angle', 0)],
      'rotate rotation',
    ),
    turnFlat: row(
      'Turned in the plane; radians.',
      [of('v', [1, 0], true), of('angle', 0)],
      'rotate rotation',
    ),
    triplanarWeights: row('How much of a picture from each side a surface takes.', [
      of('normal', '@p.normal'),
      of('sharpness', 4),
    ]),
    normalFromHeight: row(
      'The normal of a surface that stands out by a height. Fragments alone.',
      [of('height', 0, true), of('position', '@p.position'), of('normal', '@p.normal')],
      'bump',
    ),
  },
  distances: {
    sphereDistance: row(
      'To a sphere about the origin.',
      [of('place', PLACE, true), of('radius', 0.5)],
      'sdf',
    ),
    boxDistance: row(
      'To a box about the origin.',
      [of('place', PLACE, true), of('halfSize', [0.5, 0.5, 0.5])],
      'sdf',
    ),
    roundBoxDistance: row(
      'To a box whose edges are round.',
      [of('place', PLACE, true), of('halfSize', [0.5, 0.5, 0.5]), of('radius', 0.1)],
      'sdf',
    ),
    torusDistance: row(
      'To a ring that lies flat.',
      [of('place', PLACE, true), of('radius', 0.4), of('thickness', 0.1)],
      'sdf',
    ),
    capsuleDistance: row(
      'To a rod with round ends.',
      [of('place', PLACE, true), of('start', [0, -0.5, 0]), of('end', [0, 0.5, 0]), of('radius', 0.1)],
      'sdf',
    ),
    planeDistance: row(
      'To a plane.',
      [of('place', PLACE, true), of('normal', [0, 1, 0]), of('offset', 0)],
      'sdf ground',
    ),
    smoothMin: row(
      'The smaller of two with a smooth way over: shapes that melt together.',
      [of('a', 0, true), of('b', 0), of('reach', 0.1)],
      'union blend sdf',
    ),
    smoothMax: row(
      'The larger of two with a smooth way over.',
      [of('a', 0, true), of('b', 0), of('reach', 0.1)],
      'sdf',
    ),
  },
  scene: {
    surfaceDefaults: row("What the material's own factors and textures say.", [of('p', '@p')]),
    lightDefaults: row('What light does to a surface as a rule.', [
      of('s', '@s'),
      of('l', '@l'),
      of('p', '@p'),
    ]),
    sceneDepth: row('Depth of what was drawn before.', [of('screenPosition', '@p.screenPosition')]),
    sceneColor: row(
      'What was drawn before.',
      [of('screenPosition', '@p.screenPosition')],
      'behind refraction',
    ),
    colorAt: row('Of effects: the picture at a place, 0 to 1 from the upper left.', [
      of('place', '@p.place'),
    ]),
    secondAt: row('Of effects: the second picture.', [of('place', '@p.place')]),
    beforeAt: row('Of effects: what it gave in the frame before.', [of('place', '@p.place')]),
    depthAt: row('Of effects: depth as it is stored, 1 near and 0 far.', [of('place', '@p.place')]),
    distanceAt: row('Of effects: metres from the camera.', [of('place', '@p.place')]),
    normalAt: row('Of effects: the normal of what is seen, in the world.', [of('place', '@p.place')]),
    hitAt: row('Where a ray meets a shape.', [of('position'), of('normal')]),
    miss: row('That a ray meets nothing.', []),
  },
};

/** By name. */
export const CALL_TABLE: ReadonlyMap<string, CallRow & { group: CallGroup }> = new Map(
  (Object.keys(CALLS) as CallGroup[]).flatMap((group) =>
    Object.entries(CALLS[group]).map(([name, one]) => [name, { ...one, group }] as const),
  ),
);

/** Functions of the library that are imported where they are called, by the module that has them. */
export const LIBRARY_NODES: Readonly<Record<string, readonly string[]>> = {
  'umber/noise.wgsl': ['noise', 'noise2', 'hashFloat', 'hashCell'],
  'umber/patterns.wgsl': ['layeredNoise', 'cells', 'checker', 'stripes', 'ditherThreshold'],
  'umber/colors.wgsl': [
    ...['luminance', 'hsvFromRgb', 'rgbFromHsv', 'oklabFromRgb', 'rgbFromOklab', 'mixEvenly'],
    ...['blendScreen', 'blendOverlay', 'blendHardLight', 'blendSoftLight', 'blendDifference'],
  ],
  'umber/shaping.wgsl': [
    ...['remap', 'easeIn', 'easeOut', 'easeInOut', 'mirroredShare', 'stepped', 'turnAbout', 'turnFlat'],
    ...['triplanarWeights', 'triplanar', 'normalFromHeight'],
  ],
  'umber/distances.wgsl': [
    ...[
      'sphereDistance',
      'boxDistance',
      'roundBoxDistance',
      'torusDistance',
      'capsuleDistance',
      'planeDistance',
    ],
    ...['smoothMin', 'smoothMax'],
  ],
};
