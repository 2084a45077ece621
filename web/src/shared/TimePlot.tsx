import { useEffect, useRef } from 'react';
import uPlot from 'uplot';
import 'uplot/dist/uPlot.min.css';
import css from './TimePlot.module.css';

const INK = '#656c70';
const GRID = { stroke: '#e2dfd9', width: 1 };

/** A line of a plot: what it is called and what a step says of it; null where it says nothing. */
export type Line<T> = { name: string; stroke: string; of: (step: T) => number | null };

/**
 * Lines over time, from steps. Where there are earlier steps both begin at their first and these are dashed; with a
 * clock the axis shows the time of day, else the time since the first step, and steps that stand alone are seen.
 */
export function TimePlot<T extends { at: string }>({
  title,
  steps,
  before = [],
  lines,
  clock = false,
}: {
  title: string;
  steps: T[];
  before?: T[];
  lines: Line<T>[];
  clock?: boolean;
}) {
  const place = useRef<HTMLDivElement>(null);
  const data = JSON.stringify([steps, before]);
  useEffect(() => {
    const into = place.current;
    if (!into) return;
    const [now, earlier] = JSON.parse(data) as [T[], T[]];
    const plot = new uPlot(
      {
        width: into.clientWidth,
        height: 120,
        legend: { show: false },
        cursor: { y: false },
        scales: {
          x: { time: clock },
          y: { range: (_, __, max) => [0, Math.max(1, (max || 0) * 1.1)] },
        },
        axes: [
          {
            stroke: INK,
            grid: { show: false },
            size: 24,
            font: '10px sans-serif',
            values: (_, at) => at.map(clock ? timeOfDay(now) : since),
          },
          { stroke: INK, grid: GRID, size: 44, font: '10px sans-serif' },
        ],
        series: [
          {},
          ...lines.map((l) => ({
            label: l.name,
            stroke: l.stroke,
            width: 1.5,
            // what stands alone is no line
            points: { show: now.length < 3 || now.some((step) => l.of(step) === null), size: 4 },
          })),
          ...lines.map((l) => ({ label: `${l.name} before`, stroke: l.stroke, width: 1, dash: [3, 4] })),
        ],
      },
      joined(now, earlier, lines, clock),
      into,
    );
    return () => plot.destroy();
    // the lines are constants of who shows them
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [data, clock]);
  return (
    <figure className={css.plot}>
      <figcaption>{title}</figcaption>
      <div ref={place} />
    </figure>
  );
}

const since = (seconds: number) =>
  seconds < 120 ? `${Math.round(seconds)} s` : `${Math.round(seconds / 60)} min`;

/** The time of day, or the day where the steps reach over several. */
function timeOfDay(steps: { at: string }[]): (seconds: number) => string {
  const first = Date.parse(steps[0]?.at ?? '');
  const last = Date.parse(steps[steps.length - 1]?.at ?? '');
  const days = last - first > 36 * 3_600_000;
  return (seconds) => {
    const at = new Date(seconds * 1000);
    return days
      ? at.toLocaleDateString('en-GB', { day: 'numeric', month: 'short' })
      : at.toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' });
  };
}

/** Both on one axis, from their beginnings where there is no clock. */
function joined<T extends { at: string }>(
  now: T[],
  before: T[],
  lines: Line<T>[],
  clock: boolean,
): uPlot.AlignedData {
  const from = (steps: T[]) => {
    const first = steps[0] && !clock ? Date.parse(steps[0].at) : 0;
    return new Map(steps.map((s) => [(Date.parse(s.at) - first) / 1000, s]));
  };
  const its = from(now);
  const earlier = from(before);
  const end = Math.max(...its.keys());
  const at = [...new Set([...its.keys(), ...[...earlier.keys()].filter((t) => t <= end)])].sort(
    (a, b) => a - b,
  );
  const values = (steps: Map<number, T>, line: Line<T>) =>
    at.map((t) => {
      const step = steps.get(t);
      return step ? line.of(step) : undefined;
    });
  return [at, ...lines.map((l) => values(its, l)), ...lines.map((l) => values(earlier, l))];
}
