import { NotedPen, type Pen } from './noted-pen.js';

/** A context that says what was done with it. */
function context(): { on: CanvasRenderingContext2D; done: string[] } {
  const done: string[] = [];
  const on = new Proxy({} as CanvasRenderingContext2D, {
    get: (_, name: string) =>
      /Style|font/.test(name)
        ? ''
        : (...args: unknown[]) => {
            done.push([name, ...args].join(' '));
            return name === 'measureText' ? { width: 42 } : undefined;
          },
    set: (_, name: string, value) => {
      done.push(`${name} = ${String(value)}`);
      return true;
    },
  });
  return { on, done };
}

const cross = (pen: Pen, x: number): void => {
  pen.strokeStyle = '#fff';
  pen.setLineDash([5, 4]);
  pen.beginPath();
  pen.moveTo(x, 0);
  pen.lineTo(x, 8);
  pen.stroke();
};

test('what is the same as before is not drawn again; what differs is drawn whole, in order', () => {
  const { on, done } = context();
  const noted = new NotedPen(on);
  const frame = (x: number): boolean => {
    noted.begin();
    cross(noted.pen, x);
    return noted.end(320, 200);
  };
  expect(frame(3)).toBe(true);
  const whole = (x: number): string[] => [
    'clearRect 0 0 320 200',
    'strokeStyle = #fff',
    'setLineDash 5,4',
    'beginPath',
    `moveTo ${x} 0`,
    `lineTo ${x} 8`,
    'stroke',
  ];
  expect(done).toEqual(whole(3));
  done.length = 0;
  expect([frame(3), done]).toEqual([false, []]);
  expect(frame(4)).toBe(true);
  expect(done).toEqual(whole(4));
  // A canvas that was made larger is empty.
  done.length = 0;
  noted.restart(2);
  expect(frame(4)).toBe(true);
  expect(done).toEqual(['setTransform 2 0 0 2 0 0', ...whole(4)]);
});

test('fewer strokes are another picture, and nothing is one too', () => {
  const { on, done } = context();
  const noted = new NotedPen(on);
  const frame = (xs: number[]): boolean => {
    noted.begin();
    for (const x of xs) cross(noted.pen, x);
    return noted.end(8, 8);
  };
  expect([frame([1, 2]), frame([1]), frame([1])]).toEqual([true, true, false]);
  done.length = 0;
  expect([frame([]), frame([])]).toEqual([true, false]);
  expect(done).toEqual(['clearRect 0 0 8 8']);
});

test('texts are measured at once, by the font that was named', () => {
  const { on, done } = context();
  const { pen } = new NotedPen(on);
  pen.font = '13px serif';
  expect(pen.measureText('2.5 m').width).toBe(42);
  expect(done).toEqual(['font = 13px serif', 'measureText 2.5 m']);
});
