import { useQuery } from '@tanstack/react-query';
import { Select, Table } from 'antd';
import { useState } from 'react';
import { api, query } from '../api/client';
import type { Change, Contract, ContractRevision } from '../api/types';
import { Trouble, When } from '../shared/parts';
import { Changes } from './Changes';

/** The immutable revisions of a contract, any two compared. */
export function Revisions({ contract }: { contract: Contract }) {
  const [from, setFrom] = useState(Math.max(1, contract.revision - 1));
  const [to, setTo] = useState(contract.revision);
  const revisions = useQuery({
    queryKey: ['revisions', contract.id, contract.revision],
    queryFn: () => api.get<ContractRevision[]>(`/contracts/${contract.id}/revisions`),
  });
  const changes = useQuery({
    queryKey: ['changes', contract.id, from, to],
    queryFn: () => api.get<Change[]>(`/contracts/${contract.id}/changes${query({ from, to })}`),
    enabled: from !== to,
  });
  const options = revisions.data?.map((r) => ({ value: r.revision, label: `revision ${r.revision}` })) ?? [];
  return (
    <>
      <Table<ContractRevision>
        size="small"
        rowKey="revision"
        loading={revisions.isPending}
        dataSource={revisions.data}
        pagination={{ pageSize: 6, hideOnSinglePage: true }}
        className="gap-below"
        columns={[
          {
            title: 'Revision',
            dataIndex: 'revision',
            width: 100,
            align: 'right',
            sorter: (a, b) => a.revision - b.revision,
          },
          { title: 'Read from', dataIndex: 'source', ellipsis: true },
          { title: 'Taken in', dataIndex: 'madeAt', width: 160, render: (at: string) => <When at={at} /> },
          { title: 'By', dataIndex: 'madeBy', width: 120 },
        ]}
      />
      {options.length > 1 ? (
        <>
          <div className="row gap-below">
            Changes from{' '}
            <Select
              size="small"
              value={from}
              options={options}
              onChange={setFrom}
              aria-label="From revision"
            />{' '}
            to <Select size="small" value={to} options={options} onChange={setTo} aria-label="To revision" />
          </div>
          <Trouble error={changes.error} />
          {from === to ? (
            <p className="dim">Pick two different revisions.</p>
          ) : (
            <Changes changes={changes.data ?? []} />
          )}
        </>
      ) : (
        <p className="dim">
          There is one revision so far. Refresh reads the contract again and shows what changed before
          anything is taken in.
        </p>
      )}
    </>
  );
}
