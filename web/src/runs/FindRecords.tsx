import { useQuery } from '@tanstack/react-query';
import { Input, Table } from 'antd';
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { api, query } from '../api/client';
import type { FoundRecord, Page } from '../api/types';
import { Trouble, When } from '../shared/parts';
import { endLabel } from './ends';

/** What happened to a record, by its business key, over all runs. */
export function FindRecords() {
  const [search, setSearch] = useSearchParams();
  const key = search.get('key') ?? '';
  const [page, setPage] = useState(1);
  const list = useQuery({
    queryKey: ['found-records', key, page],
    queryFn: () => api.get<Page<FoundRecord>>(`/records${query({ key, page, size: 50 })}`),
    enabled: key.trim() !== '',
  });
  return (
    <div className="page page-width">
      <div className="page-head">
        <h1>Find a record</h1>
        <Input.Search
          autoFocus
          className="field-4xl"
          aria-label="Key"
          placeholder="HC-20481-1, or HC-204* for all that begin so"
          defaultValue={key}
          onSearch={(wanted) => {
            setPage(1);
            setSearch(wanted ? { key: wanted } : {});
          }}
        />
      </div>
      <Trouble error={list.error} />
      {key && (
        <Table<FoundRecord>
          size="small"
          rowKey={(r) => `${r.run} ${r.ordinal}`}
          loading={list.isPending}
          dataSource={list.data?.items}
          locale={{ emptyText: `No record with the key ${key} came to its end in any run.` }}
          pagination={{
            current: page,
            pageSize: 50,
            total: list.data?.total,
            onChange: setPage,
            hideOnSinglePage: true,
            showSizeChanger: false,
          }}
          columns={[
            {
              title: 'Key',
              width: 150,
              render: (_, r) => <Link to={`/runs/${r.run}?record=${r.ordinal}`}>{r.key}</Link>,
            },
            {
              title: 'Run',
              width: 70,
              align: 'right',
              render: (_, r) => <Link to={`/runs/${r.run}`}>{r.run}</Link>,
            },
            { title: 'Flow', ellipsis: true, dataIndex: 'flowName' },
            { title: 'In', width: 90, dataIndex: 'environment' },
            { title: 'When', width: 150, render: (_, r) => <When at={r.startedAt} /> },
            {
              title: 'End',
              width: 110,
              render: (_, r) => (
                <span className={r.ended === 'done' || r.ended === 'left-out' ? '' : 'bad'}>
                  {endLabel(r.ended)}
                </span>
              ),
            },
            {
              title: 'Then',
              width: 160,
              render: (_, r) =>
                r.sentAgainIn ? (
                  <Link to={`/runs/${r.sentAgainIn}`}>sent again in {r.sentAgainIn}</Link>
                ) : (
                  r.settled
                ),
            },
            { title: 'What happened', ellipsis: true, dataIndex: 'message' },
          ]}
        />
      )}
    </div>
  );
}
