import { Button, Input, Table } from 'antd';
import { useState } from 'react';
import type { EnvironmentOf } from '../api/types';
import { EnvironmentName } from '../shared/environment';

type Values = Record<string, string>;

/** The named values of all environments side by side: what one lacks is seen at once. */
export function NamedValueGrid({
  all,
  editable,
  onChange,
}: {
  all: EnvironmentOf[];
  editable: boolean;
  onChange: (of: EnvironmentOf, values: Values) => Promise<void>;
}) {
  const [added, setAdded] = useState<string[]>([]);
  const [name, setName] = useState('');
  const [find, setFind] = useState('');
  const names = [...new Set([...all.flatMap((e) => Object.keys(e.values)), ...added])]
    .filter((n) => n.toLowerCase().includes(find.toLowerCase()))
    .sort();
  const add = () => {
    setAdded([...added, name.trim()]);
    setName('');
  };
  const remove = async (of: string) => {
    for (const each of all)
      if (of in each.values)
        await onChange(each, Object.fromEntries(Object.entries(each.values).filter(([n]) => n !== of)));
    setAdded(added.filter((n) => n !== of));
  };
  return (
    <>
      <div className="row gap-above gap-below">
        <h3>Named values</h3>
        <p className="dim grow">
          Constants that differ between environments. A flow reaches them as{' '}
          <span className="mono">$env/name</span>.
        </p>
        {editable && (
          <>
            <Input
              className="mono field-l"
              placeholder="company_no"
              aria-label="New value"
              value={name}
              onChange={(e) => setName(e.target.value)}
              onPressEnter={() => name.trim() && add()}
            />
            <Button disabled={!name.trim()} onClick={add}>
              Add a value
            </Button>
          </>
        )}
        <Input.Search
          allowClear
          className="field-l"
          placeholder="Find a value"
          onChange={(e) => setFind(e.target.value)}
        />
      </div>
      <Table<string>
        size="small"
        rowKey={(n) => n}
        dataSource={names}
        pagination={{ pageSize: 20, hideOnSinglePage: true }}
        locale={{ emptyText: 'None yet: a company number, a mailbox, the name of a tenant.' }}
        columns={[
          { title: 'Name', width: 200, render: (_, n) => <span className="mono">{n}</span> },
          ...all.map((e) => ({
            title: <EnvironmentName of={e} />,
            key: e.name,
            render: (_: unknown, n: string) => (
              <Input
                key={e.values[n]}
                size="small"
                className="mono"
                aria-label={`${n} in ${e.name}`}
                placeholder="not set"
                disabled={!editable}
                defaultValue={e.values[n]}
                onPressEnter={(event) => event.currentTarget.blur()}
                onBlur={(event) =>
                  event.target.value !== (e.values[n] ?? '') &&
                  void onChange(e, { ...e.values, [n]: event.target.value })
                }
              />
            ),
          })),
          {
            width: 90,
            align: 'right' as const,
            render: (_, n) =>
              editable && (
                <Button size="small" type="text" onClick={() => void remove(n)}>
                  Remove
                </Button>
              ),
          },
        ]}
      />
    </>
  );
}
