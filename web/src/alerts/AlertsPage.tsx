import { useQuery } from '@tanstack/react-query';
import { Table, Tabs } from 'antd';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { api } from '../api/client';
import type { AlertMessage, Page } from '../api/types';
import { Trouble, When } from '../shared/parts';
import { AlertList } from './AlertList';
import { AlertRules } from './AlertRules';

/** All that was told and to whom, and the rules about every flow. */
export function AlertsPage() {
  const [search, setSearch] = useSearchParams();
  return (
    <div className="page page-width">
      <div className="page-head">
        <h1>Alerts</h1>
      </div>
      <Tabs
        activeKey={search.get('tab') ?? 'open'}
        onChange={(tab) => setSearch({ tab })}
        items={[
          { key: 'open', label: 'Open', children: <AlertList open /> },
          { key: 'all', label: 'All', children: <AlertList open={false} /> },
          { key: 'rules', label: 'Rules', children: <AlertRules /> },
          { key: 'messages', label: 'Messages', children: <Messages /> },
        ]}
      />
    </div>
  );
}

function Messages() {
  const [page, setPage] = useState(1);
  const list = useQuery({
    queryKey: ['alert-messages', page],
    queryFn: () => api.get<Page<AlertMessage>>(`/alert-messages?page=${page}&size=20`),
    refetchInterval: 5_000,
  });
  return (
    <>
      <Trouble error={list.error} />
      <Table<AlertMessage>
        size="small"
        rowKey="id"
        loading={list.isPending}
        dataSource={list.data?.items}
        locale={{ emptyText: 'No message was written yet.' }}
        pagination={{
          current: page,
          pageSize: 20,
          total: list.data?.total,
          onChange: setPage,
          hideOnSinglePage: true,
          showSizeChanger: false,
        }}
        columns={[
          { title: 'By', width: 60, dataIndex: 'channel' },
          { title: 'To', width: 240, dataIndex: 'target', ellipsis: true },
          { title: 'Subject', dataIndex: 'subject', ellipsis: true },
          {
            title: 'Sent',
            width: 320,
            render: (_, m) =>
              m.sentAt ? (
                <When at={m.sentAt} />
              ) : m.failure ? (
                <span className="bad small">
                  {m.failure}; tried {m.attempts} times, again <When at={m.dueAt} />
                </span>
              ) : (
                <span className="dim">
                  waits until <When at={m.dueAt} />
                </span>
              ),
          },
        ]}
      />
    </>
  );
}
