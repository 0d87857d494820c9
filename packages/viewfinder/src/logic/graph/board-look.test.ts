import { BoardLook } from './board-look.js';

test('another look is told, the same is not, and nobody who left hears of it', () => {
  const first = { x: 1, y: 2, scale: 1 };
  const looked = new BoardLook(first);
  const heard: number[] = [];
  const leave = looked.onChange(() => heard.push(looked.now.x));
  looked.onChange(() => heard.push(-looked.now.x));
  looked.now = first;
  looked.now = { ...first, x: 3 };
  leave();
  looked.now = { ...first, x: 4 };
  expect(heard).toEqual([3, -3, -4]);
});
