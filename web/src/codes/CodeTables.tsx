import { useQueryClient } from '@tanstack/react-query';
import { App, Button, Input, Modal, Table } from 'antd';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { api } from '../api/client';
import type { CodeTable, CodeTableSummary } from '../api/types';
import { Find, usePaged } from '../shared/paged';
import { Nothing, Trouble, When } from '../shared/parts';

/** Code tables: what codes of one side are called on the other, kept once for all flows. */
export function CodeTables() {
  const client = useQueryClient();
  const navigate = useNavigate();
  const { modal } = App.useApp();
  const [sort, setSort] = useState('name');
  const [name, setName] = useState<string>();
  const [error, setError] = useState<unknown>();
  const tables = usePaged<CodeTableSummary>('code-tables', { sort });
  const create = async () => {
    try {
      const made = await api.post<CodeTable>('/code-tables', { name, entries: [] });
      await client.invalidateQueries({ queryKey: ['code-tables'] });
      navigate(`/code-tables/${made.id}`);
    } catch (e) {
      setError(e);
      setName(undefined);
    }
  };
  const remove = (row: CodeTableSummary) =>
    modal.confirm({
      title: `Remove ${row.name}?`,
      content: 'Fills that use it reject their records until another table is picked.',
      okText: 'Remove',
      okButtonProps: { danger: true },
      onOk: async () => {
        await api.remove(`/code-tables/${row.id}`);
        await client.invalidateQueries({ queryKey: ['code-tables'] });
      },
    });
  const add = (
    <Button type="primary" onClick={() => setName('')}>
      Add a code table
    </Button>
  );
  return (
    <>
      <p className="dim">
        A code table says what a code of one side is on the other. Fills look values up in it; all flows share
        the tables.
      </p>
      <Trouble error={error ?? tables.list.error} />
      {tables.none ? (
        <Nothing title="No code tables yet" action={add}>
          Type one in, or load it from a CSV or XLSX file, or from a dataset.
        </Nothing>
      ) : (
        <>
          <div className="row gap-below">
            {add}
            <span className="grow" />
            <Find placeholder="Find a code table" onFind={tables.find} />
          </div>
          <Table<CodeTableSummary>
            {...tables.table}
            onChange={(_, __, sorter) =>
              setSort(
                !Array.isArray(sorter) && sorter.field === 'changedAt' && sorter.order ? 'changed' : 'name',
              )
            }
            columns={[
              {
                title: 'Name',
                dataIndex: 'name',
                sorter: true,
                render: (n: string, row) => <Link to={`/code-tables/${row.id}`}>{n}</Link>,
              },
              { title: 'Codes', dataIndex: 'codes', align: 'right', width: 90 },
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
      <Modal
        open={name !== undefined}
        title="Add a code table"
        okText="Add"
        onOk={() => void create()}
        onCancel={() => setName(undefined)}
        okButtonProps={{ disabled: !name?.trim() }}
      >
        <Input
          autoFocus
          aria-label="Name"
          placeholder="countries"
          value={name}
          onChange={(e) => setName(e.target.value)}
          onPressEnter={() => name?.trim() && void create()}
        />
      </Modal>
    </>
  );
}
