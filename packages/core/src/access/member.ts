import type { Effect } from '../effects/effect.js';
import { LensError } from '../errors/lens-error.js';
import { faultsOf } from '../properties/faults.js';
import { type Kind, type KindName, KINDS } from '../properties/kinds.js';
import type { Property, Table } from '../properties/property.js';
import type { Camera, Light, Mesh } from '../scene/components.js';
import { readLocal, SceneNode } from '../scene/scene-node.js';

type Holder = Record<string, unknown>;

/**
 * Reads a member of a running thing: what it holds, or else what counts then.
 *
 *     readMember('light', node.light, 'intensity'); // 1, where it was left out
 *     readMember('light', node.light, ['shadow', 'bias']);
 *
 * @param names its name, or names from the thing down
 * @returns arrays are copies for nodes, and the thing's own else; undefined where nothing counts
 * @throws LensError `member/unknown`
 */
export function readMember(kind: KindName, thing: object, names: string | readonly string[]): unknown {
  const path = typeof names === 'string' ? [names] : names;
  const rows = rowsOf(kind, path);
  let value: unknown = thing;
  for (const name of path) value = valueOf(value, name);
  return value ?? rows.at(-1)!.property.default; // a path has a name at least
}

/**
 * Writes a member of a running thing, so that the next frame shows it. Nodes are written to by their setters, everything else
 * as plain members; what lies on the way down and is not there is made.
 *
 *     writeMember('material', material, 'roughnessFactor', 0.2);
 *     writeMember('node', node, 'translation', [0, 1, 0]);
 *
 * @param value undefined takes the member away: what is left out has its default
 * @throws LensError `member/unknown`, `member/fixed` where it counts only when the thing is made, `member/wrong` for a value
 *   that the table does not allow; nothing is changed then
 */
export function writeMember(
  kind: KindName,
  thing: object,
  names: string | readonly string[],
  value: unknown,
): void {
  const path = typeof names === 'string' ? [names] : names;
  const rows = rowsOf(kind, path);
  const { property, table } = rows.at(-1)!; // a path has a name at least
  const name = path.at(-1)!;
  const { isFixed }: Kind = KINDS[kind];
  // What stands further down is another kind's.
  if (property.isFixed ?? (isFixed && path.length === 1))
    throw new LensError('member/fixed', `"${name}" of a ${kind} cannot be changed afterwards`, {
      hint: 'It counts when the thing is made: make another.',
    });
  const [fault] = faultsOf({ [name]: value }, table, `a ${kind}`);
  if (fault) throw new LensError('member/wrong', fault.summary, { hint: fault.hint });
  let holder = thing as Holder;
  for (const [i, above] of path.slice(0, -1).entries()) {
    const next = valueOf(holder, above);
    holder =
      typeof next === 'object' && next !== null
        ? (next as Holder)
        : made(kind, holder, above, rows[i]!.property);
  }
  if (holder instanceof SceneNode) writeOfNode(holder, name, value ?? property.default);
  else if (value === undefined) delete holder[name];
  else holder[name] = value;
}

/** The row of each name on the way down, with the table that it stands in. */
function rowsOf(kind: KindName, path: readonly string[]): { property: Property; table: Table }[] {
  const { meant }: Kind = KINDS[kind];
  let table: Table | undefined = KINDS[kind].table;
  return path.map((name, i) => {
    if (!table)
      throw new LensError('member/unknown', `"${path[i - 1]}" of a ${kind} has no members`, {
        hint: `Its own value is read and written: "${path.slice(0, i).join('/')}".`,
      });
    const property = Object.hasOwn(table, name) ? table[name] : undefined;
    if (!property) {
      const [fault] = faultsOf({ [name]: undefined }, table, `a ${kind}`, meant);
      throw new LensError('member/unknown', fault!.summary, { hint: fault!.hint }); // it has none of that name
    }
    const row = { property, table };
    table = property.of ?? (property.type === 'texture' ? KINDS.textureUse.table : undefined);
    return row;
  });
}

function valueOf(holder: unknown, name: string): unknown {
  if (typeof holder !== 'object' || holder === null) return undefined;
  return holder instanceof SceneNode ? readOfNode(holder, name) : (holder as Holder)[name];
}

/** An object that is not there yet. Textures, cameras and lights cannot be made out of one member. */
function made(kind: KindName, holder: Holder | SceneNode, name: string, { of, type }: Property): Holder {
  if (type === 'texture' || holder instanceof SceneNode)
    throw new LensError('member/unknown', `a ${kind} has no "${name}" that could be written to`, {
      hint: `Give it a whole ${name} first.`,
    });
  // Of a texture transform all counts.
  const whole = of === KINDS.textureTransform.table ? { offset: [0, 0], rotation: 0, scale: [1, 1] } : {};
  return (holder[name] = whole);
}

/** A node's members are read by its readers: of arrays a copy. */
function readOfNode(node: SceneNode, name: string): unknown {
  switch (name) {
    case 'translation':
      return node.readTranslation([0, 0, 0]);
    case 'rotation':
      return node.readRotation([0, 0, 0, 1]);
    case 'scale':
      return node.readScale([1, 1, 1]);
    case 'matrix': {
      const m = readLocal(node, new Float32Array(12));
      return [m[0], m[4], m[8], 0, m[1], m[5], m[9], 0, m[2], m[6], m[10], 0, m[3], m[7], m[11], 1];
    }
    default:
      return (node as unknown as Holder)[name];
  }
}

function writeOfNode(node: SceneNode, name: string, value: unknown): void {
  const numbers = Array.from((value ?? []) as ArrayLike<number>);
  switch (name) {
    case 'translation':
      return void node.setTranslation(...(numbers as [number, number, number]));
    case 'rotation':
      return void node.setRotation(...(numbers as [number, number, number, number]));
    case 'scale':
      return void node.setScale(...(numbers as [number, number, number]));
    case 'matrix':
      return void node.setMatrix(numbers);
    case 'name':
      return void (node.name = (value as string | undefined) ?? '');
    case 'parent':
      return void node.setParent(value as SceneNode | undefined);
    case 'visible':
      return void node.setVisible(value as boolean);
    case 'castsShadow':
      return void node.setShadows(value as boolean, node.receivesShadow);
    case 'receivesShadow':
      return void node.setShadows(node.castsShadow, value as boolean);
    case 'effects':
      return void (node.effects = (value as readonly Effect[] | undefined) ?? []);
    case 'mesh':
      return void node.setMesh(value as Mesh | undefined);
    case 'camera':
      return void node.setCamera(value as Camera | undefined);
    case 'light':
      return void node.setLight(value as Light | undefined);
    default:
      (node as unknown as Holder)[name] = value;
  }
}
