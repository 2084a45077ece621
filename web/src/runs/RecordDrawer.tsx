import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Drawer, Skeleton } from 'antd';
import { Link } from 'react-router';
import { api } from '../api/client';
import type { Flow } from '../api/flow';
import { allStages } from '../api/outline';
import type { Run, Way } from '../api/types';
import { Trouble, When } from '../shared/parts';
import { endLabel } from './ends';
import { RecordWay } from './RecordWay';
import { useAskAbout } from './useResend';
import { useSettle } from './useSettle';

/** One record's whole way: what came in, each effect with its tries, what was sent and answered. */
export function RecordDrawer({
  run,
  record,
  file,
  onClose,
}: {
  run: Run;
  record: number;
  file: Flow['file'] | undefined;
  onClose: () => void;
}) {
  const client = useQueryClient();
  const way = useQuery({
    queryKey: ['way', run.id, record],
    queryFn: () => api.get<Way>(`/runs/${run.id}/records/${record}`),
  });
  const settle = useSettle(run, () => void client.invalidateQueries());
  const line = way.data?.line;
  const passages = way.data?.passages ?? [];
  const left = passages.filter((p) => p.changes && p.outcome === 'done' && !/:undo(\/|$)/.test(p.path));
  const stages = file ? allStages(file) : [];
  const ask = useAskAbout(run);
  const doubtful = passages.filter((p) => p.outcome === 'in-doubt').map((p) => p.stage);
  const asks = stages.some((s) => doubtful.includes(s.id) && s.lane?.rules.some((r) => r.then === 'ask'));
  const open =
    line?.ended === 'in-doubt' &&
    !way.data?.settlement &&
    !way.data?.sentAgainIn &&
    !['running', 'paused', 'interrupted'].includes(run.state);
  const called = (id: string) => {
    const stage = stages.find((s) => s.id === id);
    return stage?.verb === 'Call' ? (stage.operation ?? id) : id;
  };
  return (
    <Drawer
      open
      onClose={onClose}
      size={720}
      title={
        <>
          {record > 0
            ? `Record ${record}`
            : record === 0
              ? 'Before the first record'
              : 'After the last record'}{' '}
          {line?.key && <span className="mono dim">{line.key}</span>}
        </>
      }
    >
      {way.isPending && <Skeleton active />}
      <Trouble error={way.error} />
      {line && (
        <>
          <p>
            <span
              className={`chip ${line.ended === 'done' ? 'fine' : line.ended === 'left-out' ? 'caution' : 'failure'}`}
            >
              {endLabel(line.ended)}
            </span>{' '}
            {line.message ??
              (line.ended === 'left-out'
                ? `by ${line.stage ?? 'a filter'}`
                : `${line.rows} ${line.rows === 1 ? 'row' : 'rows'} written`)}
            {line.saved && <span className="dim"> · saved by a failure lane</span>}
          </p>
          {(line.ended === 'rejected' || way.data?.settlement?.what === 'not-done') && left.length > 0 && (
            <p className="bad">Done, and not taken back: {left.map((p) => called(p.stage)).join(', ')}.</p>
          )}
          {way.data?.settlement && (
            <p>
              <span className="chip">{way.data.settlement.what}</span> by {way.data.settlement.settledBy},{' '}
              <When at={way.data.settlement.settledAt} />: {way.data.settlement.reason}
            </p>
          )}
          {way.data?.sentAgainIn && (
            <p>
              {line.ended === 'in-doubt' ? 'Goes on in' : 'Sent again in'}{' '}
              <Link to={`/runs/${way.data.sentAgainIn}`}>run {way.data.sentAgainIn}</Link>.
            </p>
          )}
          {open && (
            <p className="row">
              {asks && (
                <Button size="small" type="primary" onClick={() => void ask({ ordinals: [record] })}>
                  Ask what became of it
                </Button>
              )}
              <Button size="small" onClick={() => settle('done', 1, { ordinals: [record] })}>
                It is done …
              </Button>
              <Button size="small" onClick={() => settle('not-done', 1, { ordinals: [record] })}>
                It is not done …
              </Button>
            </p>
          )}
          {line.note && <p className="dim">Note: {line.note}</p>}
          {line.stage && (
            <p>
              <Link
                to={
                  `/flows/${run.flowId}?stage=${line.stage ?? ''}` +
                  `&blame=${encodeURIComponent(line.blame ?? '')}&record=${record}`
                }
              >
                Go to {line.blame ? 'what is to blame' : 'the stage'}, with this record as the sample →
              </Link>
            </p>
          )}
          <RecordWay run={run} way={way.data} file={file} />
          {line.input && (
            <>
              <h3 className="h-small gap-around">Came in</h3>
              <pre className="xml">{line.input.replace(/></g, '>\n<')}</pre>
            </>
          )}
          <p className="faint mono">fingerprint {line.fingerprint}</p>
        </>
      )}
    </Drawer>
  );
}
