import { COMPONENT_BYTES } from '../../../geometry/geometry.js';
import { apart } from '../../apart/apart.js';
import type { DracoMesh } from '../../draco/decode-draco.js';
import type { AccessorData, Accessors } from './accessors.js';
import type { Cursor } from './cursor.js';

const EXTENSION = 'KHR_draco_mesh_compression';

/**
 * Unpacks all primitives that Draco packed (KHR_draco_mesh_compression), and puts what they are made of in the place of
 * their accessors. Loaded when a file asks for it.
 *
 * @throws LensError `gltf/draco` for bytes that cannot be unpacked, or that are of another mesh than the accessors say
 */
export async function unpackPrimitives(root: Cursor, accessors: Accessors): Promise<void> {
  const work: Promise<void>[] = [];
  /** By view: primitives of one mesh may share their bytes. */
  const done = new Map<unknown, Set<string>>();
  for (const mesh of root.list('meshes'))
    for (const primitive of mesh.object().list('primitives')) {
      const at = primitive.object().extension(EXTENSION);
      if (!at) continue;
      const places = [
        ...attributePlaces(primitive),
        ...[primitive.get('indices')].filter((one) => one !== undefined),
      ];
      const key = at.need('bufferView').asWhole();
      const name = places.map((place) => String(place.value)).join(' ');
      const known = done.get(key) ?? new Set();
      done.set(key, known);
      if (known.has(name)) continue;
      known.add(name);
      work.push(unpackPrimitive(primitive, at, accessors));
    }
  await Promise.all(work);
}

function attributePlaces(primitive: Cursor): Cursor[] {
  const attributes = primitive.need('attributes').object();
  return Object.keys(attributes.value as object).map((key) => attributes.need(key));
}

async function unpackPrimitive(primitive: Cursor, at: Cursor, accessors: Accessors): Promise<void> {
  const mode = primitive.whole('mode', 0, 6) ?? 4;
  if (mode !== 4)
    at.fail(
      'draco',
      `primitives of mode ${mode} are not unpacked`,
      'Export it as triangles, or without Draco.',
    );
  const view = at.need('bufferView');
  const bytes = accessors.view(view);
  const ids = at.need('attributes').object();
  const attributes = primitive.need('attributes').object();
  const wanted = Object.keys(ids.value as object).map((semantic) => ({
    id: ids.need(semantic).asWhole(),
    // What the packed mesh has has an accessor besides, which says how it is meant.
    place: attributes.need(semantic),
  }));
  const heads = wanted.map(({ place }) => accessors.head(place));
  const first = heads[0];
  if (!first) return at.need('attributes').fail('draco', 'no attribute is packed');
  let mesh: DracoMesh;
  try {
    mesh = await apart(
      'draco',
      bytes.slice(),
      wanted.map(({ id }, i) => ({ id, componentType: heads[i]!.componentType })), // as many
      first.count,
    );
  } catch (cause) {
    const told = cause instanceof Error ? cause.message : String(cause);
    return at.fail(
      'draco',
      `the packed mesh is damaged: ${told}`,
      'Get the file again, or export it without Draco.',
    );
  }
  wanted.forEach(({ place }, i) => {
    const head = heads[i]!; // as many
    const { bytes: values, components } = mesh.attributes[i]!;
    if (components !== head.components || mesh.vertices !== head.count)
      place.fail(
        'draco',
        `the packed mesh has ${mesh.vertices} vertices of ${components} numbers, and the accessor says ${head.count} of ${head.components}`,
        'Export the model anew.',
      );
    accessors.put(place, tight(head, values, components * COMPONENT_BYTES[head.componentType]));
  });
  const indices = primitive.get('indices');
  if (!indices) return;
  const head = accessors.head(indices);
  if (head.count !== mesh.indices.length)
    indices.fail(
      'draco',
      `the packed mesh has ${mesh.indices.length} indices, and the accessor says ${head.count}`,
      'Export the model anew.',
    );
  // Indices of other types are refused where they are read.
  const { componentType } = head;
  const values =
    componentType === 'u8'
      ? Uint8Array.from(mesh.indices)
      : componentType === 'u16'
        ? Uint16Array.from(mesh.indices)
        : mesh.indices;
  accessors.put(indices, tight(head, new Uint8Array(values.buffer), values.BYTES_PER_ELEMENT));
}

const tight = (head: AccessorData, bytes: Uint8Array, byteStride: number): AccessorData => ({
  ...head,
  bytes,
  byteOffset: 0,
  byteStride,
  isRounded: true,
});
