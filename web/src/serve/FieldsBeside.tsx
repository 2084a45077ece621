import { Button, Form, Input } from 'antd';
import type { TriggerSpec } from '../api/types';

type Beside = NonNullable<TriggerSpec['headers']>[number];

/** What is sent beside the content and is a field of the record: headers of HTTP, properties of a message. */
export function FieldsBeside({
  label,
  one,
  example,
  all,
  onChange,
}: {
  label: string;
  one: string;
  example: string;
  all: Beside[];
  onChange: (all: Beside[]) => void;
}) {
  const change = (at: number, part: Partial<Beside>) =>
    onChange(all.map((h, i) => (i === at ? { ...h, ...part } : h)));
  const name = one.charAt(0).toUpperCase() + one.slice(1);
  return (
    <Form.Item label={label}>
      {all.map((h, i) => (
        // the place is all one that is being typed has
        <div key={i} className="row gap-below-s">
          <Input
            className="mono grow"
            aria-label={`${name} ${i + 1}`}
            placeholder={example}
            value={h.header}
            onChange={(e) => change(i, { header: e.target.value })}
          />
          <span className="dim">is the field</span>
          <Input
            className="mono grow"
            aria-label={`Field of ${one} ${i + 1}`}
            placeholder="tenant"
            value={h.field}
            onChange={(e) => change(i, { field: e.target.value })}
          />
          <Button size="small" type="text" onClick={() => onChange(all.filter((_, o) => o !== i))}>
            Remove
          </Button>
        </div>
      ))}
      <Button size="small" onClick={() => onChange([...all, { header: '', field: '' }])}>
        Take a {one} as a field
      </Button>
    </Form.Item>
  );
}
