import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Checkbox, Input, Select, Table } from 'antd';
import { useState } from 'react';
import { api } from '../api/client';
import type { Endpoint, EndpointAdvice, MessageStyle } from '../api/types';
import { Trouble } from '../shared/parts';

/** How ports are reached, what their contracts say they want, and how their messages are written. */
export function Endpoints() {
  const client = useQueryClient();
  const [error, setError] = useState<unknown>();
  const [find, setFind] = useState('');
  const endpoints = useQuery({ queryKey: ['endpoints'], queryFn: () => api.get<Endpoint[]>('/endpoints') });
  const advice = useQuery({ queryKey: ['endpoint-advice'], queryFn: () => api.get<EndpointAdvice[]>('/endpoint-advice') });
  const advised = (endpoint: Endpoint) => advice.data?.filter((a) => a.endpoint === endpoint.name) ?? [];
  const save = async (endpoint: Endpoint, part: Partial<Endpoint>) => {
    setError(undefined);
    try {
      await api.put('/endpoints', { ...endpoint, ...part });
      await client.invalidateQueries({ queryKey: ['endpoints'] });
    } catch (e) {
      setError(e);
    }
  };
  const cell = (name: 'testAddress' | 'liveAddress') => (value: string, endpoint: Endpoint) => (
    <Input variant="underlined" className="mono" defaultValue={value} key={value} placeholder="no address" aria-label={`${endpoint.name} ${name}`} onBlur={(e) => e.target.value !== value && void save(endpoint, { [name]: e.target.value })} onPressEnter={(e) => e.currentTarget.blur()} />
  );
  return (
    <>
      <div className="row" style={{ marginBottom: 10 }}>
        <p className="dim grow">How ports are reached, by environment. A call names its endpoint, never an address.</p>
        <Input.Search allowClear style={{ width: 200 }} placeholder="Find an endpoint" onChange={(e) => setFind(e.target.value)} />
      </div>
      <Trouble error={error ?? endpoints.error} />
      <Table<Endpoint> size="small" rowKey="id" loading={endpoints.isPending} dataSource={endpoints.data?.filter((e) => e.name.toLowerCase().includes(find.toLowerCase()))} pagination={{ pageSize: 20, hideOnSinglePage: true }}
        locale={{ emptyText: 'None yet: a new flow makes the endpoint of the port it calls.' }}
        expandable={{
          expandedRowRender: (endpoint) => (
            <div style={{ display: 'grid', gap: 10, padding: '4px 0 8px' }}>
              {advised(endpoint).map((a) => (
                <div key={a.contract + a.port}><span className="chip caution">{a.contract} · {a.port}</span> the service {a.sentences.join('; ')}.</div>
              ))}
              <StyleForm style={endpoint.style} onChange={(style) => void save(endpoint, { style })} />
            </div>
          ),
        }}
        columns={[
          { title: 'Endpoint', dataIndex: 'name', width: 220, render: (name: string, e) => <>{name}{advised(e).length > 0 && <> <span className="chip caution">wants more</span></>}{styleWords(e.style) && <div className="faint">{styleWords(e.style)}</div>}</>, sorter: (a, b) => a.name.localeCompare(b.name) },
          { title: 'Address in Test', dataIndex: 'testAddress', render: cell('testAddress') },
          { title: 'Address in Live', dataIndex: 'liveAddress', render: cell('liveAddress') },
        ]} />
    </>
  );
}

/** How messages are written for a service that is particular about it. */
function StyleForm({ style, onChange }: { style: MessageStyle; onChange: (style: MessageStyle) => void }) {
  return (
    <div className="row" style={{ flexWrap: 'wrap', gap: '6px 18px' }}>
      <label className="row">Prefixes
        <Select size="small" aria-label="Prefixes" style={{ width: 220 }} value={style.prefixes} onChange={(prefixes) => onChange({ ...style, prefixes })}
          options={[{ value: 'numbered', label: 'n1, n2, …' }, { value: 'contract', label: "as in the contract's documents" }, { value: 'none', label: 'none: default namespaces' }]} />
      </label>
      <Checkbox checked={!style.sendEmpty} onChange={(e) => onChange({ ...style, sendEmpty: !e.target.checked })}>Leave empty fields out</Checkbox>
      <Checkbox checked={style.forceTypes} onChange={(e) => onChange({ ...style, forceTypes: e.target.checked })}>Write <span className="mono">xsi:type</span> everywhere</Checkbox>
      <Checkbox checked={style.orderAsGiven} onChange={(e) => onChange({ ...style, orderAsGiven: e.target.checked })}>Fields in the order of the fills</Checkbox>
    </div>
  );
}

/** Returns what is unusual about a style, in a few words. */
function styleWords(style: MessageStyle): string {
  return [
    style.prefixes === 'contract' ? "contract's prefixes" : style.prefixes === 'none' ? 'no prefixes' : '',
    style.sendEmpty ? 'empty fields sent' : '',
    style.forceTypes ? 'types forced' : '',
    style.orderAsGiven ? 'order as given' : '',
  ].filter(Boolean).join(' · ');
}
