import { useQuery } from '@tanstack/react-query';
import { Button, Segmented, Select, Table, Tabs } from 'antd';
import { useState } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';
import { api } from '../api/client';
import type { Page, Traffic, Trigger } from '../api/types';
import { FlowHead } from '../publish/FlowHead';
import { EnvironmentName, useEnvironments } from '../shared/environment';
import { Nothing, Trouble, When } from '../shared/parts';
import { TimePlot } from '../shared/TimePlot';
import { AskPanel } from './AskPanel';
import { CallerKeys } from './CallerKeys';
import css from './callers.module.css';
import { SoapAddress } from './OfferDialog';
import { OfferFields, type OpenApi } from './OfferFields';

const PERIODS = [
  { value: 60, label: 'An hour' },
  { value: 1_440, label: 'A day' },
  { value: 10_080, label: 'A week' },
  { value: 44_640, label: 'A month' },
];

/** A flow that answers callers: who asked what it, how fast it answered, and the address to read and try. */
export function CallersPage() {
  const { id = '' } = useParams();
  const [params, setParams] = useSearchParams();
  const list = useQuery({
    queryKey: ['triggers', 'callers', id],
    queryFn: () => api.get<Page<Trigger>>(`/triggers?flow=${id}&size=200`),
  });
  const all = list.data?.items.filter((t) => t.kind === 'http' || t.kind === 'queue') ?? [];
  const trigger = all.find((t) => String(t.id) === params.get('at')) ?? all[0];
  const put = (key: string, value: string) => {
    params.set(key, value);
    setParams(params, { replace: true });
  };
  return (
    <div className="page">
      <FlowHead id={id}>
        {all.length > 1 && trigger && (
          <Select
            className="field-3xl"
            aria-label="Path"
            value={trigger.id}
            options={all.map((t) => ({
              value: t.id,
              label: t.spec.queue ? `the queue ${t.spec.queue.name}` : `/serve/${t.spec.path}`,
            }))}
            onChange={(at) => put('at', String(at))}
          />
        )}
      </FlowHead>
      <Trouble error={list.error} />
      {!list.isPending && !trigger && (
        <Nothing
          title="This flow answers nobody yet"
          action={
            <Link to={`/flows/${id}/triggers`}>
              <Button type="primary">Add a trigger</Button>
            </Link>
          }
        >
          Publish it, and add a trigger of the kind “A caller” or “A message”: it says at which path, or in
          which queue, it is asked.
        </Nothing>
      )}
      {trigger && (
        <>
          <Address trigger={trigger} />
          <Tabs
            size="small"
            activeKey={(trigger.spec.path && params.get('show')) || 'seen'}
            onChange={(show) => put('show', show)}
            items={[
              { key: 'seen', label: 'What was asked', children: <Seen trigger={trigger} /> },
              { key: 'try', label: 'Read and try', children: <ReadAndTry trigger={trigger} /> },
              {
                key: 'keys',
                label: 'Keys',
                children: <CallerKeys trigger={trigger.id} page={trigger.spec.page && trigger.spec.path} />,
              },
            ].filter((tab) => trigger.spec.path || tab.key === 'seen')}
          />
        </>
      )}
    </div>
  );
}

function Address({ trigger }: { trigger: Trigger }) {
  const its = useEnvironments().find((e) => e.name === trigger.environment);
  return (
    <div className="row gap-below-s">
      <span className="mono strong">
        {trigger.spec.queue
          ? `${trigger.spec.queue.name} at ${trigger.spec.queue.endpoint}`
          : `${trigger.spec.get ? 'GET, POST' : 'POST'} /serve/${trigger.spec.path}`}
      </span>
      {its && <EnvironmentName of={its} />}
      {trigger.inForce ? (
        <span className="dim">revision {trigger.inForce} answers</span>
      ) : (
        <Link to={`/flows/${trigger.flowId}/publish?environment=${trigger.environment}`}>
          nothing is in force: publish it
        </Link>
      )}
      {trigger.spec.page && trigger.active && <Link to={`/pages/${trigger.id}`}>the page for people</Link>}
      {!trigger.active && <span className="chip failure">not active</span>}
    </div>
  );
}

const ms = (value: number | undefined) =>
  value === undefined ? '' : `${value < 10 ? value.toFixed(1) : Math.round(value)} ms`;

function Seen({ trigger }: { trigger: Trigger }) {
  const [minutes, setMinutes] = useState(60);
  const traffic = useQuery({
    queryKey: ['traffic', trigger.id, minutes],
    queryFn: () => api.get<Traffic>(`/triggers/${trigger.id}/traffic?minutes=${minutes}`),
    refetchInterval: 5_000,
    placeholderData: (b) => b,
  });
  const seen = traffic.data;
  return (
    <>
      <Trouble error={traffic.error} />
      <div className="row gap-below-s">
        <Segmented size="small" value={minutes} options={PERIODS} onChange={setMinutes} />
        {seen && (
          <span className="dim" aria-label="Requests">
            {seen.requests} requests, {seen.failed} of them with a status of 400 and above
            {seen.median !== undefined &&
              ` · median ${ms(seen.median)}, 95 of 100 within ${ms(seen.most)}, 99 within ${ms(seen.nearlyAll)}`}
          </span>
        )}
        <span className="grow" />
        <Link to={`/runs?flow=${trigger.flowId}`}>Runs, a day each</Link>
      </div>
      {seen && seen.requests === 0 && (
        <Nothing title="Nobody asked in this time">
          What callers ask is counted here within seconds; their records stand in a run of the day.
        </Nothing>
      )}
      {seen && seen.requests > 0 && (
        <>
          <section className={css.plots} aria-label="over time">
            <TimePlot
              clock
              title="Requests a minute (red: status 400 and above)"
              steps={seen.steps}
              lines={[
                { name: 'requests', stroke: '#2f6f63', of: (s) => (s.requests * 60) / seen.seconds },
                { name: 'failed', stroke: '#b3312c', of: (s) => (s.failed * 60) / seen.seconds },
              ]}
            />
            <TimePlot
              clock
              title="Answered within, in ms: median, 95 and 99 of 100"
              steps={seen.steps}
              lines={[
                { name: 'median', stroke: '#2f6f63', of: (s) => s.median ?? null },
                { name: '95 %', stroke: '#8a6a12', of: (s) => s.most ?? null },
                { name: '99 %', stroke: '#b0673a', of: (s) => s.nearlyAll ?? null },
              ]}
            />
          </section>
          <section className={css.tables}>
            <Table
              size="small"
              rowKey="status"
              dataSource={seen.statuses}
              pagination={{ pageSize: 10, hideOnSinglePage: true }}
              columns={[
                {
                  title: 'Answer',
                  render: (_, s) => (
                    <>
                      <span className={`chip ${s.status < 400 ? 'fine' : 'failure'}`}>{s.status}</span>{' '}
                      <span className="dim">{MEANS[s.status]}</span>
                    </>
                  ),
                },
                { title: 'Requests', width: 90, align: 'right', dataIndex: 'requests' },
                { title: 'Median', width: 90, align: 'right', render: (_, s) => ms(s.median) },
              ]}
            />
            <Table
              size="small"
              rowKey="caller"
              dataSource={seen.callers}
              pagination={{ pageSize: 10, hideOnSinglePage: true }}
              columns={[
                {
                  title: 'Caller',
                  render: (_, c) => c.caller || <span className="faint">no key that counts</span>,
                },
                { title: 'Requests', width: 90, align: 'right', dataIndex: 'requests' },
                { title: '≥ 400', width: 70, align: 'right', dataIndex: 'failed' },
                { title: 'Median', width: 90, align: 'right', render: (_, c) => ms(c.median) },
                { title: 'Last', width: 130, render: (_, c) => <When at={c.last} /> },
              ]}
            />
          </section>
        </>
      )}
    </>
  );
}

const MEANS: Record<number, string> = {
  200: 'answered',
  202: 'taken, asked for later',
  204: 'done, nothing said',
  400: 'not as it should be',
  401: 'no key that counts',
  409: 'sent before',
  413: 'too large',
  415: 'another content type',
  422: 'rejected for what was sent',
  429: 'too many',
  502: 'the service failed',
  503: 'not just now',
  504: 'no answer in time',
};

function ReadAndTry({ trigger }: { trigger: Trigger }) {
  const document = useQuery({
    queryKey: ['offer', trigger.id, trigger.inForce],
    queryFn: () => api.get<OpenApi>(`/triggers/${trigger.id}/openapi`),
    enabled: Boolean(trigger.inForce),
  });
  if (!trigger.inForce) return <Nothing title="Nothing is in force">Publish a revision first.</Nothing>;
  return (
    <>
      <Trouble error={document.error} />
      {document.data && (
        <div className={css.read}>
          <div>
            {trigger.spec.soap && (
              <SoapAddress path={`/serve/${trigger.spec.soap.address ?? trigger.spec.path}`} />
            )}
            <OfferFields document={document.data} path={trigger.spec.path ?? ''} trigger={trigger.id} />
          </div>
          <AskPanel path={`/serve/${trigger.spec.path}`} known="" sample={sampleOf(document.data)} />
        </div>
      )}
    </>
  );
}

function sampleOf(document: OpenApi): string {
  const post = Object.values(document.paths)[0]?.post;
  return JSON.stringify(post?.requestBody?.content['application/json']?.example ?? {}, null, 2);
}
