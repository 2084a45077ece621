import { Input, Select } from 'antd';
import type { ReactNode } from 'react';

export interface HandOperation {
  title: string;
  address: string;
  name: string;
  method: string;
  path: string;
  query: string[];
  headers: string[];
  bodySample: string;
  replySample: string;
}
export const NO_DESCRIPTION: HandOperation = {
  title: '',
  address: '',
  name: '',
  method: 'GET',
  path: '',
  query: [],
  headers: [],
  bodySample: '',
  replySample: '',
};

/** An operation over HTTP described by hand: its path with places in braces, parameters, samples of its messages. */
export function DescribeByHand({
  value,
  onChange,
  adding,
}: {
  value: HandOperation;
  onChange: (value: HandOperation) => void;
  adding: boolean;
}) {
  const set = (part: Partial<HandOperation>) => onChange({ ...value, ...part });
  const row = (label: string, field: ReactNode) => (
    <>
      <span className="dim label-beside">{label}</span>
      <div className="row">{field}</div>
    </>
  );
  const names = (text: string) => text.split(/[\s,]+/).filter(Boolean);
  return (
    <div className="labelled">
      {!adding &&
        row(
          'Service',
          <>
            <Input
              className="field-xl"
              aria-label="Service name"
              placeholder="its name"
              value={value.title}
              onChange={(e) => set({ title: e.target.value })}
            />
            <Input
              className="mono"
              aria-label="Service address"
              placeholder="https://…"
              value={value.address}
              onChange={(e) => set({ address: e.target.value })}
            />
          </>,
        )}
      {row(
        'Operation',
        <>
          <Input
            className="field-xl"
            aria-label="Operation name"
            placeholder="its name, as findRate"
            value={value.name}
            onChange={(e) => set({ name: e.target.value })}
          />
          <Select
            aria-label="Method"
            className="field-m"
            value={value.method}
            onChange={(method) => set({ method })}
            options={['GET', 'POST', 'PUT', 'PATCH', 'DELETE'].map((m) => ({ value: m }))}
          />
          <Input
            className="mono"
            aria-label="Path"
            placeholder="/rates/{from}/{to}"
            value={value.path}
            onChange={(e) => set({ path: e.target.value })}
          />
        </>,
      )}
      {row(
        'Query',
        <Input
          className="mono"
          aria-label="Query parameters"
          placeholder="names; a star means it must be given: kilograms* on"
          defaultValue={value.query.join(' ')}
          onChange={(e) => set({ query: names(e.target.value) })}
        />,
      )}
      {row(
        'Headers',
        <Input
          className="mono"
          aria-label="Header parameters"
          placeholder="names, as X-Desk"
          defaultValue={value.headers.join(' ')}
          onChange={(e) => set({ headers: names(e.target.value) })}
        />,
      )}
      {value.method !== 'GET' &&
        value.method !== 'DELETE' &&
        row(
          'Body',
          <Input.TextArea
            className="mono"
            rows={4}
            aria-label="Body sample"
            placeholder="a sample of the request's body, JSON or XML"
            value={value.bodySample}
            onChange={(e) => set({ bodySample: e.target.value })}
          />,
        )}
      {row(
        'Reply',
        <Input.TextArea
          className="mono"
          rows={5}
          aria-label="Reply sample"
          placeholder="a sample of the reply, JSON or XML: its fields are learned from it"
          value={value.replySample}
          onChange={(e) => set({ replySample: e.target.value })}
        />,
      )}
    </div>
  );
}
