import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Dropdown, Input, Progress, Segmented, Skeleton, Table } from 'antd';
import { useEffect, useState } from 'react';
import { Link, useParams } from 'react-router';
import { api, query } from '../api/client';
import type { Cause, LedgerLine, Page, RunState } from '../api/types';
import { RunChip, Trouble, When } from '../shared/parts';
import { RecordDrawer } from './RecordDrawer';
import css from './RunPage.module.css';

const NUMBER = new Intl.NumberFormat('en', { maximumFractionDigits: 1 });

/** Live counts, rate and time left; causes grouped; the ledger; one record's whole way. */
export function RunPage() {
  const { id } = useParams();
  const client = useQueryClient();
  const [outcome, setOutcome] = useState('');
  const [cause, setCause] = useState<string>();
  const [text, setText] = useState('');
  const [page, setPage] = useState(1);
  const [record, setRecord] = useState<number>();
  const state = useQuery({ queryKey: ['run', id], queryFn: () => api.get<RunState>(`/runs/${id}`) });
  const running = state.data?.run.state === 'running';
  useEffect(() => {
    if (!running) return;
    const events = new EventSource(`/api/runs/${id}/events`);
    events.onmessage = (e: MessageEvent<string>) => {
      const now = JSON.parse(e.data) as RunState;
      client.setQueryData(['run', id], now);
      if (now.run.state !== 'running') events.close();
    };
    return () => events.close();
  }, [running, id, client]);
  const done = state.data?.run.done;
  const causes = useQuery({ queryKey: ['causes', id, done], queryFn: () => api.get<Cause[]>(`/runs/${id}/causes`), placeholderData: (b) => b });
  const lines = useQuery({
    queryKey: ['records', id, outcome, cause, text, page, running ? Math.floor(Date.now() / 2000) : done],
    queryFn: () => api.get<Page<LedgerLine>>(`/runs/${id}/records${query({ outcome, cause, q: text, page, size: 50 })}`),
    placeholderData: (b) => b,
  });
  if (state.isPending) return <div className="page"><Skeleton active /></div>;
  if (!state.data) return <div className="page"><Trouble error={state.error} retry={() => void state.refetch()} /></div>;
  const { run, perSecond, secondsLeft } = state.data;
  const cancel = (takeResults: boolean) => void api.post(`/runs/${id}/cancel`, { takeResults });
  const pick = (wanted: string) => { setOutcome(wanted); setCause(undefined); setPage(1); };
  const unfinished = run.state === 'interrupted' ? Math.max(0, Math.min(run.claimed, run.total) - run.done) : 0;
  const tile = (label: string, n: number, wanted: string, bad = false) => (
    <button type="button" className={`${css.tile} ${outcome === wanted && !cause ? css.on : ''}`} onClick={() => pick(wanted)}>
      <span className={`${css.number} ${bad && n > 0 ? 'bad' : ''}`}>{n}</span>
      <span className="dim">{label}</span>
    </button>
  );
  return (
    <div className="page">
      <div className="page-head">
        <h1>Run {run.id}</h1>
        <RunChip run={run} />
        <span className="grow clip">
          <Link to={`/flows/${run.flowId}`}>{run.flowName}</Link> <span className="dim">revision {run.flowRevision} · in {run.environment} · by {run.startedBy}, <When at={run.startedAt} /></span>
        </span>
        {running && (
          <Dropdown.Button danger type="default" className={css.cancel} trigger={['click']} onClick={() => cancel(false)} menu={{
            items: [{ key: 'take', label: 'Cancel, and let what is done replace the earlier files' }],
            onClick: () => cancel(true),
          }}>
            Cancel, keep the earlier files
          </Dropdown.Button>
        )}
        {run.rejected + run.inDoubt > 0 && <Button href={`/api/runs/${id}/rejects`}>Download rejects</Button>}
        {run.outputFile && !running && <Button type="primary" href={`/api/runs/${id}/results`}>Download results</Button>}
      </div>
      {run.message && <Trouble error={run.message} />}
      {unfinished > 0 && <p className="bad">Up to {unfinished} more records had been handed out and have no line here: whether they reached the service is not known.</p>}
      <div className={css.tiles}>
        {tile('done', run.done, '')}
        {tile('written', run.written, 'written')}
        {tile('rejected', run.rejected, 'rejected', true)}
        {tile('in doubt', run.inDoubt, 'in-doubt', true)}
        <div className={css.speed}>
          <Progress percent={run.total ? Math.min(100, Math.round((run.done / run.total) * 100)) : 100} size="small" status={running ? 'active' : 'normal'} strokeColor="var(--primary)" />
          <span className="dim">
            {run.done} of {run.total} records · {run.rows} rows · {run.calls} calls · {NUMBER.format(perSecond)} a second
            {secondsLeft !== undefined && secondsLeft !== null && ` · about ${secondsLeft < 90 ? `${secondsLeft} s` : `${Math.round(secondsLeft / 60)} min`} left`}
          </span>
        </div>
      </div>
      {(causes.data?.length ?? 0) > 0 && (
        <section className={css.causes}>
          {causes.data?.map((c) => (
            <div key={`${c.failureClass} ${c.cause} ${c.outcome}`} className={`${css.cause} ${cause === c.cause ? css.on : ''}`}>
              <button type="button" className={css.causeName} onClick={() => { setCause(cause === c.cause ? undefined : c.cause); setOutcome(''); setPage(1); }}>
                <b className="bad num">{c.count} ×</b> <span className="clip grow">{c.cause}</span> <span className="dim">{c.failureClass}{c.outcome === 'in-doubt' && ', in doubt'}</span>
              </button>
              <Link to={`/flows/${run.flowId}?stage=${c.stage ?? ''}&blame=${encodeURIComponent(c.blame ?? '')}`}>{c.failureClass === 'condition' ? 'the condition →' : c.blame ? 'the fill →' : 'the stage →'}</Link>
            </div>
          ))}
        </section>
      )}
      <div className="row" style={{ margin: '12px 0 6px' }}>
        <Segmented size="small" value={outcome} onChange={pick} options={[{ value: '', label: 'All' }, { value: 'written', label: 'Written' }, { value: 'rejected', label: 'Rejected' }, { value: 'in-doubt', label: 'In doubt' }]} />
        {cause && <button type="button" className="chip failure" onClick={() => setCause(undefined)}>{cause} ✕</button>}
        <span className="grow" />
        <Input.Search size="small" allowClear placeholder="Key, number or message" style={{ width: 240 }} onChange={(e) => { setText(e.target.value); setPage(1); }} />
      </div>
      <Table<LedgerLine>
        size="small"
        rowKey="ordinal"
        dataSource={lines.data?.items}
        loading={lines.isPending}
        onRow={(line) => ({ onClick: () => setRecord(line.ordinal), style: { cursor: 'pointer' } })}
        pagination={{ current: page, pageSize: 50, total: lines.data?.total, onChange: setPage, showSizeChanger: false, size: 'small', hideOnSinglePage: true }}
        columns={[
          { title: 'Record', dataIndex: 'ordinal', width: 76, align: 'right', render: (n: number) => <a onClick={() => setRecord(n)}>{n}</a> },
          { title: 'Key', dataIndex: 'key', width: 150, ellipsis: true },
          { title: 'Outcome', dataIndex: 'outcome', width: 90, render: (o: string) => (o === 'written' ? o : <span className="bad">{o}</span>) },
          { title: 'Class', dataIndex: 'failureClass', width: 110 },
          { title: 'What happened', ellipsis: true, render: (_, line) => line.message ?? (line.note ? <span className="dim">note: {line.note}</span> : <span className="faint">{line.rows} {line.rows === 1 ? 'row' : 'rows'}</span>) },
          { title: 'Calls', dataIndex: 'calls', width: 64, align: 'right' },
        ]}
      />
      {record !== undefined && <RecordDrawer run={run} record={record} onClose={() => setRecord(undefined)} />}
    </div>
  );
}
