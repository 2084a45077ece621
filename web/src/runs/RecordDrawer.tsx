import { useQuery } from '@tanstack/react-query';
import { App, Drawer, Skeleton, Tabs } from 'antd';
import { Link } from 'react-router';
import { api } from '../api/client';
import type { Run, Simulator, Way } from '../api/types';
import { Trouble, When } from '../shared/parts';

/** One record's whole way: what came in, every try, what was sent and answered. */
export function RecordDrawer({ run, record, onClose }: { run: Run; record: number; onClose: () => void }) {
  const way = useQuery({ queryKey: ['way', run.id, record], queryFn: () => api.get<Way>(`/runs/${run.id}/records/${record}`) });
  const line = way.data?.line;
  const attempts = way.data?.attempts ?? [];
  const exchange = way.data?.exchange;
  const { message } = App.useApp();
  const teach = async () => {
    try {
      const its = await api.post<Simulator>('/simulator-lessons', { run: run.id, record });
      void message.success(`Asked the same, the simulator ${its.name} answers so from now on`);
    } catch (e) {
      void message.error(e instanceof Error ? e.message : String(e));
    }
  };
  return (
    <Drawer open onClose={onClose} size={720} title={<>Record {record} {line?.key && <span className="mono dim">{line.key}</span>}</>}>
      {way.isPending && <Skeleton active />}
      <Trouble error={way.error} />
      {line && (
        <>
          <p>
            <span className={`chip ${line.outcome === 'written' ? 'fine' : 'failure'}`}>{line.outcome}</span>{' '}
            {line.message ?? `${line.rows} ${line.rows === 1 ? 'row' : 'rows'} written`}
          </p>
          {line.note && <p className="dim">Note: {line.note}</p>}
          {line.stage && <p><Link to={`/flows/${run.flowId}?stage=${line.stage ?? ''}&blame=${encodeURIComponent(line.blame ?? '')}&record=${record}`}>Go to {line.blame ? 'what is to blame' : 'the stage'}, with this record as the sample →</Link></p>}
          <h3 style={{ fontSize: 13, margin: '14px 0 6px' }}>Calls</h3>
          {attempts.length === 0 && <p className="dim">Nothing was sent for this record.</p>}
          {attempts.map((a) => (
            <div key={a.number} className="row" style={{ padding: '3px 0' }}>
              <span className="num" style={{ width: 20 }}>{a.number}</span>
              <span className="dim"><When at={a.startedAt} /></span>
              <span className="num" style={{ width: 70 }}>{a.millis} ms</span>
              <span>{a.status ? `HTTP ${a.status}` : a.sent ? 'sent, no answer' : 'not sent'}</span>
              <span className="bad clip grow">{a.failure}</span>
            </div>
          ))}
          <Tabs
            style={{ marginTop: 8 }}
            items={[
              ...(exchange ? [{ key: 'sent', label: 'Sent', children: <><p className="mono dim">{exchange.address}</p><pre className="xml">{exchange.request}</pre></> }] : []),
              ...(exchange?.reply ? [{ key: 'answered', label: `Answered${exchange.status ? ` · HTTP ${exchange.status}` : ''}`, children: <pre className="xml">{exchange.reply}</pre> }] : []),
              ...(line.input ? [{ key: 'in', label: 'Came in', children: <pre className="xml">{line.input.replace(/></g, '>\n<')}</pre> }] : []),
            ]}
          />
          {exchange?.reply && <button type="button" className="linkish" onClick={() => void teach()}>Teach the simulator this answer</button>}
          {!exchange && attempts.length > 0 && <p className="dim">The exchange was not kept: this call keeps failures and the first ten.</p>}
          <p className="faint mono">fingerprint {line.fingerprint}</p>
        </>
      )}
    </Drawer>
  );
}
