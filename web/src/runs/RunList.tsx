import { useQuery } from '@tanstack/react-query';
import { Button, Input, Select, Table } from 'antd';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { api, query } from '../api/client';
import type { Page, Run } from '../api/types';
import { Nothing, RunChip, Trouble, When } from '../shared/parts';

export function RunList() {
  const navigate = useNavigate();
  const [text, setText] = useState('');
  const [state, setState] = useState('');
  const [page, setPage] = useState(1);
  const list = useQuery({
    queryKey: ['runs', text, state, page],
    queryFn: () => api.get<Page<Run>>(`/runs${query({ q: text, state, page, size: 20 })}`),
    placeholderData: (before) => before,
    refetchInterval: 3_000,
  });
  return (
    <div className="page">
      <div className="page-head">
        <h1>Runs</h1>
        <Input.Search
          allowClear
          placeholder="Find by flow"
          className="field-2xl"
          onChange={(e) => {
            setText(e.target.value);
            setPage(1);
          }}
        />
        <Select
          className="field-l"
          value={state}
          onChange={setState}
          options={[
            { value: '', label: 'any state' },
            ...['running', 'paused', 'done', 'cancelled', 'stopped', 'failed', 'interrupted'].map(
              (value) => ({ value, label: value }),
            ),
          ]}
        />
      </div>
      <Trouble error={list.error} retry={() => void list.refetch()} />
      {list.data?.total === 0 && !text && !state ? (
        <Nothing
          title="Nothing has run yet"
          action={
            <Button type="primary" onClick={() => navigate('/flows')}>
              Go to the flows
            </Button>
          }
        >
          Open a flow and run it; every record then has its line here.
        </Nothing>
      ) : (
        <Table<Run>
          size="small"
          rowKey="id"
          loading={list.isPending}
          dataSource={list.data?.items}
          onRow={(run) => ({ onClick: () => navigate(`/runs/${run.id}`), style: { cursor: 'pointer' } })}
          pagination={{
            current: page,
            pageSize: 20,
            total: list.data?.total,
            onChange: setPage,
            hideOnSinglePage: true,
          }}
          columns={[
            {
              title: 'Run',
              dataIndex: 'id',
              width: 70,
              align: 'right',
              sorter: (a, b) => a.id - b.id,
              render: (n: number) => <a onClick={() => navigate(`/runs/${n}`)}>{n}</a>,
            },
            {
              title: 'Flow',
              dataIndex: 'flowName',
              sorter: (a, b) => a.flowName.localeCompare(b.flowName),
              render: (name: string, run) => (
                <>
                  {name} <span className="faint">revision {run.flowRevision}</span>
                </>
              ),
            },
            { title: 'State', width: 110, render: (_, run) => <RunChip run={run} /> },
            { title: 'In', dataIndex: 'environment', width: 70 },
            {
              title: 'Records',
              align: 'right',
              width: 90,
              dataIndex: 'total',
              sorter: (a, b) => a.total - b.total,
            },
            {
              title: 'Done',
              align: 'right',
              width: 90,
              dataIndex: 'done',
              sorter: (a, b) => a.done - b.done,
            },
            {
              title: 'Rejected',
              align: 'right',
              width: 90,
              dataIndex: 'rejected',
              sorter: (a, b) => a.rejected - b.rejected,
              render: (n: number) => (n ? <span className="bad">{n}</span> : 0),
            },
            {
              title: 'In doubt',
              align: 'right',
              width: 90,
              dataIndex: 'inDoubt',
              render: (n: number) => (n ? <span className="bad">{n}</span> : 0),
            },
            { title: 'By', dataIndex: 'startedBy', width: 90 },
            {
              title: 'Started',
              width: 150,
              dataIndex: 'startedAt',
              render: (at: string) => <When at={at} />,
            },
          ]}
        />
      )}
    </div>
  );
}
