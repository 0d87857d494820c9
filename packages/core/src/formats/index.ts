/**
 * Readers and writers of models, pictures and environments.
 *
 * @module @umber-lens/core/formats
 */
export type { Resolve } from './gltf/read/accessors.js';
export type { AssetInstances, AssetLevel, AssetNode, AssetScene, ModelAsset } from './asset/asset.js';
export { assetFrom } from './asset/asset.js';
export { type AssetDifference, diffAssets, type DiffOptions } from './asset/diff-assets.js';
export { assetOf } from './asset/asset-of.js';
export { placeAsset, type Placed, type PlaceOptions } from './asset/place.js';
export { readGltf, type ReadGltfOptions, SUPPORTED_EXTENSIONS } from './gltf/read/read.js';
export type { PackMode, ViewPacker } from './gltf/write/packed-views.js';
export {
  type PackedGeometry,
  writeGlb,
  writeGltf,
  type WritableAsset,
  type WriteOptions,
} from './gltf/write/write.js';
export { type ByteSource, peek, wholeOf } from './bytes/byte-source.js';
export { imageTypeOf } from './bytes/image-type.js';
export { readObj, type ReadObjOptions } from './obj/read-obj.js';
export { type WrittenModel, writeObj } from './obj/write-obj.js';
export { writePly, type WritePlyOptions } from './ply/write-ply.js';
export { writeStl, type WriteStlOptions } from './stl/write-stl.js';
export { readPly, type ReadPlyOptions } from './ply/read-ply.js';
export { formatOf, type ModelFormat, readModel, type ReadModelOptions } from './read-model.js';
export { readStl, type ReadStlOptions } from './stl/read-stl.js';
export { type DeepPicture, readPng16 } from './png/read-png16.js';
export { readCube } from './cube/read-cube.js';
export { readHdr, writeHdr } from './hdr/hdr.js';
export { bakePanorama, type BakedLight, type BakeOptions } from '../light/bake.js';
export { decodeKtx2, unpackDraco } from './apart/decode-apart.js';
export type { DracoMesh, DracoWanted } from './draco/decode-draco.js';
export { type DecodeKtx2Options, linearPixels, type TexelLevels } from './ktx2/decode-ktx2.js';
export { type Ktx2Texture, readKtx2 } from './ktx2/read-ktx2.js';
export {
  type PackedFormat,
  ASTC_SIZES,
  srgbFormat,
  texelBlock,
  texelBytes,
  type TexelFormat,
} from '../material/texel-formats.js';
export { readKtx2Panorama } from './ktx2/panorama-file.js';
export { isKtx2, readBakedKtx2, writeBakedKtx2 } from './ktx2/environment-file.js';
export { fromHalfFloats, toHalfFloats } from '../math/half-floats.js';
