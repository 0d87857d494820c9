import type { Scene, SceneNode } from '@umber-lens/core/engine';

/** Light from above and from below, linear radiance. */
export interface AroundLight {
  readonly sky: Float32Array;
  readonly ground: Float32Array;
}

/** No light from around, for frames that show none. */
export const NO_AROUND_LIGHT: AroundLight = { sky: new Float32Array(3), ground: new Float32Array(3) };

const WHITE = [1, 1, 1] as const;
const BLACK = [0, 0, 0] as const;

/** The sum of a scene's ambient and hemisphere lights: they have no place among the others. */
export class AroundLights implements AroundLight {
  readonly sky = new Float32Array(3);
  readonly ground = new Float32Array(3);
  private readonly nodes: SceneNode[] = [];
  private scene: Scene | undefined;
  private version = -1;

  update(scene: Scene): this {
    const { ground, nodes, sky } = this;
    if (scene !== this.scene || scene.lightsVersion !== this.version) {
      this.scene = scene;
      this.version = scene.lightsVersion;
      nodes.length = 0;
      for (const [node, { type }] of scene.lights)
        if (type === 'ambient' || type === 'hemisphere') nodes.push(node);
    }
    sky.fill(0);
    ground.fill(0);
    for (let i = 0; i < nodes.length; i++) {
      const node = nodes[i]!; // i < length
      const { light } = node;
      if (!light || !node.isShown) continue;
      const { color = WHITE, groundColor = light.type === 'ambient' ? color : BLACK, intensity = 1 } = light;
      for (let k = 0; k < 3; k++) {
        // Lux on a surface that meets nothing else is pi times the radiance.
        sky[k]! += (color[k]! * intensity) / Math.PI; // three numbers, here and below
        ground[k]! += (groundColor[k]! * intensity) / Math.PI;
      }
    }
    return this;
  }
}
