import { useQuery } from '@tanstack/react-query';
import { App, Drawer, Skeleton, Tabs } from 'antd';
import { Link } from 'react-router';
import { api } from '../api/client';
import type { Flow } from '../api/flow';
import { allStages } from '../api/outline';
import type { Run, Simulator, Way } from '../api/types';
import { Trouble, When } from '../shared/parts';
import { endLabel } from './ends';

const OUTCOME: Record<string, string> = {
  done: 'done',
  'not-done': 'not done',
  'in-doubt': 'in doubt',
  claimed: 'in doubt',
};

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
  const way = useQuery({
    queryKey: ['way', run.id, record],
    queryFn: () => api.get<Way>(`/runs/${run.id}/records/${record}`),
  });
  const line = way.data?.line;
  const passages = way.data?.passages ?? [];
  const { message } = App.useApp();
  const stages = file ? allStages(file) : [];
  const called = (id: string) => {
    const stage = stages.find((s) => s.id === id);
    return stage?.verb === 'Call' ? (stage.operation ?? id) : id;
  };
  const teach = async () => {
    try {
      const its = await api.post<Simulator>('/simulator-lessons', { run: run.id, record });
      void message.success(`Asked the same, the simulator ${its.name} answers so from now on`);
    } catch (e) {
      void message.error(e instanceof Error ? e.message : String(e));
    }
  };
  return (
    <Drawer
      open
      onClose={onClose}
      size={720}
      title={
        <>
          Record {record} {line?.key && <span className="mono dim">{line.key}</span>}
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
          {line.ended === 'rejected' && passages.some((p) => p.changes && p.outcome === 'done') && (
            <p className="bad">
              Done all the same:{' '}
              {passages
                .filter((p) => p.changes && p.outcome === 'done')
                .map((p) => called(p.stage))
                .join(', ')}
              .
            </p>
          )}
          {line.note && <p className="dim">Note: {line.note}</p>}
          {line.stage && (
            <p>
              <Link
                to={`/flows/${run.flowId}?stage=${line.stage ?? ''}&blame=${encodeURIComponent(line.blame ?? '')}&record=${record}`}
              >
                Go to {line.blame ? 'what is to blame' : 'the stage'}, with this record as the sample →
              </Link>
            </p>
          )}
          {passages.length === 0 && <p className="dim">Nothing was sent for this record.</p>}
          {passages.map((p) => {
            const exchange = way.data?.exchanges.find((x) => x.stage === p.stage && x.number === p.number);
            const attempts =
              way.data?.attempts.filter((a) => a.stage === p.stage && a.number === p.number) ?? [];
            return (
              <section
                key={`${p.stage} ${p.number}`}
                aria-label={`passage ${p.stage}`}
                style={{ margin: '14px 0' }}
              >
                <h3 style={{ fontSize: 13, margin: '0 0 4px' }}>
                  {called(p.stage)}{' '}
                  <span className={p.outcome === 'done' ? 'dim' : 'bad'} style={{ fontWeight: 400 }}>
                    {OUTCOME[p.outcome] ?? p.outcome}
                    {p.changes && ', changes data'}
                  </span>
                </h3>
                {attempts.map((a) => (
                  <div key={a.attempt} className="row" style={{ padding: '3px 0' }}>
                    <span className="num" style={{ width: 20 }}>
                      {a.attempt}
                    </span>
                    <span className="dim">
                      <When at={a.startedAt} />
                    </span>
                    <span className="num" style={{ width: 70 }}>
                      {a.millis} ms
                    </span>
                    <span>{a.status ? `HTTP ${a.status}` : a.sent ? 'sent, no answer' : 'not sent'}</span>
                    <span className="bad clip grow">{a.failure}</span>
                  </div>
                ))}
                {attempts.length === 0 && <p className="dim">Known from before the run was interrupted.</p>}
                {exchange ? (
                  <Tabs
                    size="small"
                    items={[
                      {
                        key: 'sent',
                        label: 'Sent',
                        children: (
                          <>
                            <p className="mono dim">{exchange.address}</p>
                            <pre className="xml">{exchange.request}</pre>
                          </>
                        ),
                      },
                      ...(exchange.reply
                        ? [
                            {
                              key: 'answered',
                              label: `Answered${exchange.status ? ` · HTTP ${exchange.status}` : ''}`,
                              children: <pre className="xml">{exchange.reply}</pre>,
                            },
                          ]
                        : []),
                    ]}
                  />
                ) : (
                  attempts.length > 0 && (
                    <p className="dim">
                      The exchange was not kept: this call keeps failures and the first ten.
                    </p>
                  )
                )}
                {exchange?.reply && (
                  <button type="button" className="linkish" onClick={() => void teach()}>
                    Teach the simulator this answer
                  </button>
                )}
              </section>
            );
          })}
          {line.input && (
            <>
              <h3 style={{ fontSize: 13, margin: '14px 0 6px' }}>Came in</h3>
              <pre className="xml">{line.input.replace(/></g, '>\n<')}</pre>
            </>
          )}
          <p className="faint mono">fingerprint {line.fingerprint}</p>
        </>
      )}
    </Drawer>
  );
}
