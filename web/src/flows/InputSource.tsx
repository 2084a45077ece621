import { Button, Checkbox, Form, Input, Select, Table } from 'antd';
import { useState } from 'react';
import type { Column, InputShape } from '../api/flow';
import { Trouble } from '../shared/parts';
import { api } from '../api/client';
import { schemaOf, shapeOf } from './inputShape';

const TYPES = ['string', 'integer', 'decimal', 'boolean', 'date', 'datetime', 'time'].map((value) => ({
  value,
}));

/** What callers send: a sample of it, and the fields it is held against. */
export function InputSource({
  input,
  onChange,
}: {
  input: InputShape;
  onChange: (input: InputShape) => void;
}) {
  const [sample, setSample] = useState(input.samples?.[0] ?? '');
  const [error, setError] = useState<unknown>();
  const shape = shapeOf(sample);
  const take = async () => {
    setError(undefined);
    const schema = schemaOf(sample);
    if (!schema) return shape && onChange(shape);
    try {
      const its = await api.post<InputShape>('/input-shapes', schema);
      setSample(its.samples?.[0] ?? '');
      onChange(its);
    } catch (e) {
      setError(e);
    }
  };
  const keep = () => {
    if (!schemaOf(sample) && sample !== (input.samples?.[0] ?? ''))
      onChange({ ...input, samples: sample ? [sample] : [] });
  };
  const change = (name: string, part: Partial<Column>) =>
    onChange({ ...input, columns: input.columns.map((c) => (c.name === name ? { ...c, ...part } : c)) });
  const repeats = (place: string) =>
    (input.lists ?? []).filter((list) => place === list || place.startsWith(`${list}/`));
  return (
    <>
      <Form.Item
        label="A sample"
        extra={
          <span className="row">
            <span>
              {sample && !shape
                ? 'This is no JSON object.'
                : 'What a caller would send, as JSON, or a JSON Schema of it.'}
            </span>
            <Button
              size="small"
              disabled={!shape}
              onClick={() => void take()}
              title="names, types and lists as the sample has them"
            >
              Take its fields
            </Button>
          </span>
        }
      >
        <Input.TextArea
          className="mono"
          aria-label="Sample of the input"
          autoSize={{ minRows: 3, maxRows: 14 }}
          placeholder={'{ "loan": "HC-20481", "crates": [{ "no": "1", "kilograms": 73.5 }] }'}
          value={sample}
          onChange={(e) => setSample(e.target.value)}
          onBlur={keep}
        />
      </Form.Item>
      <Trouble error={error} />
      <Table<Column>
        size="small"
        rowKey="name"
        className="gap-below"
        dataSource={input.columns}
        pagination={{ pageSize: 20, hideOnSinglePage: true }}
        locale={{ emptyText: 'No field yet: paste a sample, and take its fields.' }}
        columns={[
          {
            title: 'Field',
            render: (_, c) => (
              <span className="mono">
                {c.name}
                {repeats(c.name).length > 0 && <span className="dim"> ×n</span>}
              </span>
            ),
          },
          {
            title: 'Type',
            width: 140,
            render: (_, c) => (
              <Select
                size="small"
                className="field-m"
                aria-label={`Type of ${c.name}`}
                value={c.type}
                options={TYPES}
                onChange={(type: Column['type']) => change(c.name, { type })}
              />
            ),
          },
          {
            title: 'Required',
            width: 100,
            render: (_, c) => (
              <Checkbox
                aria-label={`${c.name} is required`}
                checked={c.required}
                onChange={(e) => change(c.name, { required: e.target.checked })}
              />
            ),
          },
          {
            width: 90,
            render: (_, c) => (
              <Button
                size="small"
                type="text"
                onClick={() => onChange({ ...input, columns: input.columns.filter((o) => o !== c) })}
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
