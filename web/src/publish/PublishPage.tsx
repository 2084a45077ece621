import { useQuery, useQueryClient } from '@tanstack/react-query';
import { App, Button, Input, Segmented, Skeleton, Table } from 'antd';
import { useState } from 'react';
import { useParams, useSearchParams } from 'react-router';
import { api } from '../api/client';
import type { Need, Page, Publication, PublishComparison } from '../api/types';
import { LIVE } from '../flows/useStartRun';
import { EnvironmentName, useEnvironment, useEnvironments, useLive } from '../shared/environment';
import { Trouble, When } from '../shared/parts';
import { useMe } from '../shared/useMe';
import { Differences } from './Differences';
import { FlowHead } from './FlowHead';
import { NeedList } from './NeedList';
import css from './publish.module.css';

/** Puts a revision into force: what differs from the one that is, what its environment lacks, and what was before. */
export function PublishPage() {
  const { id = '' } = useParams();
  const client = useQueryClient();
  const { message, modal } = App.useApp();
  const chosen = useEnvironment();
  const environments = useEnvironments();
  const live = useLive();
  const me = useMe();
  const [search, setSearch] = useSearchParams();
  const environment = search.get('environment') ?? chosen;
  const [note, setNote] = useState('');
  const [tried, setTried] = useState(false);
  const [error, setError] = useState<unknown>();
  const [busy, setBusy] = useState(false);
  const comparison = useQuery({
    queryKey: ['comparison', id, environment],
    queryFn: () =>
      api.get<PublishComparison>(`/flows/${id}/publications/${encodeURIComponent(environment)}/comparison`),
  });
  const needs = useQuery({
    queryKey: ['readiness', id, environment, tried],
    queryFn: ({ signal }) =>
      api.get<Need[]>(
        `/flows/${id}/readiness?environment=${encodeURIComponent(environment)}&tried=${tried}`,
        signal,
      ),
  });
  const inForce = comparison.data?.inForce;
  const revision = comparison.data?.revision;
  const missing = needs.data?.filter((n) => n.state === 'missing') ?? [];
  const mayPublish = me.build && me.run.includes(environment);
  const match = { 'If-Match': `"${inForce?.id ?? 0}"` };
  const act = async (work: () => Promise<unknown>, said: string) => {
    setError(undefined);
    setBusy(true);
    try {
      await work();
      setNote('');
      void message.success(said);
    } catch (e) {
      setError(e);
    }
    setBusy(false);
    await client.invalidateQueries();
  };
  const send = (path: string, body: unknown) =>
    api.post(`/flows/${id}/publications${path}`, body, undefined, match);
  const publish = (anyway = false) =>
    act(
      () => send('', { environment, revision, note, anyway }),
      `Revision ${revision} is in force in ${environment}`,
    );
  const ask = () => {
    if (missing.length === 0 && !live(environment)) {
      void publish();
      return;
    }
    modal.confirm({
      title: `Publish revision ${revision} in ${environment}?`,
      content:
        missing.length > 0
          ? `Missing there: ${missing.map((n) => n.name).join(', ')}. Runs are refused until that is mended.`
          : inForce
            ? `It takes the place of revision ${inForce.revision}. Triggers run it from now on.`
            : 'Triggers run it from now on.',
      okText: `Publish in ${environment}`,
      okButtonProps: live(environment) ? { style: LIVE } : {},
      onOk: () => publish(missing.length > 0),
    });
  };
  const path = encodeURIComponent(environment);
  const takeBack = () => act(() => send(`/${path}/take-back`, { note }), `Taken back in ${environment}`);
  const end = () =>
    modal.confirm({
      title: `Take this flow out of force in ${environment}?`,
      content: 'Its triggers there start nothing any more, until something is published again.',
      okText: 'Take out of force',
      okButtonProps: { danger: true },
      onOk: () => act(() => send(`/${path}/end`, { note }), `Nothing is in force in ${environment}`),
    });
  return (
    <div className="page">
      <FlowHead id={id}>
        <Segmented
          value={environment}
          onChange={(e) => {
            setSearch({ environment: String(e) });
            setTried(false);
          }}
          options={environments.map((e) => ({ value: e.name, label: <EnvironmentName of={e} /> }))}
        />
      </FlowHead>
      <Trouble error={error ?? comparison.error} retry={() => void comparison.refetch()} />
      {comparison.isPending ? (
        <Skeleton active />
      ) : (
        <>
          <div className="row gap-below">
            <span className="grow">
              {inForce ? (
                <>
                  In force in {environment}: <b>revision {inForce.revision}</b>,{' '}
                  <span className="dim">
                    since <When at={inForce.publishedAt} /> by {inForce.publishedBy}
                    {inForce.note && `: ${inForce.note}`}
                  </span>
                </>
              ) : (
                <span className="dim">Nothing of this flow is in force in {environment}.</span>
              )}
            </span>
            {inForce && mayPublish && (
              <>
                <Button size="small" type="text" onClick={end}>
                  Take out of force
                </Button>
                <Button size="small" loading={busy} onClick={() => void takeBack()}>
                  Take back
                </Button>
              </>
            )}
            <Input
              className="field-4xl"
              aria-label="Note"
              placeholder="Why, for whoever looks later"
              value={note}
              onChange={(e) => setNote(e.target.value)}
            />
            <Button
              type="primary"
              style={live(environment) ? LIVE : undefined}
              loading={busy}
              disabled={!mayPublish || needs.isPending}
              title={mayPublish ? undefined : `You may not publish in ${environment}`}
              onClick={ask}
            >
              Publish revision {revision} in {environment}
            </Button>
          </div>
          <div className={css.columns}>
            <section>
              <h2 className={css.title}>
                {inForce ? `What changes from revision ${inForce.revision} to ${revision}` : 'What changes'}
              </h2>
              {inForce ? (
                <Differences stages={comparison.data?.stages ?? []} uses={comparison.data?.uses} />
              ) : (
                <p className="dim">It is the first to be in force here.</p>
              )}
            </section>
            <section>
              <div className="row">
                <h2 className={`${css.title} grow`}>What it needs in {environment}</h2>
                <Button size="small" loading={tried && needs.isFetching} onClick={() => setTried(true)}>
                  Try all of it
                </Button>
              </div>
              <Trouble error={needs.error} />
              {needs.isPending ? <Skeleton active /> : <NeedList needs={needs.data ?? []} />}
            </section>
          </div>
          <History id={id} />
        </>
      )}
    </div>
  );
}

/** All that was ever in force, in all environments. */
function History({ id }: { id: string }) {
  const [page, setPage] = useState(1);
  const list = useQuery({
    queryKey: ['publications', id, page],
    queryFn: () => api.get<Page<Publication>>(`/flows/${id}/publications/history?page=${page}&size=10`),
  });
  if (!list.data?.total) return null;
  return (
    <>
      <h2 className={css.title}>What was in force</h2>
      <Table<Publication>
        size="small"
        rowKey="id"
        dataSource={list.data.items}
        pagination={{
          current: page,
          pageSize: 10,
          total: list.data.total,
          onChange: setPage,
          hideOnSinglePage: true,
        }}
        columns={[
          { title: 'Since', width: 150, render: (_, p) => <When at={p.publishedAt} /> },
          { title: 'Environment', width: 130, dataIndex: 'environment' },
          {
            title: 'Revision',
            width: 90,
            align: 'right',
            render: (_, p) => p.revision ?? <span className="faint">none</span>,
          },
          { title: 'By', width: 120, dataIndex: 'publishedBy' },
          { title: 'Why', dataIndex: 'note' },
        ]}
      />
    </>
  );
}
