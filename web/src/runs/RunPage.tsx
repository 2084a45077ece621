import { useQuery, useQueryClient } from '@tanstack/react-query';
import { App, Button, Dropdown, Input, Progress, Segmented, Skeleton, Table } from 'antd';
import { useEffect, useState } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';
import { api, query } from '../api/client';
import type { Flow } from '../api/flow';
import type { Cause, LedgerLine, Page, Run, RunState } from '../api/types';
import { RunChip, Trouble, When } from '../shared/parts';
import { endLabel, ENDS, onTheirWay } from './ends';
import { RecordDrawer } from './RecordDrawer';
import css from './RunPage.module.css';
import { RunPlots } from './RunPlots';
import { SendAgain, Settle } from './RunSettling';
import { RunStages } from './RunStages';

const NUMBER = new Intl.NumberFormat('en', { maximumFractionDigits: 1 });

/** Live counts by end and stage, rate and time left; causes grouped; the ledger; one record's whole way. */
export function RunPage() {
  const { id } = useParams();
  const client = useQueryClient();
  const { message } = App.useApp();
  const [search, setSearch] = useSearchParams();
  const [ended, setEnded] = useState('');
  const [cause, setCause] = useState<string>();
  const [text, setText] = useState('');
  const [page, setPage] = useState(1);
  const record = search.has('record') ? Number(search.get('record')) : undefined;
  const setRecord = (ordinal: number | undefined) =>
    setSearch(
      (now) => {
        if (ordinal === undefined) now.delete('record');
        else now.set('record', String(ordinal));
        return now;
      },
      { replace: true },
    );
  const stage = search.get('stage') ?? undefined;
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
  const count = state.data?.run.ended;
  const causes = useQuery({
    queryKey: ['causes', id, count],
    queryFn: () => api.get<Cause[]>(`/runs/${id}/causes`),
    placeholderData: (b) => b,
  });
  const lines = useQuery({
    queryKey: ['records', id, ended, cause, stage, text, page, running ? 'running' : count],
    queryFn: () =>
      api.get<Page<LedgerLine>>(
        `/runs/${id}/records${query({ ended, cause, stage, q: text, page, size: 50 })}`,
      ),
    refetchInterval: running ? 2000 : false,
    placeholderData: (b) => b,
  });
  const flowId = state.data?.run.flowId;
  const revision = state.data?.run.flowRevision;
  const flow = useQuery({
    queryKey: ['flow-file', flowId, revision],
    queryFn: () => api.get<Flow['file']>(`/flows/${flowId}/revisions/${revision}`),
    enabled: flowId !== undefined,
    staleTime: Infinity,
  });
  if (state.isPending)
    return (
      <div className="page">
        <Skeleton active />
      </div>
    );
  if (!state.data)
    return (
      <div className="page">
        <Trouble error={state.error} retry={() => void state.refetch()} />
      </div>
    );
  const { run, perSecond, secondsLeft, onHold, open, doubtful, stages } = state.data;
  const act = async (what: 'cancel' | 'pause' | 'resume' | 'finish', body: object = {}) => {
    try {
      await api.post<Run>(`/runs/${id}/${what}`, body);
      await state.refetch();
    } catch (e) {
      void message.error(e instanceof Error ? e.message : String(e), 8);
    }
  };
  const pick = (wanted: string) => {
    setEnded(wanted);
    setCause(undefined);
    setSearch({}, { replace: true });
    setPage(1);
  };
  const pickStage = (wanted: string | undefined) => {
    setSearch(wanted ? { stage: wanted } : {}, { replace: true });
    setEnded('');
    setCause(undefined);
    setPage(1);
  };
  const tile = (label: string, n: number, wanted: string, bad = false) => (
    <button
      type="button"
      key={label}
      className={`${css.tile} ${ended === wanted && !cause && !stage ? css.on : ''}`}
      onClick={() => pick(wanted)}
    >
      <span className={`${css.number} ${bad && n > 0 ? 'bad' : ''}`}>{n}</span>
      <span className="dim">{label}</span>
    </button>
  );
  const callers = run.begunBy === 'http' || run.begunBy === 'queue';
  const waits = ['paused', 'interrupted', 'failed'].includes(run.state);
  const rest = onTheirWay(run);
  const failed = run.rejected + run.inDoubt + run.heldBack;
  return (
    <div className="page">
      <div className="page-head">
        <h1>Run {run.id}</h1>
        <RunChip run={run} />
        {onHold && (
          <span className="chip caution" title={onHold}>
            on hold
          </span>
        )}
        <span className="grow clip">
          <Link to={`/flows/${run.flowId}`}>{run.flowName}</Link>{' '}
          <span className="dim">
            {run.originRun !== undefined && (
              <>
                sends again what failed in <Link to={`/runs/${run.originRun}`}>run {run.originRun}</Link>{' '}
                ·{' '}
              </>
            )}
            revision {run.flowRevision} · in {run.environment} ·{' '}
            {callers
              ? `begun by ${run.begunBy === 'http' ? 'callers' : 'messages'}, `
              : run.begunBy !== 'hand' && `begun by a ${run.begunBy}, `}
            {run.file && `${run.file.replace(/.*\//, '')}, `}
            by {run.startedBy}, <When at={run.startedAt} />
          </span>
        </span>
        {running && callers && (
          <Button
            onClick={() => void act('finish')}
            title="What came is answered, the next caller begins another run; then what is in doubt can be resolved"
          >
            End this run
          </Button>
        )}
        {running && !callers && (
          <Button
            onClick={() => void act('pause')}
            title="What is on its way is waited for; it goes on where it was"
          >
            Pause
          </Button>
        )}
        {waits && (
          <Button type="primary" onClick={() => void act('resume')}>
            {run.state === 'paused' && run.pilot ? 'Go on with the rest' : 'Resume'}
          </Button>
        )}
        {running && (
          <Dropdown.Button
            danger
            type="default"
            className={css.cancel}
            trigger={['click']}
            onClick={() => void act('cancel', { takeResults: false })}
            menu={{
              items: [{ key: 'take', label: 'Cancel, and let what is done replace the earlier files' }],
              onClick: () => void act('cancel', { takeResults: true }),
            }}
          >
            Cancel, keep the earlier files
          </Dropdown.Button>
        )}
        {open > 0 && !callers && <SendAgain run={run} open={open} />}
        {open > 0 && (
          <Button
            href={`/runs/${id}/correct`}
            title="What was rejected or held back: look at what came in, change it, send it again or discard it"
          >
            Correct {open}
          </Button>
        )}
        {doubtful > 0 && !running && (
          <Settle run={run} doubtful={doubtful} onDone={() => void state.refetch()} />
        )}
        {failed > 0 && <Button href={`/api/runs/${id}/rejects`}>Download rejects</Button>}
        {run.outputFile && !running && (
          <Button type={waits ? 'default' : 'primary'} href={`/api/runs/${id}/results`}>
            Download results
          </Button>
        )}
      </div>
      {run.message && <Trouble error={run.message} />}
      {onHold && (
        <p className={css.hold}>
          On hold: {onHold}. Nothing is rejected for that; the run goes on by itself.
        </p>
      )}
      {waits && (
        <p className="dim">
          {rest > 0 ? `${rest} ${rest === 1 ? 'record was' : 'records were'} on the way. ` : ''}Resume
          continues where the run was: what is done is not repeated, and what may have been sent without an
          answer ends in doubt.
        </p>
      )}
      <div className={css.tiles}>
        {tile('ended', run.ended, '')}
        {ENDS.filter((e) => e.always || e.count(run) > 0).map((e) =>
          tile(e.label, e.count(run), e.ended, e.bad),
        )}
        {rest > 0 && (
          <span className={css.tile}>
            <span className={css.number}>{rest}</span>
            <span className="dim">{running ? 'on their way' : 'waiting'}</span>
          </span>
        )}
        <div className={css.speed}>
          {!callers && (
            <Progress
              percent={
                run.total
                  ? Math.min(100, Math.round((run.ended / run.total) * 100))
                  : run.state === 'running'
                    ? 0
                    : 100
              }
              size="small"
              status={running && !onHold ? 'active' : 'normal'}
              strokeColor="var(--primary)"
            />
          )}
          <span className="dim">
            {run.ended}
            {run.total > 0 && ` of ${run.total}`} records · {run.rows} rows · {run.calls} calls ·{' '}
            {NUMBER.format(perSecond)} a second{run.saved > 0 && ` · ${run.saved} saved by a lane`}
            {secondsLeft !== undefined &&
              secondsLeft !== null &&
              !onHold &&
              ` · about ${secondsLeft < 90 ? `${secondsLeft} s` : `${Math.round(secondsLeft / 60)} min`} left`}
          </span>
        </div>
      </div>
      <RunPlots runId={run.id} running={running} onRecord={setRecord} />
      <div className={css.sides}>
        {flow.data && <RunStages file={flow.data} stages={stages} chosen={stage} onChoose={pickStage} />}
        {(causes.data?.length ?? 0) > 0 && (
          <section className={css.causes}>
            {causes.data?.map((c) => (
              <div
                key={`${c.failureClass} ${c.cause} ${c.ended}`}
                className={`${css.cause} ${cause === c.cause ? css.on : ''}`}
              >
                <button
                  type="button"
                  className={css.causeName}
                  onClick={() => {
                    setCause(cause === c.cause ? undefined : c.cause);
                    setEnded('');
                    setSearch({}, { replace: true });
                    setPage(1);
                  }}
                >
                  <b className="bad num">{c.count} ×</b> <span className="clip grow">{c.cause}</span>{' '}
                  <span className="dim">
                    {c.ended === 'held-back' ? '' : c.failureClass}
                    {c.ended !== 'rejected' && c.ended !== 'held-back' && `, ${endLabel(c.ended)}`}
                  </span>
                </button>
                <Link
                  to={`/flows/${run.flowId}?stage=${c.stage ?? ''}&blame=${encodeURIComponent(c.blame ?? '')}`}
                >
                  {c.failureClass === 'condition' && c.blame
                    ? 'the condition →'
                    : c.blame
                      ? 'the fill →'
                      : 'the stage →'}
                </Link>
              </div>
            ))}
          </section>
        )}
      </div>
      <div className="row gap-around">
        <Segmented
          size="small"
          value={ended}
          onChange={pick}
          options={[
            { value: '', label: 'All' },
            ...ENDS.filter((e) => e.always || e.count(run) > 0).map((e) => ({
              value: e.ended,
              label: e.label[0].toUpperCase() + e.label.slice(1),
            })),
          ]}
        />
        {cause && (
          <button type="button" className="chip failure" onClick={() => setCause(undefined)}>
            {cause} ✕
          </button>
        )}
        {stage && (
          <button type="button" className="chip caution" onClick={() => pickStage(undefined)}>
            ended at {stage} ✕
          </button>
        )}
        <span className="grow" />
        <Input.Search
          size="small"
          allowClear
          placeholder="Key, number or message"
          className="field-2xl"
          onChange={(e) => {
            setText(e.target.value);
            setPage(1);
          }}
        />
      </div>
      <Table<LedgerLine>
        size="small"
        rowKey="ordinal"
        dataSource={lines.data?.items}
        loading={lines.isPending}
        onRow={(line) => ({ onClick: () => setRecord(line.ordinal), style: { cursor: 'pointer' } })}
        pagination={{
          current: page,
          pageSize: 50,
          total: lines.data?.total,
          onChange: setPage,
          showSizeChanger: false,
          size: 'small',
          hideOnSinglePage: true,
        }}
        columns={[
          {
            title: 'Record',
            dataIndex: 'ordinal',
            width: 76,
            align: 'right',
            render: (n: number) => <a onClick={() => setRecord(n)}>{n}</a>,
          },
          { title: 'Key', dataIndex: 'key', width: 150, ellipsis: true },
          {
            title: 'End',
            dataIndex: 'ended',
            width: 100,
            render: (e: string, line) => (
              <>
                {e === 'done' || e === 'left-out' ? endLabel(e) : <span className="bad">{endLabel(e)}</span>}
                {line.saved && <span className="dim"> · saved</span>}
              </>
            ),
          },
          { title: 'Class', dataIndex: 'failureClass', width: 110 },
          {
            title: 'What happened',
            ellipsis: true,
            render: (_, line) =>
              line.message ??
              (line.note ? (
                <span className="dim">note: {line.note}</span>
              ) : (
                <span className="faint">
                  {line.ended === 'left-out'
                    ? `at ${line.stage ?? ''}`
                    : `${line.rows} ${line.rows === 1 ? 'row' : 'rows'}`}
                </span>
              )),
          },
          { title: 'Calls', dataIndex: 'calls', width: 64, align: 'right' },
        ]}
      />
      {record !== undefined && (
        <RecordDrawer run={run} record={record} file={flow.data} onClose={() => setRecord(undefined)} />
      )}
    </div>
  );
}
