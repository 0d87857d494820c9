import validator from 'gltf-validator';
import { attributeFloats, readGltf, writeGlb, writeGltf } from '../../index.js';
import { onlyPrimitive, richAsset } from '../../../../../tests/gltf-documents.js';

describe('writing', () => {
  test("what is written passes the standard body's validator without errors or warnings", async () => {
    const report = await validator.validateBytes(writeGlb(richAsset()));
    expect(report.issues.messages.filter((m: { severity: number }) => m.severity <= 1)).toEqual([]);
  });

  test.each(['glb', 'gltf'])('reading it back as %s gives the same model', async (form) => {
    const before = richAsset();
    const files = writeGltf(before, 'pot');
    const after =
      form === 'glb'
        ? await readGltf(writeGlb(before))
        : await readGltf(files.get('pot.gltf')!, { resolve: (path) => Promise.resolve(files.get(path)!) });
    expect(after.warnings).toEqual([]);
    expect(after.nodes.map((n) => n.name)).toEqual(before.nodes.map((n) => n.name));
    expect(after.nodes[0]).toMatchObject({ translation: [1, 2, 3], extras: [1, 'two'] });
    expect(after.nodes[0]!.mesh).toBe(after.nodes[1]!.mesh);
    const [material] = after.materials;
    const given = before.nodes[0]!.mesh!.primitives[0]!.material!;
    const { baseColorTexture: a, ...plain } = given;
    const withoutTextures = Object.fromEntries(Object.entries(plain).filter(([k]) => !k.endsWith('Texture')));
    expect(material).toMatchObject(withoutTextures);
    expect(material!.baseColorTexture!.transform).toEqual(a!.transform);
    expect(material!.baseColorTexture!.texture.sampler).toEqual(a!.texture.sampler);
    expect(material!.normalTexture!.strength).toBe(0.5);
    expect(after.materials[1]!.unlit).toBe(true);
    expect(after.cameras).toEqual([before.nodes[2]!.camera, before.nodes[3]!.camera]);
    expect(after.lights).toEqual([before.nodes[4]!.light]);
    expect(after.animations[0]!.channels[0]!.target).toBe(after.nodes[0]);
    for (const [name, attribute] of Object.entries(
      before.nodes[0]!.mesh!.primitives[0]!.geometry.attributes,
    )) {
      expect(attributeFloats(onlyPrimitive(after).geometry.attributes[name]!)).toEqual(
        attributeFloats(attribute),
      );
    }
  });

  test('the same asset gives the same bytes', () => {
    expect(writeGlb(richAsset())).toEqual(writeGlb(richAsset()));
  });
});
