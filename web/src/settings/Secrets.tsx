import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Input, Table } from 'antd';
import { useState } from 'react';
import { api } from '../api/client';
import type { Secret } from '../api/types';
import { Trouble, When } from '../shared/parts';
import { NewSecret } from './NewSecret';
import { Until } from './Until';

/** Every secret by name: who uses it and when its key ends, never its value. */
export function Secrets() {
  const client = useQueryClient();
  const [find, setFind] = useState('');
  const [writing, setWriting] = useState<{ name?: string; kind?: 'text' | 'key' }>();
  const [error, setError] = useState<unknown>();
  const secrets = useQuery({ queryKey: ['secrets'], queryFn: () => api.get<Secret[]>('/secrets') });
  const remove = async (name: string) => {
    setError(undefined);
    try {
      await api.remove(`/secrets/${encodeURIComponent(name)}`);
      await client.invalidateQueries({ queryKey: ['secrets'] });
    } catch (e) {
      setError(e);
    }
  };
  return (
    <>
      <div className="row" style={{ marginBottom: 10 }}>
        <p className="dim grow">Passwords, tokens and keys that endpoints use by name. They are encrypted, never shown again, and hidden in everything kept of calls.</p>
        <Button type="primary" onClick={() => setWriting({})}>New secret</Button>
        <Input.Search allowClear style={{ width: 190 }} placeholder="Find a secret" onChange={(e) => setFind(e.target.value)} />
      </div>
      <Trouble error={error ?? secrets.error} />
      <Table<Secret> size="small" rowKey="name" loading={secrets.isPending} dataSource={secrets.data?.filter((s) => `${s.name} ${s.owner ?? ''} ${s.usedBy.join(' ')}`.toLowerCase().includes(find.toLowerCase()))} pagination={{ pageSize: 20, hideOnSinglePage: true }}
        locale={{ emptyText: 'None yet. An endpoint with a login, a client certificate or a signature needs one.' }}
        columns={[
          { title: 'Name', dataIndex: 'name', sorter: (a, b) => a.name.localeCompare(b.name) },
          { title: 'Kind', width: 190, render: (_, s) => (s.kind === 'key' ? <>key of {s.owner}<div><Until at={s.validUntil} /></div></> : 'password or token'), sorter: (a, b) => a.kind.localeCompare(b.kind) },
          { title: 'Used by', render: (_, s) => (s.usedBy.length > 0 ? s.usedBy.join(', ') : <span className="faint">nobody</span>) },
          { title: 'Written', width: 170, render: (_, s) => <><When at={s.changedAt} /> <span className="dim">by {s.changedBy}</span></>, sorter: (a, b) => a.changedAt.localeCompare(b.changedAt) },
          { width: 170, render: (_, s) => <><Button size="small" type="text" onClick={() => setWriting({ name: s.name, kind: s.kind === 'key' ? 'key' : 'text' })}>Write again</Button><Button size="small" type="text" danger onClick={() => void remove(s.name)}>Remove</Button></> },
        ]} />
      {writing && <NewSecret {...writing} onClose={() => setWriting(undefined)} />}
    </>
  );
}
