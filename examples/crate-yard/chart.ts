import type { FrameRing } from 'umber-lens/figures';
import Plot from 'uplot';
import 'uplot/dist/uPlot.min.css';

/** A chart of the last frames: milliseconds of script, and from one frame to the next. @returns what draws it anew */
export function frameChart(ring: FrameRing): () => void {
  const box = document.createElement('div');
  box.className = 'chart';
  document.body.append(box);
  const axis = { stroke: '#d8cab8', grid: { stroke: '#ffffff18' }, ticks: { stroke: '#ffffff30' } };
  const plot = new Plot(
    {
      width: 460,
      height: 170,
      title: 'the last 600 frames, ms',
      scales: {
        x: { time: false },
        y: { range: (_, __, most) => [0, Math.max(20, most)] },
        script: { range: (_, __, most) => [0, Math.max(2, most)] },
      },
      series: [
        { label: 'frame' },
        { label: 'script (right)', scale: 'script', stroke: '#e8b277', width: 1.5 },
        { label: 'from frame to frame', stroke: '#7fb2b8', width: 1 },
      ],
      axes: [axis, axis, { ...axis, scale: 'script', side: 1, grid: { show: false } }],
    },
    [[], [], []],
    box,
  );
  return () => {
    const script = ring.list('milliseconds');
    plot.setData([script.map((_, i) => ring.frames - script.length + i), script, ring.list('interval')]);
  };
}
