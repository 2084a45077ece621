import { useQuery } from '@tanstack/react-query';
import { Button, Skeleton } from 'antd';
import { Link, useNavigate } from 'react-router';
import { api } from '../api/client';
import type { Desk as DeskData } from '../api/types';
import { Nothing, RunChip, RunCounts, Trouble, When } from '../shared/parts';
import { Until } from '../settings/Until';
import css from './Desk.module.css';
import { WaitingRun } from './WaitingRun';

/** Home: flows with their last run, what waits to be looked at, and the first steps while there is nothing. */
export function Desk() {
  const navigate = useNavigate();
  const desk = useQuery({
    queryKey: ['desk'],
    queryFn: () => api.get<DeskData>('/desk'),
    refetchInterval: 5_000,
  });
  if (desk.isPending)
    return (
      <div className="page">
        <Skeleton active />
      </div>
    );
  if (!desk.data)
    return (
      <div className="page">
        <Trouble error={desk.error} retry={() => void desk.refetch()} />
      </div>
    );
  const {
    flows,
    runs,
    contracts,
    datasets,
    flowTotal,
    expiring,
    waiting,
    alerts,
    alertTotal,
    inForce,
    next,
  } = desk.data;
  if (flowTotal === 0) {
    const first = contracts === 0;
    return (
      <Nothing
        title={first ? 'Start with a contract' : 'Now build a flow'}
        action={
          <Button type="primary" onClick={() => navigate(first ? '/contracts?import=1' : '/flows?new=1')}>
            {first ? 'Import a contract' : 'Build a flow'}
          </Button>
        }
      >
        {first
          ? 'Import the WSDL of the service you want to call; then you pick names from it and never type them.'
          : `There ${contracts === 1 ? 'is 1 contract' : `are ${contracts} contracts`} and ${datasets} datasets.` +
            ' A flow reads records, calls an operation for each, and writes the answers.'}
      </Nothing>
    );
  }
  return (
    <div className="page">
      <div className="page-head">
        <h1>Desk</h1>
        <span className="grow" />
        <Button onClick={() => navigate('/contracts?import=1')}>Import a contract</Button>
        <Button type="primary" onClick={() => navigate('/flows?new=1')}>
          Build a flow
        </Button>
      </div>
      <div className={css.columns}>
        <section>
          <h2 className={css.title}>Waiting for you</h2>
          {expiring.map((e) => (
            <Link
              key={e.what + e.name + e.where}
              to={e.what === 'key' ? '/settings?tab=secrets' : '/settings?tab=endpoints'}
              className={css.card}
            >
              <span className="grow">
                <b>{e.name}</b>
                <div className="dim">
                  {e.what}
                  {e.where && ` of ${e.where}`}
                </div>
              </span>
              <Until at={e.validUntil} />
            </Link>
          ))}
          {alerts.map((a) => (
            <Link key={a.id} to={a.runId ? `/runs/${a.runId}` : '/alerts'} className={css.card}>
              <span className="grow">
                <b>{a.subject}</b>
                <div className="dim">
                  told <When at={a.raisedAt} />
                </div>
              </span>
              <span className="dim">look after it →</span>
            </Link>
          ))}
          {alertTotal > alerts.length && <Link to="/alerts">all {alertTotal} alerts</Link>}
          {waiting.length + expiring.length + alerts.length === 0 && (
            <p className="dim">No rejected or in-doubt records. All clear.</p>
          )}
          {waiting.map((run) => (
            <WaitingRun key={run.id} run={run} />
          ))}
          <h2 className={css.title}>Flows</h2>
          {flows.map((flow) => (
            <Link key={flow.id} to={`/flows/${flow.id}`} className={css.line}>
              <span className="grow clip">
                <b>{flow.name}</b> <span className="faint">revision {flow.revision}</span>
              </span>
              {flow.lastRun ? (
                <>
                  <RunCounts run={flow.lastRun} />
                  <span className="dim">
                    <When at={flow.lastRun.startedAt} />
                  </span>
                </>
              ) : (
                <span className="faint">never run</span>
              )}
            </Link>
          ))}
        </section>
        <section>
          {next.length > 0 && <h2 className={css.title}>Next</h2>}
          {next.map((n) => (
            <Link key={`${n.flowId} ${n.at}`} to={`/flows/${n.flowId}/triggers`} className={css.line}>
              <span className="grow clip">{n.flowName}</span>
              <span className="dim">{n.environment}</span>
              <When at={n.at} />
            </Link>
          ))}
          {inForce.length > 0 && <h2 className={css.title}>In force</h2>}
          {inForce.map((p) => (
            <Link
              key={p.id}
              to={`/flows/${p.flowId}/publish?environment=${p.environment}`}
              className={css.line}
            >
              <span className="grow clip">{p.flowName}</span>
              <span className="dim">{p.environment}</span>
              <span>revision {p.revision}</span>
            </Link>
          ))}
          <h2 className={css.title}>Last runs</h2>
          {runs.length === 0 && <p className="dim">Nothing has run yet.</p>}
          {runs.map((run) => (
            <Link key={run.id} to={`/runs/${run.id}`} className={css.line}>
              <RunChip run={run} />
              <span className="grow clip">{run.flowName}</span>
              <span className="dim">{run.environment}</span>
              <span className="num">
                {run.ended} of {run.total}
              </span>
            </Link>
          ))}
          <h2 className={css.title}>At hand</h2>
          <Link to="/contracts" className={css.line}>
            <span className="grow">Contracts</span>
            <span className="num">{contracts}</span>
          </Link>
          <Link to="/datasets" className={css.line}>
            <span className="grow">Datasets</span>
            <span className="num">{datasets}</span>
          </Link>
        </section>
      </div>
    </div>
  );
}
