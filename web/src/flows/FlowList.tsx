import { useQuery } from '@tanstack/react-query';
import { Button, Input, Select, Table } from 'antd';
import { useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import { api, query } from '../api/client';
import type { FlowSummary, Page } from '../api/types';
import { Nothing, RunChip, RunCounts, Trouble, When } from '../shared/parts';
import { NewFlow } from './NewFlow';

export function FlowList() {
  const navigate = useNavigate();
  const [search, setSearch] = useSearchParams();
  const [text, setText] = useState('');
  const [sort, setSort] = useState('changed');
  const [page, setPage] = useState(1);
  const list = useQuery({
    queryKey: ['flows', text, sort, page],
    queryFn: () => api.get<Page<FlowSummary>>(`/flows${query({ q: text, sort, page, size: 20 })}`),
    placeholderData: (before) => before,
  });
  const add = (
    <Button type="primary" onClick={() => setSearch({ new: '1' })}>
      Build a flow
    </Button>
  );
  return (
    <div className="page">
      <div className="page-head">
        <h1>Flows</h1>
        <Input.Search
          allowClear
          placeholder="Find a flow"
          className="field-2xl"
          onChange={(e) => {
            setText(e.target.value);
            setPage(1);
          }}
        />
        <Select
          value={sort}
          onChange={setSort}
          className="field-l"
          options={[
            { value: 'changed', label: 'last changed first' },
            { value: 'name', label: 'by name' },
          ]}
        />
        <span className="grow" />
        {add}
      </div>
      <Trouble error={list.error} retry={() => void list.refetch()} />
      {list.data?.total === 0 && !text ? (
        <Nothing title="No flows yet" action={add}>
          A flow reads records, calls an operation for each of them, and writes the answers where they are
          needed.
        </Nothing>
      ) : (
        <Table<FlowSummary>
          size="small"
          rowKey="id"
          loading={list.isPending}
          dataSource={list.data?.items}
          onRow={(flow) => ({ onClick: () => navigate(`/flows/${flow.id}`), style: { cursor: 'pointer' } })}
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
              render: (name: string, flow) => <a onClick={() => navigate(`/flows/${flow.id}`)}>{name}</a>,
            },
            { title: 'Revision', dataIndex: 'revision', width: 80, align: 'right' },
            {
              title: 'Last run',
              width: 320,
              render: (_, flow) =>
                flow.lastRun ? (
                  <span className="row">
                    <RunChip run={flow.lastRun} />
                    <RunCounts run={flow.lastRun} />
                  </span>
                ) : (
                  <span className="faint">never</span>
                ),
            },
            {
              title: 'Changed',
              width: 210,
              render: (_, flow) => (
                <span className="dim">
                  <When at={flow.changedAt} /> by {flow.changedBy}
                </span>
              ),
            },
          ]}
        />
      )}
      {search.has('new') && (
        <NewFlow
          given={search}
          onClose={() => setSearch({})}
          onDone={(id) => navigate(`/flows/${id}?stage=call`)}
        />
      )}
    </div>
  );
}
