import { useQuery } from '@tanstack/react-query';
import { Button, Input, Table } from 'antd';
import { useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import { api, query } from '../api/client';
import type { ContractSummary, Page } from '../api/types';
import { Nothing, Trouble, When } from '../shared/parts';
import { ImportContract } from './ImportContract';

export function ContractList() {
  const navigate = useNavigate();
  const [search, setSearch] = useSearchParams();
  const [text, setText] = useState('');
  const [page, setPage] = useState(1);
  const [sort, setSort] = useState('name');
  const list = useQuery({
    queryKey: ['contracts', text, page, sort],
    queryFn: () => api.get<Page<ContractSummary>>(`/contracts${query({ q: text, page, size: 20, sort })}`),
    placeholderData: (before) => before,
  });
  const importing = search.has('import');
  const open = (id: number) => navigate(`/contracts/${id}`);
  return (
    <div className="page">
      <div className="page-head">
        <h1>Contracts</h1>
        <Input.Search
          allowClear
          placeholder="Find a contract"
          className="field-2xl"
          onChange={(e) => {
            setText(e.target.value);
            setPage(1);
          }}
        />
        <span className="grow" />
        <Button type="primary" onClick={() => setSearch({ import: '1' })}>
          Import a contract
        </Button>
      </div>
      <Trouble error={list.error} retry={() => void list.refetch()} />
      {list.data?.total === 0 && !text ? (
        <Nothing
          title="No contracts yet"
          action={
            <Button type="primary" onClick={() => setSearch({ import: '1' })}>
              Import a contract
            </Button>
          }
        >
          A contract is an imported service description: its operations and messages can then be picked
          instead of typed.
        </Nothing>
      ) : (
        <Table<ContractSummary>
          size="small"
          rowKey="id"
          loading={list.isPending}
          dataSource={list.data?.items}
          onRow={(row) => ({ onClick: () => open(row.id), style: { cursor: 'pointer' } })}
          onChange={(_, __, by) =>
            setSort(!Array.isArray(by) && by.field === 'importedAt' && by.order ? 'imported' : 'name')
          }
          pagination={{
            current: page,
            pageSize: 20,
            total: list.data?.total,
            onChange: setPage,
            hideOnSinglePage: true,
          }}
          columns={[
            {
              title: 'Name',
              dataIndex: 'name',
              sorter: true,
              render: (name: string, row) => <a onClick={() => open(row.id)}>{name}</a>,
            },
            { title: 'Services', dataIndex: 'services', align: 'right', width: 90 },
            { title: 'Operations', dataIndex: 'operations', align: 'right', width: 110 },
            { title: 'Revision', dataIndex: 'revision', align: 'right', width: 90 },
            {
              title: 'Findings',
              width: 150,
              render: (_, row) =>
                row.errors + row.warnings === 0 ? (
                  <span className="faint">none</span>
                ) : (
                  <>
                    {row.errors > 0 && <span className="bad">{row.errors} errors </span>}
                    {row.warnings > 0 && `${row.warnings} warnings`}
                  </>
                ),
            },
            { title: 'From', dataIndex: 'source', ellipsis: true },
            {
              title: 'Imported',
              dataIndex: 'importedAt',
              width: 150,
              sorter: true,
              render: (at: string) => <When at={at} />,
            },
          ]}
        />
      )}
      {importing && <ImportContract onClose={() => setSearch({})} onDone={open} />}
    </div>
  );
}
