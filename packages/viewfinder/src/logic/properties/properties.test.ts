import { box, Scene, type SceneNode } from '@umber-lens/core/engine';
import { Editor } from '../editor.js';
import { breakRows, costRows } from '../frame-costs.js';
import { newEffects, withEffect } from '../new-effects.js';
import { lightTurn, turnLight } from '../turn-light.js';
import { canPaste, copiedText, copyPart, pastePart } from './copied-part.js';
import type { Part } from './field.js';
import { wrongInFinish } from '@umber-lens/core/engine';

function stage(): {
  editor: Editor;
  scene: Scene;
  nodes: Record<'crate' | 'chest' | 'lamp' | 'spot', SceneNode>;
} {
  const scene = new Scene();
  const mesh = (name: string, roughnessFactor: number): object => ({
    mesh: { geometry: box(), material: { name, roughnessFactor, baseColorFactor: [0.5, 0.3, 0.1, 1] } },
  });
  const nodes = {
    crate: scene.createNode({ name: 'crate', translation: [1, 2, 3], ...mesh('planks', 0.4) }),
    chest: scene.createNode({ name: 'chest', ...mesh('lacquer', 1) }),
    lamp: scene.createNode({ name: 'lamp', light: { type: 'point', intensity: 5, color: [1, 0.5, 0.2] } }),
    spot: scene.createNode({ name: 'spot', light: { type: 'spot', intensity: 90, outerConeAngle: 0.5 } }),
  };
  return { scene, nodes, editor: new Editor({ scene, look: {}, view: {} }) };
}

const partOf = (editor: Editor, name: string): Part =>
  editor.parts().find((part) => part.name === name || part.name.startsWith(`${name} `))!;

test('values of a part are given to another of its kind, and taken back by one undo', () => {
  const { editor, nodes } = stage();
  editor.selection.choose([nodes.crate]);
  const [transform, material] = [copyPart(partOf(editor, 'transform')), copyPart(partOf(editor, 'material'))];
  expect(JSON.parse(copiedText(transform))).toEqual({ translation: [1, 2, 3] });
  editor.selection.choose([nodes.chest]);
  expect(canPaste(transform, partOf(editor, 'transform'))).toBe(true);
  expect(canPaste(transform, partOf(editor, 'material'))).toBe(false);
  editor.make(pastePart(transform, partOf(editor, 'transform'), editor.editing));
  editor.make(pastePart(material, partOf(editor, 'material'), editor.editing));
  expect([...nodes.chest.readTranslation([0, 0, 0])]).toEqual([1, 2, 3]);
  const { material: pasted } = nodes.chest.mesh!.primitives[0]!;
  expect(pasted).toMatchObject({
    name: 'lacquer',
    roughnessFactor: 0.4,
    baseColorFactor: [0.5, 0.3, 0.1, 1],
  });
  editor.undo();
  expect(pasted!.roughnessFactor).toBe(1);
  expect(editor.status).toBe('taken back: paste material');
});

test('what several nodes differ in is not copied; what is as usual becomes so', () => {
  const { editor, nodes } = stage();
  editor.selection.choose([nodes.crate, nodes.chest]);
  expect(copyPart(partOf(editor, 'transform')).values).not.toHaveProperty('translation');
  editor.selection.choose([nodes.chest]);
  const usual = copyPart(partOf(editor, 'transform'));
  editor.selection.choose([nodes.crate]);
  editor.make(pastePart(usual, partOf(editor, 'transform'), editor.editing));
  expect([...nodes.crate.readTranslation([0, 0, 0])]).toEqual([0, 0, 0]);
});

test('effects are added where they belong, every one that is offered without a fault', () => {
  expect(newEffects('effects')).not.toContain('motion-blur');
  for (const list of ['finish', 'effects'] as const)
    for (const type of newEffects(list))
      expect([type, wrongInFinish(withEffect([], type), 'a test', list === 'effects')]).toEqual([type, []]);
  const shown = withEffect(withEffect(withEffect([], 'sepia'), 'bloom'), 'contrast');
  expect(shown.map(({ type }) => type)).toEqual(['bloom', 'sepia', 'contrast']);
  const { editor, nodes } = stage();
  editor.selection.choose([nodes.crate]);
  editor.make(partOf(editor, 'effects').adds!.act('outline'));
  expect(nodes.crate.effects.map(({ type }) => type)).toEqual(['outline']);
  expect(partOf(editor, 'effect 1').fields.map(({ label }) => label)).toContain('width');
  editor.undo();
  expect(nodes.crate.effects).toEqual([]);
});

test('the image light turns, its backdrop with it, and what was before comes back', () => {
  const { editor, scene } = stage();
  const panorama = { width: 2, height: 1, data: new Float32Array(8) };
  scene.imageLight = { panorama };
  scene.backdrop = { panorama, rotation: 0.5 };
  editor.make(turnLight(editor.editing, 7));
  expect(lightTurn(scene)).toBeCloseTo(7 - 2 * Math.PI, 3);
  expect(scene.backdrop.rotation).toBe(scene.imageLight.rotation);
  expect(scene.imageLight.panorama).toBe(panorama);
  editor.undo();
  expect([scene.imageLight.rotation, scene.backdrop.rotation]).toEqual([undefined, 0.5]);
});

test('a frame is held against its budget, and draws tell why they stand alone', () => {
  expect(costRows({ draws: 12, scriptMs: 1.234, gpuMb: 3 }, { draws: 10, gpuMb: 8 })).toEqual([
    { name: 'draws', value: '12 of 10', isOver: true },
    { name: 'memory on the GPU', value: '3 of 8 MB', isOver: false },
    { name: 'script', value: '1.23 ms', isOver: false },
  ]);
  const one = (words: string, material: string): Parameters<typeof breakRows>[0][number] => ({
    words,
    reason: words === 'it is the first' ? 'first' : 'texture',
    geometry: 'box',
    material,
    instances: 1,
  });
  expect(
    breakRows([
      one('it is the first', 'a'),
      one('another shader', 'b'),
      one('another texture', 'c'),
      one('another texture', 'd'),
    ]),
  ).toEqual([
    { words: 'another texture', count: 2, examples: ['box, c', 'box, d'] },
    { words: 'another shader', count: 1, examples: ['box, b'] },
  ]);
});
