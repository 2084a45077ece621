import { Button, Select, Table } from 'antd';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import type { Run } from '../api/types';
import { Find, opening, usePaged } from '../shared/paged';
import { Nothing, RunChip, Trouble, When } from '../shared/parts';

export function RunList() {
  const navigate = useNavigate();
  const [state, setState] = useState('');
  const runs = usePaged<Run>('runs', { state }, 3_000);
  return (
    <div className="page">
      <div className="page-head">
        <h1>Runs</h1>
        <Find placeholder="Find by flow" onFind={runs.find} />
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
      <Trouble error={runs.list.error} retry={() => void runs.list.refetch()} />
      {runs.none && !state ? (
        <Nothing
          title="Nothing has run yet"
          action={
            <Button type="primary" onClick={() => navigate('/flows')}>
              Go to the flows
            </Button>
          }
        >
          Open a flow and run it; its runs are then listed here.
        </Nothing>
      ) : (
        <Table<Run>
          {...runs.table}
          onRow={opening((run) => navigate(`/runs/${run.id}`))}
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
              render: (_, run) => run.total || run.read,
              sorter: (a, b) => (a.total || a.read) - (b.total || b.read),
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
