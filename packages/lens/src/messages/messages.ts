import {
  type Effect,
  wrongInFinish,
  CULLING_TABLE,
  faultsOf,
  inWords,
  isNumbers,
  RIG_MEANT,
  RIG_TABLES,
  LENS_TABLE,
  LOOK_TABLE,
  type Batch,
  type DrawList,
  FEATURE,
  type Geometry,
  LensError,
  type Material,
  materialFeatures,
  type MaterialShader,
  nearest,
  type Scene,
  type SceneNode,
  type ShaderSetting,
  TEXTURE_SLOTS,
  vertexCount,
  placedBy,
} from '@umber-lens/core/engine';
import { faultOf } from './fault.js';
import type { Culling } from '../features/culling/culling.js';
import type { DrawPart } from '../features/feature.js';
import type { Look } from '../features/look/look.js';
import {
  type Said,
  wrongAround,
  wrongInAim,
  wrongInCamera,
  wrongInGeometry,
  wrongInLight,
  wrongInMaterial,
  wrongInMetal,
} from './looks-wrong.js';

// By what they have: another copy of the library in the page makes the same things by other classes.
const has = (value: unknown, ...names: string[]): boolean =>
  typeof value === 'object' && value !== null && names.every((name) => name in value);
const isScene = (value: unknown): boolean => has(value, 'drawables', 'movedRows', 'lights');
const isNode = (value: unknown): value is SceneNode => has(value, 'row', 'scene', 'readWorldPosition');

/** A value that was given in place of another, in words. */
const worded = (given: unknown): string =>
  isNode(given) ? `node "${given.name}"` : isScene(given) ? 'a scene' : inWords(given);

/** Lenses by what they draw into: two on one canvas draw over each other. */
const lensesOn = new WeakMap<object, number>();

/**
 * Finds what makes pictures black or wrong, and says it once, while developing. Builds for production get the
 * silent twin of this class in its place.
 */
export class Messages {
  private readonly told = new Set<string>();
  private readonly seenAround = new WeakMap<Scene, unknown[]>();
  private readonly seenMaterials = new WeakSet<Material>();
  private readonly seenCameras = new WeakSet<SceneNode>();
  /** Lists of effects, by whose they are. */
  private readonly seenEffects = new WeakMap<object, string>();
  /** Sizes of pictures that left their depths, by what they were drawn into. */
  private readonly keptDepths = new WeakMap<object, Set<string>>();
  private seenLook = '';

  /** @param tell hears each message; default the console */
  constructor(
    private readonly tell: (message: LensError) => void = (message) => console.warn(message.toString()),
  ) {}

  /** Tells what went wrong where nobody waits for it. Builds for production tell it too. */
  fault(what: string, error: unknown): void {
    this.tell(faultOf(what, error));
  }

  /**
   * Looks at what a lens is opened with.
   *
   * @throws LensError `lens/canvas` for what is no canvas, `options/wrong`
   */
  static opening(canvas: unknown, options: object): void {
    const isCanvas =
      canvas === undefined || (typeof canvas === 'object' && canvas !== null && 'getContext' in canvas);
    if (!isCanvas)
      throw new LensError(
        'lens/canvas',
        canvas === null
          ? 'there is no canvas to open a lens on'
          : `a lens cannot be opened on ${typeof canvas === 'string' ? `the text "${canvas}"` : 'what is no canvas'}`,
        {
          hint:
            canvas === null
              ? "document.querySelector found none: is the script run before the page's <canvas>?"
              : typeof canvas === 'string'
                ? 'Give the element: document.querySelector(...).'
                : 'Give a <canvas> element or an OffscreenCanvas, or nothing.',
        },
      );
    const [fault] = faultsOf(options, LENS_TABLE, 'openLens', {
      canvas: 'the first argument of openLens',
      toneMapping: 'look: { toneMapping }',
      exposure: 'look: { exposure } (stops)',
      renderPath: 'view: { renderPath }',
      onDemand: 'view: { onDemand }',
      minPixels: 'view: { minPixels }',
      culling: 'view: { culling }',
    });
    if (fault) throw new LensError('options/wrong', fault.summary, { hint: fault.hint });
  }

  /**
   * Looks at what a rig is made with.
   *
   * @param element what it listens to; null for a rig that needs none
   * @throws LensError `options/wrong` for an option that is not there, or is something else; `rig/element`
   */
  static rig(what: string, options: object, element: unknown): void {
    const isElement =
      element === null ||
      (typeof element === 'object' && element !== undefined && 'addEventListener' in element);
    if (!isElement)
      throw new LensError('rig/element', `${what} was given ${worded(element)} in place of the canvas`, {
        hint: `${what}(camera, canvas, options): it listens to the pointers and keys of an element.`,
      });
    const [fault] = faultsOf(options, RIG_TABLES[what]!, what, RIG_MEANT); // each has one
    if (fault) throw new LensError('options/wrong', fault.summary, { hint: fault.hint });
  }

  /** @throws LensError `lens/draw` for what is no scene and no camera node */
  static drawing(scene: unknown, camera: unknown): void {
    if (isScene(scene) && isNode(camera)) return;
    const hasScene = isScene(scene);
    const given = hasScene ? camera : scene;
    throw new LensError(
      'lens/draw',
      `draw() was given ${worded(given)} in place of the ${hasScene ? 'camera node' : 'scene'}`,
      {
        hint:
          isNode(scene) && isScene(camera)
            ? 'The scene comes first: lens.draw(scene, camera).'
            : 'lens.draw(scene, camera): a Scene, and the node of it that carries a camera.',
      },
    );
  }

  /**
   * Looks at what something is loaded from.
   *
   * @throws LensError `load/source`
   */
  static source(what: string, source: unknown): void {
    if (typeof source === 'string' ? source !== '' : source instanceof URL) return;
    throw new LensError('load/source', `${what} was given ${worded(source)} to load`, {
      hint: `Give an address: ${what}('models/tug.glb'), or a URL.`,
    });
  }

  /** To be called when a lens draws into a canvas from now on, and with -1 when no more. */
  opened(canvas: object | undefined, by: 1 | -1): void {
    if (!canvas) return;
    const count = (lensesOn.get(canvas) ?? 0) + by;
    lensesOn.set(canvas, count);
    if (count > 1)
      this.say(
        'lens/two-on-a-canvas',
        'two lenses are open on one canvas: each draws over the other',
        'Keep the first one, or call its dispose() before another is opened.',
      );
  }

  /** Looks at what a scene has around it, when it is other than at the last call. */
  around(scene: Scene): void {
    const { backdrop, clearColor, fog, imageLight } = scene;
    const seen = this.seenAround.get(scene);
    // No array a frame.
    if (seen?.[0] === clearColor && seen[1] === backdrop && seen[2] === imageLight && seen[3] === fog) return;
    this.seenAround.set(scene, [clearColor, backdrop, imageLight, fog]);
    const said = wrongAround(scene);
    const [first] = said;
    // What cannot be read at all stops here, in words.
    const isUnreadable =
      !isNumbers(clearColor) ||
      [backdrop, imageLight, fog].some(
        (part) =>
          part !== undefined &&
          (typeof part !== 'object' || (part as unknown) === null || Array.isArray(part)),
      );
    if (first && isUnreadable) {
      this.seenAround.delete(scene);
      throw new LensError(first[0], first[1], { hint: first[2] });
    }
    for (const one of said) this.say(...one);
  }

  /** Looks at a look's members, and at those of the culling. */
  look(look: Look, culling: Culling): void {
    const text = Object.keys(look).length === 0 ? '' : JSON.stringify(look);
    if (text !== this.seenLook) {
      this.seenLook = text;
      for (const { summary, hint } of faultsOf(look, LOOK_TABLE, 'lens.look'))
        this.say('lens/look', summary, hint);
    }
    for (const name in culling) {
      const value = culling[name as keyof Culling];
      if (name in CULLING_TABLE && (value === undefined || typeof value === 'boolean')) continue;
      for (const { summary, hint } of faultsOf(culling, CULLING_TABLE, 'lens.view.culling'))
        this.say('lens/culling', summary, hint);
      return;
    }
  }

  /** Depths that no draw kept hide nothing. */
  part(target: object, { keepsDepth, keptDepth, part: { width, height } }: DrawPart): void {
    let sizes = this.keptDepths.get(target);
    if (!sizes) this.keptDepths.set(target, (sizes = new Set()));
    const size = `${width} x ${height}`;
    if (keptDepth && !sizes.has(size))
      this.say(
        'lens/kept-depth',
        `a picture of ${size} pixels goes on with depths that no draw has kept, so nothing is hidden by them`,
        'Draw the one before it with `keepDepth: true`, into the same target and with a viewport of the same size.',
      );
    if (keepsDepth) sizes.add(size);
  }

  /** Looks at effects when they changed: those of the picture, and those of nodes. */
  finish(finish: readonly Effect[], { effects }: Scene): void {
    this.effects(finish, this, 'lens.view.finish');
    for (const [node, own] of effects) this.effects(own, node, node);
  }

  /** Says that effects read farther than lies around the tiles that a picture is drawn in. */
  tiles(finish: readonly Effect[]): void {
    this.say(
      'lens/tiles',
      `this snapshot is drawn in tiles, and its effects read farther than what is around each of them: ${finish.map((effect) => effect?.type).join(', ')}`,
      'Take it smaller, or leave the effect out of it: where a tile ends it may be seen. Light shafts and reflections read across the whole picture.',
    );
  }

  private effects(list: readonly Effect[], owner: object, of: string | SceneNode): void {
    const text = list.length === 0 ? '' : JSON.stringify(list, withoutTextures);
    if (text === (this.seenEffects.get(owner) ?? '')) return;
    this.seenEffects.set(owner, text);
    const what = typeof of === 'string' ? of : `node "${of.path}"`;
    for (const { summary, hint } of wrongInFinish(list, what, of !== what))
      this.say('lens/effect', summary, hint);
  }

  /** Looks at a camera when the first picture through it was drawn. @param drawn how many things were in it */
  camera(scene: Scene, cameraNode: SceneNode, drawn: number, aspect: number): void {
    if (this.seenCameras.has(cameraNode)) return;
    const isOther = cameraNode.scene !== scene;
    // An empty scene says nothing yet.
    if (scene.meshes.size === 0 && !isOther) return;
    this.seenCameras.add(cameraNode);
    for (const one of wrongInCamera(scene, cameraNode, drawn, aspect)) this.say(...one);
  }

  /** Says that something of a material could not be drawn, once. */
  failed(material: Material, error: unknown): void {
    const {
      code = 'material/failed',
      summary = undefined,
      hint = '',
    } = error instanceof LensError ? error : {};
    this.say(
      code,
      `${nameOf(material)} cannot be drawn, and what has it is drawn in amber: ${summary ?? (error instanceof Error ? error.message : String(error))}`,
      hint,
    );
  }

  /**
   * To be called when batches or lights of the scene came or went.
   *
   * @returns what each batch draws by number, in words for the errors of the GPU's own checks
   */
  scene(scene: Scene): string[] {
    const batches = scene.drawables.batches.filter((batch) => batch !== undefined);
    this.names(batches);
    const users = usersOf(scene);
    for (const batch of batches) {
      const { geometry, material } = batch;
      const of = (): string => `${nameOf(material)} on ${nodeOf(users, batch)}`;
      if (!this.seenMaterials.has(material)) {
        this.seenMaterials.add(material);
        this.sayAll(wrongInMaterial(material, of()));
        for (const doubt of material.shader?.doubts ?? [])
          this.say('material/doubt', `${of()}: ${doubt}`, 'Such code is right and seldom meant.');
        this.sayAll(wrongInMetal(batch, scene, of()));
      }
      const shape = geometry.name ? `geometry "${geometry.name}"` : 'the geometry';
      this.sayAll(wrongInGeometry(geometry, `${shape} of ${nodeOf(users, batch)}`));
      this.batch(batch, () => nodeOf(users, batch));
    }
    for (const [node, light] of scene.lights) this.sayAll(wrongInLight(node, light));
    this.sayAll(wrongInAim(scene));
    const dark = batches.find(isLit);
    const isDark = scene.lights.size === 0;
    const { imageLight: environment } = scene;
    if (dark && isDark && environment && (environment.intensity ?? 1) === 0) {
      this.say(
        'scene/dark-environment',
        `the image light of the scene has intensity 0, so ${nameOf(dark.material)} on ${nodeOf(users, dark)} is black`,
        'Set scene.imageLight.intensity to 1, or add a light.',
      );
    } else if (dark && isDark && !environment) {
      this.say(
        'scene/dark',
        `nothing lights the scene, so ${nameOf(dark.material)} on ${nodeOf(users, dark)} is black`,
        "Add a light: createNode({ light: { type: 'directional', intensity: 3 } }), or set scene.imageLight.",
      );
    }
    return scene.drawables.batches.map((batch) =>
      batch ? `${nodeOf(users, batch)}, ${nameOf(batch.material)}` : '',
    );
  }

  /** To be called when a material's settings are first drawn. */
  settings(material: Material, shader: MaterialShader): void {
    const names = [...shader.settings.map((s) => s.name), ...shader.textures.map((t) => t.name)];
    for (const name of Object.keys(material.settings ?? {})) {
      if (names.includes(name)) continue;
      const near = nearest(name, names);
      const hint = near ? `Did you mean "${near}"?` : `It has ${names.join(', ') || 'none'}.`;
      this.say('material/unknown-setting', `${nameOf(material)} has no setting "${name}"`, hint);
    }
    for (const setting of shader.settings) this.setting(material, setting);
    for (const { name } of shader.textures) {
      const value = material.settings?.[name];
      if (value !== undefined && typeof value === 'object' && ('image' in value || 'texture' in value))
        continue;
      this.say(
        'material/no-texture',
        `${nameOf(material)} has no texture for "${name}", which is white now`,
        `Give it: settings: { ${name}: texture }.`,
      );
    }
  }

  /** To be called when numbers on their way to the GPU changed. */
  numbers(material: Material, values: Float32Array): void {
    if (this.seenMaterials.has(material)) this.sayAll(wrongInMaterial(material, nameOf(material)));
    for (let i = 0; i < values.length; i++) {
      // Only what is not a number differs from itself.
      if (values[i] === values[i]) continue;
      const { shader } = material;
      const setting = shader?.settings.findLast(({ offset }) => offset <= i * 4)?.name;
      const what = setting ?? factorOf(material);
      this.say(
        'material/nan',
        `${nameOf(material)} has a number that is NaN${what ? ` in "${what}"` : ''}: what it touches cannot be seen`,
        'See where it is computed: 0 / 0, the root of a negative number, or a property that is undefined.',
      );
      return;
    }
  }

  /** To be called when what is drawn of a scene changed: whatever a hook moves by more than is known may have been left out. */
  list({ culledCount, commands, commandBatch, commandCount, batches }: DrawList, scene: Scene): void {
    if (culledCount === 0) return;
    for (let number = 0; number < batches.length; number++) {
      const batch = batches[number];
      if (batch?.material.shader?.reach !== 'unknown' || placedBy(batch.geometry) === 'instances') continue;
      let drawn = 0;
      for (let i = 0; i < commands; i++) if (commandBatch[i] === number) drawn += commandCount[i]!; // i < commands
      if (drawn >= batch.items) continue;
      const given = [...scene.meshes.values()].some(
        ({ boundsMargin, primitives }) =>
          boundsMargin !== undefined && primitives.some(({ geometry }) => geometry === batch.geometry),
      );
      if (given) continue;
      this.say(
        'mesh/unknown-reach',
        `${nameOf(batch.material)} moves the vertices of ${nodeOf(usersOf(scene), batch)}, nobody knows how far, and some of it was left out of the picture by its unmoved bounds`,
        'Give the mesh boundsMargin: metres by which vertices are moved at most; or give the settings in displace ranges, such as `lift: f32 // 0..1`.',
      );
    }
  }

  private setting(material: Material, { name, type, default: usual }: ShaderSetting): void {
    const value = material.settings?.[name];
    const size = sizeOf(type);
    const expected = size === 1 ? 'a number' : `${size} numbers`;
    if (value === undefined) {
      // Its own comment gives most settings a value; without one it begins at zero.
      if (material.shader && !givesDefault(material.shader, name)) {
        this.say(
          'material/no-setting',
          `${nameOf(material)} was never given "${name}", which is 0 now`,
          `Give it: settings: { ${name}: ... }, or a default in the shader: ${name}: ${type}, // = ${JSON.stringify(usual)}`,
        );
      }
      return;
    }
    // What is no number at all is told by who packs it.
    if (typeof value !== 'number' && (typeof value !== 'object' || value === null)) return;
    const length = typeof value === 'number' ? 1 : 'length' in value ? value.length : -1;
    if (length === size) return;
    const given = length === -1 ? 'a texture' : length === 1 ? 'a number' : `${length} numbers`;
    this.say(
      'material/setting',
      `"${name}" of ${nameOf(material)} takes ${expected}, not ${given}`,
      `Its type is ${type}.`,
    );
  }

  /** @param node names what carries the batch; looked up only for what is said */
  private batch({ geometry, material }: Batch, node: () => string): void {
    const what = (): string =>
      geometry.name ? `geometry "${geometry.name}" of ${node()}` : `the geometry of ${node()}`;
    const names = Object.keys(geometry.attributes);
    for (const { name, components } of material.shader?.attributes ?? []) {
      const attribute = geometry.attributes[name];
      if (!attribute) {
        const near = nearest(name, names);
        this.say(
          'geometry/no-attribute',
          `${nameOf(material)} reads the attribute "${name}", which ${what()} lacks: it is 0 now`,
          `${near ? `Did you mean "${near}"? ` : ''}It has ${names.join(', ')}.`,
        );
      } else if (attribute.components !== components) {
        this.say(
          'geometry/attribute-size',
          `the attribute "${name}" of ${what()} has ${attribute.components} numbers a vertex, and ${nameOf(material)} reads ${components}`,
          'Give it as attributeFrom(values, components).',
        );
      }
    }
    const { shader } = material;
    if (shader && !shader.full && (materialFeatures(material, geometry) & FEATURE.bent) !== 0) {
      this.say(
        'material/not-bent',
        `${nameOf(material)} is written in GLSL by hand and cannot bend ${what()}: it is left out`,
        'Write it as hooks in WGSL, which are bent by joints and targets without a word of it, or draw it without a pose.',
      );
    }
    if (shader && !shader.full && placedBy(geometry) === 'instances') {
      this.say(
        'material/no-swarm',
        `${nameOf(material)} is written in GLSL by hand and cannot place the instances of a swarm, ${what()}: they are left out`,
        'Write it as hooks in WGSL, which know of swarms without a word of it.',
      );
    }
    const count = vertexCount(geometry);
    for (const [name, attribute] of Object.entries(geometry.attributes)) {
      if (attribute.count === count) continue;
      this.say(
        'geometry/attribute-length',
        `the attribute "${name}" of ${what()} has ${attribute.count} values for ${count} vertices`,
        'Every attribute has one value a vertex.',
      );
    }
    for (const slot of TEXTURE_SLOTS) {
      const use = material[slot];
      const set = use?.texCoord === 1 ? 'texcoord1' : 'texcoord0';
      if (!use || geometry.attributes[set]) continue;
      this.say(
        'geometry/no-texture-coordinates',
        `${nameOf(material)} has a ${slot}, but ${what()} has no ${set} to place it by: it is left out`,
        `It has ${names.join(', ')}.`,
      );
    }
  }

  private names(batches: readonly Batch[]): void {
    const byName = new Map<string, Material>();
    for (const { material } of batches) {
      const { name } = material;
      if (!name) continue;
      const other = byName.get(name);
      if (other && other !== material) {
        this.say(
          'material/same-name',
          `two materials are named "${name}"`,
          'Share one material, which is cheaper, or name them apart.',
        );
      }
      byName.set(name, material);
    }
  }

  private sayAll(all: readonly Said[]): void {
    for (const one of all) this.say(...one);
  }

  private say(code: string, message: string, hint: string): void {
    if (this.told.has(message)) return;
    this.told.add(message);
    this.tell(new LensError(code, message, { hint }));
  }
}

function nameOf({ name, shader }: Material): string {
  if (name) return `material "${name}"`;
  return shader ? `the material with ${shader.file}` : 'a material without a name';
}

/** The first node that draws each geometry with each material, and how many more do. */
type Users = Map<Geometry, Map<Material | undefined, { first: SceneNode; others: number }>>;

function usersOf(scene: Scene): Users {
  const users: Users = new Map();
  for (const [node, mesh] of scene.meshes) {
    for (const { geometry, material } of mesh.primitives) {
      let byMaterial = users.get(geometry);
      if (!byMaterial) users.set(geometry, (byMaterial = new Map()));
      const known = byMaterial.get(material);
      if (known) known.others++;
      else byMaterial.set(material, { first: node, others: 0 });
    }
  }
  return users;
}

function nodeOf(users: Users, { geometry, material }: Batch): string {
  const byMaterial = users.get(geometry);
  // A primitive without a material is drawn with the usual one.
  const user = byMaterial?.get(material) ?? byMaterial?.get(undefined);
  if (!user) return 'a node';
  const node = user.first.name ? `node "${user.first.path}"` : 'a node without a name';
  return user.others > 0 ? `${node} and ${user.others} more` : node;
}

function isLit({ geometry, material }: { geometry: Geometry; material: Material }): boolean {
  if (material.unlit || material.shader?.isLit === false) return false;
  if (material.shader) return true;
  const glows = (material.emissiveFactor ?? [0, 0, 0]).some((c) => c > 0);
  return !glows && (materialFeatures(material, geometry) & FEATURE.unlit) === 0;
}

/** How many numbers a setting of a type takes. */
function sizeOf(type: string): number {
  const matrix = /^mat(\d)x(\d)/.exec(type);
  if (matrix) return Number(matrix[1]) * Number(matrix[2]);
  return Number(/^vec([234])/.exec(type)?.[1] ?? 1);
}

function givesDefault(shader: MaterialShader, name: string): boolean {
  return shader.settings.find((setting) => setting.name === name)?.hasDefault !== false;
}

/** The first of a material's own numbers that is none. */
function factorOf(material: Material): string | undefined {
  return Object.entries(material).find(
    ([, value]) => Number.isNaN(value) || (Array.isArray(value) && value.some(Number.isNaN)),
  )?.[0];
}

/** Of a map, that it is one: its picture is not looked at. */
const withoutTextures = (key: string, value: unknown): unknown =>
  LARGE.has(key) && typeof value === 'object' ? '' : value;

/** Members of effects that are not looked into in each frame. */
const LARGE = new Set(['map', 'shader', 'settings', 'table', 'focus', 'from']);
