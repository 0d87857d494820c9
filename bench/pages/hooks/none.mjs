import { openLens, Scene } from 'umber-lens';

const lens = await openLens(globalThis.document.querySelector('canvas'));
lens.draw(new Scene(), new Scene().createNode({ camera: { type: 'perspective', yfov: 1, znear: 0.1 } }));
