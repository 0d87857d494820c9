import { stat } from 'node:fs/promises';
import { BATCH_BREAK_REASONS, type BudgetLimit, type Figures, vertexCount } from '@umber-lens/core/engine';
import { drawnCounts } from './drawn-counts.js';
import type { OpenedModel } from '../open/open-model.js';
import { surveyModel } from './survey-model.js';

/** Something that takes part of what is limited. */
export interface Taker {
  name: string;
  value: number;
}

/** What a model costs, in the units of budgets, and who takes most of each. */
export async function figuresOf(
  file: string,
  model: OpenedModel,
): Promise<{ figures: Figures; takers: Partial<Record<BudgetLimit, Taker[]>> }> {
  const { asset, files, images } = model;
  const survey = await surveyModel(model);
  const bySize = (list: Taker[]): Taker[] => {
    const sums = new Map<string, { value: number; count: number }>();
    for (const { name, value } of list) {
      const sum = sums.get(name) ?? { value: 0, count: 0 };
      sums.set(name, { value: sum.value + value, count: sum.count + 1 });
    }
    return [...sums]
      .map(([name, { value, count }]) => ({
        name: count > 1 ? `${name} (${count} of that name)` : name,
        value,
      }))
      .sort((a, b) => b.value - a.value)
      .slice(0, 5);
  };
  const users = (mesh: (typeof asset.meshes)[number]): number =>
    asset.nodes.reduce((sum, node) => sum + (node.mesh === mesh ? (node.instances?.count ?? 1) : 0), 0);
  const meshes = (of: (mesh: (typeof asset.meshes)[number]) => number): Taker[] =>
    bySize(asset.meshes.map((mesh, i) => ({ name: mesh.name ?? `mesh ${i}`, value: of(mesh) })));
  const textures = bySize(
    [...images].map(([image, { width, height }], i) => ({
      name: image.name ?? image.uri ?? `image ${i}`,
      // Four bytes a pixel, a third more for the smaller levels.
      value: (width * height * 4 * (4 / 3)) / 1e6,
    })),
  );
  const textureMb = textures.reduce((sum, { value }) => sum + value, 0);
  const triangles = (mesh: (typeof asset.meshes)[number]): number => drawnCounts(mesh).triangles;
  const bytes = (mesh: (typeof asset.meshes)[number]): number =>
    mesh.primitives.reduce(
      (sum, { geometry }) =>
        sum +
        vertexCount(geometry) * Object.values(geometry.attributes).reduce((s, a) => s + a.byteStride, 0) +
        (geometry.indices?.byteLength ?? 0),
      0,
    ) / 1e6;
  let fileBytes = (await stat(file)).size;
  let first = true;
  for (const { byteLength } of files.values()) {
    // The model itself is the first.
    if (!first) fileBytes += byteLength;
    first = false;
  }
  return {
    figures: {
      draws: survey.drawCalls,
      triangles: survey.triangles,
      instances: survey.instances,
      textures: asset.textures.length,
      gpuMb: survey.gpuBytes / 1e6,
      textureMb,
      fileMb: fileBytes / 1e6,
    },
    takers: {
      draws: bySize(
        Object.entries(survey.drawsApart)
          .filter(([name]) => name !== BATCH_BREAK_REASONS.first)
          .map(([name, value]) => ({ name, value })),
      ),
      triangles: meshes((mesh) => triangles(mesh) * users(mesh)),
      instances: meshes((mesh) => drawnCounts(mesh).instances * users(mesh)),
      textures,
      textureMb: textures,
      gpuMb: bySize([...textures, ...meshes(bytes)]),
      fileMb: bySize([...files].map(([name, { byteLength }]) => ({ name, value: byteLength / 1e6 }))),
    },
  };
}
