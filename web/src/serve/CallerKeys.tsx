import { useQuery, useQueryClient } from '@tanstack/react-query';
import { App, Button, Input, InputNumber, Table, Typography } from 'antd';
import { useState } from 'react';
import { api } from '../api/client';
import type { CallerKey, MadeCallerKey } from '../api/types';
import { Trouble, When } from '../shared/parts';
import { useMe } from '../shared/useMe';

/** The keys callers show at one path: who has one, until when, and when it was used last. */
export function CallerKeys({
  trigger,
  page,
}: {
  trigger: number;
  /** The path of the page for people, where there is one: a key makes a link to it. */
  page?: string;
}) {
  const client = useQueryClient();
  const { modal } = App.useApp();
  const me = useMe();
  const [name, setName] = useState('');
  const [until, setUntil] = useState('');
  const [aMinute, setAMinute] = useState<number | null>(null);
  const [made, setMade] = useState<MadeCallerKey>();
  const [error, setError] = useState<unknown>();
  const list = useQuery({
    queryKey: ['caller-keys', trigger],
    queryFn: () => api.get<CallerKey[]>(`/triggers/${trigger}/keys`),
  });
  const act = async (work: () => Promise<void>) => {
    setError(undefined);
    try {
      await work();
    } catch (e) {
      setError(e);
    }
    await client.invalidateQueries({ queryKey: ['caller-keys', trigger] });
  };
  const make = () =>
    act(async () => {
      const endsAt = until ? new Date(until).toISOString() : undefined;
      setMade(
        await api.post<MadeCallerKey>(`/triggers/${trigger}/keys`, {
          name,
          endsAt,
          aMinute: aMinute ?? undefined,
        }),
      );
      setName('');
      setUntil('');
      setAMinute(null);
    });
  const good = (key: CallerKey, now?: number) =>
    act(() =>
      api.put(`/triggers/${trigger}/keys/${key.id}`, { name: key.name, endsAt: key.endsAt, aMinute: now }),
    );
  const remove = (key: CallerKey) =>
    modal.confirm({
      title: `Remove the key of ${key.name}?`,
      content: 'Whoever has it is refused from now on.',
      okText: 'Remove',
      okButtonProps: { danger: true },
      onOk: () => act(() => api.remove(`/triggers/${trigger}/keys/${key.id}`)),
    });
  return (
    <div className="gap-below">
      <div className="row gap-below-s">
        <b className="grow">Keys of callers</b>
        {me.build && (
          <>
            <Input
              size="small"
              className="field-xl"
              aria-label="Who gets the key"
              placeholder="who gets it"
              value={name}
              onChange={(e) => setName(e.target.value)}
              onPressEnter={() => name.trim() && void make()}
            />
            <Input
              size="small"
              type="datetime-local"
              className="field-xl"
              aria-label="Key ends"
              title="when it ends; never where empty"
              value={until}
              onChange={(e) => setUntil(e.target.value)}
            />
            <InputNumber
              size="small"
              className="field-l"
              aria-label="Requests a minute"
              placeholder="a minute"
              title="how many requests a minute it is good for; any number where empty"
              min={1}
              max={60_000}
              precision={0}
              value={aMinute}
              onChange={setAMinute}
            />
            <Button size="small" disabled={!name.trim()} onClick={() => void make()}>
              Make a key
            </Button>
          </>
        )}
      </div>
      <Trouble error={error ?? list.error} />
      {made && (
        <p>
          The key of {made.name} is{' '}
          <Typography.Text code copyable>
            {made.key}
          </Typography.Text>
          : it is told this once.
          {page && (
            <>
              {' '}
              The page with it:{' '}
              <Typography.Text copyable>
                {`${window.location.origin}/ask/${page}#${made.key}`}
              </Typography.Text>
            </>
          )}
        </p>
      )}
      <Table<CallerKey>
        size="small"
        rowKey="id"
        loading={list.isPending}
        dataSource={list.data}
        pagination={{ pageSize: 10, hideOnSinglePage: true }}
        locale={{ emptyText: 'Nobody has a key yet.' }}
        columns={[
          { title: 'Caller', dataIndex: 'name', sorter: (a, b) => a.name.localeCompare(b.name) },
          {
            title: 'Until',
            width: 170,
            render: (_, k) => (k.endsAt ? <When at={k.endsAt} /> : <span className="faint">no end</span>),
          },
          {
            title: 'A minute',
            width: 110,
            render: (_, k) =>
              me.build ? (
                <InputNumber
                  size="small"
                  className="field-m"
                  aria-label={`Requests a minute of ${k.name}`}
                  placeholder="any"
                  min={1}
                  max={60_000}
                  precision={0}
                  defaultValue={k.aMinute}
                  onBlur={(e) => {
                    const now = e.target.value ? Number(e.target.value) : undefined;
                    if (now !== (k.aMinute ?? undefined)) void good(k, now);
                  }}
                />
              ) : (
                (k.aMinute ?? <span className="faint">any</span>)
              ),
          },
          {
            title: 'Used last',
            width: 170,
            render: (_, k) => (k.usedAt ? <When at={k.usedAt} /> : <span className="faint">never</span>),
          },
          {
            title: 'Made',
            width: 240,
            render: (_, k) => (
              <>
                <When at={k.madeAt} /> <span className="dim">by {k.madeBy}</span>
              </>
            ),
          },
          {
            width: 90,
            render: (_, k) =>
              me.build && (
                <Button size="small" type="text" danger onClick={() => remove(k)}>
                  Remove
                </Button>
              ),
          },
        ]}
      />
    </div>
  );
}
