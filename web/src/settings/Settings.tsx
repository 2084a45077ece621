import { useQuery, useQueryClient } from '@tanstack/react-query';
import { App, Button, Input, Switch, Table, Tabs } from 'antd';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { api, query } from '../api/client';
import type { AllowedHost, Person } from '../api/types';
import { CodeTables } from '../codes/CodeTables';
import { Trouble, When } from '../shared/parts';
import { SimulatorList } from '../simulators/SimulatorList';
import { Endpoints } from './Endpoints';
import { Secrets } from './Secrets';

export function Settings({ me }: { me: Person }) {
  const [search, setSearch] = useSearchParams();
  return (
    <div className="page" style={{ maxWidth: 980 }}>
      <div className="page-head"><h1>Settings</h1></div>
      <Tabs activeKey={search.get('tab') ?? 'hosts'} onChange={(tab) => setSearch({ tab })} items={[
        { key: 'hosts', label: 'Allowed hosts', children: <Hosts me={me} /> },
        { key: 'endpoints', label: 'Endpoints', children: <Endpoints /> },
        { key: 'secrets', label: 'Secrets', children: <Secrets /> },
        { key: 'codes', label: 'Code tables', children: <CodeTables /> },
        { key: 'simulators', label: 'Simulators', children: <SimulatorList /> },
        { key: 'people', label: 'People', children: <People me={me} /> },
      ]} />
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
      <p className="dim">Imports and calls reach only these hosts, also after a redirect.</p>
      <div className="row" style={{ marginBottom: 10 }}>
        {me.mayAllowHosts && (
          <>
            <Input className="mono" style={{ width: 300 }} placeholder="host, host:port or *.domain" value={host} onChange={(e) => setHost(e.target.value)} onPressEnter={() => void change(api.post('/allowed-hosts', { host }))} />
            <Button type="primary" disabled={!host.trim()} onClick={() => void change(api.post('/allowed-hosts', { host }))}>Allow</Button>
          </>
        )}
        <span className="grow" />
        <Input.Search allowClear style={{ width: 200 }} placeholder="Find a host" onChange={(e) => setFind(e.target.value)} />
      </div>
      <Trouble error={error ?? hosts.error} />
      <Table<AllowedHost> size="small" rowKey="host" loading={hosts.isPending} dataSource={hosts.data?.filter((h) => h.host.includes(find))} pagination={{ pageSize: 20, hideOnSinglePage: true }}
        locale={{ emptyText: 'No host is allowed yet: nothing can be fetched or called.' }}
        columns={[
          { title: 'Host', dataIndex: 'host', render: (h: string) => <span className="mono">{h}</span>, sorter: (a, b) => a.host.localeCompare(b.host) },
          { title: 'Allowed by', dataIndex: 'allowedBy', width: 140 },
          { title: 'Since', dataIndex: 'allowedAt', width: 160, render: (at: string) => <When at={at} /> },
          { width: 90, render: (_, h) => me.mayAllowHosts && <Button size="small" type="text" danger onClick={() => void change(api.remove(`/allowed-hosts${query({ host: h.host })}`))}>Remove</Button> },
        ]} />
    </>
  );
}

function People({ me }: { me: Person }) {
  const client = useQueryClient();
  const { modal, message } = App.useApp();
  const [name, setName] = useState('');
  const [password, setPassword] = useState('');
  const [may, setMay] = useState(false);
  const [find, setFind] = useState('');
  const [error, setError] = useState<unknown>();
  const people = useQuery({ queryKey: ['people'], queryFn: () => api.get<Person[]>('/people') });
  const act = async (work: Promise<unknown>) => {
    setError(undefined);
    try {
      await work;
      await client.invalidateQueries({ queryKey: ['people'] });
      setName('');
      setPassword('');
    } catch (e) {
      setError(e);
    }
  };
  const newPassword = (person: Person) => {
    let typed = '';
    modal.confirm({
      title: `New password for ${person.name}`,
      content: <Input.Password autoFocus onChange={(e) => { typed = e.target.value; }} />,
      okText: 'Set',
      onOk: async () => {
        await act(api.put(`/people/${person.id}/password`, { password: typed }));
        void message.success('Set');
      },
    });
  };
  return (
    <>
      <div className="row" style={{ marginBottom: 10 }}>
        {me.mayAllowHosts && (
          <>
            <Input style={{ width: 150 }} placeholder="Name" value={name} onChange={(e) => setName(e.target.value)} />
            <Input.Password style={{ width: 190 }} placeholder="First password" value={password} onChange={(e) => setPassword(e.target.value)} />
            <label className="row dim"><Switch size="small" checked={may} onChange={setMay} /> may allow hosts</label>
            <Button type="primary" disabled={!name || !password} onClick={() => void act(api.post('/people', { name, password, mayAllowHosts: may }))}>Add</Button>
          </>
        )}
        <span className="grow" />
        <Input.Search allowClear style={{ width: 180 }} placeholder="Find a person" onChange={(e) => setFind(e.target.value)} />
      </div>
      <Trouble error={error ?? people.error} />
      <Table<Person> size="small" rowKey="id" loading={people.isPending} dataSource={people.data?.filter((p) => p.name.includes(find))} pagination={{ pageSize: 20, hideOnSinglePage: true }}
        columns={[
          { title: 'Name', dataIndex: 'name', sorter: (a, b) => a.name.localeCompare(b.name) },
          { title: 'May allow hosts', dataIndex: 'mayAllowHosts', width: 150, render: (m: boolean) => (m ? 'yes' : 'no') },
          { title: 'Sign-in', width: 200, render: (_, p) => (p.lockedUntil ? <span className="bad">locked until <When at={p.lockedUntil} /></span> : 'open') },
          { width: 220, render: (_, p) => (me.mayAllowHosts || p.id === me.id) && <><Button size="small" type="text" onClick={() => newPassword(p)}>New password</Button>{p.id !== me.id && <Button size="small" type="text" danger onClick={() => void act(api.remove(`/people/${p.id}`))}>Remove</Button>}</> },
        ]} />
    </>
  );
}
