import { useQueryClient } from '@tanstack/react-query';
import { App, Button, Input, Select, Switch, Table } from 'antd';
import { useState } from 'react';
import { api } from '../api/client';
import type { EnvironmentOf } from '../api/types';
import { EnvironmentName, SIMULATOR, useEnvironments } from '../shared/environment';
import { Trouble } from '../shared/parts';
import { useMe } from '../shared/useMe';
import { NamedValues, StandIns, StandInSecrets } from './EnvironmentEntries';

const COLOURS = ['slate', 'moss', 'ink', 'plum', 'ochre', 'teal'];

type Change = Partial<
  Pick<EnvironmentOf, 'colour' | 'position' | 'live' | 'values' | 'datasets' | 'secrets'>
>;

/** The environments in their order, and the values each of them has. */
export function Environments() {
  const client = useQueryClient();
  const { modal } = App.useApp();
  const me = useMe();
  const all = useEnvironments();
  const [name, setName] = useState('');
  const [error, setError] = useState<unknown>();
  const act = async (work: Promise<unknown>) => {
    setError(undefined);
    try {
      await work;
    } catch (e) {
      setError(e);
    }
    await client.invalidateQueries({ queryKey: ['environments'] });
  };
  const change = (of: EnvironmentOf, part: Change) =>
    act(api.put(`/environments/${encodeURIComponent(of.name)}`, part, { 'If-Match': `"${of.version}"` }));
  const add = async () => {
    await act(api.post('/environments', { name }));
    setName('');
  };
  const up = async (at: number) => {
    const order = [...all];
    const [moved] = order.splice(at, 1);
    if (!moved) return;
    order.splice(at - 1, 0, moved);
    for (const [i, each] of order.entries())
      if (each.position !== i + 1) await change(each, { position: i + 1 });
  };
  const remove = (of: EnvironmentOf) =>
    modal.confirm({
      title: `Remove ${of.name}?`,
      content:
        'Its values, what endpoints have there and the rights to run there go with it. Its runs stay to be read.',
      okText: 'Remove',
      okButtonProps: { danger: true },
      onOk: () => act(api.remove(`/environments/${encodeURIComponent(of.name)}`)),
    });
  return (
    <>
      <div className="row gap-below">
        <p className="dim grow">
          Where flows run and operations are called. Endpoints, rights, series and watermarks are kept for
          each; what is <b>live</b> is for real, and asked about first.
        </p>
        {me.manage && (
          <>
            <Input
              className="field-l"
              placeholder="New environment"
              aria-label="New environment"
              value={name}
              onChange={(e) => setName(e.target.value)}
              onPressEnter={() => name.trim() && void add()}
            />
            <Button disabled={!name.trim()} onClick={() => void add()}>
              Add
            </Button>
          </>
        )}
      </div>
      <Trouble error={error} />
      <Table<EnvironmentOf>
        size="small"
        rowKey="name"
        dataSource={all}
        pagination={false}
        columns={[
          { title: 'Environment', render: (_, e) => <EnvironmentName of={e} /> },
          {
            title: 'Shown in',
            width: 150,
            render: (_, e) => (
              <Select
                size="small"
                className="field-m"
                aria-label={`Colour of ${e.name}`}
                disabled={!me.manage}
                value={e.colour}
                onChange={(colour) => void change(e, { colour })}
                options={COLOURS.map((colour) => ({
                  value: colour,
                  label: (
                    <span className={`environment env-${colour}`}>
                      <i>●</i> {colour}
                    </span>
                  ),
                }))}
              />
            ),
          },
          {
            title: 'Live',
            width: 90,
            render: (_, e) =>
              e.name === SIMULATOR ? (
                <span className="faint">never</span>
              ) : (
                <Switch
                  size="small"
                  aria-label={`${e.name} is live`}
                  disabled={!me.manage}
                  checked={e.live}
                  onChange={(live) => void change(e, { live })}
                />
              ),
          },
          { title: 'Values', width: 80, align: 'right', render: (_, e) => Object.keys(e.values).length },
          {
            width: 170,
            align: 'right',
            render: (_, e, at) =>
              me.manage && (
                <>
                  {at > 0 && (
                    <Button
                      size="small"
                      type="text"
                      aria-label={`Move ${e.name} up`}
                      onClick={() => void up(at)}
                    >
                      Move up
                    </Button>
                  )}
                  {e.name !== SIMULATOR && (
                    <Button size="small" type="text" danger onClick={() => remove(e)}>
                      Remove
                    </Button>
                  )}
                </>
              ),
          },
        ]}
      />
      <NamedValues all={all} editable={me.manage} onChange={(of, values) => change(of, { values })} />
      <StandIns all={all} editable={me.manage} onChange={(of, datasets) => change(of, { datasets })} />
      <StandInSecrets all={all} editable={me.manage} onChange={(of, secrets) => change(of, { secrets })} />
    </>
  );
}
