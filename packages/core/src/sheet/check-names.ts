import { nearHint } from '../errors/near-names.js';
import { DEEPEST, type Found, isObject, type NamedKind } from '../json/forms.js';

type Path = readonly (string | number)[];
type Members = Readonly<Record<string, unknown>>;

/** What should be an object, and may be anything. */
const mapOf = (given: unknown): Members => (isObject(given) ? given : {});
/** What should be a list of objects, with their numbers. */
const listOf = (given: unknown): [number, Members][] =>
  Array.isArray(given)
    ? given.flatMap((one, i): [number, Members][] => (isObject(one) ? [[i, one]] : []))
    : [];

/**
 * What names in a sheet mean: everything that names nothing, and siblings of one name. Its form may be wrong: that is told by
 * `check`. What other files hold is not looked at: see `gatherSheet`.
 */
export function checkNames(sheet: Members, out: Found[]): void {
  new NameCheck(sheet, out).all();
}

class NameCheck {
  private readonly names: Readonly<Record<Exclude<NamedKind, 'node'>, ReadonlySet<string>>>;

  constructor(
    private readonly sheet: Members,
    private readonly out: Found[],
  ) {
    const listed = (key: string): Set<string> => new Set(Object.keys(mapOf(sheet[key])));
    this.names = { texture: listed('textures'), material: listed('materials'), model: listed('models') };
  }

  all(): void {
    const { adjust, backdrop, camera, clipping, finish, imageLight, materials, models, nodes } = this.sheet;
    if (
      isObject(backdrop) &&
      !isObject(imageLight) &&
      backdrop['image'] === undefined &&
      backdrop['sky'] === undefined
    )
      this.tell(
        'sheet/missing',
        ['backdrop'],
        'a backdrop has no "image" and no "sky", and there is no image light to take them from',
        'Give one of them.',
      );
    for (const [name, given] of Object.entries(mapOf(materials))) this.material(given, ['materials', name]);
    for (const [name, model] of Object.entries(mapOf(models)))
      for (const [own, given] of Object.entries(mapOf(mapOf(model)['materials'])))
        this.material(given, ['models', name, 'materials', own]);
    this.siblings(nodes, ['nodes']);
    this.adjustments(adjust, ['adjust']);
    this.effects(finish, ['finish']);
    // Such a sheet is of a scene that is made elsewhere.
    if (isObject(adjust)) return;
    this.node(camera, ['camera']);
    this.node(mapOf(clipping)['node'], ['clipping', 'node']);
  }

  private tell(code: string, path: Path, summary: string, hint: string, isKey = false): void {
    this.out.push({ code, path, summary, hint, isKey });
  }

  private named(kind: Exclude<NamedKind, 'node'>, name: unknown, path: Path): void {
    const names = this.names[kind];
    if (typeof name === 'string' && !names.has(name))
      this.tell('sheet/name', path, `there is no ${kind} "${name}"`, nearHint(name, names));
  }

  private node(name: unknown, at: Path): void {
    if (typeof name === 'string' && !mayBeNode(this.sheet, name))
      this.tell('sheet/name', at, `there is no node "${name}"`, nearHint(name, pathsOf(this.sheet)));
  }

  private settings(given: unknown, at: Path): void {
    for (const [key, value] of Object.entries(mapOf(given))) this.named('texture', value, [...at, key]);
  }

  /** Its material, and those over it. */
  private primitive({ material, overlays }: Readonly<Record<string, unknown>>, at: Path): void {
    this.material(material, [...at, 'material']);
    if (!Array.isArray(overlays)) return;
    for (const [i, one] of overlays.entries()) this.material(one, [...at, 'overlays', i]);
  }

  private material(given: unknown, at: Path): void {
    this.named('material', given, at);
    for (const [key, value] of Object.entries(mapOf(given))) {
      if (!key.endsWith('Texture')) continue;
      if (isObject(value)) this.named('texture', value['texture'], [...at, key, 'texture']);
      else this.named('texture', value, [...at, key]);
    }
    this.settings(mapOf(given)['settings'], [...at, 'settings']);
  }

  private effects(given: unknown, at: Path): void {
    const results = new Set(['SourceGraphic']);
    for (const [i, effect] of listOf(given)) {
      const own = [...at, i];
      this.node(effect['focus'], [...own, 'focus']);
      this.node(effect['from'], [...own, 'from']);
      if (!results.has(effect['map'] as string)) this.named('texture', effect['map'], [...own, 'map']);
      for (const key of ['in', 'in2']) {
        const name = effect[key];
        if (typeof name === 'string' && !results.has(name))
          this.tell(
            'sheet/name',
            [...own, key],
            `no effect before it makes "${name}"`,
            nearHint(name, results),
          );
      }
      this.settings(effect['settings'], [...own, 'settings']);
      if (typeof effect['result'] === 'string') results.add(effect['result']);
    }
  }

  /** What nodes and adjustments have in common. */
  private placed({ effects, mesh }: Members, at: Path): void {
    if (effects !== undefined) this.effects(effects, [...at, 'effects']);
    if (mesh === undefined) return;
    const several = isObject(mesh) ? mesh['primitives'] : mesh;
    const above = isObject(mesh) ? ['mesh', 'primitives'] : ['mesh'];
    for (const [i, one] of listOf(several)) this.primitive(one, [...at, ...above, i]);
    this.primitive(mapOf(mesh), [...at, 'mesh']);
  }

  private adjustments(given: unknown, at: Path): void {
    for (const [path, other] of Object.entries(mapOf(given))) this.placed(mapOf(other), [...at, path]);
  }

  private siblings(given: unknown, at: Path): void {
    if (!Array.isArray(given) || at.length > DEEPEST) return;
    const seen = new Set<string>();
    for (let i = 0; i < given.length; i++) {
      const one: unknown = given[i];
      if (!isObject(one)) continue;
      const { adjust, children, name } = one;
      if (typeof name === 'string') this.name(name, seen, at, i);
      if (one['mesh'] !== undefined || one['effects'] !== undefined) this.placed(one, [...at, i]);
      if (one['model'] !== undefined) this.named('model', one['model'], [...at, i, 'model']);
      if (adjust !== undefined) this.adjusted(one, [...at, i, 'adjust']);
      if (children !== undefined) this.siblings(children, [...at, i, 'children']);
    }
  }

  private name(name: string, seen: Set<string>, at: Path, i: number): void {
    if (seen.has(name))
      this.tell(
        'sheet/name-twice',
        [...at, i, 'name'],
        `two nodes side by side are called "${name}"`,
        'Give one of them another name: edits and adjustments find nodes by their names.',
      );
    seen.add(name);
    if (name.includes('/'))
      this.tell(
        'sheet/name-slash',
        [...at, i, 'name'],
        `the name "${name}" has a slash`,
        'Slashes join names to paths: take another sign.',
      );
  }

  private adjusted({ adjust, model, sheet }: Members, at: Path): void {
    this.adjustments(adjust, at);
    if (model === undefined && sheet === undefined)
      this.tell(
        'sheet/idle',
        at,
        '"adjust" of a node does nothing, since the node is no model and no other sheet',
        'What is below it stands in this file: change it there.',
        true,
      );
  }
}

/** Whether a path leads to a node of the sheet, or into a model or another sheet, where nobody has looked yet. */
function mayBeNode(sheet: Members, path: string): boolean {
  let nodes = listOf(sheet['nodes']);
  for (const part of path.split('/')) {
    const [, found] = nodes.find(([, { name }]) => name === part) ?? [];
    if (!found) return false;
    if (found['model'] !== undefined || found['sheet'] !== undefined) return true;
    nodes = listOf(found['children']);
  }
  return true;
}

/** Paths of nodes of a sheet, the first thousand. */
function pathsOf(sheet: Members): string[] {
  const found: string[] = [];
  const open = listOf(sheet['nodes'])
    .map(([, node]) => ({ node, above: '' }))
    .reverse();
  for (let next = open.pop(); next && found.length < 1000; next = open.pop()) {
    const { above, node } = next;
    const { children, name } = node;
    if (typeof name !== 'string') continue;
    found.push(above + name);
    for (const [, child] of listOf(children).reverse()) open.push({ node: child, above: `${above}${name}/` });
  }
  return found;
}
