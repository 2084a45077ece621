import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Form, Input, Modal, Select } from 'antd';
import { useState } from 'react';
import { api } from '../api/client';
import type { Flow } from '../api/flow';
import { Trouble } from '../shared/parts';
import { useContracts, useDatasets, useOperations } from './useChoices';

/** A new flow from a dataset and an operation, both picked. */
export function NewFlow({
  given,
  onClose,
  onDone,
}: {
  given: URLSearchParams;
  onClose: () => void;
  onDone: (id: number) => void;
}) {
  const client = useQueryClient();
  const [name, setName] = useState('');
  const [dataset, setDataset] = useState(given.get('dataset') ?? undefined);
  const [contract, setContract] = useState(given.get('contract') ?? undefined);
  const [operation, setOperation] = useState(
    given.get('operation')
      ? [given.get('service'), given.get('port'), given.get('operation')].join('|')
      : undefined,
  );
  const [error, setError] = useState<unknown>();
  const datasets = useDatasets();
  const contracts = useContracts();
  const operations = useOperations(contract);
  const flows = useQuery({
    queryKey: ['flow-count'],
    queryFn: () => api.get<{ total: number }>('/flows?size=1'),
  });
  const first = operations.find((o) => o.callable);
  const chosen =
    operation ??
    (operations.length === 1 && first ? [first.service, first.port, first.key].join('|') : undefined);
  const [service, port, key] = (chosen ?? '').split('|');
  const proposed = key && dataset ? `${key} for ${dataset}` : `Flow ${(flows.data?.total ?? 0) + 1}`;
  const save = async () => {
    setError(undefined);
    try {
      const made = await api.post<Flow>('/flows', {
        name: name || proposed,
        dataset,
        contract,
        service,
        port,
        operation: key,
      });
      await client.invalidateQueries({ queryKey: ['flows'] });
      onDone(made.id);
    } catch (e) {
      setError(e);
    }
  };
  return (
    <Modal open title="Build a flow" okText="Build" onOk={() => void save()} onCancel={onClose}>
      <Form layout="vertical">
        <Form.Item label="Read records from" extra="Can be picked later.">
          <Select
            aria-label="Dataset"
            showSearch
            allowClear
            value={dataset}
            onChange={setDataset}
            options={datasets
              .filter((d) => d.hasData)
              .map((d) => ({ value: d.name, label: `${d.name} · ${d.rows} rows` }))}
          />
        </Form.Item>
        <Form.Item label="Call for each record">
          <div className="row">
            <Select
              aria-label="Contract"
              showSearch
              value={contract}
              onChange={(c) => {
                setContract(c);
                setOperation(undefined);
              }}
              className="half"
              placeholder="Contract"
              options={contracts.map((c) => ({ value: c.name, label: c.name }))}
            />
            <Select
              aria-label="Operation"
              showSearch
              value={chosen}
              onChange={setOperation}
              className="grow"
              placeholder="Operation"
              options={operations
                .filter((o) => o.callable)
                .map((o) => ({
                  value: [o.service, o.port, o.key].join('|'),
                  label: `${o.key} · ${o.port}, SOAP ${o.soapVersion}`,
                }))}
            />
          </div>
        </Form.Item>
        <Form.Item label="Name">
          <Input
            value={name}
            placeholder={proposed}
            onChange={(e) => setName(e.target.value)}
            onPressEnter={() => void save()}
          />
        </Form.Item>
      </Form>
      <Trouble error={error} />
    </Modal>
  );
}
