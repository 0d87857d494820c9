import type { Backend, SceneNode } from 'umber-lens';
import { inTurn, testPage } from './stage.js';

describe.each<Backend>(['webgpu', 'webgl2'])('bent meshes on %s', (backend) => {
  const held = testPage({ as: backend });

  /**
   * Draws points of a mesh as the GPU bends them and looks where they are: a small triangle at each, seen from straight above
   * by an orthographic camera, a pixel a hundredth of a metre.
   */
  test('stand where the CPU says, with skins, targets, mirrors and joints that scale', async () => {
    const found = await held.page.evaluate(async (name) => {
      const {
        Scene,
        openLens,
        poseNode,
        posedGeometry,
        geometryFrom,
        attributeFrom,
        attributeFloats,
        axisAngle,
      } = umber;
      const lens = await openLens(undefined, {
        backend: name,
        antialias: false,
        // The flakes face either way.
        onMessage: () => undefined,
      });
      let seed = 7;
      const random = (): number => ((seed = (seed * 16807) % 2147483647) / 2147483647) * 2 - 1;
      const scene = new Scene({ clearColor: [0, 0, 0, 1] });
      const joints = [0, 1, 2, 3, 4, 5].map((i) =>
        scene.createNode({
          name: `joint ${i}`,
          translation: [random() * 0.4, random() * 0.3, random() * 0.4],
          rotation: axisAngle([random(), random(), random()], random() * 2),
          scale: i === 2 ? [1.5, 0.7, 1.2] : [1, 1, 1],
        }),
      );
      const hip = scene.createNode({ name: 'hip' });
      for (const k of [0, 3, 4, 5]) joints[k]!.setParent(hip);
      joints[1]!.setParent(joints[0]);
      joints[2]!.setParent(joints[1]);
      // Flakes: each three vertices that are held alike, so that its middle says where they went.
      const flakes = 40;
      const [position, normal, joints0, weights0, joints1, weights1] = [[], [], [], [], [], []] as number[][];
      const targets = [[], []] as number[][];
      for (let f = 0; f < flakes; f++) {
        const at = [random(), random() * 0.5, random()];
        const held = Array.from({ length: 8 }, () => Math.floor((random() + 1) * 2.999));
        const weights = held.map((_, k) => (k < (f % 8) + 1 ? (random() + 1.01) / 2 : 0));
        const by = targets.map((_, t) => (f % 3 === t ? [random() * 0.3, 0, random() * 0.3] : [0, 0, 0]));
        for (let c = 0; c < 3; c++) {
          const angle = (c * Math.PI * 2) / 3;
          position!.push(at[0]! + 0.03 * Math.cos(angle), at[1]!, at[2]! + 0.03 * Math.sin(angle));
          normal!.push(0, 1, 0);
          joints0!.push(...held.slice(0, 4));
          weights0!.push(...weights.slice(0, 4));
          joints1!.push(...held.slice(4));
          weights1!.push(...weights.slice(4));
          by.forEach((d, t) => targets[t]!.push(...d));
        }
      }
      const geometry = geometryFrom({
        position: position!,
        normal: normal!,
        joints0: joints0!,
        weights0: weights0!,
        joints1: joints1!,
        weights1: weights1!,
      } as never);
      geometry.targets = targets.map((list, t) => ({
        name: `target ${t}`,
        attributes: { position: attributeFrom(list, 3) },
      }));
      const inverseBindMatrices = new Float32Array(6 * 16);
      for (let j = 0; j < 6; j++) {
        inverseBindMatrices.set(
          [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, random() * 0.2, random() * 0.2, random() * 0.2, 1],
          j * 16,
        );
      }
      // Each flake has a colour of its own, to be found by.
      const colors: number[] = [];
      for (let f = 0; f < flakes; f++)
        for (let c = 0; c < 3; c++) colors.push(((f % 8) + 1) / 8, (Math.floor(f / 8) + 1) / 6, 1, 1);
      geometry.attributes['color0'] = attributeFrom(colors, 4);
      const material = { unlit: true, doubleSided: true };
      const cases: Record<string, () => SceneNode> = {
        skinned: () => {
          const node = scene.createNode({
            translation: [9, 9, 9],
            mesh: { geometry: { ...geometry, targets: undefined } as never, material },
          });
          poseNode(node, { skin: { joints, inverseBindMatrices } });
          return node;
        },
        morphed: () => {
          const node = scene.createNode({
            translation: [0.1, 0, -0.2],
            rotation: axisAngle([0, 1, 0], 0.4),
            mesh: { geometry, material },
          });
          poseNode(node);
          return node.setWeight('target 0', 0.8).setWeight('target 1', -0.5);
        },
        both: () => {
          const node = scene.createNode({ mesh: { geometry, material } });
          poseNode(node, { skin: { joints, inverseBindMatrices }, weights: [0.3, 1.2] });
          return node;
        },
        mirrored: () => {
          hip.setScale(-1, 1, 1);
          const node = scene.createNode({ mesh: { geometry, material: { ...material, doubleSided: true } } });
          poseNode(node, { skin: { joints, inverseBindMatrices }, weights: [-0.4, 0.6] });
          return node;
        },
      };
      const camera = scene.createNode({
        translation: [0, 5, 0],
        rotation: axisAngle([1, 0, 0], -Math.PI / 2),
        camera: { type: 'orthographic', xmag: 2.56, ymag: 2.56, znear: 0.1, zfar: 20 },
      });
      const size = 512;
      const target = lens.createTarget({ width: size, height: size });
      const out: Record<string, { seen: number; worst: number; draws: number }> = {};
      for (const [what, make] of Object.entries(cases)) {
        const node = make();
        await lens.load(scene);
        lens.draw(scene, camera, { target });
        const draws = lens.ledger.draws;
        const pixels = await target.read();
        const posed = attributeFloats(posedGeometry(node).attributes['position']!);
        const world = node.readWorld(new Float32Array(12));
        let [seen, worst] = [0, 0];
        for (let f = 0; f < flakes; f++) {
          let [sx, sy, n] = [0, 0, 0];
          const [r, g] = [((f % 8) + 1) / 8, (Math.floor(f / 8) + 1) / 6];
          const encoded = (c: number): number =>
            255 * (c <= 0.0031308 ? 12.92 * c : 1.055 * c ** (1 / 2.4) - 0.055);
          for (let i = 0; i < pixels.length; i += 4)
            if (
              Math.abs(pixels[i]! - encoded(r)) < 2.5 &&
              Math.abs(pixels[i + 1]! - encoded(g)) < 2.5 &&
              pixels[i + 2]! > 250
            ) {
              sx += (i / 4) % size;
              sy += Math.floor(i / 4 / size);
              n++;
            }
          // Middle and area of the flake as the CPU has it, in pixels.
          const corner = (c: number): number[] => {
            const v = (f * 3 + c) * 3;
            const at = (k: number): number =>
              world[k]! * posed[v]! +
              world[k + 1]! * posed[v + 1]! +
              world[k + 2]! * posed[v + 2]! +
              world[k + 3]!;
            return [(at(0) / 5.12 + 0.5) * size - 0.5, (at(8) / 5.12 + 0.5) * size - 0.5];
          };
          const [a, b, c] = [corner(0), corner(1), corner(2)] as [number[], number[], number[]];
          const area = Math.abs((b[0]! - a[0]!) * (c[1]! - a[1]!) - (b[1]! - a[1]!) * (c[0]! - a[0]!)) / 2;
          // Those that are seen edge on, or hidden by others, say nothing.
          if (n < 4 || Math.abs(n - area) > 0.35 * area + 2) continue;
          seen++;
          const middle = [0, 1].map((k) => (a[k]! + b[k]! + c[k]!) / 3);
          worst = Math.max(worst, Math.hypot(sx / n - middle[0]!, sy / n - middle[1]!));
        }
        out[what] = { seen, worst, draws };
        node.remove();
      }
      lens.dispose();
      return out;
    }, backend);
    for (const [what, { seen, worst, draws }] of Object.entries(found)) {
      expect([what, draws]).toEqual([what, 1]);
      expect([what, seen > 20]).toEqual([what, true]);
      // Half a pixel is five millimetres.
      expect([what, worst < 0.5]).toEqual([what, true]);
    }
  });

  test.each(
    inTurn(
      [
        'blended',
        'peeled',
        'glass',
        'masked',
        'hooked',
        'wireframe',
        'clay-edges',
        'clay',
        'world-normals',
        'draws',
      ],
      backend,
    ),
  )('are where they are bent to, and nowhere else: %s', async (how) => {
    const counts = await held.page.evaluate(
      async ([name, what]) => {
        const { Scene, openLens, poseNode, sphere, attributeFrom, createMaterial, compileMaterialShader } =
          umber;
        const lens = await openLens(undefined, { backend: name as Backend });
        const scene = new Scene({ clearColor: [0, 0, 0, 1] });
        scene.createNode({ light: { type: 'ambient', intensity: 2 * Math.PI } });
        const ball = sphere({ radius: 0.4, slices: 12, stacks: 8 });
        const n = ball.attributes['position']!.count;
        ball.attributes['joints0'] = attributeFrom(new Float32Array(n * 4), 4);
        ball.attributes['weights0'] = attributeFrom(
          Float32Array.from({ length: n * 4 }, (_, i) => (i % 4 === 0 ? 1 : 0)),
          4,
        );
        const hook =
          'fn displace(v: Vertex) -> Vertex { var o = v; o.position += v.normal * 0.02; return o; }';
        const material =
          what === 'hooked'
            ? createMaterial(compileMaterialShader(hook, { file: 'swell.wgsl' }) as never)
            : {
                ...(what === 'blended' || what === 'peeled'
                  ? {
                      alphaMode: 'blend' as const,
                      baseColorFactor: [1, 1, 1, 0.7] as [number, number, number, number],
                    }
                  : {}),
                ...(what === 'masked' ? { alphaMode: 'mask' as const } : {}),
                ...(what === 'glass' ? { transmissionFactor: 0.5 } : {}),
                metallicFactor: 0,
              };
        const joint = scene.createNode({ translation: [0.8, 0, 0] });
        const node = scene.createNode({ translation: [-0.8, 0, 0], mesh: { geometry: ball, material } });
        poseNode(node, { skin: { joints: [joint] } });
        if (what === 'peeled') lens.look.transparency = 'peeled';
        if (['wireframe', 'clay-edges', 'clay', 'world-normals', 'draws'].includes(what))
          lens.view.show = what as 'wireframe';
        const camera = scene.createNode({
          translation: [0, 0, 5],
          camera: { type: 'orthographic', xmag: 1.6, ymag: 1, znear: 0.1, zfar: 10 },
        });
        const target = lens.createTarget({ width: 64, height: 40 });
        await lens.load(scene);
        lens.draw(scene, camera, { target });
        const pixels = await target.read();
        lens.dispose();
        const lit = (from: number): number => {
          let sum = 0;
          for (let y = 0; y < 40; y++)
            for (let x = from; x < from + 32; x++)
              if (Math.max(...pixels.slice((y * 64 + x) * 4, (y * 64 + x) * 4 + 3)) > 40) sum++;
          return sum;
        };
        return { rest: lit(0), bent: lit(32) };
      },
      [backend, how] as const,
    );
    expect(counts.rest).toBe(0);
    // A disc of eight pixels is 201; its edges alone are less.
    expect(counts.bent).toBeGreaterThan(how.includes('edges') || how === 'wireframe' ? 40 : 150);
  });
});
