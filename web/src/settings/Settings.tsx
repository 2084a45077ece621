import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Input, Table, Tabs } from 'antd';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { api, query } from '../api/client';
import type { AllowedHost, Person } from '../api/types';
import { CodeTables } from '../codes/CodeTables';
import { SeriesList } from '../series/SeriesList';
import { Trouble, When } from '../shared/parts';
import { WorkingDaysList } from '../triggers/WorkingDaysList';
import { SimulatorList } from '../simulators/SimulatorList';
import { Endpoints } from './Endpoints';
import { Environments } from './Environments';
import { People } from './People';
import { Secrets } from './Secrets';

export function Settings({ me }: { me: Person }) {
  const [search, setSearch] = useSearchParams();
  return (
    <div className="page page-width">
      <div className="page-head">
        <h1>Settings</h1>
      </div>
      <Tabs
        activeKey={search.get('tab') ?? 'hosts'}
        onChange={(tab) => setSearch({ tab })}
        items={[
          { key: 'hosts', label: 'Allowed hosts', children: <Hosts me={me} /> },
          { key: 'environments', label: 'Environments', children: <Environments /> },
          { key: 'endpoints', label: 'Endpoints', children: <Endpoints /> },
          { key: 'secrets', label: 'Secrets', children: <Secrets /> },
          { key: 'codes', label: 'Code tables', children: <CodeTables /> },
          { key: 'series', label: 'Series', children: <SeriesList /> },
          { key: 'working-days', label: 'Working days', children: <WorkingDaysList /> },
          { key: 'simulators', label: 'Simulators', children: <SimulatorList /> },
          ...(me.manage ? [{ key: 'people', label: 'People', children: <People me={me} /> }] : []),
        ]}
      />
    </div>
  );
}

function Hosts({ me }: { me: Person }) {
  const client = useQueryClient();
  const [host, setHost] = useState('');
  const [find, setFind] = useState('');
  const [error, setError] = useState<unknown>();
  const hosts = useQuery({ queryKey: ['hosts'], queryFn: () => api.get<AllowedHost[]>('/allowed-hosts') });
  const change = async (work: Promise<AllowedHost[]>) => {
    setError(undefined);
    try {
      client.setQueryData(['hosts'], await work);
      setHost('');
    } catch (e) {
      setError(e);
    }
  };
  return (
    <>
      <p className="dim">Imports and calls can reach only these hosts, after a redirect too.</p>
      <div className="row gap-below">
        {me.manage && (
          <>
            <Input
              className="mono field-3xl"
              placeholder="host, host:port or *.domain"
              value={host}
              onChange={(e) => setHost(e.target.value)}
              onPressEnter={() => void change(api.post('/allowed-hosts', { host }))}
            />
            <Button
              type="primary"
              disabled={!host.trim()}
              onClick={() => void change(api.post('/allowed-hosts', { host }))}
            >
              Allow
            </Button>
          </>
        )}
        <span className="grow" />
        <Input.Search
          allowClear
          className="field-xl"
          placeholder="Find a host"
          onChange={(e) => setFind(e.target.value)}
        />
      </div>
      <Trouble error={error ?? hosts.error} />
      <Table<AllowedHost>
        size="small"
        rowKey="host"
        loading={hosts.isPending}
        dataSource={hosts.data?.filter((h) => h.host.includes(find))}
        pagination={{ pageSize: 20, hideOnSinglePage: true }}
        locale={{ emptyText: 'No host is allowed yet: nothing can be fetched or called.' }}
        columns={[
          {
            title: 'Host',
            dataIndex: 'host',
            render: (h: string) => <span className="mono">{h}</span>,
            sorter: (a, b) => a.host.localeCompare(b.host),
          },
          { title: 'Allowed by', dataIndex: 'allowedBy', width: 140 },
          { title: 'Since', dataIndex: 'allowedAt', width: 160, render: (at: string) => <When at={at} /> },
          {
            width: 90,
            render: (_, h) =>
              me.manage && (
                <Button
                  size="small"
                  type="text"
                  danger
                  onClick={() => void change(api.remove(`/allowed-hosts${query({ host: h.host })}`))}
                >
                  Remove
                </Button>
              ),
          },
        ]}
      />
    </>
  );
}
