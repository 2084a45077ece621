import { useQuery } from '@tanstack/react-query';
import { Button, Select, Table } from 'antd';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { api } from '../api/client';
import type { ContractSummary, Page, Simulator } from '../api/types';
import { Find, usePaged } from '../shared/paged';
import { Trouble } from '../shared/parts';

/** Every simulator with its contract and address. */
export function SimulatorList() {
  const navigate = useNavigate();
  const [error, setError] = useState<unknown>();
  const simulators = usePaged<Simulator>('simulators');
  const contracts = useQuery({
    queryKey: ['contracts', 'for-simulators'],
    queryFn: () => api.get<Page<ContractSummary>>('/contracts?size=200'),
  });
  const make = async (contract: number) => {
    try {
      navigate(`/simulators/${(await api.post<Simulator>('/simulators', { contract })).id}`);
    } catch (e) {
      setError(e);
    }
  };
  return (
    <>
      <div className="row gap-below">
        <p className="dim grow">
          Simulated services that answer in place of a contract's service, in the environment Simulator.
        </p>
        <Select
          showSearch={{ optionFilterProp: 'label' }}
          aria-label="Contract to simulate"
          className="field-xl"
          placeholder="Simulate a contract …"
          value={undefined}
          options={contracts.data?.items.map((c) => ({ value: c.id, label: c.name }))}
          onChange={(id: number) => void make(id)}
        />
        <Find placeholder="Find a simulator" onFind={simulators.find} />
      </div>
      <Trouble error={error ?? simulators.list.error} />
      <Table<Simulator>
        {...simulators.table}
        locale={{
          emptyText:
            contracts.data?.total === 0 ? (
              <Button type="link" onClick={() => navigate('/contracts?import=1')}>
                Import a contract first
              </Button>
            ) : (
              'None yet. One click on a contract makes one.'
            ),
        }}
        columns={[
          {
            title: 'Simulator',
            render: (_, s) => <Link to={`/simulators/${s.id}`}>{s.name}</Link>,
            sorter: (a, b) => a.name.localeCompare(b.name),
          },
          {
            title: 'Contract',
            dataIndex: 'contract',
            sorter: (a, b) => a.contract.localeCompare(b.contract),
          },
          {
            title: 'Address',
            render: (_, s) => (
              <span className={`mono ${s.running ? '' : 'faint'}`}>
                {s.running ? s.address : 'switched off'}
              </span>
            ),
          },
          { title: 'Answers for', render: (_, s) => s.endpoints.join(', ') },
          {
            title: 'Rules',
            align: 'right',
            width: 80,
            render: (_, s) => s.rules.length,
            sorter: (a, b) => a.rules.length - b.rules.length,
          },
          {
            title: 'Received',
            align: 'right',
            width: 95,
            dataIndex: 'received',
            sorter: (a, b) => a.received - b.received,
          },
        ]}
      />
    </>
  );
}
