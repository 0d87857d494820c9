import {
  type AssetNode,
  attributeFloats,
  box,
  cone,
  cylinder,
  type Geometry,
  geometryFrom,
  icosphere,
  lathe,
  type Material,
  type Mesh,
  plane,
  type Rotation,
  sphere,
  torus,
  tube,
  facing,
  axisAngle,
  withSmoothNormals,
  withTangents,
  type WritableAsset,
} from '@umber-lens/core/engine';
import { hash, lumps, sequence } from './noise.js';
import { bands, boards, drawSurface, granite, ripples, rope, type SurfaceTextures } from './textures.js';

type Vec3 = [number, number, number];

/** Textured material from the maps of a surface. */
function textured(
  name: string,
  maps: SurfaceTextures,
  tiles: [number, number] = [1, 1],
  more: Material = {},
): Material {
  const transform =
    tiles[0] === 1 && tiles[1] === 1
      ? {}
      : { transform: { offset: [0, 0] as [number, number], rotation: 0, scale: tiles } };
  return {
    name,
    baseColorTexture: { texture: maps.color, ...transform },
    metallicRoughnessTexture: { texture: maps.surface, ...transform },
    normalTexture: { texture: maps.normal, ...transform },
    occlusionTexture: { texture: maps.surface, ...transform },
    ...more,
  };
}

const node = (name: string, more: Partial<AssetNode> = {}): AssetNode => ({ name, children: [], ...more });
const meshOf = (name: string, geometry: Geometry, material: Material): Mesh => ({
  name,
  primitives: [{ geometry, material }],
});

/** A boulder: a sphere pushed about by noise, flattened below the water line. */
function boulder(radius: Vec3, seed: number, detail: number): Geometry {
  const ball = icosphere({ radius: 1, subdivisions: detail });
  const p = attributeFloats(ball.attributes['position']!);
  const position = new Float32Array(p.length);
  for (let i = 0; i < p.length; i += 3) {
    const [x, y, z] = [p[i]!, p[i + 1]!, p[i + 2]!];
    const f =
      1 +
      0.34 * lumps(x * 1.6, y * 1.6, z * 1.6, seed) +
      0.16 * lumps(x * 4, y * 4, z * 4, seed + 9) +
      0.06 * lumps(x * 11, y * 11, z * 11, seed + 17);
    const ledge = Math.round(y * f * 5) / 5;
    position.set([x * f * radius[0], (y * f * 0.45 + ledge * 0.55) * radius[1], z * f * radius[2]], i);
  }
  const uv = Float32Array.from({ length: (p.length / 3) * 2 }, (_, i) => {
    const k = Math.floor(i / 2) * 3;
    // Projected from above, with the height mixed in so that walls are not streaked.
    return i % 2 === 0
      ? position[k]! * 0.16 + position[k + 1]! * 0.05
      : position[k + 2]! * 0.16 - position[k + 1]! * 0.09;
  });
  const plain = geometryFrom({ position, texcoord0: uv }, ball.indices, { name: 'boulder' });
  return withTangents(withSmoothNormals(plain, 0.9));
}

function lighthouse(stone: Material, paint: Material, iron: Material): AssetNode {
  const tower = withTangents(
    lathe({
      profile: [
        [2.1, 0],
        [2.1, 0.5],
        [1.9, 0.7],
        [1.25, 8.6],
        [1.25, 8.8],
      ],
      slices: 40,
    }),
  );
  const gallery = withTangents(
    lathe({
      profile: [
        [1.25, 8.5],
        [1.9, 8.9],
        [1.95, 9.1],
        [0, 9.1],
      ],
      slices: 40,
    }),
  );
  const glass: Material = {
    name: 'lamp room glass',
    baseColorFactor: [0.75, 0.86, 0.84, 0.22],
    metallicFactor: 0,
    roughnessFactor: 0.08,
    alphaMode: 'blend',
    doubleSided: true,
  };
  const flame: Material = {
    name: 'lamp',
    baseColorFactor: [0.2, 0.12, 0.04, 1],
    emissiveFactor: [1, 0.66, 0.3],
    emissiveStrength: 14,
  };
  const mesh = meshOf(
    'post',
    cylinder({ topRadius: 0.035, bottomRadius: 0.035, height: 0.75, slices: 8 }),
    iron,
  );
  const rails = Array.from({ length: 16 }, (_, i) =>
    node(`rail post ${i + 1}`, {
      translation: [1.82 * Math.sin((i * Math.PI) / 8), 9.45, 1.82 * Math.cos((i * Math.PI) / 8)],
      mesh,
    }),
  );
  return node('lighthouse', {
    translation: [-0.6, 3.05, -0.4],
    children: [
      node('tower', { mesh: meshOf('tower', tower, paint) }),
      node('gallery', { mesh: meshOf('gallery', gallery, stone) }),
      ...rails,
      node('rail', {
        translation: [0, 9.8, 0],
        mesh: meshOf('rail', torus({ radius: 1.82, tubeRadius: 0.04, sides: 8 }), iron),
      }),
      node('lamp room', {
        translation: [0, 9.1, 0],
        children: [
          node('panes', {
            translation: [0, 0.85, 0],
            mesh: meshOf(
              'panes',
              cylinder({
                topRadius: 0.98,
                bottomRadius: 0.98,
                height: 1.7,
                slices: 12,
                capped: false,
              }),
              glass,
            ),
          }),
          node('lamp', { translation: [0, 0.85, 0], mesh: meshOf('lamp', sphere({ radius: 0.3 }), flame) }),
          node('beam', {
            translation: [0, 0.85, 0],
            light: { type: 'point', name: 'beam', color: [1, 0.72, 0.4], intensity: 260, range: 60 },
          }),
          ...Array.from({ length: 6 }, (_, i) =>
            node(`mullion ${i + 1}`, {
              translation: [Math.sin((i * Math.PI) / 3), 0.85, Math.cos((i * Math.PI) / 3)],
              scale: [0.9, 2.27, 0.9],
              mesh,
            }),
          ),
        ],
      }),
      node('roof', {
        translation: [0, 11.3, 0],
        mesh: meshOf('roof', cone({ radius: 1.3, height: 1.1, slices: 24 }), iron),
      }),
      node('vane', { translation: [0, 12, 0], mesh: meshOf('vane', sphere({ radius: 0.14 }), iron) }),
    ],
  });
}

/** Stacks of crates in rows along the quay, none quite straight: all of one geometry and material. */
function crates(mesh: Mesh): AssetNode {
  const random = sequence(5);
  const children: AssetNode[] = [];
  const size = 0.62;
  for (let column = 0; column < 27; column++) {
    for (let row = 0; row < 5; row++) {
      const isPassage = column % 7 === 3;
      const height = isPassage ? 0 : 2 + Math.floor(hash(column >> 1, row, 33) * 4);
      for (let level = 0; level < height; level++) {
        const turn = (random() - 0.5) * 0.22;
        children.push(
          node(`crate ${children.length + 1}`, {
            translation: [
              column * 0.78 - 10.2 + (random() - 0.5) * 0.07,
              size / 2 + level * size,
              row * 0.74 - 3.4 + (random() - 0.5) * 0.07,
            ],
            rotation: axisAngle([0, 1, 0], turn + (random() < 0.3 ? Math.PI / 2 : 0)),
            mesh,
          }),
        );
      }
    }
  }
  return node('crates', { children });
}

function ropeCoil(material: Material): Mesh {
  const path = Array.from({ length: 120 }, (_, i): Vec3 => {
    const turn = (i / 24) * 2 * Math.PI;
    const r = 0.42 + 0.03 * Math.sin(i * 1.7);
    return [r * Math.sin(turn), 0.06 + (i / 24) * 0.085, r * Math.cos(turn)];
  });
  return meshOf('rope coil', withTangents(tube({ path, radius: 0.05, rings: 300, sides: 8 })), material);
}

function ironMaterial(): Material {
  return { name: 'iron', baseColorFactor: [0.09, 0.1, 0.11, 1], metallicFactor: 0.85, roughnessFactor: 0.5 };
}

function buoyHull(paint: Material): Mesh {
  const profile: [number, number][] = [
    [0, -0.5],
    [0.7, -0.35],
    [0.95, 0.1],
    [0.9, 0.4],
    [0.5, 0.9],
    [0.16, 1.1],
    [0, 1.12],
  ];
  return meshOf('buoy hull', withTangents(lathe({ profile, slices: 32 })), paint);
}

function buoy(name: string, translation: Vec3, hull: Mesh, iron: Material, lampColor: Vec3): AssetNode {
  const lamp: Material = {
    name: `${name} lamp`,
    baseColorFactor: [0.1, 0.1, 0.1, 1],
    emissiveFactor: lampColor,
    emissiveStrength: 2.5,
  };
  return node(name, {
    translation,
    children: [
      node(`${name} hull`, { mesh: hull }),
      node(`${name} mast`, {
        translation: [0, 1.75, 0],
        mesh: meshOf(
          `${name} mast`,
          cylinder({ topRadius: 0.05, bottomRadius: 0.09, height: 1.5, slices: 10 }),
          iron,
        ),
      }),
      node(`${name} lamp`, {
        translation: [0, 2.6, 0],
        mesh: meshOf(`${name} lamp`, sphere({ radius: 0.14, slices: 16, stacks: 10 }), lamp),
      }),
      node(`${name} light`, {
        translation: [0, 2.6, 0],
        light: { type: 'point', name, color: lampColor, intensity: 5, range: 14 },
      }),
    ],
  });
}

/** The whole harbour, as a model to be written. */
export async function harbour(): Promise<WritableAsset> {
  const rockMaps = await drawSurface('granite', 256, granite);
  const crateMaps = await drawSurface('crate', 256, (u, v) => boards(u, v, 5, [0.72, 0.5, 0.3], true));
  const deckMaps = await drawSurface('deck', 256, (u, v) => boards(u, v, 6, [0.5, 0.42, 0.35], false));
  const towerMaps = await drawSurface('tower', 256, (u, v) =>
    bands(u, v, 6, [0.86, 0.84, 0.8], [0.62, 0.2, 0.14]),
  );
  const buoyMaps = await drawSurface('buoy', 128, (u, v) =>
    bands(u, v, 4, [0.78, 0.42, 0.1], [0.8, 0.76, 0.66]),
  );
  const ropeMaps = await drawSurface('rope', 128, rope);
  const seaMaps = await drawSurface('sea', 256, ripples);

  const rock = textured('granite', rockMaps);
  const stone = textured('dressed stone', rockMaps, [6, 2]);
  const paint = textured('tower paint', towerMaps, [2, 1]);
  const wood = textured('crate boards', crateMaps);
  const deck = textured('quay deck', deckMaps, [6, 2]);
  const twine = textured('rope', ropeMaps, [12, 1]);
  const buoyPaint = textured('buoy paint', buoyMaps, [2, 1]);
  const iron = ironMaterial();
  const sea: Material = {
    name: 'sea',
    baseColorFactor: [0.012, 0.05, 0.06, 1],
    metallicFactor: 0,
    roughnessFactor: 0.16,
    normalTexture: {
      texture: seaMaps.normal,
      strength: 0.7,
      transform: { offset: [0, 0], rotation: 0, scale: [36, 36] },
    },
  };
  const floatGlass: Material[] = (
    [
      [0.1, 0.42, 0.36],
      [0.14, 0.34, 0.5],
      [0.45, 0.36, 0.12],
    ] as Vec3[]
  ).map((color, i) => ({
    name: `float glass ${i + 1}`,
    baseColorFactor: [...color, 0.55],
    metallicFactor: 0,
    roughnessFactor: 0.06,
    alphaMode: 'blend',
  }));
  const floatBall = icosphere({ radius: 0.24, subdivisions: 3 });
  const floats = floatGlass.map((material, i) => meshOf(`glass float ${i + 1}`, floatBall, material));
  const bollard = meshOf(
    'bollard',
    lathe({
      profile: [
        [0.34, 0],
        [0.34, 0.1],
        [0.2, 0.2],
        [0.19, 0.5],
        [0.32, 0.6],
        [0.34, 0.72],
        [0.24, 0.8],
        [0, 0.82],
      ],
      slices: 24,
    }),
    iron,
  );
  const pile = meshOf(
    'pile',
    withTangents(cylinder({ topRadius: 0.24, bottomRadius: 0.27, height: 3.4, slices: 14 })),
    textured('pile wood', deckMaps, [1, 3]),
  );
  const coil = ropeCoil(twine);
  const hull = buoyHull(buoyPaint);

  const quay = node('quay', {
    translation: [6.5, 0.9, 6.2],
    rotation: axisAngle([0, 1, 0], 0.12),
    children: [
      node('deck', {
        translation: [0, -0.2, -1],
        mesh: meshOf('deck', withTangents(box({ width: 23, height: 0.4, depth: 7.4 })), deck),
      }),
      ...Array.from({ length: 14 }, (_, i) =>
        node(`pile ${i + 1}`, {
          translation: [-10.8 + (i >> 1) * 3.6, -1.2, i % 2 === 0 ? 2.5 : -4.5],
          mesh: pile,
        }),
      ),
      crates(meshOf('crate', withTangents(box({ width: 0.62, height: 0.62, depth: 0.62 })), wood)),
      ...Array.from({ length: 5 }, (_, i) =>
        node(`bollard ${i + 1}`, { translation: [-9.6 + i * 4.8, 0, 2.1], mesh: bollard }),
      ),
      ...Array.from({ length: 4 }, (_, i) =>
        node(`rope coil ${i + 1}`, { translation: [-7.4 + i * 4.8, 0, 1.9], mesh: coil }),
      ),
      ...Array.from({ length: 12 }, (_, i) =>
        node(`float ${i + 1}`, {
          translation: [-8.6 + Math.floor(i / 3) * 4.8 + (i % 3) * 0.5, 0.24, 1.15 + (i % 2) * 0.32],
          scale: [0.8 + hash(i, 1, 2) * 0.4, 0.8 + hash(i, 1, 2) * 0.4, 0.8 + hash(i, 1, 2) * 0.4],
          mesh: floats[i % 3]!,
        }),
      ),
    ],
  });
  const nodes: AssetNode[] = [
    node('skerry', {
      translation: [-4.5, 0, -5],
      children: [
        node('rock', { mesh: meshOf('rock', boulder([6.6, 3.4, 5.6], 4, 5), rock) }),
        node('outer rock', {
          translation: [-7.5, -0.2, 3.5],
          mesh: meshOf('outer rock', boulder([2.4, 1.1, 2], 21, 4), rock),
        }),
        node('low rock', {
          translation: [6.4, -0.3, -3],
          mesh: meshOf('low rock', boulder([2.1, 0.9, 1.7], 34, 4), rock),
        }),
        lighthouse(stone, paint, iron),
      ],
    }),
    quay,
    buoy('port buoy', [-5.5, 0.05, 6.5], hull, iron, [1, 0.16, 0.08]),
    buoy('starboard buoy', [-9.5, 0.05, 1.5], hull, iron, [0.1, 1, 0.3]),
    node('sea', { mesh: meshOf('sea', withTangents(plane({ width: 400, depth: 400 })), sea) }),
    node('sun', {
      rotation: facing([-0.75, -0.36, -0.62]),
      light: { type: 'directional', name: 'sun', color: [1, 0.62, 0.36], intensity: 4.2 },
    }),
    view('arrival', [-15, 4.4, 23.5], [0.6, 4.6, 0], 0.74),
    view('on the quay', [2.2, 2.6, 12.4], [7, 1.6, 5], 0.95),
    view('into the lamp room', [3.6, 13.6, 2.4], [-5.1, 13, -5.4], 0.6),
  ];
  const roots = [...nodes];
  return {
    nodes: nodes.flatMap(flatten),
    scenes: [{ name: 'Skerry Harbour', nodes: roots }],
    generator: 'Umber Lens demo assets',
  };
}

function view(name: string, from: Vec3, to: Vec3, yfov: number): AssetNode {
  const rotation: Rotation = facing([to[0] - from[0], to[1] - from[1], to[2] - from[2]]);
  return node(name, { translation: from, rotation, camera: { type: 'perspective', name, yfov, znear: 0.1 } });
}

function flatten(top: AssetNode): AssetNode[] {
  return [top, ...top.children.flatMap(flatten)];
}

/** A single buoy with its files beside it, to show that form of glTF. */
export async function looseBuoy(): Promise<WritableAsset> {
  const maps = await drawSurface('buoy', 128, (u, v) => bands(u, v, 4, [0.78, 0.42, 0.1], [0.8, 0.76, 0.66]));
  const hull = buoyHull(textured('buoy paint', maps, [2, 1]));
  const iron = ironMaterial();
  const top = buoy('buoy', [0, 0, 0], hull, iron, [1, 0.5, 0.1]);
  const sun = node('sun', {
    rotation: facing([-0.5, -0.7, -0.6]),
    light: { type: 'directional', name: 'sun', intensity: 3 },
  });
  return {
    nodes: [...flatten(top), sun],
    scenes: [{ name: 'buoy', nodes: [top, sun] }],
    generator: 'Umber Lens demo assets',
  };
}

/** One crate of the quay by itself: a third as fine, to be poured by the hundred. */
export async function looseCrate(): Promise<WritableAsset> {
  const maps = await drawSurface('crate', 128, (u, v) => boards(u, v, 5, [0.72, 0.5, 0.3], true));
  const size = { width: 0.62, height: 0.62, depth: 0.62 };
  const crate = node('crate', {
    mesh: meshOf('crate', withTangents(box(size)), textured('crate boards', maps)),
  });
  return { nodes: [crate], generator: 'Umber Lens demo assets' };
}
