// What surfaces.wgsl noted of each thing: its bits, eight in each channel.

/// The bits of what a pixel shows; 0 where nothing solid is.
fn bitsAt(things: texture_2d<f32>, pixel: vec2i) -> u32 {
  let found = vec4u(textureLoad(things, pixel, 0) * 255 + 0.5);
  return found.x | (found.y << 8) | (found.z << 16) | (found.w << 24);
}

/// Whether what a pixel shows has one of the bits. All of them are everything, and nothing is looked up.
fn isOneOf(things: texture_2d<f32>, pixel: vec2i, sees: u32) -> bool {
  return sees == 0xffffffff || (bitsAt(things, pixel) & sees) != 0;
}
