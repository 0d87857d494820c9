import type { BatchBreak, Budget } from '@umber-lens/core/engine';
import type { JSX } from 'preact';
import { useEffect, useRef, useState } from 'preact/hooks';
import type { Lens } from 'umber-lens';
import uPlot from 'uplot';
import { breakRows, costRows } from '../logic/frame-costs.js';
import type { Stage } from '../stage/stage.js';

interface FrameListProps {
  lens: Lens;
  stage: Stage;
  budget: Budget;
}

/** Times of frames as a chart, what the last one cost against its budget, and why its draws are not fewer. */
export function FrameList({ budget, lens, stage }: FrameListProps): JSX.Element {
  const [breaks, setBreaks] = useState<readonly BatchBreak[] | undefined>(undefined);
  const { framesPerSecond, living } = lens.ledger;
  const { bytesUploaded, draws, instances, milliseconds, triangles } = stage.cost;
  const rows = costRows(
    {
      draws,
      triangles,
      instances,
      scriptMs: milliseconds,
      uploadKb: bytesUploaded / 1e3,
      pipelines: living.pipelines,
      gpuMb: (living.bufferBytes + living.textureBytes) / 1e6,
      textureMb: living.textureBytes / 1e6,
    },
    budget,
  );
  return (
    <section class="panel log" aria-label="frames">
      <h2>frames</h2>
      <FrameChart stage={stage} />
      <dl>
        <dt>frames a second</dt>
        <dd>{framesPerSecond ? framesPerSecond.toFixed(1) : 'not known yet'}</dd>
        {rows.map(({ isOver, name, value }) => (
          <CostLine key={name} name={name} value={value} isOver={isOver} />
        ))}
      </dl>
      <p>
        <button type="button" onClick={() => void stage.breaks().then(setBreaks)}>
          why {draws} {draws === 1 ? 'draw' : 'draws'}?
        </button>
      </p>
      {breaks && <Breaks breaks={breaks} />}
    </section>
  );
}

function Breaks({ breaks }: { breaks: readonly BatchBreak[] }): JSX.Element {
  const rows = breakRows(breaks);
  if (rows.length === 0) return <p class="empty">All of it is one draw.</p>;
  return (
    <ul aria-label="why batches break">
      <li>
        {breaks.length} batches in the list
        <small>those of one state go out as one draw</small>
      </li>
      {rows.map(({ count, examples, words }) => (
        <li key={words}>
          {count} × {words}
          <small>{examples.join('; ')}</small>
        </li>
      ))}
    </ul>
  );
}

function FrameChart({ stage }: { stage: Stage }): JSX.Element {
  const place = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const element = place.current!; // it is drawn
    const axis = {
      stroke: getComputedStyle(element).color,
      grid: { stroke: '#8885', width: 1 },
      ticks: { show: false },
      font: '11px system-ui',
      size: 34,
    };
    const chart = new uPlot(
      {
        width: Math.max(200, element.clientWidth),
        height: 92,
        legend: { show: false },
        cursor: { show: false },
        scales: { x: { time: false }, y: { range: (_, __, max) => [0, Math.max(20, max * 1.1)] } },
        axes: [
          { show: false },
          { ...axis, values: (_, ticks) => ticks.map((tick) => `${tick} ms`), size: 58 },
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
  return <div ref={place} role="img" aria-label="times of the last frames" />;
}

function CostLine({ isOver, name, value }: { isOver: boolean; name: string; value: string }): JSX.Element {
  return (
    <>
      <dt>{name}</dt>
      <dd class={isOver ? 'wrong' : ''}>
        {value}
        {isOver ? ': over budget' : ''}
      </dd>
    </>
  );
}
