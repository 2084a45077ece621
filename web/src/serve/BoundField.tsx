import { Form, InputNumber } from 'antd';

/** A bound of what is taken: a number from 1, what it counts, and what holds where nothing is said. */
export function BoundField({
  label,
  most,
  unit,
  empty,
  value,
  onChange,
}: {
  label: string;
  most: number;
  unit: string;
  empty?: string;
  value?: number;
  onChange: (value?: number) => void;
}) {
  return (
    <Form.Item label={label}>
      <InputNumber
        aria-label={label}
        min={1}
        max={most}
        precision={0}
        placeholder={empty}
        value={value}
        onChange={(next) => onChange(next ?? undefined)}
      />{' '}
      <span className="dim">{unit}</span>
    </Form.Item>
  );
}
