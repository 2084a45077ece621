import { useQueryClient } from '@tanstack/react-query';
import { App, Button, Input, Table } from 'antd';
import { Link } from 'react-router';
import { api } from '../api/client';
import type { Alert } from '../api/types';
import { Find, usePaged } from '../shared/paged';
import { Trouble, When } from '../shared/parts';

/** What was told, the newest first, and who looks after it. */
export function AlertList({ flow, open }: { flow?: string; open: boolean }) {
  const client = useQueryClient();
  const { modal, message } = App.useApp();
  const paged = usePaged<Alert>('alerts', { flow: flow ?? '', open: String(open) }, 5_000);
  const acknowledge = (alert: Alert) => {
    let note = '';
    modal.confirm({
      title: 'Look after it',
      content: (
        <>
          <p>{alert.subject}</p>
          <Input
            autoFocus
            aria-label="Note"
            placeholder="What you do about it, if you like"
            onChange={(e) => {
              note = e.target.value;
            }}
          />
        </>
      ),
      okText: 'I look after it',
      onOk: async () => {
        try {
          await api.post(`/alerts/${alert.id}/acknowledge`, { note });
        } catch (e) {
          void message.error(e instanceof Error ? e.message : String(e), 8);
        }
        await client.invalidateQueries({ queryKey: ['alerts'] });
        await client.invalidateQueries({ queryKey: ['desk'] });
      },
    });
  };
  return (
    <>
      <div className="row gap-below">
        <span className="grow" />
        <Find placeholder="Find an alert" onFind={paged.find} />
      </div>
      <Trouble error={paged.list.error} />
      <Table<Alert>
        {...paged.table}
        locale={{
          emptyText: open ? 'Nothing waits for somebody to look after it.' : 'Nothing was told yet.',
        }}
        expandable={{
          rowExpandable: (a) => a.body !== '',
          expandedRowRender: (a) => <p className="keeps-lines">{a.body}</p>,
        }}
        columns={[
          { title: 'When', width: 150, render: (_, a) => <When at={a.raisedAt} /> },
          {
            title: 'What',
            render: (_, a) => (a.runId ? <Link to={`/runs/${a.runId}`}>{a.subject}</Link> : a.subject),
          },
          {
            title: 'Looked after by',
            width: 260,
            render: (_, a) =>
              a.acknowledgedBy ? (
                <>
                  {a.acknowledgedBy}, <When at={a.acknowledgedAt} />
                  {a.note && <div className="dim">{a.note}</div>}
                </>
              ) : (
                <Button size="small" onClick={() => acknowledge(a)}>
                  Look after it …
                </Button>
              ),
          },
        ]}
      />
    </>
  );
}
