import { useQuery } from '@tanstack/react-query';
import { useEffect, useRef } from 'react';
import { Link } from 'react-router';
import uPlot from 'uplot';
import 'uplot/dist/uPlot.min.css';
import { api } from '../api/client';
import type { PaceStep, RunPace } from '../api/types';
import css from './RunPage.module.css';

const INK = '#656c70';
const GRID = { stroke: '#e2dfd9', width: 1 };

/** How a run goes over time: records a second and answer times, beside the run before it, and the slowest records. */
export function RunPlots({
  runId,
  running,
  onRecord,
}: {
  runId: number;
  running: boolean;
  onRecord: (ordinal: number) => void;
}) {
  const pace = useQuery({
    queryKey: ['pace', runId, running],
    queryFn: () => api.get<RunPace>(`/runs/${runId}/pace`),
    refetchInterval: running ? 5_000 : false,
    placeholderData: (b) => b,
  });
  if (!pace.data?.steps.length) return null;
  const { steps, before, beforeId, slowest } = pace.data;
  return (
    <section className={css.plots} aria-label="over time">
      <Plot
        title={beforeId ? `Records a second (dashed: run ${beforeId})` : 'Records a second'}
        steps={steps}
        before={before}
        lines={[{ name: 'ended', stroke: '#2f6f63', of: (s) => s.ended / s.seconds }]}
      />
      <Plot
        title="Answer times in ms: median, 95 of 100"
        steps={steps}
        before={before}
        lines={[
          { name: 'median', stroke: '#2f6f63', of: (s) => s.median ?? null },
          { name: '95 %', stroke: '#8a6a12', of: (s) => s.most ?? null },
        ]}
      />
      {slowest.length > 0 && (
        <div className={css.slowest}>
          <h3>Slowest records</h3>
          {slowest.slice(0, 6).map((s) => (
            <button
              type="button"
              key={s.ordinal}
              className={css.slow}
              title={`${s.calls} calls`}
              onClick={() => onRecord(s.ordinal)}
            >
              <span className="clip grow">{s.key ?? `record ${s.ordinal}`}</span>
              <span className="num">{s.millis} ms</span>
            </button>
          ))}
          {beforeId && (
            <Link to={`/runs/${beforeId}`} className="small">
              the run before →
            </Link>
          )}
        </div>
      )}
    </section>
  );
}

type Line = { name: string; stroke: string; of: (step: PaceStep) => number | null };

function Plot({
  title,
  steps,
  before,
  lines,
}: {
  title: string;
  steps: PaceStep[];
  before: PaceStep[];
  lines: Line[];
}) {
  const place = useRef<HTMLDivElement>(null);
  const data = JSON.stringify([steps, before]);
  useEffect(() => {
    const into = place.current;
    if (!into) return;
    const [now, earlier] = JSON.parse(data) as [PaceStep[], PaceStep[]];
    const plot = new uPlot(
      {
        width: into.clientWidth,
        height: 120,
        legend: { show: false },
        cursor: { y: false },
        scales: { x: { time: false }, y: { range: (_, __, max) => [0, Math.max(1, (max || 0) * 1.1)] } },
        axes: [
          {
            stroke: INK,
            grid: { show: false },
            size: 24,
            font: '10px sans-serif',
            values: (_, at) => at.map(minutes),
          },
          { stroke: INK, grid: GRID, size: 44, font: '10px sans-serif' },
        ],
        series: [
          {},
          ...lines.map((l) => ({
            label: l.name,
            stroke: l.stroke,
            width: 1.5,
            points: { show: now.length < 3 },
          })),
          ...lines.map((l) => ({ label: `${l.name} before`, stroke: l.stroke, width: 1, dash: [3, 4] })),
        ],
      },
      joined(now, earlier, lines),
      into,
    );
    return () => plot.destroy();
    // the lines are constants of who shows them
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [data]);
  return (
    <figure className={css.plot}>
      <figcaption>{title}</figcaption>
      <div ref={place} />
    </figure>
  );
}

const minutes = (seconds: number) =>
  seconds < 120 ? `${Math.round(seconds)} s` : `${Math.round(seconds / 60)} min`;

/** Both runs from their beginnings, on one axis. */
function joined(now: PaceStep[], before: PaceStep[], lines: Line[]): uPlot.AlignedData {
  const from = (steps: PaceStep[]) => {
    const first = steps[0] ? Date.parse(steps[0].at) : 0;
    return new Map(steps.map((s) => [(Date.parse(s.at) - first) / 1000, s]));
  };
  const its = from(now);
  const earlier = from(before);
  const end = Math.max(...its.keys());
  const at = [...new Set([...its.keys(), ...[...earlier.keys()].filter((t) => t <= end)])].sort(
    (a, b) => a - b,
  );
  const values = (steps: Map<number, PaceStep>, line: Line) =>
    at.map((t) => {
      const step = steps.get(t);
      return step ? line.of(step) : undefined;
    });
  return [at, ...lines.map((l) => values(its, l)), ...lines.map((l) => values(earlier, l))];
}
