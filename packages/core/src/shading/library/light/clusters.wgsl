// Which lights reach a place, where there are many: the view is divided into cells, and each knows its lights.
import { LightSource, lights } from './lights.wgsl';
import { frame } from './frame.wgsl';

override useClusters = false;

// Cells of the view.
const CELLS_ACROSS = 16;
const CELLS_DOWN = 9;
const CELLS_DEEP = 24;

struct Clusters {
  /// Lights that reach every cell; they stand first.
  everywhere: u32,
  /// Depth of the first slice, and slices over the logarithm of the depth.
  near: f32,
  slices: f32,
  unused: f32,
  /// By cell: where its numbers of lights begin among the items, and how many they are.
  cells: array<vec2u, CELLS_ACROSS * CELLS_DOWN * CELLS_DEEP>,
}

@group(0) @binding(12) var<storage, read> clusters: Clusters;
@group(0) @binding(13) var<storage, read> clusterItems: array<u32>;
@group(0) @binding(14) var<storage, read> lightTable: array<LightSource>;

/// The light of a number.
fn sourceOf(index: u32) -> LightSource {
  if useClusters { return lightTable[index]; }
  return lights[index];
}

/// Where the numbers of a place's lights begin, and how many there are besides those that reach everywhere.
fn cellAt(position: vec3f) -> vec2u {
  if !useClusters { return vec2u(); }
  let clip = frame.viewProjection * vec4f(position, 1);
  let at = clip.xy / max(clip.w, 1e-6) * 0.5 + 0.5;
  let depth = max(dot(position - frame.cameraPosition, frame.forward), clusters.near);
  let x = u32(clamp(at.x * f32(CELLS_ACROSS), 0, f32(CELLS_ACROSS - 1)));
  let y = u32(clamp(at.y * f32(CELLS_DOWN), 0, f32(CELLS_DOWN - 1)));
  let z = u32(clamp(log(depth / clusters.near) * clusters.slices, 0, f32(CELLS_DEEP - 1)));
  return clusters.cells[(z * u32(CELLS_DOWN) + y) * u32(CELLS_ACROSS) + x];
}

/// How many lights a place has to ask, and the number of the k-th of them.
fn lightCountAt(cell: vec2u) -> u32 {
  if useClusters { return clusters.everywhere + cell.y; }
  return frame.lightCount;
}

fn lightNumber(cell: vec2u, k: u32) -> u32 {
  if !useClusters || k < clusters.everywhere { return k; }
  return clusterItems[cell.x + k - clusters.everywhere];
}
