import { fitPixelCamera, type Scene, type SceneNode } from '@umber-lens/core/engine';

/**
 * A camera for flat pictures: one unit is a CSS pixel of the canvas, x to the right and y down from its upper left, as events and CSS have
 * them. It follows the canvas's size. What is blended is drawn as the tree has it from then on: what comes later lies over what
 * came before.
 *
 *     const camera = pixelCamera(scene, canvas);
 *     scene.createNode({ translation: [20, 20, 0], mesh: card({ texture }) });
 *
 * @param canvas or the size of a target
 */
export function pixelCamera(
  scene: Scene,
  canvas: HTMLCanvasElement | { width: number; height: number },
): SceneNode {
  const node = scene.createNode({ name: 'pixel camera' });
  scene.blendedOrder = 'tree';
  const fit = (): void => {
    const page = canvas as Partial<HTMLCanvasElement>;
    fitPixelCamera(node, page.clientWidth || canvas.width, page.clientHeight || canvas.height);
  };
  fit();
  if ('getContext' in canvas && typeof ResizeObserver !== 'undefined') {
    const observer = new ResizeObserver(() => {
      if (node.isAlive) fit();
      else observer.disconnect();
    });
    observer.observe(canvas);
  }
  return node;
}
