import { Button, Checkbox, Form, Input, InputNumber, Select } from 'antd';
import type { TriggerSpec } from '../api/types';
import { PageFields } from './PageFields';
import { SoapFields } from './SoapFields';

type Bound = 'seconds' | 'atOnce' | 'kilobytes' | 'memorySeconds' | 'keepHours';
type Header = NonNullable<TriggerSpec['headers']>[number];

/** Where a flow answers callers, and within what bounds. */
export function CallerFields({
  flowId,
  spec,
  set,
}: {
  flowId: string;
  spec: TriggerSpec;
  set: (part: Partial<TriggerSpec>) => void;
}) {
  const bound = (key: Bound, label: string, most: number, unit: string, empty?: string) => (
    <Form.Item label={label}>
      <InputNumber
        aria-label={label}
        min={1}
        max={most}
        precision={0}
        placeholder={empty}
        value={spec[key]}
        onChange={(value) => set({ [key]: value ?? undefined })}
      />{' '}
      <span className="dim">{unit}</span>
    </Form.Item>
  );
  return (
    <>
      <Form.Item
        label="Answers at"
        extra="The input says what is sent, the Answer what comes back; {loan_no} is a field of the input."
      >
        <Input
          className="mono"
          aria-label="Path"
          addonBefore="/serve/"
          placeholder="test/loans/{loan_no}"
          value={spec.path}
          onChange={(e) => set({ path: e.target.value })}
        />
      </Form.Item>
      <Form.Item label="Asks for a key">
        <Checkbox checked={!spec.open} onChange={(e) => set({ open: !e.target.checked })}>
          callers without one that counts are refused
        </Checkbox>
      </Form.Item>
      <Form.Item label="Answers GET">
        <Checkbox checked={spec.get ?? false} onChange={(e) => set({ get: e.target.checked })}>
          with its fields in the query, where all of them are of the first level
        </Checkbox>
      </Form.Item>
      {spec.get &&
        bound(
          'memorySeconds',
          'From memory',
          86_400,
          'seconds an answer to GET is given again, without a record',
          'never',
        )}
      <SoapFields spec={spec} set={set} />
      <PageFields flowId={flowId} spec={spec} set={set} />
      <Form.Item label="Nobody waits">
        <Checkbox checked={spec.later ?? false} onChange={(e) => set({ later: e.target.checked })}>
          it is taken at once, and the answer asked for later
        </Checkbox>
      </Form.Item>
      {bound('seconds', 'Waits at most', 600, 'seconds', '30')}
      {bound('atOnce', 'Callers at once', 2_000, 'others are told to come later', '200')}
      {bound('kilobytes', 'A request has', 20_000, 'kilobytes at most', '1000')}
      {bound('keepHours', 'Answers are kept', 720, 'hours, for who asks later or once more', '24')}
      <Headers all={spec.headers ?? []} onChange={(headers) => set({ headers })} />
      <Form.Item label="Pages of" extra="Browsers let pages of other origins ask only where they are named.">
        <Select
          mode="tags"
          aria-label="Origins"
          placeholder="no other origin"
          open={false}
          suffixIcon={null}
          value={spec.origins ?? []}
          onChange={(origins: string[]) => set({ origins })}
        />
      </Form.Item>
    </>
  );
}

/** HTTP headers that are fields of what is sent. */
function Headers({ all, onChange }: { all: Header[]; onChange: (all: Header[]) => void }) {
  const change = (at: number, part: Partial<Header>) =>
    onChange(all.map((h, i) => (i === at ? { ...h, ...part } : h)));
  return (
    <Form.Item label="Headers">
      {all.map((h, i) => (
        // the place is all a header that is being typed has
        <div key={i} className="row gap-below-s">
          <Input
            className="mono grow"
            aria-label={`Header ${i + 1}`}
            placeholder="X-Tenant"
            value={h.header}
            onChange={(e) => change(i, { header: e.target.value })}
          />
          <span className="dim">is the field</span>
          <Input
            className="mono grow"
            aria-label={`Field of header ${i + 1}`}
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
        Take a header as a field
      </Button>
    </Form.Item>
  );
}
