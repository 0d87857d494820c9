import { addTo } from '../math/lists.js';
import type { ColorTable, OwnEffectShader } from '../effects/effect.js';
import { LensError } from '../errors/lens-error.js';
import { nearHint } from '../errors/near-names.js';
import type { AssetNode, ModelAsset } from '../formats/asset/asset.js';
import type { Geometry } from '../geometry/geometry.js';
import type { Panorama } from '../light/panorama.js';
import { skyPanorama } from '../light/sky.js';
import type { Image } from '../material/material.js';
import type { MaterialShader } from '../material/shader-types.js';
import { noteMade } from '../properties/made-of.js';
import type { NamedFile } from '../json/forms.js';
import { faultsAsOne, inOrder, lookThrough } from './read-sheet.js';
import { primitivesOf, shapeKey, shapeOf } from './shape-of.js';
import type { Sheet, SheetNode, SheetPlaced, SheetSky } from './sheet.js';
import type { JsonPlaces } from '../json/strict-json.js';

/** Who fetches what a sheet names. Each throws what is wrong. */
export interface SheetLoader {
  /** The whole address of one that stands in a file. */
  join(file: string, address: string): string;
  text(address: string): Promise<string>;
  model(address: string): Promise<ModelAsset>;
  image(address: string): Promise<Image>;
  panorama(addresses: readonly string[]): Promise<Panorama>;
  /** What a WGSL file with hooks of materials is. */
  shader(address: string): Promise<MaterialShader>;
  /** What a WGSL file with the hook `effect` is. */
  effect(address: string): Promise<OwnEffectShader>;
  /** What a `.cube` file holds. */
  table(address: string): Promise<ColorTable>;
}

/** What a sheet names of one kind, by the address that stands in it. */
export interface SheetFiles {
  model: Map<string, ModelAsset>;
  image: Map<string, Image>;
  /** By its address, or by six with spaces between them; skies by their JSON. */
  panorama: Map<string, Panorama>;
  shader: Map<string, MaterialShader>;
  effect: Map<string, OwnEffectShader>;
  table: Map<string, ColorTable>;
  sheet: Map<string, LoadedSheet>;
  /** By their JSON. */
  shape: Map<string, Geometry>;
}

/** Names that a sheet has: words of TypeScript where it was imported by the plugin of Vite. */
export interface SheetNames {
  /** Paths of nodes. */
  node: string;
  material: string;
  /** Of its models. */
  animation: string;
}

/** A sheet with all that it names. */
export interface LoadedSheet<N extends SheetNames = SheetNames> {
  /** For types alone. */
  readonly names?: N;
  /** Its address. */
  readonly file: string;
  readonly sheet: Sheet;
  readonly files: SheetFiles;
}

/** Nothing that a sheet names. */
export const noFiles = (): SheetFiles => ({
  model: new Map(),
  image: new Map(),
  panorama: new Map(),
  shader: new Map(),
  effect: new Map(),
  table: new Map(),
  sheet: new Map(),
  shape: new Map(),
});

/**
 * A sheet with all files that it names, and those that they name. Each is fetched once.
 *
 * @param file its address: what it names is relative to it
 * @throws LensError those of `readSheet`, and what is wrong with other files, each at the place where the sheet names it; `sheet/circle`
 *   for one that is made of itself; `sheet/adjust` for what is no node of a model
 */
export async function gatherSheet(text: string, file: string, loader: SheetLoader): Promise<LoadedSheet> {
  const gathering = new Gathering(loader);
  const loaded = await gathering.sheet(text, file, []);
  if (gathering.faults.length > 0) throw faultsAsOne(inOrder(gathering.faults), file);
  return loaded!; // nothing is wrong
}

class Gathering {
  readonly faults: LensError[] = [];
  private readonly fetched = new Map<string, Promise<unknown>>();

  constructor(private readonly loader: SheetLoader) {}

  /** @param above the sheets that it is a part of */
  async sheet(text: string, file: string, above: readonly string[]): Promise<LoadedSheet | undefined> {
    const { faults, files: named, places, sheet } = lookThrough(text, file);
    this.faults.push(...faults);
    if (!sheet) return undefined;
    const files = noFiles();
    const loaded: LoadedSheet = { file, sheet, files };
    // Sides of a cube are one thing.
    const cubes = named.filter(({ of, path }) => of === 'panorama' && typeof path.at(-1) === 'number');
    await Promise.all([
      ...onceEach(named.filter((one) => !cubes.includes(one))).map((one) =>
        this.one(one, loaded, places, above),
      ),
      ...cubesOf(cubes).map((sides) => this.cube(sides, loaded, places)),
    ]);
    // What is wrong in itself is told with the files that are missing; the rest asks for what is right.
    if (faults.length > 0) return undefined;
    for (const [key, sky] of skiesOf(sheet))
      await this.told('sky', places, [key, 'sky'], () => {
        const panorama = skyPanorama(sky);
        noteMade(panorama, 'sky', sky);
        files.panorama.set(JSON.stringify(sky), panorama);
        return Promise.resolve();
      });
    this.makeShapes(loaded, places);
    this.lookForAdjusted(loaded, places);
    return loaded;
  }

  private async one(
    { address, of, path }: NamedFile,
    { file, files }: LoadedSheet,
    places: JsonPlaces,
    above: readonly string[],
  ): Promise<void> {
    const { loader } = this;
    await this.told(address, places, path, async () => {
      const whole = loader.join(file, address);
      const fetch = <T>(load: () => Promise<T>): Promise<T> => this.once(`${of} ${whole}`, load);
      switch (of) {
        case 'model':
          return void files.model.set(address, await fetch(() => loader.model(whole)));
        case 'image':
          return void files.image.set(address, await fetch(() => loader.image(whole)));
        case 'panorama':
          return void files.panorama.set(address, await fetch(() => loader.panorama([whole])));
        case 'shader':
          return void files.shader.set(address, await fetch(() => loader.shader(whole)));
        case 'effect':
          return void files.effect.set(address, await fetch(() => loader.effect(whole)));
        case 'table':
          return void files.table.set(address, await fetch(() => loader.table(whole)));
        case 'sheet': {
          const open = [...above, file];
          if (open.includes(whole))
            throw new LensError(
              'sheet/circle',
              `it is made of itself: ${[...open, whole].map(shortOf).join(' -> ')}`,
              {
                hint: 'Take the node that names it out of one of them.',
              },
            );
          const text = await fetch(() => loader.text(whole));
          const made = await this.sheet(text, whole, open);
          return void (made && files.sheet.set(address, made));
        }
      }
    });
  }

  private async cube(
    sides: readonly NamedFile[],
    { file, files }: LoadedSheet,
    places: JsonPlaces,
  ): Promise<void> {
    const addresses = sides.map(({ address }) => address);
    const wholes = addresses.map((address) => this.loader.join(file, address));
    await this.told(addresses.join(', '), places, sides[0]!.path.slice(0, -1), async () => {
      // a cube has six
      files.panorama.set(
        addresses.join(' '),
        await this.once(`panorama ${wholes.join(' ')}`, () => this.loader.panorama(wholes)),
      );
    });
  }

  private once<T>(key: string, load: () => Promise<T>): Promise<T> {
    const found = this.fetched.get(key) ?? load();
    this.fetched.set(key, found);
    return found as Promise<T>;
  }

  /** Has what goes wrong told at its place in the sheet. */
  private async told(
    address: string,
    places: JsonPlaces,
    path: readonly (string | number)[],
    act: () => Promise<void>,
  ): Promise<void> {
    try {
      await act();
    } catch (error) {
      const isOurs = error instanceof LensError;
      const summary = isOurs ? error.summary : error instanceof Error ? error.message : String(error);
      this.faults.push(
        new LensError(isOurs ? error.code : 'sheet/file', `"${address}": ${summary}`, {
          cause: error,
          where: places.of(path),
          hint: isOurs ? error.hint : '',
        }),
      );
    }
  }

  /** Shapes that cannot be made are told with their places. */
  private makeShapes({ files, sheet }: LoadedSheet, places: JsonPlaces): void {
    const make = (mesh: SheetPlaced['mesh'], path: readonly (string | number)[]): void => {
      for (const primitive of mesh ? primitivesOf(mesh) : []) {
        const key = shapeKey(primitive);
        if (files.shape.has(key)) continue;
        try {
          files.shape.set(key, shapeOf(primitive));
        } catch (error) {
          if (!(error instanceof LensError)) throw error;
          const { code, hint, summary } = error;
          const where = places.of([...path, 'mesh']);
          this.faults.push(
            new LensError(code, `a ${primitive.shape}: ${summary}`, { hint, where, cause: error }),
          );
        }
      }
    };
    eachNode(sheet.nodes ?? [], ['nodes'], ({ adjust, mesh }, path) => {
      make(mesh, path);
      for (const [name, other] of Object.entries(adjust ?? {})) make(other.mesh, [...path, 'adjust', name]);
    });
    for (const [name, other] of Object.entries(sheet.adjust ?? {})) make(other.mesh, ['adjust', name]);
  }

  /** Paths of adjustments that lead nowhere, in models and in other sheets. */
  private lookForAdjusted({ files, sheet }: LoadedSheet, places: JsonPlaces): void {
    for (const [name, model] of Object.entries(sheet.models ?? {})) {
      const asset = typeof model === 'object' ? files.model.get(model.file) : undefined;
      const names = asset?.materials.flatMap((material) => material.name ?? []);
      for (const wanted of names && typeof model === 'object' ? Object.keys(model.materials ?? {}) : [])
        if (!names!.includes(wanted))
          this.faults.push(
            new LensError('sheet/name', `the model "${name}" has no material "${wanted}"`, {
              where: places.of(['models', name, 'materials', wanted], true),
              hint: nearHint(wanted, names!), // looked at
            }),
          );
    }
    eachNode(sheet.nodes ?? [], ['nodes'], ({ adjust, model, sheet: other }, path) => {
      if (!adjust) return;
      const named = model === undefined ? undefined : sheet.models?.[model];
      const asset =
        named === undefined ? undefined : files.model.get(typeof named === 'string' ? named : named.file);
      const loaded = other === undefined ? undefined : files.sheet.get(other);
      const sceneName = typeof named === 'object' ? named.scene : undefined;
      const has = asset ? assetHas(asset, sceneName) : loaded ? sheetHas(loaded) : undefined;
      for (const name of has ? Object.keys(adjust) : []) {
        const wrong = has!(name); // there is one
        if (wrong)
          this.faults.push(
            new LensError('sheet/adjust', `"${wrong.part}" of "${name}" is no node there`, {
              where: places.of([...path, 'adjust', name], true),
              hint: nearHint(wrong.part, wrong.names),
            }),
          );
      }
    });
  }
}

const shortOf = (file: string): string => file.split('/').at(-1)!; // there is a part

/** The first of each file: what several places name is read, and told where it is wrong, once. */
const onceEach = (named: readonly NamedFile[]): NamedFile[] => [
  ...new Map([...named].reverse().map((one) => [`${one.of} ${one.address}`, one])).values(),
];

/** Six and six. */
function cubesOf(sides: readonly NamedFile[]): NamedFile[][] {
  const found = new Map<string, NamedFile[]>();
  for (const side of sides) {
    const key = JSON.stringify(side.path.slice(0, -1));
    addTo(found, key, side);
  }
  return [...found.values()];
}

const skiesOf = ({ backdrop, imageLight }: Sheet): [key: string, sky: SheetSky][] =>
  Object.entries({ imageLight, backdrop }).flatMap(([key, light]): [string, SheetSky][] =>
    light?.sky ? [[key, light.sky]] : [],
  );

/** All nodes of a list, with their paths. */
export function eachNode(
  nodes: readonly SheetNode[],
  path: readonly (string | number)[],
  visit: (node: SheetNode, path: readonly (string | number)[]) => void,
): void {
  for (let i = 0; i < nodes.length; i++) {
    const { children } = nodes[i]!; // i < length
    visit(nodes[i]!, [...path, i]); // as above
    if (children) eachNode(children, [...path, i, 'children'], visit);
  }
}

/** The first part of a path that names nothing, and what it could be. */
type Wrong = { part: string; names: string[] } | undefined;

function assetHas(asset: ModelAsset, sceneName: string | undefined): (path: string) => Wrong {
  const scene =
    sceneName === undefined ? asset.defaultScene : asset.scenes.find(({ name }) => name === sceneName);
  return (path) => {
    let nodes: readonly AssetNode[] = scene?.nodes ?? asset.nodes;
    for (const part of path.split('/')) {
      const found = nodes.find(({ name }) => name === part);
      if (!found) return { part, names: nodes.flatMap(({ name }) => name ?? []) };
      nodes = found.children;
    }
    return undefined;
  };
}

function sheetHas({ files, sheet }: LoadedSheet): (path: string) => Wrong {
  return (path) => {
    let nodes: readonly SheetNode[] = sheet.nodes ?? [];
    const parts = path.split('/');
    for (const [i, part] of parts.entries()) {
      const found = nodes.find(({ name }) => name === part);
      if (!found) return { part, names: nodes.flatMap(({ name }) => name ?? []) };
      const rest = parts.slice(i + 1).join('/');
      const { model, sheet: other } = found;
      const named = model === undefined ? undefined : sheet.models?.[model];
      const asset = named && files.model.get(typeof named === 'string' ? named : named.file);
      const loaded = other === undefined ? undefined : files.sheet.get(other);
      if (rest && asset) return assetHas(asset, typeof named === 'object' ? named.scene : undefined)(rest);
      if (rest && loaded) return sheetHas(loaded)(rest);
      nodes = found.children ?? [];
    }
    return undefined;
  };
}
