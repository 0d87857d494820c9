import type { Backend } from 'umber-lens';
import { inTurn, testPage } from './stage.js';

type Vec3 = [number, number, number];

interface Box {
  center: Vec3;
  size: Vec3;
}

interface Given {
  boxes: Box[];
  light: { type: 'directional' | 'spot' | 'point'; position?: Vec3; toward?: Vec3; bias?: number };
  camera: { position: Vec3; looks: Vec3; yfov?: number; half?: number };
  /** Metres within which an edge of a shadow may be off, times the distance from the camera where that is given. */
  margin: number;
  marginByDistance?: number;
  /** How the boxes are drawn: plain, a leaf whose left half is cut out, moved up by a hook, or marched. */
  as?: 'plain' | 'leaf' | 'displaced' | 'marched';
  /** Which do not throw shadows. */
  without?: number[];
  shadow?: boolean;
}

/** Pixels of the ground that were lit though they lie in the dark, and the other way round. */
interface Seen {
  lit: number;
  dark: number;
  wronglyLit: number;
  wronglyDark: number;
}

const SUN: Vec3 = [0.4, -0.8, 0.3];
const FLOATING: Box[] = [
  { center: [0, 1.5, 0], size: [1, 1, 1] },
  { center: [2, 0.6, -1.5], size: [0.6, 1.2, 0.6] },
  { center: [-2, 2, 1], size: [2, 0.1, 0.5] },
];
const FROM_ABOVE = { position: [0, 20, 0] as Vec3, looks: [0, -1, 0] as Vec3, half: 5 };

describe.each<Backend>(['webgl2', 'webgpu'])('shadows on %s', (backend) => {
  const stage = testPage({ as: backend });

  /** Draws boxes on a ground and holds every pixel of the ground against a ray from it to the light. */
  function heldAgainstRays(given: Given): Promise<Seen> {
    return stage.page.evaluate(async (g) => {
      const { openLens, Scene, box, plane, facing, compileMaterialShader } = umber;
      const held = window as unknown as { heldLens?: Awaited<ReturnType<typeof openLens>> };
      const lens = (held.heldLens ??= await openLens(document.createElement('canvas'), {
        pixelRatio: 1,
        antialias: false,
        onMessage: () => undefined,
      }));
      const scene = new Scene();
      scene.createNode({
        mesh: {
          geometry: plane({ width: 200, depth: 200 }),
          material: { metallicFactor: 0, roughnessFactor: 1 },
        },
      });
      const { as = 'plain' } = g;
      const leafPixels = new Uint8Array([255, 255, 255, 0, 255, 255, 255, 255]);
      const materials = {
        plain: {},
        leaf: {
          alphaMode: 'mask',
          baseColorTexture: {
            texture: {
              image: { content: { kind: 'pixels', width: 2, height: 1, data: leafPixels } },
              sampler: {
                magFilter: 'nearest',
                minFilter: 'nearest',
                mipmapFilter: 'none',
                wrapS: 'clamp-to-edge',
              },
            },
          },
          doubleSided: true,
        },
        displaced: {
          shader: compileMaterialShader(
            'fn displace(v: Vertex) -> Vertex { var out = v; out.position.y += 1; return out; }',
          ),
        },
        marched: {
          shader: compileMaterialShader(
            `fn march(ray: Ray) -> Hit {
               let b = dot(ray.origin, ray.direction);
               let d = b * b - dot(ray.origin, ray.origin) + 0.25;
               if d < 0 || -b + sqrt(d) < 0 { return miss(); }
               let at = ray.origin + ray.direction * (-b - sqrt(d));
               return hitAt(at, at * 2);
             }`,
          ),
        },
      } as const;
      const drawn =
        as === 'displaced'
          ? g.boxes.map((b) => ({ ...b, center: [b.center[0], b.center[1] - 1, b.center[2]] }))
          : g.boxes;
      drawn.forEach(({ center, size }, i) =>
        scene.createNode({
          translation: center,
          ...(g.without?.includes(i) ? { castsShadow: false } : {}),
          mesh: {
            geometry:
              as === 'leaf'
                ? plane({ width: size[0], depth: size[2] })
                : box({ width: size[0], height: size[1], depth: size[2] }),
            material: materials[as] as never,
          },
        }),
      );
      const { light, camera: look } = g;
      scene.createNode({
        ...(light.position ? { translation: light.position } : {}),
        ...(light.toward ? { rotation: facing(light.toward) } : {}),
        light: {
          type: light.type,
          intensity: light.type === 'directional' ? 3 : 60,
          ...(light.type === 'spot' ? { outerConeAngle: 0.7, innerConeAngle: 0.69 } : {}),
          shadow: (g.shadow ?? true) && { bias: light.bias ?? 1 },
        },
      });
      const camera = scene.createNode({
        translation: look.position,
        rotation: facing(look.looks),
        camera: look.half
          ? { type: 'orthographic', xmag: look.half, ymag: look.half, znear: 0.1, zfar: 100 }
          : { type: 'perspective', yfov: look.yfov ?? 0.8, znear: 0.1 },
      });
      const [width, height] = look.half ? [96, 96] : [160, 100];
      const target = lens.createTarget({ width, height });
      for (let i = 0; i < 3; i++) {
        lens.draw(scene, camera, { target });
        await lens.whenReady();
      }
      const pixels = await target.read();
      target.dispose();

      // The same by rays.
      const hits = (from: number[], way: number[], far: number, onlyCasters: boolean): boolean =>
        g.boxes.some(({ center, size }, i) => {
          if (onlyCasters && g.without?.includes(i)) return false;
          if (as === 'marched') {
            const to = from.map((x, k) => x - center[k]!);
            const b = to.reduce((sum, x, k) => sum + x * way[k]!, 0);
            const d = b * b - to.reduce((sum, x) => sum + x * x, 0) + 0.25;
            return d > 0 && -b + Math.sqrt(d) > 0;
          }
          let [near, end] = [1e-4, far];
          for (let k = 0; k < 3; k++) {
            let [low, high] = [center[k]! - size[k]! / 2, center[k]! + size[k]! / 2];
            // Only the right half of a leaf is there.
            if (as === 'leaf' && k === 0) low = center[k]!;
            if (as === 'leaf' && k === 1) [low, high] = [center[k]! - 1e-4, center[k]! + 1e-4];
            const a = (low - from[k]!) / way[k]!;
            const b = (high - from[k]!) / way[k]!;
            near = Math.max(near, Math.min(a, b));
            end = Math.min(end, Math.max(a, b));
          }
          return near < end;
        });
      const unit = (v: number[]): number[] => v.map((x) => x / Math.hypot(...v));
      const isLit = (x: number, z: number): boolean => {
        const point = [x, 0, z];
        if (light.type === 'directional') return !hits(point, unit(light.toward!.map((c) => -c)), 1e4, true);
        const way = light.position!.map((c, k) => c - point[k]!);
        return !hits(point, unit(way), Math.hypot(...way), true);
      };
      const view = umber.createCameraView();
      umber.updateCameraView(view, camera, width / height);
      const axis = (k: number): number[] => [view.view[k]!, view.view[4 + k]!, view.view[8 + k]!];
      const [right, up] = [axis(0), axis(1)];
      const seen = { lit: 0, dark: 0, wronglyLit: 0, wronglyDark: 0 };
      for (let y = 0; y < height; y++) {
        for (let x = 0; x < width; x++) {
          const sx = (((x + 0.5) / width) * 2 - 1) / view.projection[0]!;
          const sy = (1 - ((y + 0.5) / height) * 2) / view.projection[5]!;
          const aside = right.map((r, k) => r * sx + up[k]! * sy);
          const from = look.half ? look.position.map((c, k) => c + aside[k]!) : look.position;
          const way = unit(look.half ? [...view.forward] : aside.map((c, k) => c + view.forward[k]!));
          if (way[1]! >= -1e-3) continue;
          const far = -from[1]! / way[1]!;
          if (hits(from, way, far, false)) continue;
          const [gx, gz] = [from[0]! + way[0]! * far, from[2]! + way[2]! * far];
          if (far > 60 || Math.abs(gx) > 90 || Math.abs(gz) > 90) continue;
          const margin = g.margin + (g.marginByDistance ?? 0) * far;
          const expected = isLit(gx, gz);
          const isNearEdge = [
            [1, 0],
            [-1, 0],
            [0, 1],
            [0, -1],
            [0.7, 0.7],
            [-0.7, -0.7],
            [0.7, -0.7],
            [-0.7, 0.7],
          ].some(([dx, dz]) => isLit(gx + dx! * margin, gz + dz! * margin) !== expected);
          if (isNearEdge) continue;
          if (light.type === 'spot') {
            const to = unit([gx - light.position![0], -light.position![1], gz - light.position![2]]);
            if (Math.acos(to.reduce((sum, c, k) => sum + c * unit(light.toward!)[k]!, 0)) > 0.66) continue;
          }
          const value = pixels[(y * width + x) * 4]!;
          if (expected) {
            seen.lit++;
            if (value < 40) seen.wronglyDark++;
          } else {
            seen.dark++;
            if (value > 20) seen.wronglyLit++;
          }
        }
      }
      return seen;
    }, given);
  }

  const expectRight = (seen: Seen, darkAtLeast = 30): void => {
    expect(seen.lit).toBeGreaterThan(500);
    expect(seen.dark).toBeGreaterThan(darkAtLeast);
    expect([seen.wronglyLit, seen.wronglyDark]).toEqual([0, 0]);
  };

  const suns: [string, Vec3][] = [
    ['high', SUN],
    ['straight above', [0, -1, 0]],
    ['at a grazing angle', [0.95, -0.3, 0.1]],
    ['from the other side', [-0.5, -0.6, -0.5]],
  ];
  test.each(inTurn(suns, backend))(
    'a sun %s darkens what a ray to it says, and nothing else',
    async (_, toward) => {
      expectRight(
        await heldAgainstRays({
          boxes: FLOATING,
          light: { type: 'directional', toward },
          camera: FROM_ABOVE,
          margin: 0.12,
        }),
        // Straight above, the boxes hide their own shadows from the camera.
        toward[0] === 0 ? -1 : 30,
      );
    },
  );

  test('cascades agree with rays near and far, and at their seams', async () => {
    const boxes = Array.from({ length: 40 }, (_, i): Box => ({
      center: [((i * 7) % 11) - 5, 0.6, -1 - i * 1.2],
      size: [0.5, 1.2, 0.5],
    }));
    expectRight(
      await heldAgainstRays({
        boxes,
        light: { type: 'directional', toward: [0.7, -0.6, -0.2] },
        camera: { position: [0, 4, 4], looks: [0, -0.35, -1] },
        margin: 0.12,
        marginByDistance: 0.012,
      }),
    );
  });

  test('spot and point lights agree with rays, on all sides of a point light', async () => {
    expectRight(
      await heldAgainstRays({
        boxes: FLOATING,
        light: { type: 'spot', position: [-1, 6, 1], toward: [0.2, -1, -0.1] },
        camera: FROM_ABOVE,
        margin: 0.1,
      }),
    );
    const around = [0, 1, 2, 3, 4, 5, 6, 7].map((i): Box => ({
      center: [2 * Math.cos(i * 0.785 + 0.3), 0.5, 2 * Math.sin(i * 0.785 + 0.3)],
      size: [0.4, 1, 0.4],
    }));
    expectRight(
      await heldAgainstRays({
        boxes: around,
        light: { type: 'point', position: [0, 1.6, 0] },
        camera: FROM_ABOVE,
        margin: 0.12,
      }),
    );
  });

  test.each(['leaf', 'displaced', 'marched'] as const)(
    'a %s shape throws the shadow of what is seen of it',
    async (as) => {
      const boxes: Box[] =
        as === 'leaf'
          ? [{ center: [0, 1.5, 0], size: [3, 0, 2] }]
          : [{ center: [0, 1.6, 0], size: [1, 1, 1] }];
      expectRight(
        await heldAgainstRays({
          boxes,
          as,
          light: { type: 'directional', toward: SUN },
          camera: FROM_ABOVE,
          margin: 0.14,
        }),
        15,
      );
    },
  );

  test('what is told not to throw shadows throws none, and a light without shadows lights everything', async () => {
    expectRight(
      await heldAgainstRays({
        boxes: FLOATING,
        without: [0],
        light: { type: 'directional', toward: SUN },
        camera: FROM_ABOVE,
        margin: 0.12,
      }),
    );
    const open = await heldAgainstRays({
      boxes: FLOATING,
      shadow: false,
      light: { type: 'directional', toward: SUN },
      camera: FROM_ABOVE,
      margin: 0.12,
    });
    expect(open.wronglyLit).toBe(open.dark);
    expect(open.dark).toBeGreaterThan(30);
  });

  test('maps are drawn anew only when something in them moved; nodes may refuse shadows', async () => {
    const seen = await stage.page.evaluate(async () => {
      const { openLens, Scene, box, plane, facing } = umber;
      const lens = await openLens(document.createElement('canvas'), { pixelRatio: 1, antialias: false });
      const scene = new Scene();
      const material = { metallicFactor: 0, roughnessFactor: 1 };
      const ground = scene.createNode({ mesh: { geometry: plane({ width: 20, depth: 20 }), material } });
      const crate = scene.createNode({ translation: [0, 1, 0], mesh: { geometry: box(), material } });
      const far = scene.createNode({ translation: [8, 1, 8], mesh: { geometry: box(), material } });
      const lamp = scene.createNode({
        translation: [0, 6, 0],
        rotation: facing([0, -1, 0]),
        light: { type: 'spot', intensity: 60, outerConeAngle: 0.5, shadow: true },
      });
      const camera = scene.createNode({
        translation: [0, 1, 5],
        rotation: facing([0, -0.25, -1]),
        camera: { type: 'perspective', yfov: 0.01, znear: 0.1 },
      });
      const target = lens.createTarget({ width: 3, height: 3 });
      const drawn: number[] = [];
      const draw = (): void => {
        lens.draw(scene, camera, { target });
        drawn.push(lens.ledger.shadows.drawn);
      };
      lens.draw(scene, camera, { target });
      await lens.whenReady();
      draw(); // first
      draw(); // steady
      camera.setTranslation(0, 1, 5.1);
      draw(); // the camera moved
      crate.setTranslation(0.1, 1, 0);
      draw(); // in the light
      far.setTranslation(8, 1, 9);
      draw(); // out of it
      lamp.setTranslation(0, 6.1, 0);
      draw(); // the light moved
      crate.setShadows(false, true);
      draw(); // nothing to throw one
      draw();
      crate.setShadows(true, true);
      crate.setTranslation(0, 1, 1);
      camera.setTranslation(0, 20, 0.8);
      camera.setRotation(...facing([0, -1, 0]));
      crate.setVisible(true);
      lens.draw(scene, camera, { target });
      // The crate itself is seen from above; below it, seen from the side, is its shadow.
      camera.setTranslation(4, 0.4, 1);
      camera.setRotation(...facing([-1, -0.1, 0]));
      lens.draw(scene, camera, { target });
      const [inShadow] = (await target.read()).slice(16, 17);
      ground.setShadows(true, false);
      lens.draw(scene, camera, { target });
      const [refused] = (await target.read()).slice(16, 17);
      const { shadows } = lens.ledger;
      const { frameGraph } = lens;
      lens.dispose();
      return { drawn, inShadow, refused, shadows, hasGraph: frameGraph !== undefined };
    });
    expect(seen.drawn).toEqual([1, 0, 0, 1, 0, 1, 1, 0]);
    expect(seen.inShadow).toBeLessThan(10);
    expect(seen.refused).toBeGreaterThan(60);
    expect(seen.shadows).toMatchObject({ maps: 1, size: 2048, lightsLeftOut: 0 });
    expect(seen.shadows.reason).toContain('1 maps of 2048 x 2048 texels');
  });
});
