import { useQuery } from '@tanstack/react-query';
import { Table } from 'antd';
import { useState } from 'react';
import { Link } from 'react-router';
import { api } from '../api/client';
import type { Page, Trigger, TriggerEvent } from '../api/types';
import { When } from '../shared/parts';
import { eventWords } from './triggerWords';

/** What a trigger did, the newest first. */
export function TriggerEvents({ trigger }: { trigger: Trigger }) {
  const [page, setPage] = useState(1);
  const list = useQuery({
    queryKey: ['trigger-events', trigger.id, page, trigger.last?.id],
    queryFn: () => api.get<Page<TriggerEvent>>(`/triggers/${trigger.id}/events?page=${page}&size=10`),
  });
  return (
    <Table<TriggerEvent>
      size="small"
      rowKey="id"
      loading={list.isPending}
      dataSource={list.data?.items}
      showHeader={false}
      locale={{ emptyText: 'It did nothing yet.' }}
      pagination={{
        current: page,
        pageSize: 10,
        total: list.data?.total,
        onChange: setPage,
        hideOnSinglePage: true,
      }}
      columns={[
        { width: 160, render: (_, e) => <When at={e.at} /> },
        {
          render: (_, e) => (
            <span className={e.what === 'refused' || e.what === 'missed' ? 'bad' : ''}>
              {e.runId ? <Link to={`/runs/${e.runId}`}>{eventWords(e)}</Link> : eventWords(e)}
            </span>
          ),
        },
      ]}
    />
  );
}
