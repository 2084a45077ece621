import { useQueryClient } from '@tanstack/react-query';
import { App, Button, Table, type TableProps } from 'antd';
import { useState, type ReactNode } from 'react';
import { api } from '../api/client';
import { Find, usePaged } from './paged';
import { Nothing, Trouble, When } from './parts';

type Named = { id: number; name: string; changedAt: string; changedBy: string };

/** What a list of things with a name says. */
type Says = {
  /** Its path in the API. */
  of: string;
  /** One of them, with its article. */
  one: string;
  intro: ReactNode;
  none: string;
  whereFrom: string;
  /** What happens when one is removed. */
  removing: string;
};

/** A list of things that have a name and were changed by somebody: searched, sorted, paged; one is added or removed. */
export function NamedList<T extends Named>({
  says,
  columns,
  name,
  expandable,
  error,
  onAdd,
}: {
  says: Says;
  columns: TableProps<T>['columns'];
  /** Shows the name, by which it is opened. */
  name: (row: T) => ReactNode;
  expandable?: TableProps<T>['expandable'];
  error?: unknown;
  onAdd: () => void;
}) {
  const client = useQueryClient();
  const { modal } = App.useApp();
  const [sort, setSort] = useState('name');
  const paged = usePaged<T>(says.of, { sort });
  const remove = (row: T) =>
    modal.confirm({
      title: `Remove ${row.name}?`,
      content: says.removing,
      okText: 'Remove',
      okButtonProps: { danger: true },
      onOk: async () => {
        await api.remove(`/${says.of}/${row.id}`);
        await client.invalidateQueries({ queryKey: [says.of] });
      },
    });
  const add = (
    <Button type="primary" onClick={onAdd}>
      Add {says.one}
    </Button>
  );
  return (
    <>
      <p className="dim">{says.intro}</p>
      <Trouble error={error ?? paged.list.error} />
      {paged.none ? (
        <Nothing title={says.none} action={add}>
          {says.whereFrom}
        </Nothing>
      ) : (
        <>
          <div className="row gap-below">
            {add}
            <span className="grow" />
            <Find placeholder={`Find ${says.one}`} onFind={paged.find} />
          </div>
          <Table<T>
            {...paged.table}
            onChange={(_, __, sorter) =>
              setSort(
                !Array.isArray(sorter) && sorter.field === 'changedAt' && sorter.order ? 'changed' : 'name',
              )
            }
            expandable={expandable}
            columns={[
              { title: 'Name', dataIndex: 'name', sorter: true, render: (_, row) => name(row) },
              ...(columns ?? []),
              {
                title: 'Changed',
                dataIndex: 'changedAt',
                sorter: true,
                width: 160,
                render: (at: string) => <When at={at} />,
              },
              { title: 'by', dataIndex: 'changedBy', width: 110 },
              {
                width: 90,
                render: (_, row) => (
                  <Button size="small" type="text" onClick={() => remove(row)}>
                    Remove
                  </Button>
                ),
              },
            ]}
          />
        </>
      )}
    </>
  );
}
