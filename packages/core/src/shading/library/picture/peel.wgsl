// Transparent surfaces layer by layer (Everitt, "Interactive Order-Independent Transparency", 2001): each pass keeps the
// nearest of those that lie behind the layer before.

override isPeeled = false;

/// Depths of what is opaque, and of the layer before: 1 near, 0 far.
@group(0) @binding(18) var opaqueDepth: texture_depth_2d;
@group(0) @binding(19) var layerDepth: texture_depth_2d;

/// Whether a place belongs to a layer that was drawn already, or lies behind what is opaque.
fn isElsewhere(at: vec4f) -> bool {
  if !isPeeled { return false; }
  let pixel = vec2i(at.xy);
  // The layer's own depth may come out a little otherwise in another pipeline.
  return at.z >= textureLoad(layerDepth, pixel, 0) * 0.999999 || at.z <= textureLoad(opaqueDepth, pixel, 0);
}
