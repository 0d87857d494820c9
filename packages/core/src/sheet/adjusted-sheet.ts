import { TRANSFORM } from './node-members.js';
import { copied } from './sheet-parts.js';
import type { Sheet, SheetAdjustment, SheetNode } from './sheet.js';

/** A sheet with adjustments of its nodes: those within its models and sheets are handed on to them. */
export function adjusted(sheet: Sheet, adjust: Readonly<Record<string, SheetAdjustment>>): Sheet {
  const nodes = copied(sheet.nodes ?? []) as SheetNode[];
  for (const [path, given] of Object.entries(adjust)) {
    const parts = path.split('/');
    let siblings = nodes;
    for (const [i, part] of parts.entries()) {
      const node = siblings.find(({ name }) => name === part);
      if (!node) break;
      const rest = parts.slice(i + 1).join('/');
      if (rest === '') {
        if (TRANSFORM.some((key) => key === 'matrix' && key in given))
          for (const key of TRANSFORM) delete node[key];
        if ('degrees' in given) delete node.rotation;
        if ('rotation' in given) delete node.degrees;
        const { camera, light, ...members } = copied(given) as SheetAdjustment;
        Object.assign(node, members);
        if (light) node.light = { ...node.light, ...light } as never;
        if (camera) node.camera = { ...node.camera, ...camera } as never;
        break;
      }
      if (node.model !== undefined || node.sheet !== undefined) {
        node.adjust = { ...node.adjust, [rest]: { ...node.adjust?.[rest], ...given } };
        break;
      }
      siblings = node.children ?? [];
    }
  }
  return { ...sheet, nodes };
}
