import { Button, Input, Table } from 'antd';
import { type ReactNode, useState } from 'react';
import type { EnvironmentOf } from '../api/types';
import { EnvironmentName } from '../shared/environment';

export type Entries = Record<string, string>;

/** What all environments have under the same names, side by side: what one lacks is seen at once. */
export function EnvironmentGrid({
  all,
  editable,
  title,
  says,
  empty,
  thing,
  newName,
  entries,
  cell,
  onChange,
}: {
  all: EnvironmentOf[];
  editable: boolean;
  title: string;
  says: ReactNode;
  empty: string;
  /** What is named, as in *value*. */
  thing: string;
  /** Names something new; `add` is called with its name. */
  newName: (add: (name: string) => void, taken: string[]) => ReactNode;
  entries: (of: EnvironmentOf) => Entries;
  cell: (of: EnvironmentOf, name: string, value: string | undefined, save: (to: string) => void) => ReactNode;
  onChange: (of: EnvironmentOf, entries: Entries) => Promise<void>;
}) {
  const [added, setAdded] = useState<string[]>([]);
  const [find, setFind] = useState('');
  const known = [...new Set([...all.flatMap((e) => Object.keys(entries(e))), ...added])].sort();
  const names = known.filter((n) => n.toLowerCase().includes(find.toLowerCase()));
  const without = (of: EnvironmentOf, name: string) =>
    Object.fromEntries(Object.entries(entries(of)).filter(([n]) => n !== name));
  const remove = async (name: string) => {
    for (const each of all) if (name in entries(each)) await onChange(each, without(each, name));
    setAdded(added.filter((n) => n !== name));
  };
  return (
    <>
      <div className="row gap-above gap-below">
        <h3>{title}</h3>
        <p className="dim grow">{says}</p>
        {editable && newName((name) => setAdded([...added, name]), known)}
        <Input.Search
          allowClear
          className="field-l"
          placeholder={`Find a ${thing}`}
          onChange={(e) => setFind(e.target.value)}
        />
      </div>
      <Table<string>
        size="small"
        rowKey={(n) => n}
        dataSource={names}
        pagination={{ pageSize: 20, hideOnSinglePage: true }}
        locale={{ emptyText: empty }}
        columns={[
          { title: 'Name', width: 200, render: (_, n) => <span className="mono">{n}</span> },
          ...all.map((e) => ({
            title: <EnvironmentName of={e} />,
            key: e.name,
            render: (_: unknown, n: string) =>
              cell(e, n, entries(e)[n], (to) => {
                if (to !== (entries(e)[n] ?? ''))
                  void onChange(e, to || thing === 'value' ? { ...entries(e), [n]: to } : without(e, n));
              }),
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
