import type { AssetInstances, AssetNode } from '../../asset/asset.js';
import { accessorFloats, type Accessors } from '../read/accessors.js';
import type { Cursor } from '../read/cursor.js';

/** What the extension knows, and what it is here. */
const KNOWN = { TRANSLATION: ['translations', 3], ROTATION: ['rotations', 4], SCALE: ['scales', 3] } as const;

/** Copies of nodes' meshes (EXT_mesh_gpu_instancing). */
export function readInstances(root: Cursor, nodes: readonly AssetNode[], accessors: Accessors): void {
  root.list('nodes').forEach((at, i) => {
    const extension = at.extension('EXT_mesh_gpu_instancing');
    if (!extension) return;
    const node = nodes[i]!; // one each
    if (!node.mesh) {
      extension.warn('instances', 'copies on a node without a mesh show nothing');
      return;
    }
    const attributes = extension.need('attributes').object();
    let instances: AssetInstances | undefined;
    for (const name of Object.keys(attributes.value as object)) {
      const place = attributes.need(name);
      const data = accessors.read(place);
      if (instances && data.count !== instances.count)
        place.fail(
          'instances',
          `${data.count} values do not go with ${instances.count} copies`,
          'All have as many.',
        );
      instances ??= { count: data.count, own: {} };
      const values = accessorFloats(data);
      if (!values.every(Number.isFinite)) place.fail('not-finite', 'a number of a copy is not finite');
      const known = KNOWN[name as keyof typeof KNOWN];
      if (!known) instances.own[name] = { components: data.components, values };
      else if (data.components !== known[1])
        place.fail('instances', `${name} is VEC${known[1]}, not ${data.type}`);
      else instances[known[0]] = values;
    }
    if (!instances) attributes.warn('instances', 'there is not a single attribute of copies');
    else node.instances = instances;
  });
}

/** The attributes of copies as they are written: name, values and how many numbers each has. */
export function instanceAttributes({
  translations,
  rotations,
  scales,
  own,
}: AssetInstances): [name: string, values: Float32Array, components: number][] {
  return [
    ...(translations ? [['TRANSLATION', translations, 3] as [string, Float32Array, number]] : []),
    ...(rotations ? [['ROTATION', rotations, 4] as [string, Float32Array, number]] : []),
    ...(scales ? [['SCALE', scales, 3] as [string, Float32Array, number]] : []),
    ...Object.entries(own).map(([name, { values, components }]): [string, Float32Array, number] => [
      name,
      values,
      components,
    ]),
  ];
}
