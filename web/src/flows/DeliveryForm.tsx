import { useQueryClient } from '@tanstack/react-query';
import { Form, Input, InputNumber, Segmented, Select, Switch } from 'antd';
import { useState } from 'react';
import { Link } from 'react-router';
import { api } from '../api/client';
import type { CallStage, Delivery } from '../api/flow';
import { type Environment, SIMULATOR, useEnvironments } from '../shared/environment';
import { Trouble } from '../shared/parts';
import { PagesForm } from './PagesForm';
import { useEndpoints } from './useChoices';

const LIMITS = {
  atOnce: 'Calls at once',
  connectMillis: 'Milliseconds to connect',
  firstByteMillis: 'Milliseconds to the first byte',
  wholeMillis: 'Milliseconds for the whole call',
};

/** How the call is delivered: endpoint, reads or changes, limits, what is kept. */
export function DeliveryForm({
  stage,
  source,
  onChange,
}: {
  stage: CallStage;
  /** Whether it gives a Read its records. */
  source: boolean;
  onChange: (stage: CallStage) => void;
}) {
  const client = useQueryClient();
  const endpoints = useEndpoints();
  const environments = useEnvironments().flatMap((e) => (e.name === SIMULATOR ? [] : [e.name]));
  const [error, setError] = useState<unknown>();
  const endpoint = endpoints.find((e) => e.name === stage.endpoint);
  const set = (part: Partial<Delivery>) => onChange({ ...stage, delivery: { ...stage.delivery, ...part } });
  const address = async (environment: Environment, text: string) => {
    try {
      await api.put('/endpoints', { name: stage.endpoint, addresses: { [environment]: text } });
      await client.invalidateQueries({ queryKey: ['endpoints'] });
    } catch (e) {
      setError(e);
    }
  };
  const d = stage.delivery;
  const number = (
    name: 'atOnce' | 'connectMillis' | 'firstByteMillis' | 'wholeMillis',
    min: number,
    max: number,
    unit = '',
  ) => (
    <InputNumber
      size="small"
      min={min}
      max={max}
      aria-label={LIMITS[name]}
      value={d[name]}
      suffix={unit}
      className="field-m"
      onChange={(v) => v !== null && set({ [name]: v })}
    />
  );
  return (
    <Form
      colon={false}
      layout="horizontal"
      labelCol={{ flex: '190px' }}
      labelAlign="left"
      size="small"
      className="pad-l scrolls form-width"
    >
      <Form.Item label="Endpoint">
        <Select
          aria-label="Endpoint"
          showSearch
          value={stage.endpoint}
          onChange={(e) => onChange({ ...stage, endpoint: e })}
          options={endpoints.map((e) => ({ value: e.name, label: e.name }))}
          className="field-3xl"
        />
      </Form.Item>
      {environments.map((environment) => {
        const known = endpoint?.environments[environment]?.address ?? '';
        return (
          <Form.Item key={environment} label={`Address in ${environment}`}>
            <Input
              aria-label={`Address in ${environment}`}
              className="mono"
              key={known}
              defaultValue={known}
              placeholder="not set"
              onBlur={(e) => e.target.value !== known && void address(environment, e.target.value)}
            />
          </Form.Item>
        );
      })}
      {endpoint && (
        <Form.Item label=" ">
          <Link to={`/endpoints/${endpoint.id}`}>
            Login, TLS, security headers and a test of this endpoint
          </Link>
        </Form.Item>
      )}
      <Trouble error={error} />
      <Form.Item
        label="The operation"
        extra={
          d.effect === 'reads'
            ? 'May be called again at will.'
            : 'Is never blindly sent again; sample calls ask first.'
        }
      >
        <Segmented
          value={d.effect}
          onChange={(effect) =>
            set({
              effect: effect as Delivery['effect'],
              ...(effect === 'changes' ? { memorySeconds: undefined } : {}),
            })
          }
          options={[
            { value: 'reads', label: 'reads' },
            { value: 'changes', label: 'changes data' },
          ]}
        />
      </Form.Item>
      {d.effect === 'changes' && (
        <Form.Item
          label="Faults that leave doubt"
          extra="After any other fault the change counts as not done: it may be tried again."
        >
          <Select
            mode="tags"
            aria-label="Faults that leave doubt"
            className="field-4xl"
            placeholder="none; type a fault’s name or code"
            value={d.doubtfulFaults ?? []}
            onChange={(faults: string[]) => set({ doubtfulFaults: faults.length ? faults : undefined })}
          />
        </Form.Item>
      )}
      <Form.Item label="Calls at once">{number('atOnce', 1, 64)}</Form.Item>
      {d.effect === 'reads' && <PagesForm stage={stage} source={source} onChange={onChange} />}
      {d.effect === 'reads' && !stage.pages && (
        <Form.Item label="Same request" extra="One caller asks; only successes are remembered, for a run.">
          <Select
            aria-label="Same request"
            className="field-3xl"
            value={d.memorySeconds ?? -1}
            onChange={(seconds) => set({ memorySeconds: seconds < 0 ? undefined : seconds })}
            options={[
              { value: -1, label: 'is sent again' },
              { value: 0, label: 'is answered from memory, for the run' },
              { value: 60, label: 'is answered from memory for a minute' },
              { value: 3600, label: 'is answered from memory for an hour' },
            ]}
          />
        </Form.Item>
      )}
      <Form.Item label="Time limits">
        <span className="row wraps">
          connect {number('connectMillis', 1, 600_000, 'ms')} first byte{' '}
          {number('firstByteMillis', 1, 600_000, 'ms')} whole {number('wholeMillis', 1, 600_000, 'ms')}
        </span>
      </Form.Item>
      <Form.Item label="Exchanges kept">
        <Select
          aria-label="Exchanges kept"
          value={d.keep}
          onChange={(keep) => set({ keep })}
          className="field-3xl"
          options={[
            { value: 'none', label: 'none' },
            { value: 'failures', label: 'failures and the first ten' },
            { value: 'all', label: 'all' },
          ]}
        />
      </Form.Item>
      <Form.Item
        label="Strict"
        extra="A reply that is not valid against the contract fails the call; otherwise it is kept with a note."
      >
        <Switch aria-label="Strict" checked={d.strict} onChange={(strict) => set({ strict })} />
      </Form.Item>
    </Form>
  );
}
