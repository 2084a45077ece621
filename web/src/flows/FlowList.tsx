import { Button, Select, Table } from 'antd';
import { useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import type { FlowSummary } from '../api/types';
import { Nothing, RunChip, RunCounts, Trouble, When } from '../shared/parts';
import { Find, opening, usePaged } from '../shared/paged';
import { NewFlow } from './NewFlow';
import { TakeBundle } from './TakeBundle';

export function FlowList() {
  const navigate = useNavigate();
  const [search, setSearch] = useSearchParams();
  const [sort, setSort] = useState('changed');
  const flows = usePaged<FlowSummary>('flows', { sort });
  const add = (
    <Button type="primary" onClick={() => setSearch({ new: '1' })}>
      Build a flow
    </Button>
  );
  return (
    <div className="page">
      <div className="page-head">
        <h1>Flows</h1>
        <Find placeholder="Find a flow" onFind={flows.find} />
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
        <TakeBundle />
        {add}
      </div>
      <Trouble error={flows.list.error} retry={() => void flows.list.refetch()} />
      {flows.none ? (
        <Nothing title="No flows yet" action={add}>
          A flow reads records, calls an operation for each of them, and writes the answers where they are
          needed.
        </Nothing>
      ) : (
        <Table<FlowSummary>
          {...flows.table}
          onRow={opening((flow) => navigate(`/flows/${flow.id}`))}
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
