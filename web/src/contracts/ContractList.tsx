import { Button, Table } from 'antd';
import { useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import type { ContractSummary } from '../api/types';
import { Find, opening, usePaged } from '../shared/paged';
import { Nothing, Trouble, When } from '../shared/parts';
import { ImportContract } from './ImportContract';

export function ContractList() {
  const navigate = useNavigate();
  const [search, setSearch] = useSearchParams();
  const [sort, setSort] = useState('name');
  const contracts = usePaged<ContractSummary>('contracts', { sort });
  const importing = search.has('import');
  const open = (id: number) => navigate(`/contracts/${id}`);
  return (
    <div className="page">
      <div className="page-head">
        <h1>Contracts</h1>
        <Find placeholder="Find a contract" onFind={contracts.find} />
        <span className="grow" />
        <Button type="primary" onClick={() => setSearch({ import: '1' })}>
          Import a contract
        </Button>
      </div>
      <Trouble error={contracts.list.error} retry={() => void contracts.list.refetch()} />
      {contracts.none ? (
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
          {...contracts.table}
          onRow={opening((row) => open(row.id))}
          onChange={(_, __, by) =>
            setSort(!Array.isArray(by) && by.field === 'importedAt' && by.order ? 'imported' : 'name')
          }
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
