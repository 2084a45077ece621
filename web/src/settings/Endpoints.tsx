import { useQuery } from '@tanstack/react-query';
import { Button, Input, Table } from 'antd';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { api } from '../api/client';
import type { Endpoint, EndpointAdvice } from '../api/types';
import { SIMULATOR, useEnvironments } from '../shared/environment';
import { Trouble } from '../shared/parts';
import { settingsWords, styleWords } from './endpointWords';

/** Every endpoint with where it is in each environment and what reaching it takes, in a few words. */
export function Endpoints() {
  const navigate = useNavigate();
  const [error, setError] = useState<unknown>();
  const [find, setFind] = useState('');
  const [name, setName] = useState('');
  const endpoints = useQuery({ queryKey: ['endpoints'], queryFn: () => api.get<Endpoint[]>('/endpoints') });
  const advice = useQuery({
    queryKey: ['endpoint-advice'],
    queryFn: () => api.get<EndpointAdvice[]>('/endpoint-advice'),
  });
  const add = async () => {
    try {
      const made = await api.put<Endpoint>('/endpoints', { name });
      navigate(`/endpoints/${made.id}`);
    } catch (e) {
      setError(e);
    }
  };
  const environments = useEnvironments().filter((e) => e.name !== SIMULATOR);
  const cell = (environment: string) => (_: unknown, e: Endpoint) => {
    const way = e.environments[environment];
    return (
      <Link to={`/endpoints/${e.id}?environment=${environment}`} className="inherits plain-link">
        {way?.address ? (
          <span className="mono anywhere">{way.address}</span>
        ) : (
          <span className="faint">no address</span>
        )}
        <div className="faint">{way && settingsWords(way.settings)}</div>
      </Link>
    );
  };
  return (
    <>
      <div className="row gap-below">
        <p className="dim grow">
          How ports are reached, by environment. A call names its endpoint, never an address.
        </p>
        <Input
          className="field-l"
          placeholder="New endpoint"
          aria-label="New endpoint"
          value={name}
          onChange={(e) => setName(e.target.value)}
          onPressEnter={() => name.trim() && void add()}
        />
        <Button disabled={!name.trim()} onClick={() => void add()}>
          Add
        </Button>
        <Input.Search
          allowClear
          className="field-xl"
          placeholder="Find an endpoint"
          onChange={(e) => setFind(e.target.value)}
        />
      </div>
      <Trouble error={error ?? endpoints.error} />
      <Table<Endpoint>
        size="small"
        rowKey="id"
        loading={endpoints.isPending}
        dataSource={endpoints.data?.filter((e) => e.name.toLowerCase().includes(find.toLowerCase()))}
        pagination={{ pageSize: 20, hideOnSinglePage: true }}
        locale={{ emptyText: 'None yet: a new flow makes the endpoint of the port it calls.' }}
        columns={[
          {
            title: 'Endpoint',
            dataIndex: 'name',
            width: 230,
            sorter: (a, b) => a.name.localeCompare(b.name),
            render: (text: string, e) => (
              <>
                <Link to={`/endpoints/${e.id}`}>{text}</Link>
                {advice.data?.some((a) => a.endpoint === text) && (
                  <>
                    {' '}
                    <span className="chip caution">wants more</span>
                  </>
                )}
                <div className="faint">{styleWords(e.style)}</div>
              </>
            ),
          },
          ...environments.map(({ name }) => ({ title: `In ${name}`, key: name, render: cell(name) })),
          {
            title: 'Simulator',
            width: 90,
            render: (_, e) =>
              e.simulator ? (
                <Link to={`/simulators/${e.simulator}`}>yes</Link>
              ) : (
                <span className="faint">no</span>
              ),
          },
        ]}
      />
    </>
  );
}
