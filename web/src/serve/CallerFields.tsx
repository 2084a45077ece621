import { Checkbox, Form, Input, Select } from 'antd';
import type { TriggerSpec } from '../api/types';
import { BoundField } from './BoundField';
import { FieldsBeside } from './FieldsBeside';
import { PageFields } from './PageFields';
import { SoapFields } from './SoapFields';

type Bound = 'seconds' | 'atOnce' | 'kilobytes' | 'memorySeconds' | 'keepHours';

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
    <BoundField
      label={label}
      most={most}
      unit={unit}
      empty={empty}
      value={spec[key]}
      onChange={(value) => set({ [key]: value })}
    />
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
      <FieldsBeside
        label="Headers"
        one="header"
        example="X-Tenant"
        all={spec.headers ?? []}
        onChange={(headers) => set({ headers })}
      />
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
