import { useQueryClient } from '@tanstack/react-query';
import { App, Button, Switch, Table } from 'antd';
import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { api } from '../api/client';
import type { Run, Trigger } from '../api/types';
import { FlowHead } from '../publish/FlowHead';
import { EnvironmentName, useEnvironments } from '../shared/environment';
import { Find, usePaged } from '../shared/paged';
import { Nothing, Trouble, When } from '../shared/parts';
import { useMe } from '../shared/useMe';
import { CallerKeys } from '../serve/CallerKeys';
import { TriggerEvents } from './TriggerEvents';
import { TriggerForm } from './TriggerForm';
import { eventWords } from './triggerWords';

/** What starts a flow by itself, when next, and what each trigger did. */
export function TriggersPage() {
  const { id = '' } = useParams();
  const client = useQueryClient();
  const navigate = useNavigate();
  const { modal } = App.useApp();
  const me = useMe();
  const environments = useEnvironments();
  const [open, setOpen] = useState<Trigger | 'new'>();
  const [error, setError] = useState<unknown>();
  const paged = usePaged<Trigger>('triggers', { flow: id }, 5_000);
  const act = async (work: () => Promise<unknown>) => {
    setError(undefined);
    try {
      await work();
    } catch (e) {
      setError(e);
    }
    await client.invalidateQueries({ queryKey: ['triggers'] });
  };
  const runNow = (trigger: Trigger) =>
    act(async () => {
      const run = await api.post<Run>(`/triggers/${trigger.id}/run`);
      navigate(`/runs/${run.id}`);
    });
  const turn = (trigger: Trigger, active: boolean) =>
    act(() => api.put(`/triggers/${trigger.id}`, { active }, { 'If-Match': `"${trigger.version}"` }));
  const remove = (trigger: Trigger) =>
    modal.confirm({
      title: 'Remove this trigger?',
      content: `${trigger.words}, in ${trigger.environment}. What it started stays.`,
      okText: 'Remove',
      okButtonProps: { danger: true },
      onOk: () => act(() => api.remove(`/triggers/${trigger.id}`)),
    });
  const add = (
    <Button type="primary" disabled={!me.build} onClick={() => setOpen('new')}>
      Add a trigger
    </Button>
  );
  return (
    <div className="page">
      <FlowHead id={id}>
        <Find placeholder="Find a trigger" onFind={paged.find} />
        {!paged.none && add}
      </FlowHead>
      <Trouble error={error ?? paged.list.error} />
      {paged.none ? (
        <Nothing title="Nothing starts this flow by itself" action={add}>
          A clock, a file that comes to a folder, another flow’s end, a caller, or a message in a queue. A
          trigger runs what is published, never what is being edited.
        </Nothing>
      ) : (
        <Table<Trigger>
          {...paged.table}
          expandable={{
            expandedRowRender: (t) => (
              <>
                {t.kind === 'http' && <CallerKeys trigger={t.id} page={t.spec.page && t.spec.path} />}
                <TriggerEvents trigger={t} />
              </>
            ),
          }}
          columns={[
            {
              title: 'When',
              render: (_, t) => (
                <button type="button" className="linkish left" onClick={() => setOpen(t)}>
                  {t.words}
                </button>
              ),
            },
            {
              title: 'In',
              width: 130,
              render: (_, t) => {
                const its = environments.find((e) => e.name === t.environment);
                return its ? <EnvironmentName of={its} /> : t.environment;
              },
            },
            {
              title: 'Runs',
              width: 110,
              render: (_, t) =>
                t.inForce ? (
                  `revision ${t.inForce}`
                ) : (
                  <Link to={`/flows/${t.flowId}/publish?environment=${t.environment}`}>nothing yet</Link>
                ),
            },
            {
              title: 'Next',
              width: 170,
              render: (_, t) =>
                t.waiting ? 'when the run has ended' : t.next[0] ? <When at={t.next[0]} /> : '',
            },
            {
              title: 'Last',
              width: 220,
              render: (_, t) => t.last && <span className="dim">{eventWords(t.last)}</span>,
            },
            {
              title: 'Active',
              width: 70,
              render: (_, t) => (
                <Switch
                  size="small"
                  aria-label={`${t.words} is active`}
                  disabled={!me.build}
                  checked={t.active}
                  onChange={(active) => void turn(t, active)}
                />
              ),
            },
            {
              width: 170,
              align: 'right',
              render: (_, t) => (
                <>
                  {t.kind !== 'http' && t.kind !== 'queue' && (
                    <Button size="small" type="text" disabled={!t.inForce} onClick={() => void runNow(t)}>
                      Run now
                    </Button>
                  )}
                  <Button size="small" type="text" danger onClick={() => remove(t)}>
                    Remove
                  </Button>
                </>
              ),
            },
          ]}
        />
      )}
      {open && (
        <TriggerForm
          flowId={id}
          trigger={open === 'new' ? undefined : open}
          onClose={() => setOpen(undefined)}
          onSaved={() => {
            setOpen(undefined);
            void client.invalidateQueries({ queryKey: ['triggers'] });
          }}
        />
      )}
    </div>
  );
}
