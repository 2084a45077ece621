import { useQueryClient } from '@tanstack/react-query';
import { App, Button, Switch, Table } from 'antd';
import { useState } from 'react';
import { api } from '../api/client';
import type { AlertRule } from '../api/types';
import { Find, usePaged } from '../shared/paged';
import { Nothing, Trouble } from '../shared/parts';
import { useMe } from '../shared/useMe';
import { ALERT_KINDS, ruleWords } from './alertWords';
import { RuleForm } from './RuleForm';

/** When somebody is told, and whom; of a flow also what is told of every flow. */
export function AlertRules({ flow }: { flow?: string }) {
  const client = useQueryClient();
  const { modal, message } = App.useApp();
  const me = useMe();
  const [open, setOpen] = useState<AlertRule | 'new'>();
  const [error, setError] = useState<unknown>();
  const paged = usePaged<AlertRule>('alert-rules', { flow: flow ?? '' });
  const again = () => client.invalidateQueries({ queryKey: ['alert-rules'] });
  const act = async (work: () => Promise<unknown>, said?: string) => {
    setError(undefined);
    try {
      await work();
      if (said) void message.success(said);
    } catch (e) {
      setError(e);
    }
    await again();
  };
  const remove = (rule: AlertRule) =>
    modal.confirm({
      title: 'Remove this rule?',
      content: 'Nobody is told of it any more. What was told stays.',
      okText: 'Remove',
      okButtonProps: { danger: true },
      onOk: () => act(() => api.remove(`/alert-rules/${rule.id}`)),
    });
  const add = (
    <Button type="primary" disabled={!me.build} onClick={() => setOpen('new')}>
      Add a rule
    </Button>
  );
  return (
    <>
      <Trouble error={error ?? paged.list.error} />
      {paged.none ? (
        <Nothing title="Nobody is told of anything" action={add}>
          A run that fails is seen by whoever looks. A rule tells somebody who does not: that it failed, that
          too much was rejected, or that it did not happen at all.
        </Nothing>
      ) : (
        <>
          <div className="row gap-below">
            {add}
            <span className="grow" />
            <Find placeholder="Find a rule" onFind={paged.find} />
          </div>
          <Table<AlertRule>
            {...paged.table}
            columns={[
              {
                title: 'When',
                render: (_, r) => (
                  <>
                    <button type="button" className="linkish left" onClick={() => setOpen(r)}>
                      {ALERT_KINDS[r.kind] ?? r.kind}
                    </button>
                    <div className="dim">{ruleWords(r.kind, r.spec)}</div>
                  </>
                ),
              },
              {
                title: 'Of',
                width: 220,
                render: (_, r) => r.flowName ?? <span className="dim">every flow</span>,
              },
              {
                title: 'In',
                width: 110,
                render: (_, r) => r.environment ?? <span className="dim">all</span>,
              },
              {
                title: 'Told',
                render: (_, r) => (
                  <>
                    {r.spec.mail?.join(', ')} {r.spec.hook && <span className="mono">{r.spec.hook}</span>}
                    <div className="faint">
                      and the Desk{r.spec.quietFrom && `, quiet ${r.spec.quietFrom} to ${r.spec.quietTo}`}
                    </div>
                  </>
                ),
              },
              {
                title: 'Active',
                width: 70,
                render: (_, r) => (
                  <Switch
                    size="small"
                    aria-label={`${r.kind} is active`}
                    disabled={!me.build}
                    checked={r.active}
                    onChange={(active) =>
                      void act(() =>
                        api.put(`/alert-rules/${r.id}`, { active }, { 'If-Match': `"${r.version}"` }),
                      )
                    }
                  />
                ),
              },
              {
                width: 170,
                align: 'right',
                render: (_, r) => (
                  <>
                    <Button
                      size="small"
                      type="text"
                      onClick={() =>
                        void act(() => api.post(`/alert-rules/${r.id}/try`), 'A message is on its way')
                      }
                    >
                      Try it
                    </Button>
                    <Button size="small" type="text" danger onClick={() => remove(r)}>
                      Remove
                    </Button>
                  </>
                ),
              },
            ]}
          />
        </>
      )}
      {open && (
        <RuleForm
          flow={flow}
          rule={open === 'new' ? undefined : open}
          onClose={() => setOpen(undefined)}
          onSaved={() => {
            setOpen(undefined);
            void again();
          }}
        />
      )}
    </>
  );
}
