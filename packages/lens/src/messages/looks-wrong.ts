import {
  attributeFloats,
  BACKDROP_TABLE,
  type Batch,
  CAMERA_MEANT,
  CAMERA_TABLE,
  castRayAll,
  drawCount,
  IMAGE_LIGHT_TABLE,
  FEATURE,
  type Fault,
  faultsOf,
  inWords,
  isNumbers,
  FOG_TABLE,
  type Geometry,
  type Light,
  LIGHT_MEANT,
  LIGHT_TABLE,
  type Material,
  MATERIAL_MEANT,
  MATERIAL_TABLE,
  materialFeatures,
  type Scene,
  SCENE_TABLE,
  type SceneNode,
  placedBy,
} from '@umber-lens/core/engine';

/** What is said: a code, what is wrong, and what to do. */
export type Said = [code: string, summary: string, hint: string];

/** Vertices and triangles of a geometry that are looked at. */
const LOOKED_AT = 3000;
/** Things that are held against lights, one by one. */
const MOST_ITEMS = 5000;

const coded = (code: string, faults: readonly Fault[]): Said[] =>
  faults.map(({ summary, hint }) => [code, summary, hint]);

/** @param what the material, for messages */
export const wrongInMaterial = (material: Material, what: string): Said[] =>
  // What is NaN is told where it goes to the GPU.
  coded('material/member', faultsOf(material, MATERIAL_TABLE, what, MATERIAL_MEANT)).filter(
    ([, summary]) => !summary.endsWith('(NaN)'),
  );

/** What is wrong with what a scene has around it: plain members that pages write to. */
export function wrongAround({ backdrop, clearColor, imageLight, fog }: Scene): Said[] {
  const said: Said[] = [];
  const look = (name: string, value: unknown, table: Parameters<typeof faultsOf>[1], hint: string): void => {
    if (typeof value !== 'object' || value === null || Array.isArray(value))
      said.push([`scene/${name}`, `scene.${name} is ${inWords(value)}`, hint]);
    else said.push(...coded(`scene/${name}`, faultsOf(value, table, `scene.${name}`)));
  };
  if (!isNumbers(clearColor))
    said.push([
      'scene/clearColor',
      `scene.clearColor is ${inWords(clearColor)}`,
      'Write [red, green, blue, alpha], each 0 to 1 and linear.',
    ]);
  else said.push(...coded('scene/clearColor', faultsOf({ clearColor }, SCENE_TABLE, 'the scene')));
  if (backdrop !== undefined)
    look('backdrop', backdrop, BACKDROP_TABLE, 'Write { panorama }, of loadEnvironment or skyPanorama.');
  if (imageLight !== undefined)
    look(
      'imageLight',
      imageLight,
      IMAGE_LIGHT_TABLE,
      'Write { panorama }, of loadEnvironment or skyPanorama.',
    );
  if (fog !== undefined) {
    look('fog', fog, FOG_TABLE, "Write { type: 'exponential', density: 0.02, color: [0.5, 0.6, 0.7] }.");
    if (fog.color === 'sky' && !imageLight)
      said.push([
        'scene/fog-without-sky',
        'the fog takes its color from the sky, and the scene has no image light: it is black',
        'Give scene.imageLight, or a fog color of three numbers.',
      ]);
  }
  return said;
}

const pathOf = ({ name, path }: SceneNode): string =>
  name === '' ? 'a node without a name' : `node "${path}"`;

/** What is wrong with a light. */
export function wrongInLight(node: SceneNode, light: Light): Said[] {
  const what = `the light of ${pathOf(node)}`;
  const said = coded('light/member', faultsOf(light, LIGHT_TABLE, what, LIGHT_MEANT));
  if (said.length > 0) return said;
  const { innerConeAngle = 0, intensity = 1, outerConeAngle = Math.PI / 4, type } = light;
  if (intensity === 0)
    said.push(['light/dark', `${what} has intensity 0`, 'Give it one above 0, or hide its node.']);
  if (type === 'spot' && innerConeAngle > outerConeAngle)
    said.push([
      'light/cone',
      `the inner cone of ${what} is wider than its outer one`,
      `innerConeAngle (${innerConeAngle}) is at most outerConeAngle (${outerConeAngle}).`,
    ]);
  return said;
}

/** Spot and area lights whose cone or side holds nothing. */
export function wrongInAim(scene: Scene): Said[] {
  const { columns } = scene;
  if (columns.itemCount > MOST_ITEMS) return [];
  const { itemRow, worldSphere, world } = columns;
  const said: Said[] = [];
  for (const [node, { type, outerConeAngle = Math.PI / 4, range = Infinity }] of scene.lights) {
    if ((type !== 'spot' && type !== 'area') || !node.isShown) continue;
    const w = node.row * 12;
    const half = type === 'spot' ? outerConeAngle : Math.PI / 2;
    let isAny = false;
    let isNone = true;
    for (let item = 0; item < columns.itemCount && !isAny; item++) {
      const s = item * 4;
      const radius = Math.abs(worldSphere[s + 3]!); // an item in range, here and below
      if (itemRow[item]! < 0 || !(radius < Infinity)) continue;
      isNone = false;
      const d = [0, 1, 2].map((k) => worldSphere[s + k]! - world[w + 3 + k * 4]!);
      const distance = Math.hypot(...d);
      if (distance - radius > range) continue;
      // It shines along -Z.
      const along = -[0, 1, 2].reduce((sum, k) => sum + d[k]! * world[w + 2 + k * 4]!, 0);
      const scale = Math.hypot(world[w + 2]!, world[w + 6]!, world[w + 10]!) || 1;
      const angle = Math.acos(Math.max(-1, Math.min(1, along / scale / (distance || 1))));
      const wide = distance <= radius ? Math.PI : Math.asin(Math.min(1, radius / distance));
      isAny = angle - wide < half;
    }
    if (!isAny && !isNone)
      said.push([
        'light/aim',
        `the ${type} light of ${pathOf(node)} shines on nothing`,
        'Lights shine along -Z of their node: turn it with rotation: facing([x, y, z]), or see its range.',
      ]);
  }
  return said;
}

/** What is wrong with a camera, and with what it looks at, the first time that it is drawn through. */
export function wrongInCamera(scene: Scene, cameraNode: SceneNode, drawn: number, aspect: number): Said[] {
  const what = `the camera of ${pathOf(cameraNode)}`;
  const { camera } = cameraNode;
  if (!camera) return [];
  if (cameraNode.scene !== scene)
    return [
      [
        'camera/other-scene',
        `${what} stands in another scene than the one that is drawn`,
        'Create it in the scene that you give to draw().',
      ],
    ];
  const said = coded('camera/member', faultsOf(camera, CAMERA_TABLE, what, CAMERA_MEANT));
  const { zfar, znear } = camera;
  if (zfar !== undefined && !(zfar > znear))
    said.push([
      'camera/planes',
      `zfar of ${what} (${zfar}) is not beyond its znear (${znear})`,
      'Leave zfar out: the far plane is at infinity then.',
    ]);
  if (said.length > 0) return said;
  if (drawn === 0) said.push(...seesNothing(scene, cameraNode, what, aspect));
  else said.push(...isWithin(scene, cameraNode, what));
  return said;
}

function seesNothing(scene: Scene, cameraNode: SceneNode, what: string, aspect: number): Said[] {
  const { min, max } = scene.root.worldBounds();
  if (!(max[0] >= min[0]) || scene.meshes.size === 0) return [];
  const at = cameraNode.readWorldPosition([0, 0, 0]) as [number, number, number];
  const world = cameraNode.readWorld(new Float32Array(12));
  const center = [0, 1, 2].map((k) => (min[k]! + max[k]!) / 2); // three numbers, here and below
  const to = center.map((c, k) => c - at[k]!);
  const ahead = -(to[0]! * world[2]! + to[1]! * world[6]! + to[2]! * world[10]!);
  const { zfar, znear } = cameraNode.camera!; // it has one
  const distance = Math.hypot(...to);
  const radius = Math.hypot(...max.map((m, k) => (m - min[k]!) / 2));
  if (!Number.isFinite(distance)) return [];
  const place = `[${center.map((c) => Number(c.toPrecision(3))).join(', ')}]`;
  const why =
    ahead + radius < 0
      ? 'everything is behind it'
      : zfar !== undefined && ahead - radius > zfar
        ? `everything is beyond its zfar of ${zfar} m`
        : ahead + radius < znear
          ? `everything is nearer than its znear of ${znear} m`
          : 'nothing lies within its view';
  void aspect;
  return [
    [
      'camera/sees-nothing',
      `${what} sees nothing: ${why}`,
      `The middle of the scene is ${Number(distance.toPrecision(3))} m away, at ${place}. Turn it there with rotation: facing(...), or use frameNode.`,
    ],
  ];
}

/** Six ways from a camera that is within a closed mesh all meet that mesh from behind. */
function isWithin(scene: Scene, cameraNode: SceneNode, what: string): Said[] {
  if (scene.columns.itemCount > 500) return [];
  let triangles = 0;
  for (const { primitives } of scene.meshes.values())
    for (const { geometry } of primitives) triangles += drawCount(geometry) / 3;
  if (triangles > 20_000) return [];
  const origin = cameraNode.readWorldPosition([0, 0, 0]) as [number, number, number];
  const within = new Map<SceneNode, number>();
  for (const direction of [
    [1, 0, 0],
    [-1, 0, 0],
    [0, 1, 0],
    [0, -1, 0],
    [0, 0, 1],
    [0, 0, -1],
  ] as const) {
    const met = new Set<SceneNode>();
    const ray = { origin, direction: [...direction] as [number, number, number] };
    // Sides that are met sooner than those that face this way are met from behind.
    const front = new Map(castRayAll(scene, ray).map(({ distance, node }) => [node, distance]));
    for (const { distance, node } of castRayAll(scene, ray, { bothSides: true }))
      if (distance < (front.get(node) ?? Infinity)) met.add(node);
    for (const node of met) within.set(node, (within.get(node) ?? 0) + 1);
  }
  const [node] = [...within].find(([, count]) => count === 6) ?? [];
  const isSeenThrough = node?.mesh?.primitives.some(
    ({ material }) => material?.doubleSided || material?.shader?.isMarched,
  );
  if (!node || isSeenThrough) return [];
  return [
    [
      'camera/inside',
      `${what} is inside the mesh of ${pathOf(node)}, whose sides are seen from outside alone`,
      'Move it out, or make the material doubleSided.',
    ],
  ];
}

/** Metal that has nothing to reflect. */
export function wrongInMetal({ geometry, material }: Batch, scene: Scene, what: string): Said[] {
  const { metallicFactor = 1, metallicRoughnessTexture, shader } = material;
  const isLit = (materialFeatures(material, geometry) & FEATURE.unlit) === 0;
  // In the dark there is more to say.
  if (scene.lights.size === 0) return [];
  // Light from all around is reflected, too.
  const isAround = [...scene.lights.values()].some(({ type }) => type === 'ambient' || type === 'hemisphere');
  if (isAround) return [];
  if (shader || !isLit || metallicRoughnessTexture || metallicFactor < 0.5 || scene.imageLight) return [];
  const isUsual = material.metallicFactor === undefined;
  return [
    [
      'material/metal-without-environment',
      `${what} is metal${isUsual ? ', as materials are that do not say otherwise' : ''}, and has nothing around it to reflect: it looks dull and dark`,
      'Give metallicFactor: 0 for wood, stone and paint, or scene.imageLight for metal.',
    ],
  ];
}

const looked = new WeakSet<Geometry>();

/** What is wrong with vertices, by looking at some thousands of them; once for each geometry. */
export function wrongInGeometry(geometry: Geometry, what: string): Said[] {
  if (looked.has(geometry)) return [];
  looked.add(geometry);
  const { position, normal } = geometry.attributes;
  if (!position || placedBy(geometry) === 'instances' || position.components !== 3) return [];
  const places = attributeFloats(position);
  for (let i = 0; i < Math.min(places.length, LOOKED_AT * 3); i++)
    if (!Number.isFinite(places[i]))
      return [
        [
          'geometry/nan',
          `${what} has a position that is not finite, at vertex ${Math.floor(i / 3)}: it cannot be seen`,
          'See where it is computed: 0 / 0, the root of a negative number, or a value that is undefined.',
        ],
      ];
  if (normal?.components !== 3) return [];
  const normals = attributeFloats(normal);
  for (let v = 0; v < Math.min(normal.count, LOOKED_AT); v++) {
    const length = Math.hypot(normals[v * 3]!, normals[v * 3 + 1]!, normals[v * 3 + 2]!); // three a vertex
    if (Math.abs(length - 1) < 0.05) continue;
    return [
      [
        'geometry/normal-length',
        `${what} has normals that are not of length 1: ${Number(length.toPrecision(3))} at vertex ${v}`,
        'Divide each by its length; a normal of length 0 has no direction, and is dark.',
      ],
    ];
  }
  return wrongInWinding(geometry, places, normals, what);
}

function wrongInWinding(
  geometry: Geometry,
  places: Float32Array,
  normals: Float32Array,
  what: string,
): Said[] {
  if ((geometry.mode ?? 'triangles') !== 'triangles') return [];
  const count = Math.min(LOOKED_AT, Math.floor(drawCount(geometry) / 3));
  let against = 0;
  let all = 0;
  for (let t = 0; t < count; t++) {
    const [a, b, c] = [0, 1, 2].map(
      (k) => (geometry.indices ? geometry.indices[t * 3 + k]! : t * 3 + k) * 3,
    ) as [number, number, number];
    const side = (to: number, k: number): number => places[to + k]! - places[a + k]!; // vertices in range
    const n = [0, 1, 2].map((k) => {
      const [i, j] = [(k + 1) % 3, (k + 2) % 3];
      return side(b, i) * side(c, j) - side(b, j) * side(c, i);
    });
    const along = n.reduce(
      (sum, part, k) => sum + part * (normals[a + k]! + normals[b + k]! + normals[c + k]!),
      0,
    );
    if (along === 0) continue;
    all++;
    if (along < 0) against++;
  }
  if (all < 4 || against < 0.9 * all) return [];
  return [
    [
      'geometry/winding',
      `the triangles of ${what} wind against its normals: its outside is taken for its inside, and left out`,
      'Turn each triangle round (swap two of its indices), or negate the normals.',
    ],
  ];
}
