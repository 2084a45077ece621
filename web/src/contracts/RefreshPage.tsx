import { useQuery, useQueryClient } from '@tanstack/react-query';
import { App, Button, Skeleton } from 'antd';
import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { api } from '../api/client';
import type { Refresh } from '../api/types';
import { Trouble } from '../shared/parts';
import { Changes, shortPath } from './Changes';

const LOOK: Record<string, string> = { lost: 'failure', moved: 'fine', kept: 'caution' };
const WORD: Record<string, string> = { lost: 'lost', moved: 'moves', kept: 'stays' };

/** What a refreshed contract would change, which flows it touches, and taking it in. */
export function RefreshPage() {
  const { id, job } = useParams();
  const navigate = useNavigate();
  const client = useQueryClient();
  const { message } = App.useApp();
  const [error, setError] = useState<unknown>();
  const [busy, setBusy] = useState(false);
  const look = useQuery({
    queryKey: ['refresh', job],
    queryFn: () => api.get<Refresh>(`/refreshes/${job}`),
    retry: false,
  });
  if (look.isPending)
    return (
      <div className="page">
        <Skeleton active />
      </div>
    );
  if (!look.data)
    return (
      <div className="page">
        <Trouble error={look.error} />
        <Link to={`/contracts/${id}`}>Back to the contract</Link>
      </div>
    );
  const refresh = look.data;
  const take = async () => {
    setBusy(true);
    try {
      const taken = await api.post<{ revision: number; flowsMoved: number }>(`/refreshes/${job}`);
      await client.invalidateQueries();
      const flows = taken.flowsMoved === 1 ? '1 flow' : `${taken.flowsMoved} flows`;
      const moved = taken.flowsMoved ? `; the fills of ${flows} were moved` : '';
      void message.success(`Revision ${taken.revision} is in use${moved}`);
      navigate(`/contracts/${id}`);
    } catch (e) {
      setError(e);
      setBusy(false);
    }
  };
  const lost = refresh.flows.flatMap((f) => f.fills).filter((f) => f.outcome === 'lost').length;
  return (
    <div className="page">
      <div className="page-head">
        <h1>
          {refresh.name}: revision {refresh.revision} → {refresh.revision + 1}
        </h1>
        <span className="dim">
          {refresh.same ? 'the same documents, byte by byte' : `${refresh.changes.length} changes`}
          {lost > 0 && (
            <span className="bad">
              {' '}
              · {lost} {lost === 1 ? 'fill loses its field' : 'fills lose their fields'}
            </span>
          )}
        </span>
        <span className="grow" />
        <Button onClick={() => navigate(`/contracts/${id}`)}>Leave it</Button>
        {!refresh.same && (
          <Button type="primary" loading={busy} onClick={() => void take()}>
            Take revision {refresh.revision + 1} in
          </Button>
        )}
      </div>
      <Trouble error={error} />
      {refresh.same ? (
        <p>Nothing changed: there is nothing to take in.</p>
      ) : (
        <>
          <h2 className="h-medium gap-around-s">Flows that call it</h2>
          {refresh.flows.length === 0 && <p className="dim">No flow calls this contract.</p>}
          {refresh.flows.map((flow) => (
            <div key={flow.flow} className="card gap-below">
              <div className="row">
                <Link to={`/flows/${flow.flow}`}>
                  <b>{flow.name}</b>
                </Link>
                <span className="dim">calls {flow.operation}</span>
                <span className="grow" />
                {flow.problem ? (
                  <span className="bad">{flow.problem}</span>
                ) : (
                  <span className="dim">
                    {flow.fits} {flow.fits === 1 ? 'fill stays as it is' : 'fills stay as they are'}
                  </span>
                )}
              </div>
              {flow.fills.map((fill) => (
                <div key={fill.stage + fill.fill} className="row gap-above-s">
                  <span className={`chip ${LOOK[fill.outcome]} count-box`}>{WORD[fill.outcome]}</span>
                  <span title={fill.target}>{shortPath(fill.target)}</span>
                  <span className="mono dim">{fill.what}</span>
                  <span className="dim clip grow" title={fill.why}>
                    {fill.why}
                  </span>
                </div>
              ))}
            </div>
          ))}
          <h2 className="h-medium gap-around">What changed</h2>
          {refresh.changes.length === 0 ? (
            <p className="dim">The documents differ, the messages do not.</p>
          ) : (
            <Changes changes={refresh.changes} />
          )}
        </>
      )}
    </div>
  );
}
