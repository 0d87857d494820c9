import {
  aboveZero,
  boolean,
  EXTRAS,
  given,
  NAME,
  number,
  object,
  positive,
  radiance,
  share,
  surfaceColor,
  texture,
  vector,
  whole,
  word,
} from '../define.js';
import type { Meant, Property, Table } from '../property.js';

const PBR = 'pbrMetallicRoughness/';
const layer = (extension: string): ((key: string) => string) => {
  return (key) => `extensions/KHR_materials_${extension}/${key}`;
};
const clearcoat = layer('clearcoat');
const sheen = layer('sheen');
const specular = layer('specular');
const transmission = layer('transmission');
const volume = layer('volume');
const iridescence = layer('iridescence');
const anisotropy = layer('anisotropy');
const diffuse = layer('diffuse_transmission');

const compared = ['never', 'less', 'equal', 'less-equal', 'greater', 'not-equal', 'greater-equal', 'always'];
const stencilOperation = (line: string): Property =>
  word(
    line,
    [
      'keep',
      'zero',
      'replace',
      'invert',
      'increment-clamp',
      'decrement-clamp',
      'increment-wrap',
      'decrement-wrap',
    ],
    { default: 'keep' },
  );
const byte = (line: string, value: number): Property => whole(line, { range: [0, 255], default: value });

/** How things of a material meet the stencil. */
export const STENCIL_TABLE: Table = {
  compare: word(
    'Which pixels are drawn, by `reference` (on the left) and the value that is there.',
    compared,
    {
      default: 'always',
    },
  ),
  failOp: stencilOperation('What becomes of the value where that fails.'),
  depthFailOp: stencilOperation('What becomes of it where that holds, and the thing is hidden.'),
  passOp: stencilOperation('What becomes of it where the thing is drawn.'),
  reference: byte('What is compared, and what `replace` writes.', 0),
  readMask: byte('Bits that are compared.', 255),
  writeMask: byte('Bits that are written.', 255),
};

const transform = (key: string): string => `extensions/KHR_texture_transform/${key}`;

/** How a texture lies on a surface. */
export const TEXTURE_TRANSFORM_TABLE: Table = {
  offset: vector('Where it begins, in shares of it.', 2, { default: [0, 0], file: transform('offset') }),
  rotation: number('Counter-clockwise, about its corner.', {
    unit: 'radians',
    default: 0,
    file: transform('rotation'),
  }),
  scale: vector('How often it repeats where its coordinates go from 0 to 1.', 2, {
    default: [1, 1],
    file: transform('scale'),
  }),
};

/** A texture in one of a material's places. */
export const TEXTURE_USE_TABLE: Table = {
  texture: given('The texture, of `loadTexture` or of a model.'),
  texCoord: whole('Which set of texture coordinates it is read by: 0 or 1.', { range: [0, 1], default: 0 }),
  strength: number('How strong the bumps of normals are, or how dark occlusion is.', { default: 1 }),
  transform: object('How it lies on the surface.', TEXTURE_TRANSFORM_TABLE),
};

/** glTF 2.0 and the ratified extensions of materials, with what is our own. */
export const MATERIAL_TABLE: Table = {
  name: NAME,
  baseColorFactor: vector('Color of the surface; the fourth number is its opacity.', 4, {
    range: [0, Infinity],
    color: 'linear',
    default: [1, 1, 1, 1],
    file: `${PBR}baseColorFactor`,
  }),
  baseColorTexture: texture('Its color by texture, sRGB-encoded, with opacity in alpha.', {
    color: 'encoded',
    file: `${PBR}baseColorTexture`,
  }),
  metallicFactor: share('1 for metal, 0 for everything else.', {
    default: 1,
    file: `${PBR}metallicFactor`,
  }),
  roughnessFactor: share('0 mirrors, 1 is matt.', { default: 1, file: `${PBR}roughnessFactor` }),
  metallicRoughnessTexture: texture('Roughness in green, metal in blue.', {
    file: `${PBR}metallicRoughnessTexture`,
  }),
  normalTexture: texture('Bumps: normals in tangent space.', {
    file: 'normalTexture',
    strength: 'scale',
  }),
  occlusionTexture: texture('How much of the light from all around comes in, in red.', {
    file: 'occlusionTexture',
    strength: 'strength',
  }),
  emissiveFactor: radiance('Light that it gives by itself.', { default: [0, 0, 0], file: 'emissiveFactor' }),
  emissiveStrength: positive('By which the light it gives is multiplied.', {
    default: 1,
    file: layer('emissive_strength')('emissiveStrength'),
  }),
  emissiveTexture: texture('The light it gives by texture, sRGB-encoded.', {
    color: 'encoded',
    file: 'emissiveTexture',
  }),
  alphaMode: word(
    'Whether opacity counts: `mask` cuts out, `blend` lets through.',
    ['opaque', 'mask', 'blend'],
    { default: 'opaque' },
  ),
  alphaCutoff: positive('For `mask`: what is less opaque is not drawn.', {
    default: 0.5,
    file: 'alphaCutoff',
  }),
  doubleSided: boolean('Whether its back is drawn as well.', { default: false, file: 'doubleSided' }),
  batch: boolean('Whether it may be one draw with materials that differ in numbers alone.', {
    default: true,
  }),
  clearcoatFactor: share('How much lacquer lies on top.', {
    default: 0,
    file: clearcoat('clearcoatFactor'),
  }),
  clearcoatTexture: texture('The same by texture, in red.', { file: clearcoat('clearcoatTexture') }),
  clearcoatRoughnessFactor: share('Roughness of the lacquer.', {
    default: 0,
    file: clearcoat('clearcoatRoughnessFactor'),
  }),
  clearcoatRoughnessTexture: texture('The same by texture, in green.', {
    file: clearcoat('clearcoatRoughnessTexture'),
  }),
  clearcoatNormalTexture: texture('Bumps of the lacquer. Left out: it is as even as the geometry.', {
    file: clearcoat('clearcoatNormalTexture'),
    strength: 'scale',
  }),
  sheenColorFactor: radiance('Glow of fibres at grazing angles, as of velvet.', {
    default: [0, 0, 0],
    file: sheen('sheenColorFactor'),
  }),
  sheenColorTexture: texture('The same by texture, sRGB-encoded.', {
    color: 'encoded',
    file: sheen('sheenColorTexture'),
  }),
  sheenRoughnessFactor: share('How far the glow of fibres spreads.', {
    default: 0,
    file: sheen('sheenRoughnessFactor'),
  }),
  sheenRoughnessTexture: texture('The same by texture, in alpha.', { file: sheen('sheenRoughnessTexture') }),
  specularFactor: positive('How much what is no metal mirrors.', {
    default: 1,
    file: specular('specularFactor'),
  }),
  specularTexture: texture('The same by texture, in alpha.', { file: specular('specularTexture') }),
  specularColorFactor: radiance('Color of that mirroring straight on.', {
    default: [1, 1, 1],
    file: specular('specularColorFactor'),
  }),
  specularColorTexture: texture('The same by texture, sRGB-encoded.', {
    color: 'encoded',
    file: specular('specularColorTexture'),
  }),
  glossinessFactor: share(
    'Of older files: where given, the alpha of the specular color times this is one less the roughness.',
  ),
  ior: positive('Index of refraction: 1.33 water, 1.5 glass; 0 mirrors by its specular color alone.', {
    default: 1.5,
    file: layer('ior')('ior'),
  }),
  transmissionFactor: share('Share of the light that goes through, as through glass.', {
    default: 0,
    file: transmission('transmissionFactor'),
  }),
  transmissionTexture: texture('The same by texture, in red.', { file: transmission('transmissionTexture') }),
  thicknessFactor: positive('How thick the body is; 0 is a thin wall.', {
    unit: 'metres',
    default: 0,
    file: volume('thicknessFactor'),
  }),
  thicknessTexture: texture('The same by texture, in green.', { file: volume('thicknessTexture') }),
  attenuationDistance: positive('After which light within has the attenuation color.', {
    unit: 'metres',
    default: Infinity,
    file: volume('attenuationDistance'),
  }),
  attenuationColor: surfaceColor('Color that light takes on within.', {
    default: [1, 1, 1],
    file: volume('attenuationColor'),
  }),
  dispersion: positive('How much more blue is bent than red: 20 over the Abbe number.', {
    default: 0,
    file: layer('dispersion')('dispersion'),
  }),
  iridescenceFactor: share('How much of a thin film there is, as of soap or oil.', {
    default: 0,
    file: iridescence('iridescenceFactor'),
  }),
  iridescenceTexture: texture('The same by texture, in red.', { file: iridescence('iridescenceTexture') }),
  iridescenceIor: number('Index of refraction of the film.', {
    range: [1, Infinity],
    default: 1.3,
    file: iridescence('iridescenceIor'),
  }),
  iridescenceThicknessMinimum: positive('Thickness of the film where its texture is 0.', {
    unit: 'nanometres',
    default: 100,
    file: iridescence('iridescenceThicknessMinimum'),
  }),
  iridescenceThicknessMaximum: positive('Thickness of the film where its texture is 1 or absent.', {
    unit: 'nanometres',
    default: 400,
    file: iridescence('iridescenceThicknessMaximum'),
  }),
  iridescenceThicknessTexture: texture('Thickness of the film, in green.', {
    file: iridescence('iridescenceThicknessTexture'),
  }),
  anisotropyStrength: share('How much highlights are drawn out along one direction, as on brushed metal.', {
    default: 0,
    file: anisotropy('anisotropyStrength'),
  }),
  anisotropyRotation: number('That direction, counter-clockwise from the tangent.', {
    unit: 'radians',
    default: 0,
    file: anisotropy('anisotropyRotation'),
  }),
  anisotropyTexture: texture('Direction in red and green, strength in blue.', {
    file: anisotropy('anisotropyTexture'),
  }),
  diffuseTransmissionFactor: share('Share of the matt light that shines through, as through leaves.', {
    default: 0,
    file: diffuse('diffuseTransmissionFactor'),
  }),
  diffuseTransmissionTexture: texture('The same by texture, in alpha.', {
    file: diffuse('diffuseTransmissionTexture'),
  }),
  diffuseTransmissionColorFactor: surfaceColor('Color of the light that shines through.', {
    default: [1, 1, 1],
    file: diffuse('diffuseTransmissionColorFactor'),
  }),
  diffuseTransmissionColorTexture: texture('The same by texture, sRGB-encoded.', {
    color: 'encoded',
    file: diffuse('diffuseTransmissionColorTexture'),
  }),
  unlit: boolean('Whether its base color is shown exactly as given, whatever the light.', { default: false }),
  blend: word(
    'How its color meets what is there; or factors, as WebGPU has them.',
    ['over', 'add', 'multiply', 'screen', 'premultiplied'],
    { or: ['given'] },
  ),
  depthCompare: word(
    'What is drawn of it, by its depth against the one that is there: 1 is near.',
    compared,
    { default: 'greater-equal' },
  ),
  depthWrite: boolean('Whether it hides what is drawn later. Left out: unless it is blended.'),
  depthBias: number('Steps of depth by which it counts as nearer.', { default: 0 }),
  depthBiasSlopeScale: number('The same for each pixel of depth that it leans away.', { default: 0 }),
  cullMode: word('Which faces are left out. Left out: the back, unless it is double-sided.', [
    'none',
    'front',
    'back',
  ]),
  writeMask: whole('Which channels it writes: the sum of 1 red, 2 green, 4 blue and 8 alpha.', {
    range: [0, 15],
    default: 15,
  }),
  stencil: object('How it meets the stencil. Of a lens that was opened with `stencil: true`.', STENCIL_TABLE),
  drawOrder: whole('What has less is drawn first, among what is opaque and among what is blended.', {
    range: [-8, 7],
    default: 0,
  }),
  shader: given('A shader of your own, imported or of `compileMaterialShader`.'),
  settings: object("Values of the shader's settings, by name."),
  kept: given('Extensions that are kept for others.'),
  extras: EXTRAS,
};

/** Words of the trade for what glTF calls otherwise. */
export const MATERIAL_MEANT: Meant = {
  color: 'baseColorFactor (linear RGBA)',
  colour: 'baseColorFactor (linear RGBA)',
  albedo: 'baseColorFactor (linear RGBA)',
  diffuse: 'baseColorFactor (linear RGBA)',
  texture: 'baseColorTexture: { texture }',
  image: 'baseColorTexture: { texture }',
  roughness: 'roughnessFactor',
  metallic: 'metallicFactor',
  metalness: 'metallicFactor',
  emissive: 'emissiveFactor',
  opacity: "the fourth number of baseColorFactor, with alphaMode: 'blend'",
  alpha: "the fourth number of baseColorFactor, with alphaMode: 'blend'",
  transparent: "alphaMode: 'blend'",
  uniforms: 'settings',
};

/** How the texels of a texture are read. */
export const SAMPLER_TABLE: Table = {
  name: NAME,
  magFilter: word('Between texels that are larger than pixels.', ['nearest', 'linear'], {
    default: 'linear',
  }),
  minFilter: word('Between texels that are smaller than pixels.', ['nearest', 'linear'], {
    default: 'linear',
  }),
  mipmapFilter: word(
    'Between levels of detail; `none` reads the largest alone.',
    ['none', 'nearest', 'linear'],
    {
      default: 'linear',
    },
  ),
  wrapS: word('What lies beyond its sides.', ['repeat', 'clamp-to-edge', 'mirror-repeat'], {
    default: 'repeat',
  }),
  wrapT: word('What lies beyond its top and its bottom.', ['repeat', 'clamp-to-edge', 'mirror-repeat'], {
    default: 'repeat',
  }),
  anisotropy: aboveZero('How many texels side by side are read at a slant, 1 to 16.', {
    range: [1, 16],
    isOpen: false,
    default: 4,
  }),
};
