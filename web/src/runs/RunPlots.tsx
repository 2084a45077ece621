import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { api } from '../api/client';
import type { RunPace } from '../api/types';
import { TimePlot } from '../shared/TimePlot';
import css from './RunPage.module.css';

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
      <TimePlot
        title={beforeId ? `Records a second (dashed: run ${beforeId})` : 'Records a second'}
        steps={steps}
        before={before}
        lines={[{ name: 'ended', stroke: '#2f6f63', of: (s) => s.ended / s.seconds }]}
      />
      <TimePlot
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
