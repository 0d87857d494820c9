import type { JSX } from 'preact';
import { useEffect, useRef } from 'preact/hooks';
import type { Lens } from 'umber-lens';
import uPlot from 'uplot';
import type { Editor } from '../logic/editor.js';
import type { Stage } from '../stage/stage.js';

/** What the library has to say, newest last; a click goes to the node that it is about. */
export function MessageList({ editor }: { editor: Editor }): JSX.Element {
  return (
    <section class="panel log" aria-label="messages">
      <h2>messages</h2>
      {editor.told.length === 0 && <p class="empty">Nothing is wrong, as far as the library can see.</p>}
      <ul>
        {editor.told.map(({ code, hint, node, text }, i) => (
          <li key={i}>
            {text}
            <small>
              {hint} {code}
            </small>
            {node?.isAlive && (
              <button
                type="button"
                class="plain"
                onClick={() => {
                  editor.selection.choose([node]);
                  editor.tree.reveal(node);
                  editor.tell();
                }}
              >
                go to {node.name}
              </button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Times of frames as a chart, and what the last one cost. */
export function FrameList({ lens, stage }: { lens: Lens; stage: Stage }): JSX.Element {
  const place = useRef<HTMLDivElement>(null);
  const { ledger } = lens;
  const { cost } = stage;
  useEffect(() => {
    const element = place.current!; // it is drawn
    const text = getComputedStyle(element).color;
    const axis = {
      stroke: text,
      grid: { stroke: '#8885', width: 1 },
      ticks: { show: false },
      font: '11px system-ui',
      size: 34,
    };
    const chart = new uPlot(
      {
        width: Math.max(200, element.clientWidth),
        height: 110,
        legend: { show: false },
        cursor: { show: false },
        scales: { x: { time: false }, y: { range: (_, __, max) => [0, Math.max(20, max * 1.1)] } },
        axes: [
          { show: false },
          { ...axis, values: (_, ticks) => ticks.map((tick) => `${tick} ms`), size: 48 },
        ],
        series: [{}, { stroke: '#d99a3c', width: 1.5, fill: '#d99a3c33', points: { show: false } }],
      },
      [[], []],
      element,
    );
    const timer = setInterval(() => {
      const times = [...stage.frames];
      chart.setData([times.map((_, i) => i), times]);
    }, 250);
    return () => {
      clearInterval(timer);
      chart.destroy();
    };
  }, [stage]);
  const rows: [string, string][] = [
    ['frames a second', ledger.framesPerSecond ? ledger.framesPerSecond.toFixed(1) : 'not known yet'],
    ['script', `${cost.milliseconds.toFixed(2)} ms`],
    ['draws', String(cost.draws)],
    ['triangles', cost.triangles.toLocaleString('en')],
    ['uploaded', `${cost.bytesUploaded.toLocaleString('en')} bytes`],
  ];
  return (
    <section class="panel log" aria-label="frames">
      <h2>frames</h2>
      <div ref={place} role="img" aria-label="times of the last frames" />
      <dl>
        {rows.map(([name, value]) => (
          <Row key={name} name={name} value={value} />
        ))}
      </dl>
    </section>
  );
}

function Row({ name, value }: { name: string; value: string }): JSX.Element {
  return (
    <>
      <dt>{name}</dt>
      <dd>{value}</dd>
    </>
  );
}
